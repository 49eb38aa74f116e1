"""Stretches of a lock whose pictures could not be decoded, as they came out when it was looked through."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ezvar.core.model import Lock
from ezvar.core.timing import can_drop, timecode

_APART = 2  # frames between two damaged ones up to which they are one stretch


@dataclass(frozen=True)
class Damage:
    """Lock frames ``start`` to ``end``, of which some could not be decoded."""

    start: int
    end: int

    def said(self, lock: Lock) -> str:
        """A sentence for it, with the lock's timecodes."""
        drop = lock.drop and can_drop(lock.rate)
        first, last = (timecode(lock.start + frame, lock.rate, drop) for frame in (self.start, self.end - 1))
        where = f"at {first}" if first == last else f"from {first} to {last}"
        return f"The picture is damaged {where}; the last good one is held where nothing can be decoded."


def damages(frames: np.ndarray) -> list[Damage]:
    """Damaged frames (frames,), rising, as stretches.

    >>> damages(np.array([4, 5, 6, 30]))
    [Damage(start=4, end=7), Damage(start=30, end=31)]
    """
    if not len(frames):
        return []
    groups = np.split(frames, np.flatnonzero(np.diff(frames) > _APART) + 1)
    return [Damage(int(group[0]), int(group[-1]) + 1) for group in groups]
