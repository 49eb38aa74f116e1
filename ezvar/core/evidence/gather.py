"""Evidence: regions of frames looked at now and then, gathered while a movie is read once.

Faces, people and things are looked for twice a second, less often where
nothing moves, and text every two seconds, both sooner where the picture has
changed; movement six times a second. Which frames are looked at depends on
them and on a few before them alone. What is kept of a region is a row of an array, so that hours of it
take megabytes.
"""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from typing import TypeVar

import cv2
import numpy as np

from ezvar.core.cuts import thinned
from ezvar.core.media import Picture, Planes, fit_within

from .cadence import Cadence
from .finders.bars import BARS, bars_of
from .finders.detector import Detector
from .finders.faces import FaceFinder
from .finders.flow import FLOW
from .finders.moving import moving_map, moving_regions
from .finders.text import TextFinder
from .finders.things import GROUPS, ThingFinder
from .recent import Recent
from .regions import Region, RegionKind
from .stills import STILL, still_of, weighed_by_sharpness

KINDS: tuple[RegionKind, ...] = ("face", "text", "moving", *GROUPS)
_PACKED = 2000  # rows and looks after which they are put into arrays, a tenth of the size
_WORKERS = min(4, os.cpu_count() or 1)
_MOST_PENDING = 3 * _WORKERS  # pictures that wait for the finders, so that these and decoding go side by side
_LONG_SIDE = 640  # pixels of the longer side of the picture that all finders look at
_SURE, _LARGE = 0.5, 0.15  # confidence and height of a face that says who is there
_STILL, _CALM, _QUICK = 0.004, 0.012, 0.07
"""Of the picture's width, by which some part of it moves while four pictures are looked at: below the second hardly
anything does and every other look is left out, below the first three of four; beyond the last there is one more
between two."""
_CHANGED = 14.0  # levels of change, summed over a few frames, after which all is looked for anew

Found = list[tuple[RegionKind, list[Region]]]
"""What finders see in a picture, by kind."""
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
    looked for at all. ``stills`` (stills,) of `STILL` are small pictures,
    ``flows`` (flows,) of `FLOW` how the picture moved since the one before,
    ``bars`` (looks,) of `BARS` where black bars leave a picture.
    ``rate`` is the lock's, in frames a second.
    """

    rows: np.ndarray
    looks: np.ndarray
    finders: tuple[RegionKind, ...]
    stills: np.ndarray = field(default_factory=lambda: np.zeros(0, STILL))
    flows: np.ndarray = field(default_factory=lambda: np.zeros(0, FLOW))
    bars: np.ndarray = field(default_factory=lambda: np.zeros(0, BARS))
    rate: float = 25.0

    @property
    def cadence(self) -> Cadence:
        """How often was looked for what."""
        return Cadence(self.rate)

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

    def arrays(self) -> tuple[np.ndarray, ...]:
        """All that is kept by frame: rows, looks, stills, flows, bars."""
        return self.rows, self.looks, self.stills, self.flows, self.bars

    def with_arrays(self, arrays: Iterable[np.ndarray]) -> Evidence:
        """The same finders' evidence, of other frames."""
        rows, looks, stills, flows, bars = arrays
        return replace(self, rows=rows, looks=looks, stills=stills, flows=flows, bars=bars)

    def within(self, first: int, last: int) -> Evidence:
        """What was seen in frames ``first`` to ``last``."""
        bounds = (np.searchsorted(values["frame"], (first, last)) for values in self.arrays())
        return self.with_arrays(values[a:b] for values, (a, b) in zip(self.arrays(), bounds, strict=True))

    @staticmethod
    def joined(parts: Sequence[Evidence]) -> Evidence:
        """Evidence of stretches that follow one another, together."""
        whole = (np.concatenate(each) for each in zip(*(part.arrays() for part in parts), strict=True))
        return parts[0].with_arrays(values[np.argsort(values["frame"], kind="stable")] for values in whole)

    def flows_of(self, start: int, end: int) -> np.ndarray:
        """How the picture moved to frames ``start`` to ``end``, each since the look before it."""
        first, last = np.searchsorted(self.flows["frame"], (start, end))
        return self.flows[first:last]


def nothing_seen(finders: tuple[RegionKind, ...] = KINDS[:3], rate: float = 25.0) -> Evidence:
    """Evidence of nothing yet."""
    return Evidence(np.zeros(0, ROW), np.zeros(0, LOOK), finders, rate=rate)


class Finders:
    """What can be looked for here: a finder whose model is missing is left out."""

    def __init__(self) -> None:
        self.faces, self.text, self.things = _there(FaceFinder), _there(TextFinder), _there(ThingFinder)
        self.kinds: tuple[RegionKind, ...] = (
            *(("face",) if self.faces else ()), *(("text",) if self.text else ()), "moving",
            *(GROUPS if self.things else ()),
        )  # fmt: skip
        self.workers = ThreadPoolExecutor(_WORKERS, "finders")  # a picture on each at a time

    def look(self, picture: Picture, text: bool, people: bool, turned: bool) -> Found:
        """What is seen in a picture by the finders that are wanted, one after the other, by kind.

        People and things are looked for in the picture and in its mirror image, so that what is found does not depend
        on which way they look; faces, and things where a face says who is there, in the one or, ``turned``, in the
        other.
        """
        seen: Found = []
        image = picture.glance(*fit_within(picture.width, picture.height, _LONG_SIDE, _LONG_SIDE))

        def at(finder: Detector) -> np.ndarray:
            width, height = finder.input_size(picture.width, picture.height)
            way = cv2.INTER_AREA if width < image.shape[1] else cv2.INTER_LINEAR
            return np.asarray(cv2.resize(image, (width, height), interpolation=way))

        faces = self.faces.find(at(self.faces), turned) if self.faces and people else []
        if self.faces and people:
            seen.append(("face", weighed_by_sharpness(picture, faces)))
        if self.things and people:
            plain = any(f.confidence >= _SURE and f.height >= _LARGE for f in faces)
            found = self.things.find(at(self.things), "turned" if plain and turned else "plain" if plain else "both")
            seen += [(group, [r for r in found if r.kind == group]) for group in GROUPS]
        if self.text and text:
            seen.append(("text", self.text.find(at(self.text))))
        return seen


