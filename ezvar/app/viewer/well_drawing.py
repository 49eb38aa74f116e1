"""What is drawn over the picture in the well: windows, subjects, guides, handles."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF, QRegion

from ezvar.app.kit import theme
from ezvar.core.framing import Size, Window, turn_handle

from .well_places import Places

_DIM = QColor(24, 26, 28, 150)


def dim_outside(painter: QPainter, places: Places, outlines: Sequence[QPolygonF]) -> None:
    """Dim the picture outside the active windows."""
    seen = places.picture.intersected(places.area).toAlignedRect()
    outside = QRegion(seen)
    for outline in outlines:
        outside -= QRegion(outline.toPolygon())  # a path takes far longer
    painter.save()
    painter.setClipRegion(outside)
    painter.fillRect(seen, _DIM)
    painter.restore()


def outline(painter: QPainter, shape: QPolygonF, line: theme.Line, width: float) -> None:
    """A window's edges; upright ones along the screen's pixels, which is crisp and takes a fraction of the time."""
    painter.setPen(line.pen(width))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    first, _, last, _ = (shape[k] for k in range(4))
    box = QRectF(first, last)
    if abs(box.left() - shape[3].x()) < 0.01 and abs(box.top() - shape[1].y()) < 0.01:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.drawRect(box.toRect())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    else:
        painter.drawPolygon(shape)


def handles(painter: QPainter, places: Places, window: Window, size: Size, line: theme.Line) -> None:
    """Corner brackets outside the window and a ring below its foot, so that nothing in it is hidden."""
    shape = places.on_screen(window.corners(), (size.width, size.height))
    corners = [shape[k] for k in range(4)]
    middle = QPointF(sum(c.x() for c in corners) / 4, sum(c.y() for c in corners) / 4)
    painter.setPen(QPen(line.on_well, 4))
    for k, corner in enumerate(corners):
        for other in (corners[k - 1], corners[(k + 1) % 4]):
            along = other - corner
            length = max(1.0, (along.x() ** 2 + along.y() ** 2) ** 0.5)
            out = corner - middle
            away = out / max(1.0, (out.x() ** 2 + out.y() ** 2) ** 0.5) * 3
            painter.drawLine(corner + away, corner + away + along / length * min(14.0, length / 3))
    x, y = turn_handle(window, places.away(window, (size.width, size.height)))
    ring = places.on_screen([(x, y)], (size.width, size.height))[0]
    foot = (corners[2] + corners[3]) / 2
    painter.setPen(QPen(line.on_well, 1.5))
    painter.drawLine(foot, ring)
    painter.setBrush(theme.WELL)
    painter.drawEllipse(ring, 5, 5)


def tags(painter: QPainter, places: Places, named: Iterable[tuple[QPointF, str, QColor]]) -> None:
    """The masters' names at their windows' corners, beneath each other where they would meet."""
    painter.setFont(theme.sans(12, bold=True))
    taken: list[QRectF] = []
    seen = places.picture.intersected(places.area)
    for corner, name, colour in named:
        width = painter.fontMetrics().horizontalAdvance(name) + 14
        left = min(max(corner.x(), seen.left()), seen.right() - width)
        box = QRectF(left, min(max(corner.y(), seen.top()), seen.bottom() - 19), width, 19)
        while any(box.intersects(other) for other in taken):
            box.translate(0, 20)
        taken.append(box)
        painter.fillRect(box, colour)
        painter.setPen(theme.ON_LINE)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)


def subject(painter: QPainter, box: QRectF, number: int, followed: bool) -> None:
    """A subject's box, dotted, with its number beside its upper right corner."""
    painter.setPen(QPen(theme.WELL_INK, 1.6 if followed else 1.2, Qt.PenStyle.DotLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(box, 6, 6)
    at = QPointF(box.right() + 4, box.top() - 2)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.WELL_INK if followed else theme.WELL_SOFT)
    painter.drawEllipse(at, 10, 10)
    painter.setPen(theme.ON_LINE)
    painter.setFont(theme.sans(12, bold=True))
    painter.drawText(QRectF(at.x() - 10, at.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(number))


def guides(painter: QPainter, shape: QPolygonF) -> None:
    """Thirds, middle and the safe area (nine tenths) of a window, given by its corners from the top left clockwise."""
    a, b, c, d = (shape[k] for k in range(4))

    def at(u: float, v: float) -> QPointF:
        return (a * (1 - u) + b * u) * (1 - v) + (d * (1 - u) + c * u) * v

    painter.setPen(QPen(QColor(255, 255, 255, 110), 1))
    for part in (1 / 3, 2 / 3):
        painter.drawLine(at(part, 0), at(part, 1))
        painter.drawLine(at(0, part), at(1, part))
    painter.setPen(QPen(QColor(255, 255, 255, 190), 1))
    for u, v in ((0.04, 0), (0, 0.025)):
        painter.drawLine(at(0.5 - u, 0.5 - v), at(0.5 + u, 0.5 + v))
    painter.setPen(QPen(QColor(255, 255, 255, 150), 1, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolygon(QPolygonF([at(0.05, 0.05), at(0.95, 0.05), at(0.95, 0.95), at(0.05, 0.95)]))


def caption(painter: QPainter, box: QRectF, text: str, colour: QColor) -> None:
    """A line of small text under the top edge of a result, on its own ground."""
    painter.setFont(theme.sans(12, bold=True))
    width = painter.fontMetrics().horizontalAdvance(text) + 12
    ground = QRectF(box.left(), box.top(), min(width, box.width()), 19)
    painter.fillRect(ground, colour)
    painter.setPen(theme.ON_LINE)
    painter.drawText(ground, Qt.AlignmentFlag.AlignCenter, text)


def scaled(box: QRectF, picture: QRectF) -> QRectF:
    """A box in fractions of the picture, on screen."""
    return QRectF(
        picture.left() + box.left() * picture.width(), picture.top() + box.top() * picture.height(),
        box.width() * picture.width(), box.height() * picture.height(),
    )  # fmt: skip


def beginning(painter: QPainter, box: QRectF, name: str, image: QImage) -> None:
    """The first picture of a movie that is being read through, and that it is."""
    words = QRectF(box.left(), box.bottom() - theme.px(36), box.width(), theme.px(24))
    room = box.adjusted(24, 24, -24, -theme.px(48))
    size = QSizeF(image.size()).scaled(room.size(), Qt.AspectRatioMode.KeepAspectRatio)
    place = QRectF(QPointF(), size)
    place.moveCenter(room.center())
    place_image(painter, image, place)
    painter.setFont(theme.sans(12))
    painter.setPen(theme.WELL_INK)
    painter.drawText(words, Qt.AlignmentFlag.AlignCenter, f"The beginning of {name}, which is still being read through")


def place_image(painter: QPainter, image: QImage, box: QRectF) -> None:
    """Draw an image into a box; one that fits it to a pixel or two is not scaled, which is slow and soft."""
    ratio = painter.device().devicePixelRatioF()  # type: ignore[union-attr]
    if abs(image.width() - box.width() * ratio) <= 2 and abs(image.height() - box.height() * ratio) <= 2:
        image.setDevicePixelRatio(ratio)
        painter.drawImage(QPointF(round(box.left()), round(box.top())), image)
    else:
        painter.drawImage(box, image)
