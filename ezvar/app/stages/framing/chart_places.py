"""Where things stand in the sweep chart: frames to the right, places in the picture upwards."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPolygonF

LEFT, RIGHT, TOP, FOOT = 58, 24, 24, 12
_MOST_ZOOM = 60.0


@dataclass(frozen=True)
class Span:
    """Which part of a shot the chart shows, as parts of its length: from ``first``, ``length`` long."""

    first: float = 0.0
    length: float = 1.0

    def closer(self, factor: float, at: float) -> Span:
        """Closer by a factor about the part ``at`` of what is shown, 0..1."""
        length = min(1.0, max(1 / _MOST_ZOOM, self.length / factor))
        return Span(self.first + at * (self.length - length), length).kept()

    def moved(self, by: float) -> Span:
        return Span(self.first + by, self.length).kept()

    def kept(self) -> Span:
        return Span(min(max(0.0, self.first), 1 - self.length), self.length)


@dataclass(frozen=True)
class Chart:
    """The chart of a shot of ``frames`` frames in a box; ``along_y`` shows height in place of width."""

    area: QRectF
    frames: int
    along_y: bool = False
    span: Span = Span()

    def x(self, frame: float) -> float:
        """The middle of a frame of the shot on screen."""
        return self.area.left() + ((frame + 0.5) / self.frames - self.span.first) / self.span.length * self.area.width()

    def frame(self, x: float) -> int:
        """The frame of the shot at a place on screen, the nearest one there is."""
        part = (x - self.area.left()) / self.area.width() * self.span.length + self.span.first
        return max(0, min(int(part * self.frames), self.frames - 1))

    def y(self, place: float) -> float:
        """A place in the picture (a fraction of its width or height) on screen: right and top are up."""
        return self.area.top() + self.area.height() * (place if self.along_y else 1 - place)

    def place(self, y: float) -> float:
        part = (y - self.area.top()) / self.area.height()
        return part if self.along_y else 1 - part

    def shift(self, dy: float) -> tuple[float, float]:
        """What a drag of so many pixels downwards moves a window by, in fractions of the picture."""
        by = dy / self.area.height()
        return (0.0, by) if self.along_y else (-by, 0.0)

    def samples(self) -> np.ndarray:
        """Frames of the shot to draw a line at: one each four pixels and past both ends of what is shown, (n,)."""
        first = max(0, int(self.span.first * self.frames) - 1)
        last = min(self.frames - 1, int((self.span.first + self.span.length) * self.frames) + 1)
        count = max(2, min(last - first + 1, int(self.area.width() / 4)))
        return np.unique(np.round(np.linspace(first, last, count)).astype(int))

    def line(self, frames: np.ndarray, places: np.ndarray) -> QPolygonF:
        """A line on screen through places (n,) at frames (n,); held to the chart's edges at the shot's ends."""
        return QPolygonF(self.points(frames, places))

    def points(self, frames: np.ndarray, places: np.ndarray) -> list[QPointF]:
        """The points of `line`."""
        xs = self.area.left() + ((frames + 0.5) / self.frames - self.span.first) / self.span.length * self.area.width()
        ys = self.area.top() + self.area.height() * (places if self.along_y else 1 - places)
        points = list(map(QPointF, xs.tolist(), ys.tolist()))
        if len(points) and frames[0] == 0:
            points.insert(0, QPointF(self.x(-0.5), points[0].y()))
        if len(points) and frames[-1] == self.frames - 1:
            points.append(QPointF(self.x(self.frames - 0.5), points[-1].y()))
        return points

    def axis(self, boxes: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The lower and the upper side of boxes (n, 4), in the direction that the chart shows."""
        return (boxes[:, 1], boxes[:, 3]) if self.along_y else (boxes[:, 0], boxes[:, 2])
