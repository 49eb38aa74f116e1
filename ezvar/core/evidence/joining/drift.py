"""Where a box goes while nothing looks for it: carried along by how the picture moves inside it."""

from __future__ import annotations

import numpy as np

from ..finders.flow import GRID, UNIT

_INNER = 0.8  # of the box, in which movement is read
_COVERED = 0.7  # of a cell, from which its movement is the box's
_LEAST = 1.5  # cells that a box must be wide and high, since what is smaller shares them with the ground behind it


class Drift:
    """How the picture moves in a stretch, from ``flows`` (flows,) of `finders.flow.FLOW`, ``step`` frames apart."""

    def __init__(self, flows: np.ndarray, step: int) -> None:
        self._at = {int(n): k for k, n in enumerate(flows["frame"])}
        self._moved = flows["moved"].astype(np.float32) * UNIT
        self._step = step

    def carried(self, box: np.ndarray, frame: int, to: int) -> dict[int, np.ndarray]:
        """A box (left, top, right, foot), fractions of the picture, at each look from ``frame`` to ``to``, in either
        direction of time; as far as it is known and large enough to be read off."""
        found: dict[int, np.ndarray] = {}
        box = box.astype(float)
        at, way = frame, 1 if to > frame else -1
        while at != to and (to - at) * way >= self._step:
            flow = self._at.get(at + self._step if way > 0 else at)
            if flow is None or (moved := self._of(box, flow)) is None:
                break
            if way < 0:  # the movement is noted where the box came from
                moved = self._of(box - moved[[0, 1, 0, 1]], flow)
                if moved is None:
                    break
            box = box + way * moved[[0, 1, 0, 1]]
            at += way * self._step
            found[at] = box
        return found

    def between(self, first: int, last: int) -> list[int]:
        """The looks for movement strictly between two frames, in order."""
        return sorted(n for n in self._at if first < n < last)

    def way(self, box: np.ndarray, frame: int, to: int) -> np.ndarray | None:
        """How far a box goes, (2,), from one frame to a later one at most a look apart; ``None`` where it is not known
        or the box too small to read it off."""
        flow = self._at.get(to) if to - frame <= self._step else None
        moved = None if flow is None else self._of(box, flow)
        return None if moved is None else moved * ((to - frame) / self._step)

    def of_all(self) -> dict[int, np.ndarray]:
        """By frame how far most of the picture, which is the camera, has moved since the look before: (2,)."""
        return {n: np.median(self._moved[k], axis=(1, 2)) for n, k in self._at.items()}

    def _of(self, box: np.ndarray, flow: int) -> np.ndarray | None:
        if ((box[2:] - box[:2]) * GRID < _LEAST).any():
            return None
        half = _INNER * (box[2:] - box[:2]) / 2
        middle = (box[:2] + box[2:]) / 2
        covers = []
        for axis in (0, 1):
            edges = np.arange(GRID[axis] + 1) / GRID[axis]
            inside = np.minimum(edges[1:], middle[axis] + half[axis]) - np.maximum(
                edges[:-1], middle[axis] - half[axis]
            )
            covers.append(np.clip(inside * GRID[axis], 0, 1))
        whole = np.outer(covers[1] >= _COVERED, covers[0] >= _COVERED)
        return np.median(self._moved[flow][:, whole], axis=1) if whole.any() else None
