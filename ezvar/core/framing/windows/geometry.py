"""The geometry of windows: shapes, zooms, angles, and staying inside the picture.

Coordinates are picture pixels, x to the right and y down, with (0, 0) at the
picture's top left corner, so that a pixel's middle lies at its number and a
half. Angles are degrees, clockwise as seen.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians, sin

import numpy as np

from ezvar.core.model import LEAST_ZOOM, Rect


@dataclass(frozen=True)
class Size:
    """A width and a height."""

    width: float
    height: float

    @property
    def aspect(self) -> float:
        return self.width / self.height


@dataclass(frozen=True)
class Window:
    """A crop window in picture pixels: its centre, size and angle."""

    cx: float
    cy: float
    width: float
    height: float
    angle: float = 0.0

    @property
    def left(self) -> float:
        """The left edge before the window is turned about its centre."""
        return self.cx - self.width / 2

    @property
    def top(self) -> float:
        """The top edge before the window is turned about its centre."""
        return self.cy - self.height / 2

    def corners(self) -> np.ndarray:
        """The corners (4, 2), from the top left on, clockwise."""
        c, s = _turn(self.angle)
        half = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * (self.width / 2, self.height / 2)
        return np.asarray(half @ np.array([[c, s], [-s, c]]) + (self.cx, self.cy))

    def bounds(self) -> Size:
        """The upright box around the turned window."""
        return _bounds(self.width, self.height, self.angle)

    def covers(self, picture: Size, tolerance: float = 1e-6) -> bool:
        """Whether nothing but picture shows in the window."""
        box = self.bounds()
        return (
            self.cx - box.width / 2 >= -tolerance
            and self.cy - box.height / 2 >= -tolerance
            and self.cx + box.width / 2 <= picture.width + tolerance
            and self.cy + box.height / 2 <= picture.height + tolerance
        )

    def matrix(self, width: float, height: float) -> np.ndarray:
        """The map (2, 3) from a surface of ``width`` × ``height`` that shows the window to picture coordinates."""
        c, s = _turn(self.angle)
        sx, sy = self.width / width, self.height / height
        return np.array(
            [
                [c * sx, -s * sy, self.cx - c * self.width / 2 + s * self.height / 2],
                [s * sx, c * sy, self.cy - s * self.width / 2 - c * self.height / 2],
            ]
        )


def _turn(angle: float) -> tuple[float, float]:
    return cos(radians(angle)), sin(radians(angle))


def _bounds(width: float, height: float, angle: float) -> Size:
    c, s = (abs(v) for v in _turn(angle))
    return Size(width * c + height * s, width * s + height * c)


def _fill_height(picture: Size, aspect: float, angle: float) -> float:
    """Height of the largest window of this aspect and angle that stays inside the picture.

    A turned rectangle lies inside an upright one just when its upright bounds
    do, and these grow with it; so the tighter of both directions decides.
    """
    unit = _bounds(aspect, 1.0, angle)
    return min(picture.width / unit.width, picture.height / unit.height)


def fit_zoom(picture: Size, aspect: float, angle: float = 0.0) -> float:
    """The zoom, at most 1, at which the whole picture shows in the window; where the shapes are more than a thousand
    times apart, the least that there is."""
    needed = _bounds(picture.width, picture.height, angle)
    return max(LEAST_ZOOM, _fill_height(picture, aspect, angle) / max(needed.height, needed.width / aspect))


def trimmed_size(picture: Size, trim: Rect) -> Size:
    """The size of what is left of a picture within ``trim`` (fractions of it), in its pixels."""
    return Size(picture.width * trim.width, picture.height * trim.height)


def pixel_zoom(picture: Size, aspect: float, surface_height: float, angle: float = 0.0) -> float:
    """The zoom at which one picture pixel is one pixel of a surface of this height."""
    return _fill_height(picture, aspect, angle) / surface_height


def window(picture: Size, aspect: float, cx: float, cy: float, zoom: float = 1.0, angle: float = 0.0) -> Window:
    """The window of a shape; ``cx`` and ``cy`` are its centre as fractions of the picture. Not clamped.

    >>> window(Size(1920, 1080), 9 / 16, 0.5, 0.5).width
    607.5
    """
    height = _fill_height(picture, aspect, angle) / zoom
    return Window(cx * picture.width, cy * picture.height, aspect * height, height, angle)


def clamped(window: Window, picture: Size) -> Window:
    """The nearest window of the same size and angle that shows no more beyond the picture than it must.

    Where the window is smaller than the picture it stays inside; where it is
    larger the picture stays inside the window.
    """
    box = window.bounds()

    def within(centre: float, length: float, whole: float) -> float:
        low, high = sorted((length / 2, whole - length / 2))
        return min(max(centre, low), high)

    return Window(
        within(window.cx, box.width, picture.width),
        within(window.cy, box.height, picture.height),
        window.width,
        window.height,
        window.angle,
    )


def placed_window(
    picture: Size, aspect: float, cx: float, cy: float, zoom: float = 1.0, angle: float = 0.0, trim: Rect = Rect()
) -> Window:
    """The window of a shape, clamped, in what ``trim`` (fractions) leaves of a picture.

    The centre is given in fractions of the whole picture, and the window in
    its pixels; zoom 1 fills with what is left.

    >>> placed_window(Size(1920, 1080), 1.0, 0.1, 0.5, trim=Rect(0.0, 0.1, 1.0, 0.8)).height
    864.0
    """
    left, top = trim.x * picture.width, trim.y * picture.height
    inside = Size(trim.width * picture.width, trim.height * picture.height)
    wanted = window(inside, aspect, 0.0, 0.0, zoom, angle)
    there = Window(cx * picture.width - left, cy * picture.height - top, wanted.width, wanted.height, angle)
    at = clamped(there, inside)
    return Window(at.cx + left, at.cy + top, at.width, at.height, angle)
