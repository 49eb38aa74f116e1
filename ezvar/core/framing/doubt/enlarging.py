"""How far each shot's pixels are enlarged in each master."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ezvar.core.model import Document, Master

from ..windows.geometry import Size, placed_window
from ..windows.path import pane_picture_size, pane_window
from ..windows.place import Place
from .doubts import LARGEST, enlargement


@dataclass(frozen=True)
class Enlarged:
    """The most that a shot's source pixels are enlarged in a master: 1 is one for one, 1.5 is 150 %."""

    shot: str
    master: str
    factor: float


def enlarged(place: Place) -> Enlarged:
    """How far a shot is enlarged at its tightest, counted from the source's own pixels whatever the lock's size."""
    doc, shot, master, factors = place.doc, place.shot, place.master, []
    for pane in place.framing.panes:
        size = pane_picture_size(doc, shot, pane)
        frames = {0, shot.frames - 1, *(min(max(0, k.frame), shot.frames - 1) for k in pane.keys)}
        tall = master.height * pane.rect.height
        factors += [enlargement(pane_window(pane, master, size, n), tall) for n in frames]
    return Enlarged(shot.id, master.id, max(factors))


def enlargements(doc: Document, masters: Iterable[Master] | None = None, above: float = 1.0) -> list[Enlarged]:
    """All that is enlarged beyond ``above``, the most first."""
    found = [enlarged(Place(doc, shot, m)) for m in (doc.masters if masters is None else masters) for shot in doc.shots]
    return sorted((e for e in found if e.factor > above + 1e-6), key=lambda e: (-e.factor, doc.place_of(e.shot)))


def shape_enlarges(doc: Document, master: Master) -> float:
    """How far a window that fills the master enlarges the lock's pictures."""
    window = placed_window(Size(doc.lock.width, doc.lock.height), master.width / master.height, 0.5, 0.5)
    return enlargement(window, master.height)


def enlarged_by_shape(doc: Document, master: Master) -> str:
    """A sentence on how far a window that fills the master enlarges the lock's pictures, and what would help; empty up
    to 150 %."""
    factor = shape_enlarges(doc, master)
    if master.start == "whole" or factor <= LARGEST:
        return ""
    wide, high = (round(side * LARGEST / factor / 2) * 2 for side in (master.width, master.height))
    return (
        f"Filled, {master.name} enlarges this lock's pictures to {100 * factor:.0f}\u00a0%. "
        f"At {wide} × {high} it would be 150\u00a0%; started with the whole picture, it enlarges less."
    )
