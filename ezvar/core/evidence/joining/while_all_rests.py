"""What moves while all else rests: however small it is, an editor keeps it where nothing else is there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..regions import Region
from ..subject import TIMES, Subject
from .movers import lies_in

_NEARLY_ALL = 0.9  # of all that moves in a look, that is its own
_MOSTLY = 0.6  # share of a shot's looks in which it does
_BESIDE = 0.15  # of its size, beside it, where what moves is still its own
_WIDEST = 0.4  # of the picture; what spreads farther is a place
_SEVERAL, _NOW_AND_THEN = 8, 0.25  # looks, and share of a shot's looks, in which something moves in one place
_ANYWHERE = 0.5  # of the picture's width, over which nothing else moves then
_RARELY, _SPOT, _ALL_ALONG = 0.12, 0.2, 0.5
"""The same where it moves in fewer looks still, and shares of the picture's width within which all of it then does, and
of the shot over which it goes on."""
_SURELY = 0.5  # sureness of a being of which what moves in it may be a part
_COUNTS = 0.14  # importance from which something decides by itself


def counting(found: Sequence[Subject], looks: Sequence[tuple[int, list[Region]]], rate: float) -> list[Subject]:
    """Subjects, of which those that move while all else rests count at least for so much that they decide.

    ``looks`` are those for movement: frames, and what moves in each, at a
    ``rate`` in frames a second. Where all that moves in a shot now and then
    does so in one place, that is a subject, or what it is a part of, if nothing there is one that decides.
    """
    writing = [s for s in found if s.kind == "text"]

    def is_running(one: Subject) -> bool:
        """Whether it is a clock, or a counter."""
        return any(lies_in(one, each) for each in writing)

    made = [
        replace(s, importance=_COUNTS)
        if s.importance < _COUNTS and _moves_alone(s, looks) and (s.kind != "moving" or not is_running(s)) else s
        for s in found
    ]  # fmt: skip
    if (place := _only_place(looks, rate)) is None:
        return made
    there = [s for s in made if s.kind != "text" and _meet(np.median(s.boxes, axis=0), place.boxes[0])]
    if is_running(place) or any(s.importance >= _COUNTS for s in there):
        return made
    whole = next((s for s in there if s.kind != "moving" and s.sureness >= _SURELY and lies_in(place, s)), None)
    if whole is not None:
        return [replace(s, importance=_COUNTS) if s is whole else s for s in made]
    return [*(s for s in made if s not in there or s.kind != "moving"), place]


def _only_place(looks: Sequence[tuple[int, list[Region]]], rate: float) -> Subject | None:
    """The place where all moves that does so at all, in several looks; ``None`` where there is no such place.

    It is the less sure the fewer these are.
    """
    moved = [(frame, regions) for frame, regions in looks if regions]
    if len(moved) < max(_SEVERAL, _RARELY * len(looks)):
        return None
    boxes = np.array([(r.x, r.y, r.x + r.width, r.y + r.height) for _, regions in moved for r in regions])
    box = np.concatenate([np.percentile(boxes[:, :2], 5, axis=0), np.percentile(boxes[:, 2:], 95, axis=0)])
    if box[2] - box[0] > _WIDEST or np.ptp(boxes[:, [0, 2]]) > _ANYWHERE:
        return None
    often = len(moved) / (_NOW_AND_THEN * len(looks))
    lasts = (moved[-1][0] - moved[0][0]) / (looks[-1][0] - looks[0][0])
    if often < 1 and (np.ptp(boxes[:, [0, 2]]) > _SPOT or lasts < _ALL_ALONG):
        return None
    gap, reach = (round(t * rate) for t in TIMES["work"])
    frames = np.array([frame for frame, _ in moved])
    sure = np.array([max(r.confidence for r in regions) for _, regions in moved]) * min(1.0, often) ** 2
    return Subject(0, "moving", frames, np.tile(box, (len(frames), 1)), sure, _COUNTS, reach=reach, bridged=gap)


def _meet(one: np.ndarray, other: np.ndarray) -> bool:
    """Whether two boxes (4,) have anything in common."""
    return bool((np.minimum(one[2:], other[2:]) > np.maximum(one[:2], other[:2])).all())


def _moves_alone(one: Subject, looks: Sequence[tuple[int, list[Region]]]) -> bool:
    if not looks or float(np.median(one.boxes[:, 2] - one.boxes[:, 0])) > _WIDEST:
        return False
    frames = np.array([frame for frame, _ in looks])
    boxes = one.at(frames)
    room = _BESIDE * (boxes[:, 2:] - boxes[:, :2])
    boxes = np.concatenate([boxes[:, :2] - room, boxes[:, 2:] + room], axis=1)
    alone = 0
    for (_, regions), box, there in zip(looks, boxes, one.there(frames), strict=True):
        inside = [r.strength for r in regions if box[0] <= r.cx <= box[2] and box[1] <= r.cy <= box[3]]
        alone += bool(there) and sum(inside) >= _NEARLY_ALL
    return alone >= _MOSTLY * len(looks)
