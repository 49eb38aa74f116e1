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
    thin = np.ascontiguousarray(luma[::step, ::step])
    u, v = picture.chroma()
    half = max(1, step // 2)
    colour = [
        cv2.resize(np.ascontiguousarray(c[::half, ::half]), _COLOUR, interpolation=cv2.INTER_AREA) for c in (u, v)
    ]
    return cv2.resize(thin, SMALL, interpolation=cv2.INTER_AREA), np.stack(colour)


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
    hardly moves at this size, is compared in place.
    """
    fa, fb = a.astype(np.float32), b.astype(np.float32)
    (dx, dy), _ = cv2.phaseCorrelate(fa, fb, _WINDOW)
    best = np.inf
    for x, y in {(0.0, 0.0), (dx, dy)}:
        if abs(x) > SMALL[0] // 2 or abs(y) > SMALL[1] // 2:
            continue
        best = min(best, _block_change(fa, fb, x, y))
    colour = float(np.abs(a_colour.astype(np.int16) - b_colour).mean())
    return best + colour


_WINDOW = cv2.createHanningWindow(SMALL, cv2.CV_32F)


def _block_change(a: np.ndarray, b: np.ndarray, x: float, y: float) -> float:
    """Mean over blocks of the least difference within one sample around the shift (x, y) of the whole.

    The quarter of the blocks that changes most is left out: a cut changes the
    whole picture, something that comes or goes changes a part of it.
    """
    rows, columns = SMALL[1] // _BLOCK_ROWS, SMALL[0] // _BLOCK_COLUMNS
    least = np.full((_BLOCK_ROWS, _BLOCK_COLUMNS), np.inf)
    padded = cv2.copyMakeBorder(a, 1, 1, 1, 1, cv2.BORDER_REPLICATE)
    moved = cv2.warpAffine(
        b, np.array([[1, 0, -x], [0, 1, -y]], np.float32), SMALL, borderMode=cv2.BORDER_CONSTANT, borderValue=-1
    )
    seen = moved >= 0
    for sx, sy in _SHIFTS:
        part = padded[1 + sy : 1 + sy + SMALL[1], 1 + sx : 1 + sx + SMALL[0]]
        error = np.where(seen, np.abs(part - moved), 0.0)
        blocks = error.reshape(_BLOCK_ROWS, rows, _BLOCK_COLUMNS, columns).sum(axis=(1, 3))
        least = np.minimum(least, blocks)
    area = seen.reshape(_BLOCK_ROWS, rows, _BLOCK_COLUMNS, columns).sum(axis=(1, 3))
    per_sample = np.sort((least / np.maximum(1, area))[area > rows * columns // 4])
    return float(per_sample[: max(1, per_sample.size * 3 // 4)].mean()) if per_sample.size else np.inf
