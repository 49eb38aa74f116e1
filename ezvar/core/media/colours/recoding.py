"""Luminance and colour difference from one matrix and range to another (ITU-T H.273, 8.3)."""

from __future__ import annotations

import cv2
import numpy as np

_WEIGHTS = {
    1: (0.2126, 0.0722), 4: (0.30, 0.11), 7: (0.212, 0.087), 9: (0.2627, 0.0593), 10: (0.2627, 0.0593)
}  # fmt: skip
_BT601 = (0.299, 0.114)

Coding = tuple[int, bool]
"""An H.273 matrix, and whether the range is full."""


def luma_weights(matrix: int) -> tuple[float, float]:
    """How much red and blue weigh in luminance by an H.273 matrix; BT.601 for those that have no weights."""
    return _WEIGHTS.get(matrix, _BT601)


def coding_levels(full: bool, depth: int = 8) -> tuple[float, float, float]:
    """The level of black, the span of luminance and that of colour difference, in samples of a ``depth``."""
    finer, top = 1 << (depth - 8), float((1 << depth) - 1)
    return (0.0, top, top) if full else (16.0 * finer, 219.0 * finer, 224.0 * finer)


def recode(
    y: np.ndarray, u: np.ndarray, v: np.ndarray, now: Coding, then: Coding, depth: int = 8
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Planes of a 4:2:0 picture in another coding: (height, width) and twice half of that, of a ``depth``.

    Grey stays grey, so that colour difference follows from colour difference
    alone, and luminance takes up what it loses.
    """
    (black, luma, chroma), (black2, luma2, chroma2) = coding_levels(now[1], depth), coding_levels(then[1], depth)
    grey, top = 1 << (depth - 1), (1 << depth) - 1
    (kr, kb), (kr2, kb2) = luma_weights(now[0]), luma_weights(then[0])
    # Red, green and blue of a colour difference of 1, without luminance.
    of_u = np.array([0.0, -2 * (1 - kb) * kb / (1 - kr - kb), 2 * (1 - kb)])
    of_v = np.array([2 * (1 - kr), -2 * (1 - kr) * kr / (1 - kr - kb), 0.0])
    weights = np.array([kr2, 1 - kr2 - kb2, kb2])
    y_u, y_v = float(weights @ of_u), float(weights @ of_v)
    cb, cr = ((p.astype(np.float32) - grey) / chroma for p in (u, v))
    lost = cv2.resize(y_u * cb + y_v * cr, y.shape[::-1], interpolation=cv2.INTER_LINEAR)
    lightness = (y.astype(np.float32) - black) / luma + lost
    blue = ((of_u[2] - y_u) * cb + (of_v[2] - y_v) * cr) / (2 * (1 - kb2))
    red = ((of_u[0] - y_u) * cb + (of_v[0] - y_v) * cr) / (2 * (1 - kr2))

    def level(values: np.ndarray, span: float, offset: float) -> np.ndarray:
        return np.asarray(np.clip(values * span + offset + 0.5, 0, top).astype(y.dtype))

    return level(lightness, luma2, black2), level(blue, chroma2, grey), level(red, chroma2, grey)
