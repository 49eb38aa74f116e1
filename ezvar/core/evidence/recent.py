"""The last second of pictures, small: what changed in it, what moved, whether writing came or went.

It depends on a few pictures alone, so that it does not matter where looking
begins. Without it every frame would have to be looked at in full.
"""

from __future__ import annotations

from collections import deque

import cv2
import numpy as np

from ezvar.core.cuts import thinned
from ezvar.core.media import Picture

from .finders.flow import UNIT, flow_between, flow_in_mirror, rests
from .finders.mirror import in_mirror
from .finders.moving import SIZE, camera_in_mirror, camera_move

_CELL = 10  # samples; both sides of `SIZE` are multiples
_STANDS = 5.0  # levels by which what stands may still change
_LINES = 4.0  # levels of slope, on the mean of a cell, by which writing adds to it
_CELLS = 2  # cells side by side that writing fills


class Recent:
    """Every ``step``-th picture of a lock, small, as far back as looks depend on them."""

    def __init__(self, step: int) -> None:
        self._step = step
        self.small: deque[np.ndarray] = deque(maxlen=4)
        self.flows: deque[np.ndarray] = deque(maxlen=4)
        self.moves: deque[np.ndarray] = deque(maxlen=2)
        self._slopes: deque[np.ndarray] = deque(maxlen=4)
        self._changes: deque[float] = deque(maxlen=2 * step)

    def add(self, picture: Picture, change: float) -> bool:
        """Take the next picture, which differs by ``change`` from the one before; returns whether it is one to look
        at."""
        self._changes.append(change)
        if picture.index % self._step:
            return False
        small = np.asarray(cv2.resize(thinned(picture), SIZE, interpolation=cv2.INTER_AREA))
        if self.small:
            flow, move = gone(self.small[-1], small)
            self.flows.append(flow)
            self.moves.append(move)
        self.small.append(small)
        grey = small.astype(np.float32)
        self._slopes.append(cv2.absdiff(grey, np.roll(grey, 1, axis=1)))
        return True

    def changed(self, before: int) -> float:
        """How far the picture has changed, in levels, in the step that ended ``before`` steps ago (0 or 1)."""
        changes = list(self._changes)
        return sum(changes[-self._step :] if before == 0 else changes[: -self._step])

    def moved(self) -> float:
        """How far any part of the picture has moved in the last four steps, in widths of it."""
        if not self.flows:
            return 0.0
        gone = np.sum([f.astype(np.float32) for f in self.flows], axis=0) * UNIT
        return float(np.hypot(gone[0], gone[1]).max())

    def written(self) -> bool:
        """Whether writing may have come or gone within the last three steps, and stands: many upright edges more, or
        fewer, side by side."""
        if len(self.small) < 4:
            return False
        stands = cv2.absdiff(self.small[-1], self.small[-2]) < _STANDS
        more = np.where(stands, self._slopes[-1] - self._slopes[0], 0)
        cells = more.reshape(SIZE[1] // _CELL, _CELL, SIZE[0] // _CELL, _CELL).mean(axis=(1, 3))
        for sign in (1, -1):
            full = (sign * cells > _LINES).astype(np.int32)
            runs = sum(full[:, k : full.shape[1] - _CELLS + 1 + k] for k in range(_CELLS))
            if (runs == _CELLS).any():
                return True
        return False


def gone(before: np.ndarray, now: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The flow and the camera's movement between two small pictures, of mirror images as in a mirror."""
    if mirrored := in_mirror(now):
        before, now = (np.ascontiguousarray(p[:, ::-1]) for p in (before, now))
    flow = flow_between(before, now)
    move = np.eye(2, 3) if rests(flow) else camera_move(before, now)
    return (flow_in_mirror(flow), camera_in_mirror(move)) if mirrored else (flow, move)
