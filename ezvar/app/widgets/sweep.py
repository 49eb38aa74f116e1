"""The sweep chart: time to the right, the picture's width upwards, the window as a band over a slit scan."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ezvar.app import theme
from ezvar.app.jobs import Job
from ezvar.app.pictures import scan_shot
from ezvar.app.session import Session
from ezvar.core.framing import pane_window, picture_size
from ezvar.core.model import Pane, Shot

_LEFT, _RIGHT, _TOP, _FOOT = 58, 24, 24, 12


class SweepChart(QWidget):
    """One shot's window path against what moves in it. Dragging the band shifts the path; a click elsewhere seeks."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # what lies beneath is not painted first
        self.setAccessibleName("Sweep chart of the shot")
        self._scans: dict[tuple[int, int, bool], QImage] = {}
        self._job: Job | None = None
        self._asked: tuple[int, int, bool] | None = None
        self._drag: tuple[float, Pane, object] | None = None
        self._seeking = False
        self._rest = QTimer(self)  # a shot that is only passed by is not scanned
        self._rest.setSingleShot(True)
        self._rest.setInterval(180)
        self._rest.timeout.connect(self._scan)
        session.frame_changed.connect(lambda _: self.update())
        session.document_changed.connect(self._changed)
        session.shot_changed.connect(self._changed)
        session.master_changed.connect(self._changed)
        session.opened.connect(self._scans.clear)

    def sizeHint(self) -> QSize:
        return QSize(600, 208)

    @property
    def along_y(self) -> bool:
        """Whether the window moves up and down, so that the chart shows height."""
        shot, master = self.session.shot, self.session.master
        if shot is None or master is None:
            return False
        return master.width / master.height > picture_size(self.session.document, shot).aspect

    def _changed(self) -> None:
        self._rest.start()
        self.update()

    def _key(self, shot: Shot) -> tuple[int, int, bool]:
        return shot.start, shot.end, self.along_y

    def _scan(self) -> None:
        """Have the slit scan of the present shot made, unless it is there or on its way."""
        session, shot = self.session, self.session.shot
        reader, proxy = session.reader, session.proxy
        if shot is None or reader is None or proxy is None or not self.isVisible():
            return
        key, doc = self._key(shot), session.document
        if key in self._scans or key == self._asked:
            return
        if self._job is not None and self._job in session.jobs.running:
            self._job.cancel()
        self._asked = key

        def done(image: QImage) -> None:
            self._scans[key] = image
            if len(self._scans) > 400:
                self._scans.pop(next(iter(self._scans)))
            self._asked = None
            self.update()

        self._job = session.jobs.start("Drawing the sweep chart", lambda p, c: scan_shot(doc, proxy, *key, c), done)

    def showEvent(self, event: object) -> None:
        self._scan()

    # Where things stand

    def _area(self) -> QRectF:
        return QRectF(_LEFT, _TOP, max(10, self.width() - _LEFT - _RIGHT), max(10, self.height() - _TOP - _FOOT))

    def _x(self, area: QRectF, offset: float, shot: Shot) -> float:
        return area.left() + area.width() * (offset + 0.5) / shot.frames

    def _band(self, shot: Shot, pane: Pane, area: QRectF) -> tuple[list[QPointF], list[QPointF]]:
        """The band's two edges, a point each two pixels."""
        master = self.session.master
        assert master is not None
        size = picture_size(self.session.document, shot)
        upper, lower = [], []
        moves = len(pane.keys) > 1
        steps = max(2, min(shot.frames, int(area.width() / 2))) if moves else 2
        for k in range(steps):
            offset = round(k * (shot.frames - 1) / (steps - 1)) if steps > 1 else 0
            window = pane_window(pane, master, size, offset)
            box = window.bounds()
            if self.along_y:
                high, low = (window.cy - box.height / 2) / size.height, (window.cy + box.height / 2) / size.height
            else:
                high, low = 1 - (window.cx + box.width / 2) / size.width, 1 - (window.cx - box.width / 2) / size.width
            x = area.left() if k == 0 else area.right() if k == steps - 1 else self._x(area, offset, shot)
            upper.append(QPointF(x, area.top() + area.height() * high))
            lower.append(QPointF(x, area.top() + area.height() * low))
        return upper, lower

    # Drawing

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.WELL)
        painter.fillRect(0, 0, self.width(), 1, theme.WELL_LINE)
        session, shot = self.session, self.session.shot
        if shot is None:
            return
        area = self._area()
        scan = self._scans.get(self._key(shot))
        if scan is not None:
            painter.drawImage(area, scan)
            painter.fillRect(area, QColor(44, 46, 46, 24))
        else:
            painter.fillRect(area, QColor("#393b3b"))
        master, framing = session.master, session.framing
        if master is not None and framing is not None:
            painter.save()
            painter.setClipRect(area.adjusted(-8, -2, 8, 2))
            self._draw_band(painter, area, shot, framing.panes[0])
            painter.restore()
        x = self._x(area, session.frame - shot.start, shot)
        painter.setPen(QPen(QColor("#ffffff"), 2))
        painter.drawLine(QPointF(x, area.top() - 4), QPointF(x, area.bottom() + 4))
        self._draw_words(painter, area, shot)

    def _draw_band(self, painter: QPainter, area: QRectF, shot: Shot, pane: Pane) -> None:
        session = self.session
        assert session.master is not None
        line = theme.line_of(session.document.masters.index(session.master))
        upper, lower = self._band(shot, pane, area)
        fill = QColor(line.on_well)
        fill.setAlpha(64)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(fill)
        painter.drawPolygon(QPolygonF(upper + lower[::-1]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(line.pen(1.8))
        painter.drawPolyline(QPolygonF(upper))
        painter.drawPolyline(QPolygonF(lower))
        if len(pane.keys) < 2:
            return
        for key in pane.keys:
            at = self._x(area, key.frame, shot)
            k = min(range(len(upper)), key=lambda i: abs(upper[i].x() - at))
            painter.setPen(QPen(line.on_well, 3))
            painter.setBrush(theme.WELL_INK)
            painter.drawEllipse(QPointF(at, (upper[k].y() + lower[k].y()) / 2), 6, 6)

    def _draw_words(self, painter: QPainter, area: QRectF, shot: Shot) -> None:
        painter.setFont(theme.sans(12))
        painter.setPen(theme.WELL_SOFT)
        place = self.session.document.place_of(shot.id) + 1
        across = "height" if self.along_y else "width"
        painter.drawText(
            QRectF(area.left(), 2, area.width(), _TOP - 4),
            Qt.AlignmentFlag.AlignVCenter,
            f"sweep of shot {place}: time to the right, the picture’s {across} upwards",
        )
        ends = ("top", "bottom") if self.along_y else ("right", "left")
        flags = Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(0, area.top(), _LEFT - 8, 18), flags | Qt.AlignmentFlag.AlignTop, ends[0])
        painter.drawText(QRectF(0, area.bottom() - 18, _LEFT - 8, 18), flags | Qt.AlignmentFlag.AlignBottom, ends[1])

    # The mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        shot, framing = self.session.shot, self.session.framing
        if event is None or shot is None or event.button() != Qt.MouseButton.LeftButton:
            return
        area = self._area()
        if (
            framing is not None
            and self.session.master is not None
            and self._over_band(event.position(), shot, framing.panes[0], area)
        ):
            self._drag = (event.position().y(), framing.panes[0], object())
            self.setCursor(Qt.CursorShape.SizeVerCursor)
        else:
            self._seeking = True
            self._seek(event.position().x(), area, shot)

    def _over_band(self, at: QPointF, shot: Shot, pane: Pane, area: QRectF) -> bool:
        upper, lower = self._band(shot, pane, area)
        k = min(range(len(upper)), key=lambda i: abs(upper[i].x() - at.x()))
        return upper[k].y() - 3 <= at.y() <= lower[k].y() + 3

    def _seek(self, x: float, area: QRectF, shot: Shot) -> None:
        offset = int((x - area.left()) / area.width() * shot.frames)
        self.session.go(shot.start + max(0, min(offset, shot.frames - 1)))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        shot = self.session.shot
        if event is None or shot is None:
            return
        area = self._area()
        if self._seeking:
            self._seek(event.position().x(), area, shot)
        elif self._drag is not None:
            start, pane, gesture = self._drag
            by = (event.position().y() - start) / area.height()
            self.session.framing_work.shift(pane, *((0.0, by) if self.along_y else (-by, 0.0)), gesture)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._drag = None
        self._seeking = False
        self.unsetCursor()
