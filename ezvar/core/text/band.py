"""The free band above or below a picture that is shown whole."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from ezvar.core.framing import framed, pane_window, picture_size
from ezvar.core.model import Document, Master, Rect

_LEAST = 0.06  # of the frame's height: less is no room for text


def free_band(
    doc: Document, master: Master, frames: Iterable[int], side: Literal["top", "foot"]
) -> tuple[float, float] | None:
    """Where the band above or below the picture begins and ends, as fractions of a master's height, as far as it is
    free at all of these lock frames; ``None`` where the picture fills the frame, or shares it."""
    low, high = 0.0, 1.0
    for frame in frames:
        shot = doc.shot_at(frame)
        framing = framed(doc, shot, master)
        if len(framing.panes) > 1 or framing.panes[0].rect != Rect():
            return None
        size = picture_size(doc, shot)
        window = pane_window(framing.panes[0], master, size, frame - shot.start)
        if side == "top":
            high = min(high, -window.top / window.height)
        else:
            low = max(low, (size.height - window.top) / window.height)
    return (low, high) if high - low >= _LEAST else None
