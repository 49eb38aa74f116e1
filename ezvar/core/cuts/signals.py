"""Change signals: what each frame says of cuts, measured on small pictures in one pass.

Only thumbs and a few figures are kept of each frame, so that a two-hour movie
takes little more memory than a short one; what needs finer pictures is
measured on the last few dozen frames while they pass.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass

import cv2
import numpy as np

from ezvar.core.media import Picture
from ezvar.core.progress import CancelToken, Progress, silent

from .difference import SMALL, difference

THUMB = (32, 18)
"""Width and height of the thumbs that are kept of every frame."""
PAIR_EVERY = 10
"""Frames from one kept pair of neighbouring small pictures to the next."""
COLOUR = (8, 5)
_BEFORE, _AFTER = 8, 20  # frames kept around a frame while it is looked at
_NEAR = 4  # a cut differs from all frames this near on its other side
_LIVELY = np.array([0.7, 1.0])  # of its neighbours: a change smaller than this is no candidate
_ABOVE = np.array([1.6, 2.2])  # times the usual change around
_GONE = 0.25  # of a change: what lasts less than this is no cut
_LEAST = np.array([0.45, 2.0])  # levels


@dataclass(frozen=True)
class Signals:
    """What was measured of a movie.

    ``thumbs`` (frames, 18, 32) and ``colour`` (frames, 2, 5, 8) are uint8.
    ``change`` is how far each frame differs from the one before in
    8-bit levels, the camera's own movement taken out. Of the frames where it
    stands out, ``lasting`` is the least difference between any of the four
    frames before and the four after, ``returns`` the least between the frame
    before and those up to 20 later; elsewhere both are 0. All three are
    (frames, 2): over the part of the picture that changes least, and over
    the quarter that changes most. ``pairs`` (pairs, 2, 36, 64) are finer
    pictures of frames 0 and 1, 10 and 11, and so on.
    """

    thumbs: np.ndarray
    colour: np.ndarray
    change: np.ndarray
    lasting: np.ndarray
    returns: np.ndarray
    pairs: np.ndarray

    def arrays(self) -> dict[str, np.ndarray]:
        """Everything by name, to be kept."""
        return {name: getattr(self, name) for name in self.__dataclass_fields__}


def small(picture: Picture) -> tuple[np.ndarray, np.ndarray]:
    """The small luminance (36, 64) and colour pictures (2, 5, 8) of a frame, uint8.

    Every fourth sample is taken and averaged down, which costs a tenth of
    what a general scaler does.
    """
    luma = picture.luma()
    step = max(1, min(4, luma.shape[1] // 160))
    colour = [cv2.resize(_thin(c, step), COLOUR, interpolation=cv2.INTER_AREA) for c in picture.chroma()]
    return cv2.resize(_thin(luma, step), SMALL, interpolation=cv2.INTER_AREA), np.stack(colour)


def _thin(plane: np.ndarray, step: int) -> np.ndarray:
    return np.ascontiguousarray(plane[::step, ::step])


class Meter:
    """Measures pictures one by one. ``frames`` is how many will come at most."""

    def __init__(self, frames: int) -> None:
        self._thumbs = np.zeros((frames, THUMB[1], THUMB[0]), np.uint8)
        self._colour = np.zeros((frames, 2, COLOUR[1], COLOUR[0]), np.uint8)
        self._change = np.zeros((frames, 2), np.float32)
        self._lasting = np.zeros((frames, 2), np.float32)
        self._returns = np.zeros((frames, 2), np.float32)
        self._pairs = np.zeros((-(-frames // PAIR_EVERY), 2, SMALL[1], SMALL[0]), np.uint8)
        self._recent: deque[tuple[np.ndarray, np.ndarray]] = deque(maxlen=_BEFORE + _AFTER + 1)
        self.count = 0

    def add(self, picture: Picture) -> None:
        """Measure the next picture."""
        luma, colour = small(picture)
        n = self.count
        self._thumbs[n] = cv2.resize(luma, THUMB, interpolation=cv2.INTER_AREA)
        self._colour[n] = colour
        if self._recent:
            before, before_colour = self._recent[-1]
            self._change[n] = difference(before, luma, before_colour, colour)
        if n % PAIR_EVERY < 2:
            self._pairs[n // PAIR_EVERY, n % PAIR_EVERY] = luma
        self._recent.append((luma, colour))
        self.count += 1
        if self.count > _AFTER:
            self._look_at(self.count - 1 - _AFTER)

    def result(self) -> Signals:
        """What was measured until now."""
        for n in range(max(1, self.count - _AFTER), self.count):
            self._look_at(n)
        k = self.count
        return Signals(
            self._thumbs[:k], self._colour[:k], self._change[:k], self._lasting[:k], self._returns[:k],
            self._pairs[: (k + PAIR_EVERY - 2) // PAIR_EVERY],
        )  # fmt: skip

    def _look_at(self, n: int) -> None:
        """Measure finer around a frame whose change stands out."""
        if n < 1 or not stands_out(self._change[: self.count], n):
            return
        first = self.count - len(self._recent)
        at = n - first

        def between(a: int, b: int) -> tuple[float, float]:
            (x, cx), (y, cy) = self._recent[a], self._recent[b]
            return difference(x, y, cx, cy)

        before = range(at - 1, max(-1, at - 1 - _NEAR), -1)
        after = range(at, min(len(self._recent), at + _NEAR))
        enough = _GONE * self._change[n]  # below this nothing is left of the change: no need to go on
        self._lasting[n] = _least((between(a, b) for b in reversed(after) for a in before), enough)
        later = range(at + _NEAR, len(self._recent), 2)
        lasts = bool((self._lasting[n] > enough).any()) and len(later)
        back = _least((between(at - 1, b) for b in later), enough) if lasts else self._lasting[n]
        self._returns[n] = np.minimum(back, self._lasting[n])


def stands_out(change: np.ndarray, n: int) -> bool:
    """Whether a frame's change is large enough beside its neighbours' to be looked at."""
    around, beside = change[max(1, n - _BEFORE) : n + _BEFORE + 1], change[max(1, n - 2) : n + 3]
    usual = np.median(around, axis=0)
    out = (change[n] >= _LIVELY * beside.max(axis=0)) & (change[n] > _LEAST + _ABOVE * usual)
    return bool(out.any())


def _least(values: Iterable[tuple[float, float]], enough: np.ndarray) -> np.ndarray:
    """The least of both figures, or until both are small enough."""
    least = np.full(2, np.inf)
    for value in values:
        least = np.minimum(least, value)
        if (least < enough).all():
            break
    return np.where(np.isfinite(least), least, 0.0)


def measure(
    pictures: Iterable[Picture], frames: int, progress: Progress = silent, cancel: CancelToken | None = None
) -> Signals:
    """Measure a movie's pictures, in order. ``frames`` is their number."""
    meter = Meter(frames)
    for k, picture in enumerate(pictures):
        if cancel is not None:
            cancel.check()
        meter.add(picture)
        if k % 25 == 0:
            progress(k / frames, "Looking for cuts")
    return meter.result()
