"""All that deserves a look in a document, by how much."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ezvar.core.model import Document, cut_places, doubt

from .doubts import sentences


@dataclass(frozen=True)
class Doubted:
    """A framing or a cut with its doubt, 1..100, and the reasons in sentences, the heaviest first.

    ``frame`` is the lock frame where the shot or the cut begins, ``shot``
    the shot's place from 1 (of a passed-over cut, the shot it lies in), and
    ``master`` its name, empty for cuts.
    """

    kind: Literal["framing", "cut"]
    doubt: int
    frame: int
    shot: int
    master: str
    reasons: tuple[str, ...]


def doubted(doc: Document) -> list[Doubted]:
    """Framings and cuts with any doubt, the greatest first. Agreed framings and settled cuts have none."""
    found = [
        Doubted(
            "framing", figure, doc.shot(f.shot).start, doc.place_of(f.shot) + 1, doc.master(f.master).name,
            tuple(sentences(f.reasons)),
        )
        for f in doc.framings
        if f.verdict != "agreed" and (figure := doubt(f.reasons))
    ]  # fmt: skip
    for place in cut_places(doc):
        if not place.cut.settled and (figure := round(place.cut.doubt)):
            shot = doc.place_of(doc.shot_at(place.frame).id) + 1
            found.append(Doubted("cut", figure, place.frame, shot, "", (place.cut.why,) if place.cut.why else ()))
    return sorted(found, key=lambda d: (-d.doubt, d.frame, d.master))
