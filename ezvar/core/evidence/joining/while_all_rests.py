"""What moves while all else rests: however small it is, an editor keeps it where nothing else is there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..regions import Region
from ..subject import Subject

_NEARLY_ALL = 0.9  # of all that moves in a look, that is its own
_MOSTLY = 0.6  # share of a shot's looks in which it does
_BESIDE = 0.15  # of its size, beside it, where what moves is still its own
_WIDEST = 0.4  # of the picture; what spreads farther is a place
_COUNTS = 0.14  # importance from which something decides by itself


def counting(found: Sequence[Subject], looks: Sequence[tuple[int, list[Region]]]) -> list[Subject]:
    """Subjects, of which those that move while all else rests count at least for so much that they decide.

    ``looks`` are those for movement: frames, and what moves in each.
    """
    return [replace(s, importance=_COUNTS) if s.importance < _COUNTS and _moves_alone(s, looks) else s for s in found]


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
