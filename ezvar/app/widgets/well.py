"""The well: the picture with the windows on it, and beside it the active master's result."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPolygonF, QRegion, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ezvar.app import theme
from ezvar.app.jobs import later
from ezvar.app.pictures import View, Viewer
from ezvar.app.session import Session
from ezvar.core.framing import enlargement, framed, pane_window, picture_size
from ezvar.core.model import Pane

_TOP, _FOOT, _GAP, _SIDE = 30, 32, 14, 16


class Well(QWidget):
    """Shows the frame at the playhead. In the framing stage the active window can be dragged."""

    picture_shown = pyqtSignal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.viewer: Viewer | None = None
        self.windows = True
        self.setMinimumSize(360, 200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # what lies beneath is not painted first
        self.setAccessibleName("Picture with crop windows")
        self._image: QImage | None = None
        self._result: QImage | None = None
        self._error = ""
        self._drag: tuple[QPointF, Pane, object] | None = None
        session.frame_changed.connect(lambda _: self._ask())
        session.document_changed.connect(self._ask)
        session.master_changed.connect(self._ask)
        session.stage_changed.connect(lambda _: self._ask())

    def set_viewer(self, viewer: Viewer | None) -> None:
        self.viewer = viewer
        self._image = self._result = None
        self._error = ""
        if viewer is not None:
            later(viewer.shown, self._show)
            later(viewer.failed, self._fail)
        self._ask()

    @property
    def framing_stage(self) -> bool:
        return self.session.stage == "Framing"

    # What is asked for, and what comes

    def _ask(self) -> None:
        """Have the frame at the playhead made at the present sizes."""
        session = self.session
        if self.viewer is None or session.doc is None or not self.isVisible():
            self.update()
            return
        ratio = self.devicePixelRatioF()
        picture, result = self._boxes()
        view = View(QSize(round(picture.width() * ratio), round(picture.height() * ratio)), session.doc)
        shot, master = session.shot, session.master
        if self.windows and shot is not None and master is not None:
            size = QSize(round(result.width() * ratio), round(result.height() * ratio))
            view = replace(view, master=master, result=size)
        self.viewer.view = view
        self.viewer.request(session.frame)
        self.update()

    def _show(self, frame: int, image: QImage, result: QImage | None) -> None:
        self._image, self._result, self._error = image, result, ""
        self.update()
        self.picture_shown.emit(frame)

    def _fail(self, message: str) -> None:
        self._error = message
        self.update()

    # Where things stand

    def _boxes(self) -> tuple[QRectF, QRectF]:
        """The places of the picture and of the result."""
        doc, master = self.session.doc, self.session.master
        area = QRectF(self.rect()).adjusted(_SIDE, _TOP, -_SIDE, -_FOOT)
        if doc is None:
            return area, QRectF()
        aspect = picture_size(doc, self.session.shot).aspect if self.session.shot else 16 / 9
        if not self.windows or master is None:
            return _middle(aspect, area), QRectF()
        other = master.width / master.height
        # Both stand equally high where there is room, the result at most 45 % of the width.
        height = min(area.height(), (area.width() - _GAP) / (aspect + min(other, aspect * 0.8)))
        left = QRectF(area.left(), area.top(), height * aspect, area.height())
        right = QRectF(left.right() + _GAP, area.top(), max(40.0, area.width() - left.width() - _GAP), area.height())
        picture = _middle(aspect, left)
        result = _middle(other, QRectF(right.left(), picture.top(), right.width(), picture.height()))
        spare = area.right() - max(result.right(), picture.right())
        return picture.translated(spare / 2, 0), result.translated(spare / 2 - (result.left() - right.left()), 0)

    def _on_screen(self, picture: QRectF, points: object, size: tuple[float, float]) -> QPolygonF:
        scale = picture.width() / size[0]
        return QPolygonF([QPointF(picture.left() + x * scale, picture.top() + y * scale) for x, y in points])  # type: ignore[attr-defined]

    # Drawing

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.WELL)
        session = self.session
        if session.doc is None:
            return
        picture, result = self._boxes()
        if self._image is not None:
            _place(painter, self._image, picture)
        else:
            painter.fillRect(picture, QColor("#232525"))
        if self._error:
            painter.setPen(theme.WELL_INK)
            painter.setFont(theme.sans(13))
            painter.drawText(picture, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._error)
        if self.windows and session.shot is not None:
            self._draw_windows(painter, picture)
            if not result.isEmpty():
                if self._result is not None:
                    _place(painter, self._result, result)
                else:
                    painter.fillRect(result, QColor("#232525"))
        self._draw_words(painter, picture, result)

    def _draw_windows(self, painter: QPainter, picture: QRectF) -> None:
        session = self.session
        doc, shot = session.document, session.shot
        assert shot is not None
        size = picture_size(doc, shot)
        tags = []
        order = sorted(enumerate(doc.masters), key=lambda m: m[1].id == session.master_id)
        painter.save()
        painter.setClipRect(picture.adjusted(-3, -22, 3, 3))
        for place, master in order:
            window = pane_window(framed(doc, shot, master).panes[0], master, size, session.frame - shot.start)
            outline = self._on_screen(picture, window.corners(), (size.width, size.height))
            line = theme.line_of(place)
            active = master.id == session.master_id
            if active and self.framing_stage:
                outside = QRegion(picture.toAlignedRect()) - QRegion(outline.toPolygon())  # a path takes far longer
                painter.save()
                painter.setClipRegion(outside)
                painter.fillRect(picture, QColor(24, 26, 28, 150))
                painter.restore()
            painter.setPen(line.pen(3 if active else 1.8))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(outline)
            tags.append((outline.boundingRect().topLeft(), master.name, line.on_well))
        painter.setFont(theme.sans(12, bold=True))
        taken: list[QRectF] = []
        for corner, name, colour in reversed(tags):
            width = painter.fontMetrics().horizontalAdvance(name) + 14
            left = min(max(corner.x(), picture.left()), picture.right() - width)
            box = QRectF(left, max(corner.y(), picture.top()), width, 19)
            while any(box.intersects(other) for other in taken):
                box.translate(0, 20)
            taken.append(box)
            painter.fillRect(box, colour)
            painter.setPen(theme.INK)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)
        painter.restore()

    def _draw_words(self, painter: QPainter, picture: QRectF, result: QRectF) -> None:
        session = self.session
        doc, shot, master = session.document, session.shot, session.master
        if shot is None:
            return
        above, below = (
            QRect(_SIDE, 4, self.width() - 2 * _SIDE, 22),
            QRect(_SIDE, self.height() - 29, self.width() - 2 * _SIDE, 24),
        )
        left, right = (
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
        )
        painter.setFont(theme.sans(12))
        painter.setPen(theme.WELL_SOFT)
        size = picture_size(doc, shot)
        painter.drawText(above, left, f"shot {doc.place_of(shot.id) + 1} · picture {size.width:g}×{size.height:g}")
        if self.windows and master is not None:
            painter.drawText(above, right, f"{master.name} · {master.width}×{master.height}")
            window = pane_window(framed(doc, shot, master).panes[0], master, size, session.frame - shot.start)
            painter.drawText(below, right, f"enlarged {enlargement(window, master.height):.0%}".replace("%", " %"))
        painter.drawText(below.adjusted(112, 0, 0, 0), left, f"frame {session.frame - shot.start + 1} of {shot.frames}")
        painter.setFont(theme.mono(14))
        painter.setPen(theme.WELL_INK)
        painter.drawText(below, left, session.timecode(session.frame))

    # The mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        framing = self.session.framing
        if event is None or not self.framing_stage or framing is None or event.button() != Qt.MouseButton.LeftButton:
            return
        picture, _ = self._boxes()
        if picture.contains(event.position()):
            self._drag = (event.position(), framing.panes[0], object())
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._drag is None:
            return
        start, pane, gesture = self._drag
        picture, _ = self._boxes()
        by = event.position() - start
        self.session.framing_work.shift(pane, by.x() / picture.width(), by.y() / picture.height(), gesture)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._drag = None
        self.unsetCursor()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._ask()

    def showEvent(self, event: object) -> None:
        self._ask()


def _place(painter: QPainter, image: QImage, box: QRectF) -> None:
    """Draw an image into a box; one that fits it to a pixel or two is not scaled, which is slow and soft."""
    ratio = painter.device().devicePixelRatioF()  # type: ignore[union-attr]
    if abs(image.width() - box.width() * ratio) <= 2 and abs(image.height() - box.height() * ratio) <= 2:
        image.setDevicePixelRatio(ratio)
        painter.drawImage(QPointF(round(box.left()), round(box.top())), image)
    else:
        painter.drawImage(box, image)


def _middle(aspect: float, area: QRectF) -> QRectF:
    """The largest box of a shape in the middle of an area."""
    width = min(area.width(), area.height() * aspect)
    height = width / aspect
    return QRectF(area.center().x() - width / 2, area.center().y() - height / 2, width, height)
