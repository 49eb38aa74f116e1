"""What a pane is judged by, and how what it keeps lies in its windows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ezvar.core.evidence import Subject

from ..keeping.whom_to_follow import Asked
from ..windows.geometry import Size, Window

_OFF = 0.004  # of the picture, that what is kept may be outside
_INSIDE = 1e-3  # of the picture, from which an edge of a window lies inside it


@dataclass(frozen=True)
class Seen:
    """What a pane is judged by.

    ``subjects`` are the shot's, without those that another pane follows;
    ``asks`` is what was asked, at knots of which ``own`` (knots,) are the
    shot's, at lock frames ``frames``. ``fastest`` is how far its pace lets it
    move a frame, in fractions of the picture.
    """

    subjects: Sequence[Subject]
    asks: Asked
    frames: np.ndarray
    own: np.ndarray
    fastest: float

    @property
    def boxes(self) -> np.ndarray:
        """What is to be kept, (frames, 4): left, top, right and foot as fractions of the picture."""
        return np.asarray(self.asks.demand.boxes[self.own])

    @property
    def wanted(self) -> np.ndarray:
        """At which frames (frames,) anything is."""
        return np.asarray(self.asks.demand.weight[self.own] > 0)


def shown_areas(windows: Sequence[Window], size: Size) -> np.ndarray:
    """What windows show, (windows, 4): left, top, right and foot as fractions of the picture."""
    return np.array([
        (w.left / size.width, w.top / size.height, (w.left + w.width) / size.width, (w.top + w.height) / size.height)
        for w in windows
    ])  # fmt: skip


def larger(boxes: np.ndarray, areas: np.ndarray) -> np.ndarray:
    """By how much boxes (n, 4) are wider and higher than areas (n, 4): (n, 2), negative where they fit."""
    return np.asarray((boxes[:, 2:] - boxes[:, :2]) - (areas[:, 2:] - areas[:, :2]))


def left_out(seen: Seen, areas: np.ndarray) -> np.ndarray:
    """At which frames (frames,) the areas (frames, 4) do not hold what is asked for there, as `shown_areas`."""
    over = np.clip(larger(seen.boxes, areas) / 2, 0, None)  # of what is larger than the window, the middle
    low, high = seen.boxes[:, :2] + over, seen.boxes[:, 2:] - over
    return np.asarray(seen.wanted & ((areas[:, :2] > low + _OFF) | (areas[:, 2:] < high - _OFF)).any(axis=1))


def too_large(seen: Seen, areas: np.ndarray) -> float:
    """The share of the frames that ask something at which the areas are too small for all of it at once."""
    wanted = seen.wanted
    return float((larger(seen.boxes, areas)[wanted] > _OFF).any(axis=1).mean()) if wanted.any() else 0.0


def spare(boxes: np.ndarray, areas: np.ndarray) -> np.ndarray:
    """How far boxes (n, 4) are from the nearest edge of areas (n, 4) that lies inside the picture: (n,), in fractions
    of it, negative where one is cut, infinite where all edges are the picture's."""
    before = np.where(areas[:, :2] > _INSIDE, boxes[:, :2] - areas[:, :2], np.inf)
    after = np.where(areas[:, 2:] < 1 - _INSIDE, areas[:, 2:] - boxes[:, 2:], np.inf)
    return np.asarray(np.minimum(before, after).min(axis=1))
