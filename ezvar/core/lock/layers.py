"""Layers of a lock that cannot be drawn, and why."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass

from ezvar.core.model import Document, Layer
from ezvar.core.names import readable


@dataclass(frozen=True)
class NotDrawn:
    """A layer that is left out of all pictures: over which shots (numbers from 1), and why, in a sentence."""

    layer: Layer
    shots: tuple[int, ...]
    why: str

    def said(self) -> str:
        """All of it in a sentence."""
        numbers = ", ".join(map(str, self.shots))
        where = f" over shot{'s' if len(self.shots) > 1 else ''} {numbers}" if self.shots else ""
        return f"“{readable(self.layer.name)}”{where} is not drawn: {self.why}"


def not_drawn(doc: Document) -> list[NotDrawn]:
    """The layers that nothing can be drawn of, by what the document says. Opens no media: what cannot be read turns up
    when it is drawn."""
    media = {each.id: each for each in doc.lock.media}
    starts = [shot.start for shot in doc.shots]
    found = []
    for layer in doc.lock.layers:
        known = media.get(layer.source.media)
        if known is None:
            why = "the timeline names no file for it."
        elif known.missing:
            why = f"{readable(known.name or known.path)} was not found."
        else:
            continue
        first, last = bisect_right(starts, layer.start), bisect_left(starts, layer.end)
        found.append(NotDrawn(layer, tuple(range(first, last + 1)), why))
    return found
