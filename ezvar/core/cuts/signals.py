"""Change signals: what each frame says of cuts, measured on small pictures in one pass.

Only thumbs and a few figures are kept of each frame, so that a two-hour movie
takes little more memory than a short one.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import cv2
import numpy as np

from ezvar.core.media import Picture, Planes
from ezvar.core.progress import CancelToken, Progress, silent

from .difference import SMALL, difference

THUMB = (32, 18)
"""Width and height of the thumbs that are kept of every frame."""
COLOUR = (8, 5)
AROUND = 8  # frames to either side that say what is to be expected


@dataclass(frozen=True)
class Signals:
    """What was measured of a movie.

    ``thumbs`` (frames, 18, 32) and ``colour`` (frames, 2, 5, 8) are uint8.
    ``change`` (frames,) is how far each frame differs from the one before in
    8-bit levels, the camera's own movement taken out, over the part of the
    picture that changes least.
    """

    thumbs: np.ndarray
    colour: np.ndarray
    change: np.ndarray

    def arrays(self) -> dict[str, np.ndarray]:
        """Everything by name, to be kept."""
        return {"thumbs": self.thumbs, "colour": self.colour, "change": self.change}


def thinned(picture: Picture) -> np.ndarray:
    """The luminance of a frame as it is stored, thinned to 160 samples a row or more, uint8."""
    return _thin(picture.stored.y, 4, 160)


def small(picture: Picture) -> tuple[np.ndarray, np.ndarray]:
    """The small luminance (36, 64) and colour pictures (2, 5, 8) of a frame, uint8.

    One sample in four (in eight of the colour) is taken, halved and averaged
    down, which costs a twentieth of what a general scaler does.
    """
    stored = picture.stored
    colour = np.empty((2, COLOUR[1], COLOUR[0]), np.uint8)
    for plane, whole in zip(colour, (stored.u, stored.v), strict=True):
        cv2.resize(_thin(whole, 8, 80), COLOUR, plane, interpolation=cv2.INTER_AREA)
    thin = _thin(stored.y, 4, 160)
    while thin.shape[1] >= 3 * SMALL[0]:
        rows, columns = thin.shape[0] // 2, thin.shape[1] // 2
        thin = cv2.resize(thin[: rows * 2, : columns * 2], (columns, rows), interpolation=cv2.INTER_AREA)
    return cv2.resize(thin, SMALL, interpolation=cv2.INTER_AREA), colour


def _thin(plane: np.ndarray, step: int, least: int) -> np.ndarray:
    """Every ``step``-th sample of each axis, or more of them where fewer than ``least`` would be left of a row."""
    step = max(1, min(step, plane.shape[1] // least))
    return np.ascontiguousarray(plane[::step, ::step])


class Meter:
    """Measures pictures one by one. ``frames`` is how many will come at most."""

    def __init__(self, frames: int) -> None:
        self._thumbs = np.zeros((frames, THUMB[1], THUMB[0]), np.uint8)
        self._colour = np.zeros((frames, 2, COLOUR[1], COLOUR[0]), np.uint8)
        self._change = np.zeros(frames, np.float32)
        self._last: tuple[np.ndarray, np.ndarray] | None = None
        self._shown: Planes | None = None  # the samples that those were made of
        self.count = 0

    def begin_after(self, picture: Picture) -> float:
        """Let the first picture be compared with this one, which is not measured itself; returns how far it differs
        from the one that was given before it."""
        before, (luma, colour) = self._last, self._small(picture)
        return 0.0 if before is None else float(difference(before[0], luma, before[1], colour))

    def following(self, frames: int) -> Meter:
        """One that goes on with the next picture, of at most so many, and has measured nothing yet."""
        made = Meter(frames)
        made._last, made._shown = self._last, self._shown
        return made

    def add(self, picture: Picture) -> float:
        """Measure the next picture; returns how far it differs from the one before."""
        before, (luma, colour) = self._last, self._small(picture)
        n = self.count
        self._thumbs[n] = cv2.resize(luma, THUMB, interpolation=cv2.INTER_AREA)
        self._colour[n] = colour
        if before is not None and before[0] is not luma:
            self._change[n] = difference(before[0], luma, before[1], colour)
        self.count += 1
        return float(self._change[n])

    def _small(self, picture: Picture) -> tuple[np.ndarray, np.ndarray]:
        """The next picture, small; that of the one before where it is the same, held."""
        if self._last is None or picture.stored is not self._shown:
            self._last, self._shown = small(picture), picture.stored
        return self._last

    def skip(self) -> None:
        """Take the next picture for one of which nothing is to be seen, as unchanged from the one before."""
        self._last = None
        self.count += 1

    def result(self) -> Signals:
        """What was measured until now."""
        k = self.count
        return Signals(self._thumbs[:k], self._colour[:k], self._change[:k])


def change_at(signals: Signals, n: int) -> float:
    """How far frame ``n`` differs from the one before, read off their small pictures; 0 where one of them is black."""
    a, b = (cv2.resize(signals.thumbs[k], SMALL, interpolation=cv2.INTER_LINEAR) for k in (n - 1, n))
    if not a.any() or not b.any():
        return 0.0
    return float(difference(a, b, signals.colour[n - 1], signals.colour[n]))


def expected(change: np.ndarray, n: int) -> float:
    """The change to be expected at ``n`` from the livelier of its two sides, without ``n`` itself.

    A high percentile rather than the greatest, so that cuts a few frames
    apart do not hide each other.
    """
    sides = (change[max(1, n - AROUND) : n], change[n + 1 : n + 1 + AROUND])
    return max((float(np.percentile(side, 65)) for side in sides if side.size), default=0.0)


def measure(
    pictures: Iterable[Picture],
    frames: int,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Signals:
    """Measure a movie's pictures, in order. ``frames`` is their number in all."""
    meter = Meter(frames)
    for picture in pictures:
        if cancel is not None:
            cancel.check()
        if meter.count % 25 == 0:
            progress(meter.count / frames, "Looking for cuts")
        meter.add(picture)
    return meter.result()
