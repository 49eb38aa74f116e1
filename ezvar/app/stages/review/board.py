"""Shots and masters in review: a row a shot, small pictures that move when pointed at, verdicts, notes."""

from __future__ import annotations

from typing import Literal

from PyQt6.QtCore import QAbstractListModel, QEvent, QModelIndex, QPointF, QRect, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ezvar.app.background.desk import Desk
from ezvar.app.background.exchange import Exchange
from ezvar.app.kit import theme
from ezvar.app.kit.controls import pip, stamp
from ezvar.app.session.jobs import later
from ezvar.app.viewer.made_pictures import MadePictures, Wanted, wanted_picture
from ezvar.app.viewer.well_drawing import scaled
from ezvar.core.framing import NEEDS_A_LOOK, framed
from ezvar.core.model import Document, Framing, Master, Shot, doubt
from ezvar.core.review import seen_from_ours

Listed = Literal["all", "open", "agreed", "change", "notes", "differs"]
LISTED: dict[Listed, str] = {
    "all": "All", "open": "Open", "agreed": "Agreed", "change": "Change", "notes": "With notes", "differs": "Differs",
}  # fmt: skip
_HIGH = 150
_NUMBER = 46
_STEP, _AHEAD = 80, 6  # milliseconds from one moving picture to the next, and how many are drawn ahead
_SECOND = 1000


class Shots(QAbstractListModel):
    """The shots that are listed."""

    listed_changed = pyqtSignal()  # others are to be listed

    def __init__(self, desk: Desk, exchange: Exchange) -> None:
        super().__init__()
        self._session, self._exchange = desk.session, exchange
        self.listed: Listed = "all"
        self.shots: tuple[str, ...] = ()
        self._of: tuple[object, ...] = ()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.shots)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        doc = self._session.project.doc
        if role == Qt.ItemDataRole.AccessibleTextRole and doc is not None:
            shot = doc.shot(self.shots[index.row()])
            said = [f"{m.name} {f.verdict}" for m in doc.masters if (f := doc.framing(shot.id, m.id))]
            return f"Shot {doc.place_of(shot.id) + 1}: {', '.join(said)}"
        return None

    def list(self, listed: Listed) -> None:
        """List these from now on."""
        self.listed = listed
        self.listed_changed.emit()

    def refresh(self) -> None:
        """List what is to be listed of the document as it is now, and the present shot in any case."""
        doc, here = self._session.project.doc, self._session.at.shot
        here_id = here.id if here is not None else ""
        of = doc, self.listed, here_id if here_id not in self.shots else "", frozenset(self._exchange.differing)
        if len(self._of) == len(of) and self._of[0] is doc and self._of[1:] == of[1:]:
            return
        self._of = of
        found: tuple[str, ...] = ()
        if doc is not None:
            found = tuple(s.id for s in doc.shots if s.id == here_id or self._is_listed(doc, s, self.listed))
        if found != self.shots:
            self.beginResetModel()
            self.shots = found
            self.endResetModel()

    def counts(self) -> dict[Listed, int]:
        """How many shots each choice lists."""
        doc = self._session.project.doc
        shots = doc.shots if doc is not None else ()
        return {each: sum(doc is not None and self._is_listed(doc, s, each) for s in shots) for each in LISTED}

    def _is_listed(self, doc: Document, shot: Shot, by: Listed) -> bool:
        if by == "all":
            return True
        if by == "differs":
            return any((shot.id, m.id) in self._exchange.differing for m in doc.masters)
        if by == "notes":
            return any(doc.notes_on(shot.id, m.id) for m in doc.masters)
        return any((f := doc.framing(shot.id, m.id)) is not None and f.verdict == by for m in doc.masters)


