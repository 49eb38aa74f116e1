"""Where things stand in the well: the picture, zoomed and moved, and the results beside it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize
from PyQt6.QtGui import QPolygonF

from ezvar.app.kit import theme
from ezvar.core.framing import Window

TOP, FOOT, GAP, SIDE = 30, 32, 14, 16
HANDLE = 9.0  # screen pixels within which a handle is taken
AWAY = 22.0  # screen pixels from a window's foot to the handle that turns it
_NARROWEST = 40.0
_NEAREST, _FARTHEST = 16.0, 0.2


@dataclass(frozen=True)
class Places:
    """In widget coordinates: ``area`` is where the picture may be drawn, ``home`` where it stands whole, ``picture``
    where it is looked at, which may reach beyond the area, and ``results`` the boxes of the results, in order."""

    area: QRectF
    home: QRectF
    picture: QRectF
    results: tuple[QRectF, ...] = field(default=())

    def on_screen(self, points: Iterable[Sequence[float] | np.ndarray], size: tuple[float, float]) -> QPolygonF:
        """Points in picture pixels as they stand on screen."""
        scale = self.picture.width() / size[0]
        left, top = self.picture.left(), self.picture.top()
        return QPolygonF([QPointF(left + x * scale, top + y * scale) for x, y in points])

    def away(self, window: Window, size: tuple[float, float]) -> float:
        """How far beyond a window's foot the handle that turns it stands, in picture pixels; within the window where
        there is no room beneath it."""
        scale = self.picture.width() / size[0]
        foot = max(float(y) for _, y in window.corners()) * scale + self.picture.top()
        return (AWAY if foot + AWAY + HANDLE <= self.area.bottom() + theme.px(FOOT - 29) else -AWAY) / scale

    def in_picture(self, point: QPointF, size: tuple[float, float]) -> tuple[float, float]:
        """A place on screen in picture pixels."""
        scale = self.picture.width() / size[0]
        return (point.x() - self.picture.left()) / scale, (point.y() - self.picture.top()) / scale


@dataclass(frozen=True)
class Look:
    """How the picture is looked at: ``zoom`` 1 shows it whole, ``dx`` and ``dy`` move it by parts of its size then."""

    zoom: float = 1.0
    dx: float = 0.0
    dy: float = 0.0

    def closer(self, factor: float, home: QRectF, at: QPointF | None = None) -> Look:
        """Closer by a factor, with the place under ``at`` (the middle where none is given) staying where it is."""
        if home.isEmpty():
            return self
        zoom = min(_NEAREST, max(_FARTHEST, self.zoom * factor))
        by = zoom / self.zoom
        off = QPointF(0, 0) if at is None else at - home.center()
        dx = off.x() / home.width() * (1 - by) + self.dx * by
        dy = off.y() / home.height() * (1 - by) + self.dy * by
        return Look(zoom, dx, dy)

    def moved(self, by: QPointF, home: QRectF) -> Look:
        if home.isEmpty():
            return self
        return Look(self.zoom, self.dx + by.x() / home.width(), self.dy + by.y() / home.height())


def lay_out(
    within: QRectF, aspect: float, shapes: Sequence[float], look: Look, enlarged: int | None, alike: bool = False
) -> Places:
    """Places for a picture of an aspect and results of some shapes.

    The first result stands as high as the picture and the others above each
    other beside it; with ``alike`` all stand side by side as high as that.
    ``enlarged`` is the number of a result that takes the whole well.
    """
    area = within.adjusted(SIDE, theme.px(TOP), -SIDE, -theme.px(FOOT))
    if enlarged is not None and enlarged < len(shapes):
        boxes = [QRectF() for _ in shapes]
        boxes[enlarged] = middle(shapes[enlarged], area)
        return Places(QRectF(), QRectF(), QRectF(), tuple(boxes))
    if not shapes:
        home = middle(aspect, area)
        return Places(area, home, _looked_at(home, look))
    if alike:
        return _side_by_side(area, aspect, shapes, look)
    first = min(shapes[0], aspect * 0.8)
    rest = [min(s, 2.0) for s in shapes[1:]]
    columns = aspect + first + (max(rest) / max(2, len(rest)) if rest else 0)
    gaps = GAP * (2 if rest else 1)
    height = min(area.height(), (area.width() - gaps) / columns)
    top = area.top() + (area.height() - height) / 2
    wide = height * columns + gaps
    left = area.left() + (area.width() - wide) / 2
    place = QRectF(left, top, height * aspect, height)
    results = [middle(shapes[0], QRectF(place.right() + GAP, top, max(_NARROWEST, height * first), height))]
    each = (height - GAP * (max(2, len(rest)) - 1)) / max(2, len(rest))
    for k, shape in enumerate(shapes[1:]):
        box = QRectF(results[0].right() + GAP, top + k * (each + GAP), height * max(rest) / max(2, len(rest)), each)
        results.append(_at_left(shape, box))
    wide_area = QRectF(area.left(), area.top(), place.right() - area.left(), area.height())
    return Places(wide_area, place, _looked_at(place, look), tuple(results))


def _side_by_side(area: QRectF, aspect: float, shapes: Sequence[float], look: Look) -> Places:
    gaps = GAP * len(shapes)
    height = min(area.height(), (area.width() - gaps) / (aspect + sum(shapes)))
    left = area.left() + (area.width() - gaps - height * (aspect + sum(shapes))) / 2
    boxes = []
    for shape in (aspect, *shapes):
        boxes.append(QRectF(left, area.top() + (area.height() - height) / 2, height * shape, height))
        left += height * shape + GAP
    seen = QRectF(area.left(), area.top(), boxes[0].right() - area.left(), area.height())
    return Places(seen, boxes[0], _looked_at(boxes[0], look), tuple(boxes[1:]))


def _looked_at(home: QRectF, look: Look) -> QRectF:
    centre = home.center() + QPointF(look.dx * home.width(), look.dy * home.height())
    width, height = home.width() * look.zoom, home.height() * look.zoom
    return QRectF(centre.x() - width / 2, centre.y() - height / 2, width, height)


def middle(aspect: float, area: QRectF) -> QRectF:
    """The largest box of a shape in the middle of an area."""
    width = min(area.width(), area.height() * aspect)
    height = width / aspect
    return QRectF(area.center().x() - width / 2, area.center().y() - height / 2, width, height)


def _at_left(aspect: float, area: QRectF) -> QRectF:
    box = middle(aspect, area)
    return box.translated(area.left() - box.left(), area.top() - box.top())


def screen_size(box: QRectF, ratio: float, most: QSize) -> QSize:
    """A box in the screen's own pixels, no larger than ``most``."""
    size = QSize(round(box.width() * ratio), round(box.height() * ratio))
    return size if size.width() <= most.width() else most
