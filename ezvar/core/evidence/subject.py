"""A subject: where something that a window can follow was seen in a shot, and where it is taken to be in between."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .gather import MOVING_EVERY
from .regions import RegionKind

LONGEST_GAP = {"face": 75, "text": 120, "moving": 30, "work": 100, "figure": 90, "drawn": 12}
"""Frames for which a track is kept without being seen."""
REACH = {"face": 14, "text": 50, "moving": MOVING_EVERY + 2, "work": 25, "figure": 38, "drawn": 2}
"""Frames around a sight for which a subject is taken to be there."""


@dataclass(frozen=True, eq=False)
class Subject:
    """Something a window can follow in a shot.

    ``frames`` (sights,) are lock frames at which it was seen, ``boxes``
    (sights, 4) its left, top, right and foot there as fractions of the
    picture, ``confidence`` (sights,) 0..1. ``importance`` compares the
    subjects of one shot; ``number`` counts them from 1, the most important
    first. ``look`` is which way it looks or goes on the whole, -1..1.
    ``steady`` 0..1 is how far its way can be relied upon: something that
    flickers here and there shows where much moves and is nothing to follow.
    """

    number: int
    kind: RegionKind
    frames: np.ndarray
    boxes: np.ndarray
    confidence: np.ndarray
    importance: float
    look: float = 0.0
    steady: float = 1.0

    def at(self, frames: np.ndarray) -> np.ndarray:
        """Its boxes (n, 4) at lock frames (n,): evenly between sights.

        Before the first and after the last it goes on at the speed it had
        there for as long as it is taken to be there, and then rests.
        """
        reach = REACH[self.kind]
        boxes = np.stack([np.interp(frames, self.frames, self.boxes[:, k]) for k in range(4)], axis=1)
        if len(self.frames) < 3:
            return boxes
        for end, beside, beyond in (
            (0, 1, np.clip(frames - self.frames[0], -reach, 0)), (-1, -2, np.clip(frames - self.frames[-1], 0, reach)),
        ):  # fmt: skip
            middles = (self.boxes[[end, beside], :2] + self.boxes[[end, beside], 2:]) / 2
            speed = (middles[0] - middles[1]) / (self.frames[end] - self.frames[beside])
            boxes += (beyond[:, None] * speed)[:, [0, 1, 0, 1]]
        return np.asarray(np.clip(boxes, 0.0, 1.0))

    def box_at(self, frame: int) -> tuple[float, float, float, float]:
        """Its box at one lock frame: left, top, right and foot as fractions of the picture."""
        left, top, right, foot = (float(v) for v in self.at(np.array([frame]))[0])
        return left, top, right, foot

    def there_at(self, frame: int) -> bool:
        """Whether it is taken to be there at one lock frame."""
        return bool(self.there(np.array([frame]))[0])

    def there(self, frames: np.ndarray) -> np.ndarray:
        """Whether it is taken to be there, (n,) bool: near a sight, or in a gap short enough to bridge."""
        after = np.searchsorted(self.frames, frames)
        last = self.frames[np.clip(after - 1, 0, None)]
        following = self.frames[np.clip(after, None, len(self.frames) - 1)]
        reach, bridged = REACH[self.kind], LONGEST_GAP[self.kind]
        near = np.minimum(abs(frames - last), abs(following - frames)) <= reach
        between = (frames >= last) & (frames <= following) & (following - last <= bridged)
        return np.asarray(near | between)
