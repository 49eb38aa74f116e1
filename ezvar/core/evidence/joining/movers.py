"""Moving things that belong together: parts of one that goes its way, and work that goes on in one place.

The finder of movement sees a thing without contrast in its middle as two that
go side by side, and hands with what they handle as many restless ones.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from ..subject import TIMES, Subject
from .boxes import covered, shared

RESTLESS = 0.5
"""Steadiness below which a moving thing goes no way of its own."""
_LIES_IN = 0.7  # part of one's box that lies in another's whose part it is
_STAYS = 0.3  # of its own size, by which something that stays in place is elsewhere at its end
_ROAMS = 1.0  # of its own size, over which something that stays in place moves
_MEETS = 0.15  # part of the smaller one's box that two things share which belong together
_THERE = 0.5  # share of the shot in which some of it moves
_WIDEST = 0.4  # of the picture: what spreads farther is a crowd, or a landscape in the wind
_WIDEST_ALONE, _NEARLY_ALL = 0.75, 0.8  # the same where nothing else moves, or hardly; and what that is of all
_KEEPS = 0.4  # of its width, over which the middle of something so wide may go to and fro
_ENDS = (25, 75)  # percentiles of the sides, which single looks overshoot
_AROUND = 0.15  # of the place of some work, by which what belongs to it may leave it
_BESIDE = 2.0  # of the larger one's size, between two parts of one thing
_ALONG = 0.015  # of the picture, by which the way from one part to the other changes
_MOSTLY = 85  # percentile of the times at which they do
_TOGETHER = 0.6  # share of the shorter one's time for which both are seen


def calmed(moving: Subject, rate: float, every: int) -> Subject:
    """A moving thing with the size it mostly has, its way smoothed, and how steady that is; ``every`` is how many
    frames apart movement is looked for, ``rate`` in frames a second."""
    from scipy.ndimage import median_filter

    boxes = moving.boxes
    middles = np.stack([(boxes[:, 0] + boxes[:, 2]) / 2, (boxes[:, 1] + boxes[:, 3]) / 2], axis=1)
    half = 1.15 * np.percentile(boxes[:, 2:] - boxes[:, :2], 80, axis=0) / 2  # parts without contrast do not show
    smooth = middles.copy()
    for axis in (0, 1):
        padded = np.pad(median_filter(middles[:, axis], 5, mode="nearest"), 4, mode="reflect", reflect_type="odd")
        smooth[:, axis] = np.convolve(padded, np.ones(9) / 9, mode="valid")
    rough = float(np.abs(middles - smooth).mean())
    seconds = len(middles) * every / rate
    looks = 1 + (moving.frames[-1] - moving.frames[0]) / every
    seen = min(1.0, 1.2 * len(middles) / looks)
    steady = float(np.exp(-((rough / _ROUGH) ** 2))) * min(1.0, seconds / 1.2) * seen**2 * float(half[0] < 0.35)
    boxes = np.concatenate([smooth - half, smooth + half], axis=1).clip(0, 1)
    goes = boxes[-1, [0, 2]].mean() - boxes[0, [0, 2]].mean()
    far = min(1.0, float(np.ptp(smooth, axis=0).max()) / _FAR)
    return replace(
        moving, boxes=boxes, steady=steady, importance=moving.importance * 0.5 * (1 + steady) * (1 + steady * far),
        look=float(np.clip(2 * goes, -1, 1)),
    )  # fmt: skip


_FAR = 0.25  # of the picture, over which something goes that counts twice what stays in its place
_ROUGH = 0.02  # of the picture, by which a moving thing's middle strays from its smoothed way


def merged_movers(
    movers: Mapping[Subject, float], hands: Sequence[Subject], start: int, end: int, rate: float
) -> list[Subject]:
    """Moving things of frames ``start`` to ``end``, those that belong together as one, in no order.

    Each is given with its share, 0..1, of all that moves while it is seen.

    What goes on in one place for most of the time has the same box all through, and so can be relied upon. It is of
    the kind "work" where ``hands``, or what they hold, were seen in it.
    """
    staying = [m for m in movers if m.steady < RESTLESS or _stays(m)]
    going = [m for m in movers if m not in staying]
    places, rest = _in_one_place({m: movers[m] for m in staying}, start, end, rate)
    going = [m for m in going if not any(_keeps_within(m, p) for p in places)]
    work = [replace(p, kind="work") if any(_is_in(h, p) for h in hands) else p for p in places]
    return [*_side_by_side(going), *work, *rest]


def _is_in(hand: Subject, place: Subject) -> bool:
    """Whether something that was seen keeps to a place, in most of its sights."""
    return bool(np.mean([shared(box, place.boxes[0]) > _MEETS for box in hand.boxes]) > _THERE)


def _keeps_within(mover: Subject, work: Subject) -> bool:
    """Whether a thing that moves to and fro never leaves the place of some work: then it is part of it."""
    low, high = np.percentile(mover.boxes, _ENDS[0], axis=0), np.percentile(mover.boxes, _ENDS[1], axis=0)
    place = work.boxes[0]
    room = _AROUND * (place[2:] - place[:2])
    return bool((low[:2] >= place[:2] - room).all() and (high[2:] <= place[2:] + room).all())


def lies_in(one: Subject, other: Subject) -> bool:
    """Whether the place where something mostly is lies in another's."""
    return bool(covered(_place(one), _place(other)) >= _LIES_IN)


