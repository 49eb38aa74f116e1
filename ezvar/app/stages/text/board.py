"""The present caption in every master, large, with what is wrong with it under each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.session.jobs import later
from ezvar.app.viewer import well_drawing as drawing
from ezvar.app.viewer.pictures import Result, View, Viewer
from ezvar.app.viewer.well_places import screen_size
from ezvar.core.model import Master, Placed, layer_key
from ezvar.core.text import ACTION_SAFE, SHORT, TITLE_SAFE, in_frame, title_laid_out, titles_at

_MOST = QSize(3840, 2160)
_SIDE, _HEAD, _FOOT = 16, 30, 44
_ZONE, _HATCH, _HATCH_EDGE = QColor(0, 0, 0, 40), QColor(255, 255, 255, 70), QColor(255, 255, 255, 120)


@dataclass
class _Drag:
    at: QPointF
    began: Placed
    box: QRectF


class Board(QWidget):
    """Shows the frame at the playhead as each master does. A press makes a master the active one; titles are dragged
    to where they are to stand there."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.session = desk, desk.session
        self.zones, self.safe = True, False
        self._viewer: Viewer | None = None
        self._results: tuple[QImage | None, ...] = ()
        self._drag: _Drag | None = None
        self.setMinimumSize(360, 190)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("The caption in every master")
        session = desk.session
        session.at.frame_changed.connect(lambda _: self.ask())
        for signal in (session.project.changed, session.at.master_changed, session.at.caption_changed):
            signal.connect(lambda *_: self.ask())
        desk.text_checks.ready.connect(self.update)

    def set_viewer(self, viewer: Viewer | None) -> None:
        self._viewer, self._results = viewer, ()
        if viewer is not None:
            later(viewer.shown, self._show)
        self.ask()

    def _show(self, frame: int, image: QImage, results: tuple[QImage | None, ...]) -> None:
        if self.isVisible():
            self._results = results
            self.update()

    @property
    def _masters(self) -> Sequence[Master]:
        return self.session.project.doc.masters if self.session.project.doc else ()

    def boxes(self) -> list[QRectF]:
        """Where each master's picture stands: of one height, side by side, as large as they fit."""
        masters = self._masters
        if not masters:
            return []
        room_wide = self.width() - _SIDE * (len(masters) + 1)
        shapes = [m.width / m.height for m in masters]
        high = min(self.height() - theme.px(_HEAD) - theme.px(_FOOT), room_wide / sum(shapes))
        boxes, left = [], float(_SIDE)
        for shape in shapes:
            boxes.append(QRectF(left, theme.px(_HEAD), max(2.0, high * shape), max(2.0, high)))
            left += high * shape + _SIDE
        return boxes

    def ask(self) -> None:
        """Have the frame at the playhead drawn for each master at the present sizes."""
        session = self.session
        if self._viewer is None or session.project.doc is None or not self.isVisible():
            self.update()
            return
        ratio = self.devicePixelRatioF()
        results = tuple(
            Result(session.project.doc, master, screen_size(box, ratio, _MOST))
            for master, box in zip(self._masters, self.boxes(), strict=True)
        )
        self._viewer.view = View(QSize(2, 2), session.project.doc, results, session.at.playing)
        self._viewer.request(session.at.frame)
        self.update()

    def turn_safe(self) -> None:
        """Show the safe areas over the pictures, or not."""
        self.safe = not self.safe
        self.update()

    def turn_zones(self) -> None:
        """Show the overlay zones over the pictures, or not."""
        self.zones = not self.zones
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.ask()

    def _item_at(self, at: QPointF) -> tuple[str, Master, QRectF] | None:
        """The uppermost title or layer under a point, its master, and that one's box."""
        doc = self.session.project.doc
        for master, box in zip(self._masters, self.boxes(), strict=True):
            if doc is not None and box.contains(at):
                titles = [t.id for t in titles_at(doc, master, self.session.at.frame)]
                layers = [layer_key(layer) for layer, _ in self.desk.text_checks.layers_in(master)]
                for item in reversed(layers + titles):
                    if self._item_box(item, master, box).contains(at):
                        return item, master, box
        return None

    def _item_box(self, item: str, master: Master, box: QRectF) -> QRectF:
        """Where a title or a layer stands on screen; nowhere where it is hidden."""
        doc = self.session.project.document
        title = next((t for t in doc.titles if t.id == item), None)
        if title is None:
            rect = next((r for n, r in self.desk.text_checks.layers_in(master) if layer_key(n) == item), None)
        elif doc.stands(item, master.id).hidden:
            rect = None
        else:
            rect = in_frame(title_laid_out(doc, title, master, self.desk.text_checks.place_of).rect, master)
        return QRectF() if rect is None else drawing.scaled(QRectF(rect.x, rect.y, rect.width, rect.height), box)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for master, box in zip(self._masters, self.boxes(), strict=True):
            if box.contains(event.position()):
                self.session.at.set_master(master.id)
        under = self._item_at(event.position())
        if under is not None:
            item, master, box = under
            self.session.at.set_title(item)
            self._drag = _Drag(event.position(), self.desk.title_work.stands(), box)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._drag is not None:
            by = event.position() - self._drag.at
            began, box = self._drag.began, self._drag.box
            self.desk.title_work.put(
                began.x + by.x() / box.width(), began.y + by.y() / box.height(), ("drag title", id(self._drag))
            )

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._drag = None

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.WELL)
        painter.setFont(theme.sans(13))
        painter.setPen(theme.WELL_INK)
        head = QRectF(_SIDE, 0, self.width() - 2 * _SIDE, theme.px(_HEAD))
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, self._said())
        for place, (master, box) in enumerate(zip(self._masters, self.boxes(), strict=True)):
            self._draw_master(painter, place, master, box)

    def _said(self) -> str:
        present, count = self.desk.text_work.present, len(self._masters)
        shapes = f"in {count} shapes" if count > 1 else f"in {self._masters[0].name}" if count else "and no master yet"
        if self.session.project.doc is None:
            return ""
        if self.desk.title_work.item:
            kind = "Title" if self.session.at.title is not None else "Layer of the lock"
            return f"{kind} “{self.desk.title_work.called}” {shapes}"
        if present is None:
            return f"No caption here, {shapes}" if self.session.project.doc.tracks else "No captions yet"
        track, caption = present
        name = f" of “{track.name}”" if len(self.session.project.doc.tracks) > 1 else ""
        return f"Caption {track.place_of(caption.id) + 1}{name} {shapes}"

    def _draw_master(self, painter: QPainter, place: int, master: Master, box: QRectF) -> None:
        image = self._results[place] if place < len(self._results) else None
        if image is None:
            painter.fillRect(box, theme.WELL_EMPTY)
        else:
            drawing.place_image(painter, image, box)
        if self.zones:
            self._draw_zones(painter, master, box)
        if self.safe:
            self._draw_safe(painter, box)
        line = theme.line_of(place)
        chosen = self._item_box(self.desk.title_work.item, master, box) if self.desk.title_work.item else QRectF()
        if not chosen.isEmpty():
            painter.setPen(QPen(theme.WELL_INK, 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(chosen.adjusted(-2, -2, 2, 2))
        if master.id == self.session.at.master_id:
            painter.setPen(line.pen(2.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(-1, -1, 1, 1))
        drawing.caption(painter, box, master.name, line.on_well)
        self._draw_words(painter, master, box)

    def _draw_zones(self, painter: QPainter, master: Master, box: QRectF) -> None:
        for zone in master.zones.zones if master.zones else ():
            rect = zone.rect
            over = drawing.scaled(QRectF(rect.x, rect.y, rect.width, rect.height), box)
            painter.fillRect(over, _ZONE)
            painter.setPen(QPen(_HATCH_EDGE, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(over)
            painter.save()
            painter.setClipRect(over)
            painter.setPen(QPen(_HATCH, 1))
            step = 9
            start = int(over.left() - over.height()) // step * step
            for x in range(start, int(over.right()) + step, step):
                painter.drawLine(
                    QRectF(x, over.bottom(), 0, 0).topLeft(), QRectF(x + over.height(), over.top(), 0, 0).topLeft()
                )
            painter.restore()

    def _draw_safe(self, painter: QPainter, box: QRectF) -> None:
        """The action-safe and the title-safe area."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for rect, colour in ((ACTION_SAFE, _HATCH), (TITLE_SAFE, _HATCH_EDGE)):
            painter.setPen(QPen(colour, 1, Qt.PenStyle.DashLine))
            painter.drawRect(drawing.scaled(QRectF(rect.x, rect.y, rect.width, rect.height), box))

    def _draw_words(self, painter: QPainter, master: Master, box: QRectF) -> None:
        present, title = self.desk.text_work.present, self.session.at.title
        item = title.id if title is not None else present[1].id if present is not None else ""
        if not item:
            return
        found = [p for p in self.desk.text_checks.problems_of(item, master.id) if p.master]
        painter.setFont(theme.sans(12))
        painter.setPen(theme.WELL_PROBLEM if found else theme.WELL_SOFT)
        said = ", ".join(dict.fromkeys(SHORT[p.name] for p in found)) or "fits, and hides nothing"
        words = QRectF(box.left(), box.bottom() + 5, max(box.width(), 90.0), theme.px(_FOOT) - 8)
        painter.drawText(words, Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop, said)
