"""Work in one place: hands and what they handle, which the finder of movement sees as many restless things."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from .subjects import Subject

_RESTLESS = 0.5  # steadiness below which a moving thing goes no way of its own
_MEETS = 0.15  # part of the smaller one's box that two things share which belong together
_THERE = 0.5  # share of the shot in which some of it moves
_WIDEST = 0.4  # of the picture: what spreads farther is a crowd, or a landscape in the wind
_ENDS = (10, 90)  # percentiles of the sides, which single looks overshoot


def joined_work(movers: Sequence[Subject], start: int, end: int) -> list[Subject]:
    """Moving things with those that are restless in one place joined to one subject there.

    Such work goes on in the same place for most of frames ``start`` to
    ``end``: its box is the same all through, and so it can be relied upon.
    """
    restless = [m for m in movers if m.steady < _RESTLESS]
    groups: list[list[Subject]] = []
    for mover in sorted(restless, key=lambda m: -m.importance):
        home = next((g for g in groups if any(_share(_place(mover), _place(m)) > _MEETS for m in g)), None)
        if home is None:
            groups.append([mover])
        else:
            home.append(mover)
    made = []
    frames = np.arange(start, end)
    for group in groups:
        there = np.any([m.there(frames) for m in group], axis=0).mean()
        boxes = np.concatenate([m.boxes for m in group])
        low, high = np.percentile(boxes, _ENDS[0], axis=0), np.percentile(boxes, _ENDS[1], axis=0)
        place = np.array([low[0], low[1], high[2], high[3]])
        if there < _THERE or place[2] - place[0] > _WIDEST:
            made += group
            continue
        seen = np.unique(np.concatenate([m.frames for m in group]))
        first = group[0]
        made.append(replace(
            first, kind="work", frames=seen, boxes=np.tile(place, (len(seen), 1)), look=0.0, steady=1.0,
            confidence=np.full(len(seen), float(first.confidence.mean())),
            importance=2 * max(m.importance for m in group),
        ))  # fmt: skip
    return [*(m for m in movers if m.steady >= _RESTLESS), *made]


def _place(mover: Subject) -> np.ndarray:
    return np.asarray(np.median(mover.boxes, axis=0))


def _share(a: np.ndarray, b: np.ndarray) -> float:
    """The part of the smaller of two boxes that both cover."""
    sides = np.clip(np.minimum(a[2:], b[2:]) - np.maximum(a[:2], b[:2]), 0, None)
    return float(sides.prod()) / max(1e-9, min(float((x[2:] - x[:2]).prod()) for x in (a, b)))