def size_beside(one: Subject, other: Subject) -> float:
    """The area of the place where something mostly is, beside another's."""
    own, place = _place(one), _place(other)
    return float((own[2:] - own[:2]).prod()) / max(1e-9, float((place[2:] - place[:2]).prod()))


def _middles(mover: Subject) -> np.ndarray:
    return np.asarray((mover.boxes[:, :2] + mover.boxes[:, 2:]) / 2)


def _stays(mover: Subject) -> bool:
    middles, size = _middles(mover), np.median(mover.boxes[:, 2:] - mover.boxes[:, :2], axis=0)
    part = max(1, len(middles) // 3)
    gone = np.abs(np.median(middles[-part:], axis=0) - np.median(middles[:part], axis=0))
    roams = np.percentile(middles, 95, axis=0) - np.percentile(middles, 5, axis=0)
    return bool((gone < _STAYS * size).all() and (roams < _ROAMS * size).all())


def _side_by_side(movers: Sequence[Subject]) -> list[Subject]:
    """Parts that keep their distance to each other all the way are one thing."""
    made: list[Subject] = []
    for mover in sorted(movers, key=lambda m: -m.importance):
        beside = next((k for k, m in enumerate(made) if _goes_along(m, mover)), None)
        if beside is None:
            made.append(mover)
            continue
        one = made[beside]
        both = one.there(mover.frames)
        frames = np.unique(np.concatenate([one.frames, mover.frames[both]]))
        a, b, there = one.at(frames), mover.at(frames), mover.there(frames)[:, None]
        boxes = np.concatenate([np.where(there, np.minimum(a[:, :2], b[:, :2]), a[:, :2]),
                                np.where(there, np.maximum(a[:, 2:], b[:, 2:]), a[:, 2:])], axis=1)  # fmt: skip
        made[beside] = replace(
            one, frames=frames, boxes=boxes, confidence=np.interp(frames, one.frames, one.confidence),
            importance=one.importance + mover.importance,
        )  # fmt: skip
    return made


def _goes_along(one: Subject, other: Subject) -> bool:
    frames = np.arange(max(one.frames[0], other.frames[0]), min(one.frames[-1], other.frames[-1]) + 1)
    shorter = min(m.frames[-1] - m.frames[0] + 1 for m in (one, other))
    if len(frames) < max(2, _TOGETHER * shorter):
        return False
    a, b = one.at(frames), other.at(frames)
    gaps = np.maximum(np.maximum(a[:, :2], b[:, :2]) - np.minimum(a[:, 2:], b[:, 2:]), 0)
    size = np.maximum(a[:, 2:] - a[:, :2], b[:, 2:] - b[:, :2])
    # At the picture's edge a box is cut, so the way between the sides that lie inside counts.
    ways = np.stack([a[:, :2] - b[:, :2], a[:, 2:] - b[:, 2:]])
    strays = np.abs(ways - np.median(ways, axis=1, keepdims=True)).min(axis=0)
    near = (np.median(gaps / np.maximum(size, 1e-6), axis=0) < _BESIDE).all()
    return bool(near and np.percentile(strays, _MOSTLY, axis=0).max() < _ALONG)


def _in_one_place(
    movers: Mapping[Subject, float], start: int, end: int, rate: float
) -> tuple[list[Subject], list[Subject]]:
    """Places in which something goes on, and what belongs to none."""
    groups: list[list[Subject]] = []
    for mover in sorted(movers, key=lambda m: -m.importance):
        home = next((g for g in groups if any(shared(_place(mover), _place(m)) > _MEETS for m in g)), None)
        if home is None:
            groups.append([mover])
        else:
            home.append(mover)
    made: list[Subject] = []
    rest: list[Subject] = []
    frames = np.arange(start, end)
    gap, reach = (round(t * rate) for t in TIMES["work"])
    for group in groups:
        there = np.any([m.there(frames) for m in group], axis=0).mean()
        boxes = np.concatenate([m.boxes for m in group])
        low, high = np.percentile(boxes, _ENDS[0], axis=0), np.percentile(boxes, _ENDS[1], axis=0)
        place = np.array([low[0], low[1], high[2], high[3]])
        wide = float(place[2] - place[0])
        if there < _THERE or (wide > _WIDEST and not _fills_alone({m: movers[m] for m in group}, wide)):
            rest += group
            continue
        seen = np.unique(np.concatenate([m.frames for m in group]))
        first = group[0]
        made.append(replace(
            first, frames=seen, reach=reach, bridged=gap, boxes=np.tile(place, (len(seen), 1)), look=0.0, steady=1.0,
            confidence=np.full(len(seen), float(first.confidence.mean())),
            importance=1.3 * max(m.importance for m in group),
        ))  # fmt: skip
    return made, rest


def _fills_alone(movers: Mapping[Subject, float], wide: float) -> bool:
    """Whether movers in a ``wide`` place are one large thing, since hardly anything else moves and they keep there."""
    of_all = np.average(list(movers.values()), weights=[m.importance + 1e-9 for m in movers])
    middles = np.concatenate([_middles(m)[:, 0] for m in movers])
    roams = float(np.percentile(middles, 95) - np.percentile(middles, 5))
    return bool(wide <= _WIDEST_ALONE and of_all >= _NEARLY_ALL and roams <= _KEEPS * wide)


def _place(mover: Subject) -> np.ndarray:
    return np.asarray(np.median(mover.boxes, axis=0))
