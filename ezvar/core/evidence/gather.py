"""Evidence: regions of frames looked at now and then, gathered while a movie is read once.

Faces are looked for about twice a second and text every two seconds, both
sooner where the picture has changed; standing figures once a second where
no face shows; movement six times a second. What is
kept of a region is a row of an array, so that hours of it take megabytes.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import TypeVar

import cv2
import numpy as np

from ezvar.core.cuts import thinned
from ezvar.core.media import Picture

from .finders.faces import FaceFinder
from .finders.figures import FigureFinder
from .finders.moving import SIZE, moving_map, moving_regions
from .finders.text import TextFinder
from .regions import Region, RegionKind
from .stills import STILL, still_of, weighed_by_sharpness

KINDS: tuple[RegionKind, ...] = ("face", "text", "moving", "figure")
MOVING_EVERY = 4
"""Frames from one look for movement to the next."""
_EVERY: dict[str, tuple[int, int]] = {"face": (12, 5), "text": (50, 8), "figure": (36, 6), "still": (50, 5)}
"""Frames from one look to the next, at most and at least, by what is looked for."""
_PACKED = 2000  # rows and looks after which they are put into arrays, a tenth of the size
_MOST_PENDING = 3  # pictures that wait for the finders, so that these and decoding go side by side
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
    looked for at all. ``stills`` (stills,) of `STILL` are small pictures.
    """

    rows: np.ndarray
    looks: np.ndarray
    finders: tuple[RegionKind, ...]
    stills: np.ndarray = field(default_factory=lambda: np.zeros(0, STILL))

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

    def stills_of(self, start: int, end: int) -> np.ndarray:
        """The stills of frames ``start`` to ``end``; a very short stretch may have none."""
        first, last = np.searchsorted(self.stills["frame"], (start, end))
        return self.stills[first:last]


def nothing_seen(finders: tuple[RegionKind, ...] = KINDS[:3]) -> Evidence:
    """Evidence of nothing yet."""
    return Evidence(np.zeros(0, ROW), np.zeros(0, LOOK), finders)


class Finders:
    """What can be looked for here: a finder whose model is missing is left out."""

    def __init__(self) -> None:
        found: tuple[tuple[RegionKind, FaceFinder | TextFinder | FigureFinder | None], ...] = (
            ("face", _there(FaceFinder)), ("text", _there(TextFinder)), ("figure", FigureFinder()),
        )  # fmt: skip
        self.there = [(kind, finder) for kind, finder in found if finder is not None]
        self.kinds: tuple[RegionKind, ...] = (*(kind for kind, _ in self.there), "moving")
        self.worker = ThreadPoolExecutor(1, "finders")


class Gatherer:
    """Looks at pictures, given in order, and gathers evidence."""

    def __init__(self, finders: Finders) -> None:
        self._finders = finders.there
        self.finders = finders.kinds
        nothing = nothing_seen(self.finders)
        self._done = [(nothing.rows, nothing.looks, nothing.stills)]
        self._rows: list[tuple[object, ...]] = []
        self._looks: list[tuple[int, int]] = []
        self._stills: list[tuple[int, np.ndarray]] = []
        self._small: deque[np.ndarray] = deque(maxlen=3)
        self._since = {what: most // 2 for what, (most, _) in _EVERY.items()}
        self._changed = dict.fromkeys(_EVERY, 0.0)
        self._worker = finders.worker
        self._pending: deque[tuple[int, Future[list[tuple[RegionKind, list[Region]]]]]] = deque()
        self._faces = False  # whether the last look for faces found any

    def begin_after(self, picture: Picture) -> None:
        """Let movement be seen from this picture on, which is not looked at itself."""
        if picture.index % MOVING_EVERY == 0:
            self._small.append(_small(picture))

    def add(self, picture: Picture, change: float) -> None:
        """Look at the next picture. ``change`` is how far it differs from the one before, as `Signals` has it."""
        due = {what for what in _EVERY if self._is_due(what, change)}
        if any(kind in due for kind, _ in self._finders):
            self._pending.append((picture.index, self._worker.submit(self._look, picture, due)))
            self._take(_MOST_PENDING)
        if "still" in due:
            self._stills.append((picture.index, still_of(thinned(picture))))
        if picture.index % MOVING_EVERY == 0:
            self._small.append(_small(picture))
            if len(self._small) == 3:
                self._note(picture.index - MOVING_EVERY, moving_regions(moving_map(*self._small)), "moving")

    def _look(self, picture: Picture, due: set[str]) -> list[tuple[RegionKind, list[Region]]]:
        """What the finders that are due see in a picture; one after the other, in a thread of their own."""
        seen = []
        for kind, finder in self._finders:
            if kind in due and not (kind == "figure" and self._faces):  # where faces show, figures add nothing
                found = finder.find(picture.rgb(*finder.input_size(picture.width, picture.height)))
                if kind == "face":
                    self._faces, found = bool(found), weighed_by_sharpness(picture, found)
                seen.append((kind, found))
        return seen

    def _take(self, left: int) -> None:
        """Note what the finders have seen, waiting until at most ``left`` looks are still to come."""
        while len(self._pending) > left:
            frame, seen = self._pending.popleft()
            for kind, regions in seen.result():
                self._note(frame, regions, kind)

    def _is_due(self, what: str, change: float) -> bool:
        """Whether it is time to look for something: a while after the last look, sooner where much has changed."""
        most, least = _EVERY[what]
        self._since[what] += 1
        self._changed[what] += change
        due = self._since[what] >= most or (self._since[what] >= least and self._changed[what] > _CHANGED)
        if due:
            self._since[what], self._changed[what] = 0, 0.0
        return due

    def _note(self, frame: int, regions: list[Region], kind: RegionKind) -> None:
        number = KINDS.index(kind)
        self._looks.append((frame, number))
        for r in regions:
            self._rows.append((frame, number, (r.x, r.y, r.width, r.height), r.confidence, r.strength, r.look))
        if len(self._rows) + len(self._looks) > _PACKED:
            self._pack()

    def _pack(self) -> None:
        self._done.append((np.array(self._rows, ROW), np.array(self._looks, LOOK), np.array(self._stills, STILL)))
        self._rows, self._looks, self._stills = [], [], []

    def result(self) -> Evidence:
        """What was gathered until now."""
        self._take(0)
        self._pack()
        rows, looks, stills = (
            a[np.argsort(a["frame"], kind="stable")] for a in (np.concatenate(p) for p in zip(*self._done, strict=True))
        )
        return Evidence(rows, looks, self.finders, stills)


def _small(picture: Picture) -> np.ndarray:
    return np.asarray(cv2.resize(thinned(picture), SIZE, interpolation=cv2.INTER_AREA))


_Finder = TypeVar("_Finder")


def _there(finder: Callable[[], _Finder]) -> _Finder | None:
    try:
        return finder()
    except FileNotFoundError:
        return None
