"""What a window must keep, knot by knot: corridors for its centre, made from subjects."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ezvar.core.evidence import Subject

from .geometry import Size

TIERS = ("shoulders", "head", "face")
"""How much of a person is kept: as much as fits, the most first."""
_SIDES = {"shoulders": 0.85, "head": 0.3, "face": -0.04}  # widths of a face to each side; its box is a little wide
_ABOVE = {"shoulders": 0.55, "head": 0.5, "face": 0.0}  # heights of a face above it
_BELOW = {"shoulders": 0.75, "head": 0.15, "face": 0.0}
_ROOM = 0.012  # of the picture, around everything, for what the finders leave uncertain
_LOOK = 0.06  # of the window's width, given in the direction a subject looks or goes
_HEADROOM = 0.14  # of the window's height, by which a face stands above the middle


@dataclass(frozen=True)
class Demand:
    """What a group of subjects asks of a window along both directions, at knots.

    ``low``, ``high`` and ``wanted`` are (knots, 2), fractions of the picture:
    the corridor for the window's centre and where it would best be.
    ``weight`` (knots,) is 0 where nobody is there. ``fits`` (knots,) says
    whether all that is asked fits into the window at once.
    """

    low: np.ndarray
    high: np.ndarray
    wanted: np.ndarray
    weight: np.ndarray
    fits: np.ndarray


def keep_boxes(subject: Subject, frames: np.ndarray, tier: str = TIERS[0]) -> np.ndarray:
    """What of a subject is to be kept at frames: left, top, right, foot (frames, 4), fractions of the picture."""
    boxes = subject.at(frames).copy()
    if subject.kind == "face":
        wide, tall = boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1]
        boxes[:, 0] -= _SIDES[tier] * wide
        boxes[:, 2] += _SIDES[tier] * wide
        boxes[:, 1] -= _ABOVE[tier] * tall
        boxes[:, 3] += _BELOW[tier] * tall
    if tier != "face":
        boxes += np.array([-_ROOM, -_ROOM, _ROOM, _ROOM])
    return np.asarray(np.clip(boxes, 0.0, 1.0))


def demand(group: Sequence[Subject], frames: np.ndarray, window: tuple[float, float], tier: str = TIERS[0]) -> Demand:
    """What a group asks of a window of a size (fractions of the picture): whoever of it is there is to be kept."""
    count = len(frames)
    low, high = np.full((count, 2), -np.inf), np.full((count, 2), np.inf)
    wanted, weight = np.full((count, 2), 0.5), np.zeros(count)
    left, right = np.full((count, 2), np.inf), np.full((count, 2), -np.inf)
    lean = np.zeros((count, 2))
    for subject in group:
        there = subject.there(frames)
        boxes = keep_boxes(subject, frames, tier)[there]
        left[there] = np.minimum(left[there], boxes[:, :2])
        right[there] = np.maximum(right[there], boxes[:, 2:])
        weight[there] = 1.0
        if len(group) == 1:
            lean[there, 0] = _LOOK * window[0] * subject.look
            lean[there, 1] = _HEADROOM * window[1] * (subject.kind == "face")
    some = weight > 0
    half = np.array(window) / 2
    low[some], high[some] = right[some] - half, left[some] + half
    wanted[some] = np.clip((left[some] + right[some]) / 2 + lean[some], low[some], np.maximum(low[some], high[some]))
    return Demand(low, high, wanted, weight, np.asarray((low <= high + 1e-9).all(axis=1)))


def window_share(window_size: tuple[float, float], picture: Size) -> tuple[float, float]:
    """A window's width and height as fractions of the picture."""
    return window_size[0] / picture.width, window_size[1] / picture.height
