"""The output list: a row a movie, its bar cut at its shots."""

from __future__ import annotations

from PyQt6.QtCore import QAbstractListModel, QItemSelectionModel, QModelIndex, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QAbstractItemView, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ezvar.app.background.expecting import Expecting
from ezvar.app.background.making import RowMaking
from ezvar.app.kit import theme
from ezvar.app.session.jobs import later
from ezvar.app.session.session import Session
from ezvar.app.viewer.made_pictures import MadePictures, wanted_picture
from ezvar.core.model import Row
from ezvar.core.output import RowLook, facts_of, row_names

_HIGH, _LEFT = 96, 118
_PICTURE = QSize(84, 78)
_COLOURS: dict[str, QColor] = {
    "to be made": theme.RULE, "under way": theme.DOUBT_EDGE, "made": theme.BUTTON, "differs": theme.PROBLEM,
}  # fmt: skip
_BOXED = ("checked", "failed the check", "failed")


class OutputRows(QAbstractListModel):
    """The rows of the list, as they are told now."""

    def __init__(self, session: Session, making: RowMaking, expecting: Expecting) -> None:
        super().__init__()
        self._session, self._making, self._expecting = session, making, expecting
        self.rows: tuple[Row, ...] = ()
        self.names: tuple[str, ...] = ()
        self.looks: tuple[RowLook, ...] = ()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role in (Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            k = index.row()
            told = f"{self.names[k]}: {self.looks[k].status}"
            return f"{told}, {self.looks[k].said}" if self.looks[k].said else told
        return None

    def refresh(self) -> None:
        """List what there is now."""
        doc, rows = self._session.project.doc, self._making.rows()
        names = tuple(n.name for n in row_names(doc, rows)) if doc is not None else ()
        looks = tuple(self._making.look(row, self._expecting.of(row)) for row in rows)
        if [row.id for row in rows] != [row.id for row in self.rows]:
            self.beginResetModel()
            self.rows, self.names, self.looks = rows, names, looks
            self.endResetModel()
        else:
            self.rows, self.names, self.looks = rows, names, looks


class RowsView(QListView):
    """The list of rows; several can be chosen."""

    chosen_changed = pyqtSignal()

    def __init__(self, session: Session, making: RowMaking, expecting: Expecting) -> None:
        super().__init__()
        self.session = session
        self.rows = OutputRows(session, making, expecting)
        self.pictures: MadePictures | None = None
        self._chosen: tuple[str, ...] = ()
        self.setModel(self.rows)
        self.setItemDelegate(_RowDrawing(self))
        self.setAccessibleName("Movies to be made")
        self.setObjectName("paper")
        self.setUniformItemSizes(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        selection = self.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self._choose())

    @property
    def chosen(self) -> tuple[Row, ...]:
        """The rows that are chosen, in the order of the list."""
        return tuple(row for row in self.rows.rows if row.id in self._chosen)

    def choose(self, *rows: str) -> None:
        """Choose these rows alone."""
        selection = self.selectionModel()
        assert selection is not None
        flags = QItemSelectionModel.SelectionFlag
        selection.clear()
        for k, row in enumerate(self.rows.rows):
            if row.id in rows:
                selection.setCurrentIndex(self.rows.index(k), flags.Select)

    def _choose(self) -> None:
        self._chosen = tuple(self.rows.rows[index.row()].id for index in self.selectedIndexes())
        self.chosen_changed.emit()

    def refresh(self) -> None:
        before = self._chosen
        self.rows.refresh()
        known = [row.id for row in self.rows.rows]
        if (known and self._chosen != before) or not set(before) & set(known):
            kept = [id for id in before if id in known]
            self.choose(*(kept or known[:1]))
        self.redraw()

    def set_pictures(self, pictures: MadePictures | None) -> None:
        if self.pictures is not None:
            self.pictures.close()
        self.pictures = pictures
        if pictures is not None:
            later(pictures.arrived, self.redraw)

    def redraw(self) -> None:
        self.viewport().update()  # type: ignore[union-attr]


class _RowDrawing(QStyledItemDelegate):
    """Draws a row: a picture of it, what it is, how far it is, and its bar."""

    def __init__(self, view: RowsView) -> None:
        super().__init__(view)
        self._view = view

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(300, theme.px(_HIGH))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        k, rect, rows = index.row(), option.rect, self._view.rows
        row, look = rows.rows[k], rows.looks[k]
        doc = self._view.session.project.document
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(rect, theme.CHOSEN if chosen else theme.PAPER)
        if chosen:
            painter.fillRect(QRect(rect.left(), rect.top(), 4, rect.height()), theme.ACCENT)
        painter.fillRect(QRect(rect.left(), rect.bottom(), rect.width(), 1), theme.RULE)
        self._picture(painter, rect, row)
        px, top, left = theme.px, rect.top(), rect.left() + theme.px(_LEFT)
        right = rect.right() - px(24)
        took = self._status(painter, right, top, look)
        wide = right - left - took - px(16)
        self._line(painter, QRect(left, top + px(9), wide, px(22)), rows.names[k], theme.sans(15, bold=True))
        facts = QRect(left, top + px(34), px(330), px(20))
        self._line(painter, facts, facts_of(doc, row), theme.mono(13), theme.SOFT)
        preset = QRect(left + px(330), top + px(34), max(0, wide - px(330)), px(20))
        self._line(painter, preset, row.preset.name, theme.sans(13), theme.SOFT)
        self._bar(painter, QRectF(left, top + px(63), right - left, px(13)), row, look)
        painter.restore()

    def _line(self, painter: QPainter, rect: QRect, text: str, font: object, colour: QColor = theme.INK) -> None:
        painter.setFont(font)  # type: ignore[arg-type]
        painter.setPen(colour)
        said = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideMiddle, rect.width())
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, said)

    def _picture(self, painter: QPainter, rect: QRect, row: Row) -> None:
        doc, view = self._view.session.project.document, self._view
        master = doc.master(row.master)
        box = QRect(rect.left() + theme.px(20), rect.top() + theme.px(9), _PICTURE.width(), _PICTURE.height())
        size = QSize(master.width, master.height).scaled(box.size(), Qt.AspectRatioMode.KeepAspectRatio)
        place = QRect(box.center().x() - size.width() // 2, box.center().y() - size.height() // 2, 0, 0)
        place.setSize(size)
        frame = (row.start + row.end) // 2
        wanted = wanted_picture(doc, master, frame, size * view.devicePixelRatioF())
        image = view.pictures.get(wanted) if view.pictures is not None else None
        if image is None:
            painter.fillRect(place, theme.RULE)
        else:
            painter.drawImage(place, image)

    def _status(self, painter: QPainter, right: int, top: int, look: RowLook) -> int:
        """How a row stands, at its right; returns how much of its width that takes."""
        px = theme.px
        colour = {
            "checked": theme.ACCENT, "failed the check": theme.PROBLEM, "failed": theme.PROBLEM,
            "being made": theme.DOUBT, "moved on": theme.DOUBT, "gone": theme.DOUBT,
        }.get(look.state, theme.SOFT)  # fmt: skip
        painter.setFont(theme.sans(13, bold=True))
        wide = painter.fontMetrics().horizontalAdvance(look.status)
        painter.setPen(colour)
        box = QRectF(right - wide - px(18), top + px(8), wide + px(18), px(22))
        if look.state in _BOXED:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 3, 3)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, look.status)
        else:
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, look.status)
        painter.setFont(theme.sans(13))
        most = px(300)
        said = painter.fontMetrics().elidedText(look.said, Qt.TextElideMode.ElideRight, most)
        painter.setPen(theme.PROBLEM if look.state == "failed the check" else theme.SOFT)
        line = QRectF(right - most, top + px(34), most, px(20))
        painter.drawText(line, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, said)
        return max(round(box.width()), painter.fontMetrics().horizontalAdvance(said))

    def _bar(self, painter: QPainter, bar: QRectF, row: Row, look: RowLook) -> None:
        """The movie, cut at its shots, with what is known of its parts."""
        frames = row.end - row.start

        def at(frame: int) -> float:
            return bar.left() + bar.width() * min(max(0, frame - row.start), frames) / frames

        painter.fillRect(bar, theme.RULE)
        for part in look.parts:
            piece = QRectF(at(part.start), bar.top(), at(part.end) - at(part.start), bar.height())
            painter.fillRect(piece, _COLOURS[part.state])
        for shot in self._view.session.project.document.shots:
            if row.start < shot.start < row.end:
                painter.fillRect(QRectF(at(shot.start) - 0.5, bar.top(), 1.0, bar.height()), theme.PAPER)
