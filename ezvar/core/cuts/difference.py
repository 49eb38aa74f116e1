"""How far two small pictures differ once the camera's own movement is taken out."""

from __future__ import annotations

import cv2
import numpy as np

SMALL = (64, 36)
"""Width and height of the small pictures, whatever the movie's shape."""
_BLOCK_ROWS, _BLOCK_COLUMNS = 6, 8
_SHIFTS = [(dx, dy) for dy in (-1, 0, 1) for dx in (-1, 0, 1)]


def difference(a: np.ndarray, b: np.ndarray, a_colour: np.ndarray, b_colour: np.ndarray) -> float:
    """How far small picture ``b`` differs from ``a`` once it has been moved to fit, in 8-bit levels.

    It is the mean over the three quarters of the picture that change least:
    a cut changes all of a picture, something that comes or goes a part of it.

    The whole is shifted by phase correlation (Kuglin and Hines, 1975) where
    that helps, then each block by one more sample at most. Colour, which
    hardly moves at this size, is compared in place. Pictures that are nearly
    the same in place are not searched any further.
    """
    colour = float(cv2.absdiff(a_colour, b_colour).mean())
    in_place = _calm(_blocks(cv2.absdiff(a, b)), _FULL)
    if in_place < _NEARLY_SAME:
        return in_place + colour
    (dx, dy), _ = cv2.phaseCorrelate(a.astype(np.float32), b.astype(np.float32), _WINDOW)
    # A move by a part of a sample changes what is as fine as a sample; so that is smoothed away.
    a, b = (cv2.GaussianBlur(p, (3, 3), 0) for p in (a, b))
    best = _block_change(a, b, 0.0, 0.0)
    if max(abs(dx), 2 * abs(dy)) <= SMALL[0] / 2 and max(abs(dx), abs(dy)) > 0.05:
        best = min(best, _block_change(a, b, dx, dy))
    return best + colour


_NEARLY_SAME = 1.0  # levels
_WINDOW = cv2.createHanningWindow(SMALL, cv2.CV_32F)
_FULL = np.full((_BLOCK_ROWS, _BLOCK_COLUMNS), 255.0)


def _blocks(values: np.ndarray) -> np.ndarray:
    """The mean of each block."""
    return np.asarray(cv2.resize(values, (_BLOCK_COLUMNS, _BLOCK_ROWS), interpolation=cv2.INTER_AREA), np.float64)


def _block_change(a: np.ndarray, b: np.ndarray, x: float, y: float) -> float:
    """The least difference of each block within one sample around the shift (x, y) of the whole, where it is least."""
    matrix = np.array([[1, 0, -x], [0, 1, -y]], np.float32)
    moved, seen = b, _ALL
    if x or y:
        moved = cv2.warpAffine(b, matrix, SMALL, borderMode=cv2.BORDER_CONSTANT)
        seen = cv2.warpAffine(_ALL, matrix, SMALL, borderMode=cv2.BORDER_CONSTANT)
    area = _blocks(seen)
    padded = cv2.copyMakeBorder(a, 1, 1, 1, 1, cv2.BORDER_REPLICATE)
    least = np.full(area.shape, np.inf)
    for sx, sy in _SHIFTS:
        part = padded[1 + sy : 1 + sy + SMALL[1], 1 + sx : 1 + sx + SMALL[0]]
        error = cv2.absdiff(part, moved).astype(np.float32)
        if seen is not _ALL:
            error *= seen == 255
        least = np.minimum(least, _blocks(error))
    return _calm(least * 255 / np.maximum(area, 1), area)


_ALL = np.full((SMALL[1], SMALL[0]), 255, np.uint8)


def _calm(blocks: np.ndarray, area: np.ndarray) -> float:
    """The mean over the blocks that change least; those hardly seen (``area``, 0..255) do not count."""
    seen = np.sort(blocks[area > 64])
    most = seen.size * 3 // 4
    return float(seen[:most].mean()) if most else np.inf
