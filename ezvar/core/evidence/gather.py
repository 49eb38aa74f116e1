"""Evidence: regions of frames looked at now and then, gathered while a movie is read once.

Faces are looked for about twice a second and text every two seconds, both
sooner where the picture has changed; movement six times a second. What is
kept of a region is a row of an array, so that hours of it take megabytes.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

import cv2
import numpy as np

from ezvar.core.cuts import thinned
from ezvar.core.media import Picture

from .faces import FaceFinder
from .moving import SIZE, moving_map, moving_regions
from .regions import Region, RegionKind
from .text import TextFinder

KINDS: tuple[RegionKind, ...] = ("face", "text", "moving", "drawn")
MOVING_EVERY = 4
"""Frames from one look for movement to the next."""
_FACE_EVERY, _FACE_SOONEST, _TEXT_EVERY, _TEXT_SOONEST = 12, 5, 50, 8
_PACKED = 2000  # rows and looks after which they are put into arrays, a tenth of the size
_CHANGED = 14.0  # levels of change, summed, after which faces and text are looked for anew

ROW = np.dtype(
    [("frame", "i4"), ("kind", "u1"), ("box", "f4", 4), ("confidence", "f4"), ("strength", "f4"), ("look", "f4")]
)
LOOK = np.dtype([("frame", "i4"), ("kind", "u1")])


@dataclass(frozen=True)
class Evidence:
    """What was seen, by frame.

    ``rows`` (regions,) of `ROW` are the regions, ``looks`` (looks,) of `LOOK`
    the frames that each finder looked at, also those where it found nothing;
    both in the order of frames. ``finders`` are the kinds that could be
    looked for at all.
    """

    rows: np.ndarray
    looks: np.ndarray
    finders: tuple[RegionKind, ...]

    def seen(self, kind: RegionKind, start: int, end: int) -> list[tuple[int, list[Region]]]:
        """Each look for a kind within frames ``start`` to ``end``, with what it found."""
        number = KINDS.index(kind)
        looks = self.looks[np.searchsorted(self.looks["frame"], start) : np.searchsorted(self.looks["frame"], end)]
        rows = self.rows[np.searchsorted(self.rows["frame"], start) : np.searchsorted(self.rows["frame"], end)]
        found: dict[int, list[Region]] = {int(f): [] for f in looks["frame"][looks["kind"] == number]}
        for row in rows[rows["kind"] == number]:
            box = (round(float(v), 4) for v in row["box"])
            said = (round(float(row[name]), 4) for name in ("confidence", "strength", "look"))
            found[int(row["frame"])].append(Region(kind, *box, *said))
        return sorted(found.items())

    def before(self, frame: int) -> Evidence:
        """What was seen before a frame."""
        keep = (self.rows["frame"] < frame, self.looks["frame"] < frame)
        return Evidence(self.rows[keep[0]], self.looks[keep[1]], self.finders)


def nothing_seen(finders: tuple[RegionKind, ...] = KINDS[:3]) -> Evidence:
    """Evidence of nothing yet."""
    return Evidence(np.zeros(0, ROW), np.zeros(0, LOOK), finders)


class Gatherer:
    """Looks at a movie's pictures, given in order, and gathers evidence.

    A finder whose model is missing is left out. ``kept`` is what an earlier
    one had gathered of the frames before the first.
    """

    def __init__(self, kept: Evidence | None = None) -> None:
        self._finders: list[tuple[RegionKind, FaceFinder | TextFinder, int, int]] = []
        if (faces := _there(FaceFinder)) is not None:
            self._finders.append(("face", faces, _FACE_EVERY, _FACE_SOONEST))
        if (text := _there(TextFinder)) is not None:
            self._finders.append(("text", text, _TEXT_EVERY, _TEXT_SOONEST))
        self.finders: tuple[RegionKind, ...] = (*(f[0] for f in self._finders), "moving")
        kept = kept or nothing_seen(self.finders)
        self._done = [(kept.rows, kept.looks)]
        self._rows: list[tuple[object, ...]] = []
        self._looks: list[tuple[int, int]] = []
        self._small: deque[np.ndarray] = deque(maxlen=3)
        self._since: dict[RegionKind, int] = {"face": _FACE_EVERY // 2, "text": _TEXT_EVERY // 2}
        self._changed: dict[RegionKind, float] = {"face": 0.0, "text": 0.0}

    def add(self, picture: Picture, change: float) -> None:
        """Look at the next picture. ``change`` is how far it differs from the one before, as `Signals` has it."""
        for kind, finder, every, soonest in self._finders:
            self._since[kind] += 1
            self._changed[kind] += change
            if self._since[kind] >= every or (self._since[kind] >= soonest and self._changed[kind] > _CHANGED):
                self._since[kind], self._changed[kind] = 0, 0.0
                size = finder.input_size(picture.width, picture.height)
                self._note(picture.index, finder.find(picture.rgb(*size)), kind)
        if picture.index % MOVING_EVERY == 0:
            self._small.append(cv2.resize(thinned(picture), SIZE, interpolation=cv2.INTER_AREA))
            if len(self._small) == 3:
                self._note(picture.index - MOVING_EVERY, moving_regions(moving_map(*self._small)), "moving")

    def _note(self, frame: int, regions: list[Region], kind: RegionKind) -> None:
        number = KINDS.index(kind)
        self._looks.append((frame, number))
        for r in regions:
            self._rows.append((frame, number, (r.x, r.y, r.width, r.height), r.confidence, r.strength, r.look))
        if len(self._rows) + len(self._looks) > _PACKED:
            self._pack()

    def _pack(self) -> None:
        self._done.append((np.array(self._rows, ROW), np.array(self._looks, LOOK)))
        self._rows, self._looks = [], []

    def result(self) -> Evidence:
        """What was gathered until now."""
        self._pack()
        rows, looks = (np.concatenate(parts) for parts in zip(*self._done, strict=True))
        return Evidence(
            rows[np.argsort(rows["frame"], kind="stable")], looks[np.argsort(looks["frame"], kind="stable")],
            self.finders,
        )  # fmt: skip


_Finder = TypeVar("_Finder")


def _there(finder: Callable[[], _Finder]) -> _Finder | None:
    try:
        return finder()
    except FileNotFoundError:
        return None
