"""The frame at the playhead as the active master shows it, large, to be drawn on."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.session.jobs import later
from ezvar.app.viewer import well_drawing as drawing
from ezvar.app.viewer.pictures import Result, View, Viewer
from ezvar.app.viewer.well_places import screen_size
from ezvar.core.model import Mark

_MOST = QSize(3840, 2160)
_EDGE = 14
_DRAWN, _AROUND = QColor("#ffd24a"), QColor(0, 0, 0, 150)
_NEAR = 0.002  # of the frame: a point that is nearer to the last one is left out


class Large(QWidget):
    """Shows what the active master shows, with what was drawn on it; a drag draws a line for the next note."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._session, self._work = desk, desk.session, desk.note_work
        self._viewer: Viewer | None = None
        self._image: QImage | None = None
        self._line: list[tuple[float, float]] = []
        self.setAccessibleName("The active master, large; a drag draws on it")
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setCursor(Qt.CursorShape.CrossCursor)
        at = desk.session.at
        at.frame_changed.connect(lambda _: self.ask())
        for signal in (desk.session.project.changed, at.master_changed):
            signal.connect(lambda *_: self.ask())
        self._work.drawn_changed.connect(self.update)

    def set_viewer(self, viewer: Viewer | None) -> None:
        self._viewer, self._image = viewer, None
        if viewer is not None:
            later(viewer.shown, self._show)
        self.ask()

    def _show(self, frame: int, image: QImage, results: tuple[QImage | None, ...]) -> None:
        if self.isVisible() and len(results) == 1:
            self._image = results[0]
            self.update()

    def box(self) -> QRectF:
        """Where the picture stands."""
        master = self._session.at.master
        if master is None:
            return QRectF()
        room = QRectF(self.rect()).adjusted(_EDGE, _EDGE, -_EDGE, -_EDGE)
        wide = min(room.width(), room.height() * master.width / master.height)
        high = wide * master.height / master.width
        return QRectF(room.center().x() - wide / 2, room.center().y() - high / 2, wide, high)

    def ask(self) -> None:
        """Have the frame at the playhead drawn at the present size."""
        session, master = self._session, self._session.at.master
        if self._viewer is None or session.project.doc is None or master is None or not self.isVisible():
            return
        result = Result(session.project.doc, master, screen_size(self.box(), self.devicePixelRatioF(), _MOST))
        self._viewer.view = View(QSize(2, 2), session.project.doc, (result,), session.at.playing)
        self._viewer.request(session.at.frame)
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.ask()

    def showEvent(self, event: object) -> None:
        self.ask()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.box().contains(event.position()):
            self._line = [self._point(event.position())]

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._line:
            return
        x, y = self._point(event.position())
        if max(abs(x - self._line[-1][0]), abs(y - self._line[-1][1])) >= _NEAR:
            self._line.append((x, y))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        line, self._line = self._line, []
        if len(line) > 1:
            self._work.draw(line)

    def _point(self, at: QPointF) -> tuple[float, float]:
        box = self.box()
        x, y = (at.x() - box.left()) / box.width(), (at.y() - box.top()) / box.height()
        return round(min(1.0, max(0.0, x)), 4), round(min(1.0, max(0.0, y)), 4)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.WELL)
        box, master, doc = self.box(), self._session.at.master, self._session.project.doc
        if master is None or doc is None:
            return
        if self._image is None:
            painter.fillRect(box, theme.WELL_EMPTY)
        else:
            drawing.place_image(painter, self._image, box)
        painter.setClipRect(box)
        lines = [mark.points for mark in self._work.marks_at_playhead()]
        for points in (*lines, *([tuple(self._line)] if self._line else [])):
            draw_mark(painter, Mark(points), box)
        painter.setClipping(False)
        drawing.caption(painter, box, master.name, theme.line_of(doc.masters.index(master)).on_well)


def draw_mark(painter: QPainter, mark: Mark, box: QRectF, width: float = 3.0) -> None:
    """Draw a line that somebody drew, over a picture in a box."""
    points = QPolygonF(QPointF(box.left() + x * box.width(), box.top() + y * box.height()) for x, y in mark.points)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, wide in ((_AROUND, width + 2.5), (_DRAWN, width)):
        pen = QPen(colour, wide)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(pen)
        if points.count() == 1:
            painter.drawPoint(points.at(0))
        else:
            painter.drawPolyline(points)