class _Asked:
    """What the finders are asked of the picture that is shown: one that stands for long, a still or a frame that is
    held, is not looked at twice in the same way."""

    def __init__(self, finders: Finders) -> None:
        self._finders = finders
        self._shown: Planes | None = None
        self._looks: dict[tuple[bool, bool, bool], Future[Found]] = {}

    def look(self, picture: Picture, text: bool, people: bool, turned: bool) -> Future[Found]:
        """What `Finders.look` sees, to be waited for."""
        if picture.stored is not self._shown:
            self._shown, self._looks = picture.stored, {}
        how = text, people, turned
        if how not in self._looks:
            self._looks[how] = self._finders.workers.submit(self._finders.look, picture, *how)
        return self._looks[how]


class Gatherer:
    """Looks at pictures of a lock of ``rate`` frames a second, given in order, and gathers evidence."""

    def __init__(self, finders: Finders, rate: float) -> None:
        self._finders, self._rate, self._every = finders, rate, Cadence(rate)
        nothing = nothing_seen()
        self._done = [(nothing.rows, nothing.looks, nothing.stills, nothing.flows, nothing.bars)]
        self._rows: list[tuple[object, ...]] = []
        self._looks: list[tuple[int, int]] = []
        self._stills: list[tuple[int, np.ndarray]] = []
        self._flows: list[tuple[int, np.ndarray]] = []
        self._bars: list[tuple[int, tuple[float, float, float, float], bool]] = []
        self._recent = Recent(self._every.moving)
        self._begins = True
        self._asked = _Asked(finders)
        self._pending: deque[tuple[int, Future[Found]]] = deque()

    def begin_after(self, picture: Picture, change: float) -> None:
        """Let changes and movement be seen from this picture on, which is not looked at itself."""
        self._recent.add(picture, change)
        self._begins = False

    def following(self) -> Gatherer:
        """One that goes on with the next picture, and has gathered nothing yet."""
        made = Gatherer(self._finders, self._rate)
        made._recent, made._asked, made._begins = self._recent, self._asked, False
        return made

    def add(self, picture: Picture, change: float) -> None:
        """Look at the next picture. ``change`` is how far it differs from the one before, as `Signals` has it.

        The first one, where none went before, is looked at in full.
        """
        recent, frame, every = self._recent, picture.index, self._every
        begins, self._begins = self._begins, False
        if not recent.add(picture, change) and not begins:
            return
        if recent.flows:
            self._flows.append((frame, recent.flows[-1]))
        if len(recent.small) > 2:
            before, now, after = list(recent.small)[-3:]
            moves = moving_map(before, now, after, (recent.moves[0], recent.moves[1]))
            self._note(frame - every.moving, moving_regions(moves), "moving")
        changed = begins or recent.changed(0) > _CHANGED
        turn, rest = divmod(frame, every.people)
        moved = recent.moved()
        least = _QUICK if rest else _CALM if turn % 2 else _STILL if turn % 4 else -1.0
        people = changed or (rest in (0, every.people // 2) and moved > least)
        # A moment after a change, when letters stand; and where writing may have come or gone.
        text = begins or frame % every.text == 0 or recent.changed(1) > _CHANGED
        text = text or (frame % (3 * every.moving) == 0 and recent.written())
        if people or text:
            turned = (turn // 2 + turn) % 2 == 1
            self._pending.append((frame, self._asked.look(picture, text, people, turned)))
            self._take(_MOST_PENDING)
        if changed or frame % every.text == 0:
            self._stills.append((frame, still_of(thinned(picture))))
            if (active := bars_of(picture)) is not None:
                self._bars.append((frame, *active))

    def _take(self, left: int) -> None:
        """Note what the finders have seen, waiting until at most ``left`` looks are still to come."""
        while len(self._pending) > left:
            frame, seen = self._pending.popleft()
            for kind, regions in seen.result():
                self._note(frame, regions, kind)

    def _note(self, frame: int, regions: list[Region], kind: RegionKind) -> None:
        number = KINDS.index(kind)
        self._looks.append((frame, number))
        for r in regions:
            self._rows.append((frame, number, (r.x, r.y, r.width, r.height), r.confidence, r.strength, r.look))
        if len(self._rows) + len(self._looks) > _PACKED:
            self._pack()

    def _pack(self) -> None:
        self._done.append((
            np.array(self._rows, ROW), np.array(self._looks, LOOK), np.array(self._stills, STILL),
            np.array(self._flows, FLOW), np.array(self._bars, BARS),
        ))  # fmt: skip
        self._rows, self._looks, self._stills, self._flows, self._bars = [], [], [], [], []

    def result(self) -> Evidence:
        """What was gathered until now."""
        self._take(0)
        self._pack()
        rows, looks, stills, flows, bars = (
            a[np.argsort(a["frame"], kind="stable")] for a in (np.concatenate(p) for p in zip(*self._done, strict=True))
        )
        return Evidence(rows, looks, self._finders.kinds, stills, flows, bars, self._rate)


_Finder = TypeVar("_Finder")


def _there(finder: Callable[[], _Finder]) -> _Finder | None:
    try:
        return finder()
    except FileNotFoundError:
        return None
