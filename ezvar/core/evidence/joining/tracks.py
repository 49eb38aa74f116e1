"""Tracks: what was seen at single looks, joined through the frames of a shot.

Looks are joined one after the other by optimal assignment (Kuhn 1955, as
SciPy solves it) of what is seen to where each track is expected: carried by
how the picture moves there where that is known, else at the speed that it has
shown.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ..gather import Evidence
from ..regions import Region, RegionKind
from ..subject import TIMES
from .drift import Drift

_FAR = 1.2  # sizes between what is expected and what is seen, beyond which they are two things
_APART = 1.5  # what any pair farther apart than that counts for, so that no good pair is given up to bring it nearer
_OTHER = 0.25  # sizes by which something of another group is farther
_GROWS = np.log(7.0)  # of its area, by which no thing that is seen surely grows or shrinks from one look to the next
_BEGINS = 0.4  # confidence of a person or a thing from which a track begins
_GLIMPSED = 0.22  # the same for people where nothing surer is found
_LEAST_MOVES = 3  # looks in which a moving thing is seen before it counts
_SLIGHT = 0.6  # sizes within which what is less sure still goes on with a track


@dataclass
class Track:
    """One thing, look by look: ``frames`` of the lock in order, and its region in each."""

    frames: list[int] = field(default_factory=list)
    regions: list[Region] = field(default_factory=list)

    @property
    def kind(self) -> RegionKind:
        """What it was taken for most surely."""
        sure: dict[RegionKind, float] = defaultdict(float)
        for region in self.regions:
            sure[region.kind] += region.confidence
        return max(sure, key=lambda kind: sure[kind])

    def boxes(self) -> np.ndarray:
        """Left, top, right and foot at each look, (looks, 4), fractions of the picture."""
        return np.array([(r.x, r.y, r.x + r.width, r.y + r.height) for r in self.regions])

    def expected(self, frame: int, rate: float, drift: Drift | None) -> tuple[float, float]:
        """Where its middle should be at a frame, going on as it did for at most two seconds."""
        last = self.regions[-1]
        if drift is not None:
            box = np.array([last.x, last.y, last.x + last.width, last.y + last.height])
            way = drift.carried(box, self.frames[-1], frame)
            if way and max(way) == frame:
                return tuple(float(v) for v in (way[frame][:2] + way[frame][2:]) / 2)  # type: ignore[return-value]
        k = max(0, len(self.frames) - 5)
        gone = self.frames[-1] - self.frames[k]
        if gone < 3:
            return last.cx, last.cy
        ahead = min(frame - self.frames[-1], 2 * rate) / gone
        first = self.regions[k]
        return last.cx + (last.cx - first.cx) * ahead, last.cy + (last.cy - first.cy) * ahead

    def distance(self, region: Region, frame: int, rate: float, expected: tuple[float, float], loose: bool) -> float:
        """How far a region is from where it is expected, in sizes; size itself counts too.

        In those of the larger of both where boxes are ``loose``, as those of movement are.
        """
        x, y = expected
        last = self.regions[-1]
        sized = max if loose else min
        across, down = (
            sized(max(last.width, 0.03), max(region.width, 0.03)),
            sized(max(last.height, 0.03), max(region.height, 0.03)),
        )
        # Uncertain after a gap: a second without sight doubles what still counts as near.
        room = 1 + (frame - self.frames[-1]) / rate
        apart = np.hypot((region.cx - x) / across, (region.cy - y) / down) / room
        ratio = abs(np.log(max(region.width * region.height, 1e-6) / max(last.width * last.height, 1e-6)))
        if not loose and ratio > _GROWS:
            return np.inf
        return float(apart + 0.3 * ratio + (_OTHER if region.kind != last.kind else 0.0))


def tracks(evidence: Evidence, kind: RegionKind, start: int, end: int) -> list[Track]:
    """What was seen of one kind in frames ``start`` to ``end``, joined."""
    return _joined(evidence.seen(kind, start, end), evidence.rate, TIMES[kind][0])


def looks_for_movement(evidence: Evidence, start: int, end: int) -> list[tuple[int, list[Region]]]:
    """What moves in frames ``start`` to ``end``, look by look: a look compares three pictures, which are all theirs."""
    return evidence.seen("moving", start + evidence.cadence.moving, end - evidence.cadence.moving)


def tracks_of_movement(looks: Sequence[tuple[int, list[Region]]], rate: float) -> list[Track]:
    """What moves, joined; without what is seen so seldom that it may be nothing."""
    return [t for t in _joined(looks, rate, TIMES["moving"][0]) if len(t.frames) >= _LEAST_MOVES]


def tracks_of_things(
    evidence: Evidence, kinds: Sequence[RegionKind], start: int, end: int, drift: Drift
) -> list[Track]:
    """People and things of several groups in frames ``start`` to ``end``, joined whatever each look took them for."""
    looks: dict[int, list[Region]] = {}
    for kind in kinds:
        for frame, regions in evidence.seen(kind, start, end):
            looks.setdefault(frame, []).extend(regions)
    return joined_beings(sorted(looks.items()), evidence.rate, drift)


def joined_beings(looks: Sequence[tuple[int, list[Region]]], rate: float, drift: Drift) -> list[Track]:
    """What was seen of people and things in looks, in order, joined."""
    return _joined(looks, rate, TIMES["person"][0], drift, _BEGINS)


def tracks_of_people(evidence: Evidence, start: int, end: int, drift: Drift) -> list[Track]:
    """People in frames ``start`` to ``end``, however slightly they were seen."""
    return _joined(evidence.seen("person", start, end), evidence.rate, TIMES["person"][0], drift, _GLIMPSED)


def _joined(
    looks: Sequence[tuple[int, list[Region]]], rate: float, gap: float, drift: Drift | None = None, begins: float = 0.0
) -> list[Track]:
    """Tracks of looks, kept for ``gap`` seconds without a sight.

    What is less sure than ``begins`` goes on with a track that nothing surer does, and begins none (Zhang et al.,
    "ByteTrack: Multi-Object Tracking by Associating Every Detection Box", 2022).
    """
    done: list[Track] = []
    live: list[Track] = []
    for frame, regions in looks:
        still = [t for t in live if frame - t.frames[-1] <= gap * rate]
        done += [t for t in live if t not in still]
        live = still
        places = {id(t): t.expected(frame, rate, drift) for t in live}
        sure = [r for r in regions if r.confidence >= begins]
        new = _taken_up(live, sure, frame, rate, places, _FAR, not begins)
        waiting = [t for t in live if t.frames[-1] < frame]
        _taken_up(waiting, [r for r in regions if r.confidence < begins], frame, rate, places, _SLIGHT, not begins)
        live += [Track([frame], [r]) for r in new]
    return done + live


def _taken_up(
    live: Sequence[Track], regions: Sequence[Region], frame: int, rate: float, places: dict[int, tuple[float, float]],
    far: float, loose: bool,
) -> list[Region]:  # fmt: skip
    """Let tracks go on with the regions that they fit best; returns the regions that none fits."""
    from scipy.optimize import linear_sum_assignment  # loaded late: it would hold up the first window

    cost = np.array([[t.distance(r, frame, rate, places[id(t)], loose) for r in regions] for t in live])
    cost = cost.reshape(len(live), len(regions))
    taken = set()
    for row, column in zip(*linear_sum_assignment(np.minimum(cost, _APART)), strict=True):
        if cost[row, column] <= far:
            live[row].frames.append(frame)
            live[row].regions.append(regions[column])
            taken.add(column)
    return [r for k, r in enumerate(regions) if k not in taken]
