"""Change signals: how much each frame differs from the one before, measured on small pictures."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import cv2
import numpy as np

from ezvar.core.media import Picture
from ezvar.core.progress import CancelToken, Progress, silent

SMALL = (64, 36)
"""Width and height of the small pictures, whatever the movie's shape."""
_COLOUR = (16, 9)
_BLOCK_ROWS, _BLOCK_COLUMNS = 6, 8
_SHIFTS = [(dx, dy) for dy in (-1, 0, 1) for dx in (-1, 0, 1)]


@dataclass(frozen=True)
class Signals:
    """What was measured of a movie.

    ``luma`` (frames, 36, 64) and ``colour`` (frames, 2, 9, 16), uint8, are its
    small pictures; ``change`` (frames,) is how far each frame differs from
    the one before, in 8-bit levels, after the camera's own movement is taken
    out; ``change[0]`` is 0.
    """

    luma: np.ndarray
    colour: np.ndarray
    change: np.ndarray


def small(picture: Picture) -> tuple[np.ndarray, np.ndarray]:
    """The small luminance (36, 64) and colour pictures (2, 9, 16) of a frame, uint8.

    Every fourth sample is taken and averaged down, which costs a tenth of
    what a general scaler does.
    """
    luma = picture.luma()
    step = max(1, min(4, luma.shape[1] // 160))
    colour = [cv2.resize(_thin(c, step), _COLOUR, interpolation=cv2.INTER_AREA) for c in picture.chroma()]
    return cv2.resize(_thin(luma, step), SMALL, interpolation=cv2.INTER_AREA), np.stack(colour)


def _thin(plane: np.ndarray, step: int) -> np.ndarray:
    return np.ascontiguousarray(plane[::step, ::step])


def measure(
    pictures: Iterable[Picture], frames: int, progress: Progress = silent, cancel: CancelToken | None = None
) -> Signals:
    """Measure a movie's pictures, in order. ``frames`` is their number, for the progress."""
    luma = np.zeros((frames, SMALL[1], SMALL[0]), np.uint8)
    colour = np.zeros((frames, 2, _COLOUR[1], _COLOUR[0]), np.uint8)
    change = np.zeros(frames, np.float32)
    for k, picture in enumerate(pictures):
        if cancel is not None:
            cancel.check()
        luma[k], colour[k] = small(picture)
        if k:
            change[k] = difference(luma[k - 1], luma[k], colour[k - 1], colour[k])
        if k % 25 == 0:
            progress(k / frames, "Looking for cuts")
    return Signals(luma, colour, change)


def difference(a: np.ndarray, b: np.ndarray, a_colour: np.ndarray, b_colour: np.ndarray) -> float:
    """How far small picture ``b`` differs from ``a`` once it has been moved to fit, in 8-bit levels.

    The whole is shifted by phase correlation (Kuglin and Hines, 1975) where
    that helps, then each block by one more sample at most. Colour, which
    hardly moves at this size, is compared in place. Pictures that are nearly
    the same in place are not searched any further.
    """
    colour = float(cv2.absdiff(a_colour, b_colour).mean())
    in_place = _trimmed(_blocks(cv2.absdiff(a, b)), _FULL)
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
    """The least difference of each block within one sample around the shift (x, y) of the whole, trimmed."""
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
    return _trimmed(least * 255 / np.maximum(area, 1), area)


_ALL = np.full((SMALL[1], SMALL[0]), 255, np.uint8)


def _trimmed(blocks: np.ndarray, area: np.ndarray) -> float:
    """The mean over blocks without the quarter that changes most; those hardly seen (``area``, 0..255) do not count.

    A cut changes the whole picture, something that comes or goes a part of it.
    """
    seen = np.sort(blocks[area > 64])
    return float(seen[: max(1, seen.size * 3 // 4)].mean()) if seen.size else np.inf
