"""How the picture moves, cell by cell: by it, something that was found is known where it is in between.

Dense inverse search (Kroeger, Timofte, Dai and Van Gool, "Fast Optical Flow
using Dense Inverse Search", 2016, as OpenCV does it) on small pictures, of
which the middle movement of each cell of a coarse grid is kept. The camera's
own movement is in it.
"""

from __future__ import annotations

import cv2
import numpy as np

from .moving import SIZE

GRID = (16, 9)
"""Cells across and down."""
UNIT = 0.25 / SIZE[0]
"""Movement of 1 as it is kept, in widths of the picture (heights, up and down)."""
FLOW = np.dtype([("frame", "i4"), ("moved", "i1", (2, GRID[1], GRID[0]))])
_CELL = SIZE[0] // GRID[0]
_RESTS = 0.95  # share of the cells


def flow_between(before: np.ndarray, now: np.ndarray) -> np.ndarray:
    """How far each cell has moved from one small picture to another, int8 (2, 9, 16): across and down, in `UNIT`s.

    Both are luminance, uint8 of `moving.SIZE`.
    """
    if np.array_equal(before, now):  # a still, or a frame that is held
        return np.zeros((2, GRID[1], GRID[0]), np.int8)
    both = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_FAST).calc(before, now, None)
    cells = both.reshape(GRID[1], _CELL, GRID[0], _CELL, 2).transpose(4, 0, 2, 1, 3).reshape(2, GRID[1], GRID[0], -1)
    middle = np.median(cells, axis=3)
    middle[1] *= SIZE[0] / SIZE[1]  # heights of the picture, as the widths
    return np.asarray(np.clip(np.round(middle / (UNIT * SIZE[0])), -127, 127), np.int8)


def flow_in_mirror(flow: np.ndarray) -> np.ndarray:
    """The flow (2, 9, 16) of the mirror images."""
    return np.ascontiguousarray(flow[:, :, ::-1] * np.array([-1, 1], np.int8)[:, None, None])


def rests(flow: np.ndarray) -> bool:
    """Whether nearly all of a picture has stayed where it was."""
    return float((flow == 0).all(axis=0).mean()) > _RESTS
