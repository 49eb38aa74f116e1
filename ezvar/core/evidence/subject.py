"""A subject: where something that a window can follow was seen in a shot, and where it is taken to be in between."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .regions import RegionKind

_BEING, _SOON = (3.6, 0.56), 0.24
_BEST, _MAY_BE = 80, (0.6, 0.7)
"""Confidence at this percentile of its sights, up to which what is still is often something else, and from which it
hardly ever is."""
PEOPLE: tuple[RegionKind, ...] = ("face", "person", "drawn")
"""Kinds of subjects that are somebody, or whom an editor has drawn."""
TIMES: dict[RegionKind, tuple[float, float]] = {
    "face": (3.0, 0.56), "text": (4.8, 2.0), "moving": (1.2, _SOON), "work": (4.0, 1.0), "drawn": (0.48, 0.08),
    "person": _BEING, "animal": _BEING, "vehicle": _BEING, "sport": _BEING, "thing": _BEING,
}  # fmt: skip
"""Seconds for which a track is kept without being seen, and around a sight for which it is taken to be there."""


@dataclass(frozen=True, eq=False)
class Subject:
    """Something a window can follow in a shot.

    ``frames`` (sights,) are lock frames at which it was seen, ``boxes``
    (sights, 4) its left, top, right and foot there as fractions of the
    picture, ``confidence`` (sights,) 0..1. ``around`` (sights, 4) is what
    belongs to it and is kept where it fits: the figure of a face, the hand
    that holds a thing; ``core`` (sights, 4) the least that shows it. Both are
    its boxes where nothing is said. ``importance`` compares the subjects of
    one shot; ``number`` counts them from 1, the most important first.
    ``look`` is which way it looks or goes on the whole, -1..1. ``steady``
    0..1 is how far its way can be relied upon: something that flickers here
    and there shows where much moves and is nothing to follow. It is taken to
    be there ``reach`` frames around a sight, and in gaps up to ``bridged``.
    Of what is ``still``, nothing was seen to move, so that it may be part of
    the place. ``way`` (sights, 4) is where it really is, if its boxes are where it is
    kept: of what is gone before any window could go after it.
    """

    number: int
    kind: RegionKind
    frames: np.ndarray
    boxes: np.ndarray
    confidence: np.ndarray
    importance: float
    look: float = 0.0
    steady: float = 1.0
    reach: int = 2
    bridged: int = 12
    around: np.ndarray | None = None
    core: np.ndarray | None = None
    way: np.ndarray | None = None
    still: bool = False

    @property
    def sureness(self) -> float:
        """How far it can be relied upon that it is there, 0..1: wholly on what moves or has a face; what is still, and
        was found by its looks alone, is often a part of the place unless it was seen surely."""
        return float(np.interp(np.percentile(self.confidence, _BEST), _MAY_BE, (0, 1))) if self.still else 1.0

    def at(self, frames: np.ndarray) -> np.ndarray:
        """Its boxes (n, 4) at lock frames (n,): evenly between sights.

        Before the first and after the last it goes on at the speed it had
        there for as long as it is taken to be there, and then rests.
        """
        return self._between(self.boxes, frames)

    def around_at(self, frames: np.ndarray) -> np.ndarray:
        """All that belongs to it, (n, 4), at lock frames (n,)."""
        return self._between(self.boxes if self.around is None else self.around, frames)

    def core_at(self, frames: np.ndarray) -> np.ndarray:
        """The least that shows it, (n, 4), at lock frames (n,)."""
        return self._between(self.boxes if self.core is None else self.core, frames)

    def way_at(self, frames: np.ndarray) -> np.ndarray:
        """Where it really is, (n, 4), at lock frames (n,)."""
        return self._between(self.boxes if self.way is None else self.way, frames)

    def _between(self, sights: np.ndarray, frames: np.ndarray) -> np.ndarray:
        boxes = np.stack([np.interp(frames, self.frames, sights[:, k]) for k in range(4)], axis=1)
        if len(self.frames) < 3:
            return boxes
        for end, beside, beyond in (
            (0, 1, np.clip(frames - self.frames[0], -self.reach, 0)),
            (-1, -2, np.clip(frames - self.frames[-1], 0, self.reach)),
        ):
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
        near = np.minimum(abs(frames - last), abs(following - frames)) <= self.reach
        between = (frames >= last) & (frames <= following) & (following - last <= self.bridged)
        return np.asarray(near | between)