class Board(QListView):
    """The list of rows. What is pointed at moves."""

    def __init__(self, desk: Desk, exchange: Exchange) -> None:
        super().__init__()
        self.desk, self.session, self.exchange = desk, desk.session, exchange
        self.pictures: MadePictures | None = None
        self.rows = Shots(desk, exchange)
        self.setAccessibleName("Shots and masters in review")
        self.setModel(self.rows)
        self.setUniformItemSizes(True)
        self.cells = _Cells(self)
        self.setItemDelegate(self.cells)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setObjectName("paper")
        self.setMouseTracking(True)
        self.clicked.connect(self._go)
        self.pointed: tuple[str, str] | None = None  # shot and master
        self.moving_to = 0  # the frame of the shot that is shown of them
        self._shown: QImage | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_STEP)
        self._timer.timeout.connect(self._move_on)

    def _go(self, index: QModelIndex) -> None:
        self.session.at.go_to_shot(self.session.project.document.shot(self.rows.shots[index.row()]))

    def set_pictures(self, pictures: MadePictures | None) -> None:
        if self.pictures is not None:
            self.pictures.close()
        self.pictures = pictures
        if pictures is not None:
            later(pictures.arrived, self.redraw)

    def redraw(self) -> None:
        self.viewport().update()  # type: ignore[union-attr]

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        super().mouseMoveEvent(event)
        if event is not None:
            self._point(self._at(event.position()))

    def leaveEvent(self, event: QEvent | None) -> None:
        super().leaveEvent(event)
        self._point(None)

    def _at(self, at: QPointF) -> tuple[str, str] | None:
        """The shot and master whose picture lies under a point."""
        index, doc = self.indexAt(at.toPoint()), self.session.project.doc
        if not index.isValid() or doc is None:
            return None
        rect = self.visualRect(index)
        for place, master in enumerate(doc.masters):
            if self.cells.box(self.cells.cell(rect, place), master).contains(at):
                return self.rows.shots[index.row()], master.id
        return None

    def _point(self, at: tuple[str, str] | None) -> None:
        if at == self.pointed:
            return
        self.pointed, self.moving_to, self._shown = at, 0, None
        if at is None:
            self._timer.stop()
        else:
            self._timer.start()
        self.redraw()

    def _move_on(self) -> None:
        """On to the next moving picture once it is drawn; round at the shot's end."""
        doc = self.session.project.doc
        if self.pointed is None or doc is None or self.pointed[0] not in self.rows.shots or not self.isVisible():
            self._point(None)
            return
        step = max(1, round(float(doc.lock.rate.fraction) * _STEP / _SECOND))
        image = self._moving(doc, self.moving_to)
        for k in range(_AHEAD, 0, -1):  # what is asked for last is drawn first
            self._moving(doc, (self.moving_to + k * step) % doc.shot(self.pointed[0]).frames)
        if image is not None:
            self._shown = image
            self.moving_to = (self.moving_to + step) % doc.shot(self.pointed[0]).frames
            self.redraw()

    def _moving(self, doc: Document, frame: int) -> QImage | None:
        if self.pointed is None or self.pictures is None:
            return None
        shot, master = doc.shot(self.pointed[0]), doc.master(self.pointed[1])
        size = self.cells.size_of(doc.masters.index(master), master)
        return self.pictures.get(self.wanted(doc, master, shot.start + frame, size))

    def wanted(self, doc: Document, master: Master, frame: int, size: QSize) -> Wanted:
        return wanted_picture(doc, master, frame, size * self.devicePixelRatioF())

    def image_of(self, shot: Shot, master: Master, size: QSize) -> QImage | None:
        """What is shown of a shot in a master: its middle, or where it has moved to."""
        if self.pictures is None:
            return None
        if self.pointed == (shot.id, master.id) and self._shown is not None:
            return self._shown
        doc = self.session.project.document
        return self.pictures.get(self.wanted(doc, master, (shot.start + shot.end) // 2, size))


class _Cells(QStyledItemDelegate):
    """Draws a shot's row: its result in each master, with the verdict beside it."""

    def __init__(self, board: Board) -> None:
        super().__init__(board)
        self._board = board

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(300, _HIGH)

    def cell(self, rect: QRect, place: int) -> QRectF:
        masters = max(1, len(self._board.session.project.document.masters))
        wide = (rect.width() - _NUMBER) / masters
        return QRectF(rect.left() + _NUMBER + place * wide, rect.top(), wide, rect.height())

    def box(self, cell: QRectF, master: Master) -> QRectF:
        """Where a master's picture stands in its cell."""
        width = min((_HIGH - 18) * master.width / master.height, cell.width() - 100)
        height = width * master.height / master.width
        return QRectF(cell.left() + 8, cell.center().y() - height / 2, width, height)

    def size_of(self, place: int, master: Master) -> QSize:
        """How large a master's picture is."""
        rect = QRect(0, 0, self._board.viewport().width(), _HIGH)  # type: ignore[union-attr]
        return self.box(self.cell(rect, place), master).size().toSize()

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        session = self._board.session
        doc, rect = session.project.document, option.rect
        shot = doc.shot(self._board.rows.shots[index.row()])
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(rect, theme.CHOSEN if chosen else theme.PAPER)
        if chosen:
            painter.fillRect(QRect(rect.left(), rect.top(), 4, rect.height()), theme.ACCENT)
        painter.fillRect(QRect(rect.left(), rect.bottom(), rect.width(), 1), theme.RULE)
        painter.setFont(theme.sans(14, bold=True))
        painter.setPen(theme.INK)
        painter.drawText(
            QRect(rect.left() + 8, rect.top(), 28, rect.height()),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            str(doc.place_of(shot.id) + 1),
        )
        for place, master in enumerate(doc.masters):
            cell = self.cell(rect, place)
            self._result(painter, cell, shot, master)
            if chosen and master.id == session.at.master_id:
                painter.setPen(theme.line_of(place).pen(2, well=False))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(cell.adjusted(2, 3, -4, -4))
        painter.restore()

    def _result(self, painter: QPainter, cell: QRectF, shot: Shot, master: Master) -> None:
        """A small result, with what is said of it beside."""
        doc, box = self._board.session.project.document, self.box(cell, master)
        painter.fillRect(box, theme.WELL_EMPTY)
        framing = framed(doc, shot, master)
        image = self._board.image_of(shot, master, box.size().toSize())
        if image is not None:
            image.setDevicePixelRatio(self._board.devicePixelRatioF())
            painter.drawImage(box.topLeft(), image)
        x, right, foot = box.right() + 10, box.right() + 84, box.bottom() - 10
        theirs = self._board.exchange.differing.get((shot.id, master.id))
        painter.setFont(theme.sans(13))
        if theirs is not None:
            self._their_window(painter, box, framing, theirs, shot.frames // 2)
            painter.setPen(theme.PROBLEM)
            painter.drawText(QRectF(x, box.top() + 4, 90, 20), Qt.AlignmentFlag.AlignVCenter, "theirs differs")
        notes = len(doc.notes_on(shot.id, master.id))
        if notes:
            painter.setPen(theme.INK)
            said = f"{notes} notes" if notes > 1 else "1 note"
            painter.drawText(QRectF(x, box.top() + 26, 90, 20), Qt.AlignmentFlag.AlignVCenter, said)
        if framing.verdict != "open":
            colour = theme.ACCENT if framing.verdict == "agreed" else theme.PROBLEM
            stamp(painter, right - 6, foot, framing.verdict, colour)
            return
        painter.setPen(theme.SOFT)
        painter.drawText(QRectF(x, foot - 10, 60, 20), Qt.AlignmentFlag.AlignVCenter, "open")
        if (figure := doubt(framing.reasons)) >= NEEDS_A_LOOK:
            pip(painter, box.right() + 40, foot - 24, figure)

    def _their_window(self, painter: QPainter, box: QRectF, ours: Framing, theirs: Framing, frame: int) -> None:
        """Their window, dashed, over our result."""
        place = seen_from_ours(self._board.session.project.document, ours, theirs, frame)
        if place is None:
            return
        painter.save()
        painter.setClipRect(box.adjusted(-2, -2, 2, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        window = scaled(QRectF(place.x, place.y, place.width, place.height), box)
        for colour, style in ((theme.WELL, Qt.PenStyle.SolidLine), (theme.WELL_INK, Qt.PenStyle.DashLine)):
            painter.setPen(QPen(colour, 2, style))
            painter.drawRect(window)
        painter.restore()

    def editorEvent(
        self, event: QEvent | None, model: object, option: QStyleOptionViewItem, index: QModelIndex
    ) -> bool:
        if isinstance(event, QMouseEvent) and event.type() == QEvent.Type.MouseButtonPress:
            for place, master in enumerate(self._board.session.project.document.masters):
                if self.cell(option.rect, place).contains(event.position()):
                    self._board.session.at.set_master(master.id)
        return False
