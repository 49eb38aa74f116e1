"""Taking a window out of a plane, antialiased, to fractions of a sample."""

from __future__ import annotations

from math import ceil, floor

import cv2
import numpy as np

from ezvar.core.framing import Window

_SHRINK = 1.15  # above this many source samples for one, the plane is averaged down
_PHASE = 0.06  # samples of the result by which a moving window may be off unseen
_MARGIN = 3  # samples around a window that the kernel reads


def chroma_window(window: Window) -> Window:
    """A luminance window in the coordinates of half-size chrominance.

    MPEG's 4:2:0 sites chrominance on every second luminance column and
    between two rows, which shifts it by a quarter sample to the left.
    """
    return Window(window.cx / 2 + 0.25, window.cy / 2, window.width / 2, window.height / 2, window.angle)


def sample(
    plane: np.ndarray, window: Window, width: int, height: int, onto: np.ndarray | None = None, resting: bool = False
) -> np.ndarray:
    """The window of a plane at a size, uint8 (height, width).

    Enlarges with a bicubic kernel; shrinks by area averaging. Where the
    window reaches past the plane, the plane's edge samples go on, or ``onto``
    (height, width) shows. A ``resting`` window may be off by up to half a
    sample of the result, which keeps it crisp and is cheaper.
    """
    drawn = _upright(plane, window, width, height, 0.5 if resting else _PHASE) if window.angle == 0 else None
    if drawn is None:
        drawn = _turned(plane, window, width, height)
    if onto is None:
        return drawn
    cover = coverage(window, plane.shape[1], plane.shape[0], width, height)
    return np.asarray(onto + (drawn.astype(np.float32) - onto) * cover + 0.5).astype(np.uint8)


def _upright(plane: np.ndarray, window: Window, width: int, height: int, tolerance: float) -> np.ndarray | None:
    """An upright window by plain scaling, several times faster than a general map.

    Scaling starts at whole samples of the plane. Of the starts a little
    before the window's edge, the one is taken whose distance to that edge is
    nearest to a whole number of samples of the result. ``None`` where none
    comes within ``tolerance``.
    """
    fx, fy = width / window.width, height / window.height
    across, down = _start(window.left, fx), _start(window.top, fy)
    if max(across[2], down[2]) > tolerance + 1e-9:
        return None
    (left, skip_x, _), (top, skip_y, _) = across, down
    right = left + ceil((skip_x + width) / fx) + _MARGIN
    foot = top + ceil((skip_y + height) / fy) + _MARGIN
    rows, columns = plane.shape
    part = plane[max(0, top) : min(rows, foot), max(0, left) : min(columns, right)]
    if not part.size or max(right - left, foot - top) > 32_000:
        return None
    beyond = (max(0, -top), max(0, foot - rows), max(0, -left), max(0, right - columns))
    if any(beyond):
        part = cv2.copyMakeBorder(part, *beyond, cv2.BORDER_REPLICATE)
    kernel = cv2.INTER_AREA if min(fx, fy) < 1 / _SHRINK else cv2.INTER_CUBIC
    scaled = cv2.resize(part, None, fx=fx, fy=fy, interpolation=kernel)
    return np.asarray(scaled[skip_y : skip_y + height, skip_x : skip_x + width])


def _start(edge: float, scale: float) -> tuple[int, int, float]:
    """A whole start before an edge, the samples of the result to skip from there, and the error of that."""
    choices = []
    for start in range(floor(edge) - _MARGIN, floor(edge) - _MARGIN - 16, -1):
        skip = round((edge - start) * scale)
        choices.append((abs((edge - start) * scale - skip), -start, skip))
    error, start, skip = min(choices)
    return -start, skip, error


def _turned(plane: np.ndarray, window: Window, width: int, height: int) -> np.ndarray:
    """A window at any angle and place, by a general map."""
    across, down = window.width / width, window.height / height
    source, matrix = plane, window.matrix(width, height)
    if max(across, down) > _SHRINK:
        source, matrix = _averaged(plane, window, matrix, across, down)
    # OpenCV counts from sample middles, the matrix from sample edges.
    matrix[:, 2] += matrix[:, :2] @ (0.5, 0.5) - 0.5
    flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    turned = cv2.warpAffine(source, matrix, (width, height), flags=flags, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(turned)


def coverage(window: Window, plane_width: int, plane_height: int, width: int, height: int) -> np.ndarray:
    """How much of each sample of the surface lies on the plane: float32 (height, width), 0..1."""
    matrix = window.matrix(width, height)
    columns, rows = np.arange(width, dtype=np.float32) + 0.5, np.arange(height, dtype=np.float32) + 0.5
    x = matrix[0, 0] * columns[None, :] + matrix[0, 1] * rows[:, None] + matrix[0, 2]
    y = matrix[1, 0] * columns[None, :] + matrix[1, 1] * rows[:, None] + matrix[1, 2]
    step = window.width / width
    inside = np.minimum(np.minimum(x, plane_width - x), np.minimum(y, plane_height - y)) / step + 0.5
    return np.asarray(np.clip(inside, 0, 1), np.float32)


def _averaged(
    plane: np.ndarray, window: Window, matrix: np.ndarray, across: float, down: float
) -> tuple[np.ndarray, np.ndarray]:
    """The part of a plane under a window, averaged down to about one sample for one, and the map to it."""
    box = window.bounds()
    margin = 3 * max(across, down)
    rows, columns = plane.shape
    left, right = (
        max(0, floor(window.cx - box.width / 2 - margin)),
        min(columns, ceil(window.cx + box.width / 2 + margin)),
    )
    top, foot = (
        max(0, floor(window.cy - box.height / 2 - margin)),
        min(rows, ceil(window.cy + box.height / 2 + margin)),
    )
    part = plane[top:foot, left:right]
    new_width, new_height = max(1, round((right - left) / across)), max(1, round((foot - top) / down))
    small = cv2.resize(part, (new_width, new_height), interpolation=cv2.INTER_AREA)
    moved = matrix - np.array([[0, 0, left], [0, 0, top]])
    scale = np.array([[new_width / (right - left)], [new_height / (foot - top)]])
    return small, moved * scale
