"""Taking a window out of a plane, antialiased, to fractions of a sample."""

from __future__ import annotations

import threading
from math import ceil, floor
from typing import Any, cast

import av
import cv2
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter
from cachetools import LRUCache

from ezvar.core.framing import Window
from ezvar.core.media import TEN_BIT_420

_SHRINK = 1.15  # above this many source samples for one, the plane is averaged down
_PHASE = 0.06  # samples of the result by which a moving window may be off unseen
_ENDS, _SCALERS = 24, 32
_TOP = (1 << TEN_BIT_420.depth) - 1
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
    """The window of a plane of 8-bit or 10-bit samples at a size, (height, width).

    Enlarges with a bicubic kernel; shrinks with one that is as much wider. Where the
    window reaches past the plane, the plane's edge samples go on, or ``onto``
    (height, width) shows, which is drawn on. A ``resting`` window may be off by
    up to half a sample of the result, which keeps it crisp and is cheaper.
    """
    if onto is not None and window.angle == 0:
        return _drawn_on(onto, plane, window, resting)
    drawn = _upright(plane, window, width, height, 0.5 if resting else _PHASE) if window.angle == 0 else None
    if drawn is None:
        drawn = _turned(plane, window, width, height)
    if drawn.dtype == np.uint16:
        drawn = np.minimum(drawn, _TOP)  # kernels overshoot, and the samples have room above
    if onto is None:
        return drawn
    return _blended(onto, drawn, coverage(window, plane.shape[1], plane.shape[0], width, height))


def _blended(onto: np.ndarray, drawn: np.ndarray, cover: np.ndarray) -> np.ndarray:
    return np.asarray(onto + (drawn.astype(np.float32) - onto) * cover + 0.5).astype(onto.dtype)


def _drawn_on(onto: np.ndarray, plane: np.ndarray, window: Window, resting: bool) -> np.ndarray:
    """A plane on a surface that an upright window shows wider than it: only where it is, and blended at its edges."""
    (high, wide), (height, width) = plane.shape, onto.shape
    fx, fy = width / window.width, height / window.height
    across, down = _covered(-window.left * fx, wide * fx, width), _covered(-window.top * fy, high * fy, height)
    if not len(across[1]) or not len(down[1]):
        return onto
    (left, columns), (top, rows) = across, down
    inner = Window(
        window.left + (left + len(columns) / 2) / fx, window.top + (top + len(rows) / 2) / fy,
        len(columns) / fx, len(rows) / fy,
    )  # fmt: skip
    drawn = sample(plane, inner, len(columns), len(rows), None, resting)
    place = onto[top : top + len(rows), left : left + len(columns)]
    beside = place.copy() if min(columns[0], columns[-1], rows[0], rows[-1]) < 1 else None
    place[:] = drawn
    if beside is not None:
        for strip in (np.s_[:1], np.s_[-1:]):
            place[strip] = _blended(beside[strip], drawn[strip], rows[strip, None] * columns[None, :])
            place[:, strip] = _blended(beside[:, strip], drawn[:, strip], rows[:, None] * columns[None, strip])
    return onto


def _covered(start: float, length: float, whole: int) -> tuple[int, np.ndarray]:
    """The first sample that a stretch covers something of, and how much of that and those after it: float32, 0..1."""
    first, last = max(0, floor(start + _PHASE)), min(whole, ceil(start + length - _PHASE))
    at = np.arange(first, max(first, last), dtype=np.float32)
    return first, np.clip(np.minimum(at + 1 - start, start + length - at), 0, 1)


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
    shrinks = min(fx, fy) < 1 / _SHRINK
    right, wide = _end(left, skip_x + width, fx, shrinks)
    foot, high = _end(top, skip_y + height, fy, shrinks)
    rows, columns = plane.shape
    part = plane[max(0, top) : min(rows, foot), max(0, left) : min(columns, right)]
    if not part.size or max(right - left, foot - top) > 32_000:
        return None
    beyond = (max(0, -top), max(0, foot - rows), max(0, -left), max(0, right - columns))
    if any(beyond):
        part = cv2.copyMakeBorder(part, *beyond, cv2.BORDER_REPLICATE)
    if shrinks:
        scaled = shrunk(part, wide, high)
    else:
        scaled = cv2.resize(part, None, fx=fx, fy=fy, interpolation=cv2.INTER_CUBIC)
    return np.asarray(scaled[skip_y : skip_y + height, skip_x : skip_x + width])


def _end(start: int, wanted: int, scale: float, shrinks: bool) -> tuple[int, int]:
    """Where a part of a plane ends of which so many samples of the result are wanted, and how many it comes to.

    A part that shrinks ends where it comes to nearly a whole number of them,
    since it is scaled as a whole.
    """
    least = ceil(wanted / scale) + ceil(_MARGIN / min(1.0, scale))
    choices = range(least, least + (_ENDS if shrinks else 1))
    length = min(choices, key=lambda n: abs(n * scale - round(n * scale)) / n)
    return start + length, round(length * scale)


class _Scalers(threading.local):
    """Scalers by what they scale, of a thread: each keeps what it has worked out for its sizes."""

    def __init__(self) -> None:
        self.known: LRUCache[tuple[tuple[int, ...], str, int, int], VideoReformatter] = LRUCache(_SCALERS)


_scalers = _Scalers()


def shrunk(plane: np.ndarray, width: int, height: int) -> np.ndarray:
    """A whole plane at a smaller size, by a bicubic kernel as wide as the result's samples, (height, width)."""
    samples = "gray" if plane.dtype == np.uint8 else "gray10le"
    key = plane.shape, samples, width, height
    scaler = _scalers.known.get(key)
    if scaler is None:
        scaler = _scalers.known[key] = VideoReformatter()
    frame = av.VideoFrame.from_numpy_buffer(np.ascontiguousarray(plane), samples)
    made = scaler.reformat(frame, width, height, samples, interpolation=Interpolation.BICUBIC, threads=1).planes[0]
    return np.frombuffer(cast(Any, made), plane.dtype).reshape(made.height, -1)[:, :width]


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
