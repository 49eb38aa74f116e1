"""Every caption at a glance in every master: small pictures as they will look, those that wait first."""

from __future__ import annotations

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.session.jobs import later
from ezvar.app.viewer.made_pictures import MadePictures, wanted_picture
from ezvar.core.model import Caption, CaptionTrack, Document, Master
from ezvar.core.text import SHORT

_HIGH, _GAP = 92, 6
_LAST = 6000  # pictures whose last state is remembered, to be shown until the new one is drawn

Cell = tuple[CaptionTrack, Caption]


class Cells(QAbstractListModel):
    """The captions: those with which something is wrong first, each part in order of time."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.cells: list[Cell] = []

    def reload(self) -> None:
        work = self._desk.text_work
        listed, waits = work.all(), self._desk.text_checks.waits
        cells = [c for c in listed if waits(c[1].id)] + [c for c in listed if not waits(c[1].id)]
        if [c.id for _, c in cells] == [c.id for _, c in self.cells]:
            self.cells = cells
            return
        self.beginResetModel()
        self.cells = cells
        self.endResetModel()

    def place_of(self, caption: str) -> int:
        return next((k for k, (_, c) in enumerate(self.cells) if c.id == caption), -1)

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.cells)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role in (Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            track, caption = self.cells[index.row()]
            said = [p.said for p in self._desk.text_checks.problems_of(caption.id)]
            return f"{track.place_of(caption.id) + 1}: {caption.words}" + "".join(f"\n{s}" for s in dict.fromkeys(said))
        return None


class Grid(QListView):
    """The grid. A press makes a caption the present one."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.pictures: MadePictures | None = None
        self.last: dict[tuple[str, str], QImage] = {}
        self._cells = Cells(desk)
        self.setModel(self._cells)
        self.setObjectName("well")
        self.setAccessibleName("All captions in every master")
        self.setViewMode(QListView.ViewMode.IconMode)
        self.setMovement(QListView.Movement.Static)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setUniformItemSizes(True)
        self.setLayoutMode(QListView.LayoutMode.Batched)
        self.setBatchSize(400)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setItemDelegate(_CellDrawing(self))
        self.clicked.connect(lambda index: desk.text_work.choose(self._cells.cells[index.row()][1].id))
        self._masters: tuple[Master, ...] = ()

    def set_pictures(self, pictures: MadePictures | None) -> None:
        self.pictures = pictures
        self.last.clear()
        if pictures is not None:
            later(pictures.arrived, self._redraw)

    def _redraw(self) -> None:
        self.viewport().update()  # type: ignore[union-attr]

    def refresh(self) -> None:
        """List what there is, and show which is the present one."""
        doc = self.desk.session.project.doc
        masters = doc.masters if doc else ()
        if [(m.width, m.height) for m in masters] != [(m.width, m.height) for m in self._masters]:
            self._masters = masters
            self.scheduleDelayedItemsLayout()
        self._cells.reload()
        present = self.desk.text_work.present
        row = self._cells.place_of(present[1].id) if present else -1
        if row != self.currentIndex().row():
            self.setCurrentIndex(self._cells.index(row) if row >= 0 else QModelIndex())
        self._redraw()

    def cell_size(self) -> QSize:
        """Of one caption with all its masters."""
        doc = self.desk.session.project.doc
        wide = sum(self.width_of(m) + _GAP for m in (doc.masters if doc else ()))
        return QSize(max(theme.px(120), wide + 3 * _GAP), theme.px(_HIGH + 44))

    @staticmethod
    def width_of(master: Master) -> int:
        return max(20, round(theme.px(_HIGH) * master.width / master.height))

    def cell(self, row: int) -> Cell:
        return self._cells.cells[row]


class _CellDrawing(QStyledItemDelegate):
    def __init__(self, grid: Grid) -> None:
        super().__init__(grid)
        self._grid = grid

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return self._grid.cell_size()

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        grid, doc = self._grid, self._grid.desk.session.project.document
        track, caption = grid.cell(index.row())
        rect = QRect(option.rect).adjusted(_GAP, 0, 0, 0)
        painter.save()
        painter.setFont(theme.sans(12, bold=True))
        painter.setPen(theme.WELL_INK)
        number = f"{track.place_of(caption.id) + 1}"
        painter.drawText(
            QRect(rect.left(), rect.top(), rect.width(), theme.px(18)), Qt.AlignmentFlag.AlignVCenter, number
        )
        taken = painter.fontMetrics().horizontalAdvance(number) + 8
        painter.setFont(theme.sans(12))
        painter.setPen(theme.WELL_SOFT)
        words = QRect(rect.left() + taken, rect.top(), rect.width() - taken - _GAP, theme.px(18))
        text = painter.fontMetrics().elidedText(caption.words, Qt.TextElideMode.ElideRight, words.width())
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, text)
        left = float(rect.left())
        for place, master in enumerate(doc.masters):
            box = QRectF(left, rect.top() + theme.px(19), grid.width_of(master), theme.px(_HIGH))
            self._picture(painter, box, doc, track, caption, master)
            if option.state & QStyle.StateFlag.State_Selected:
                painter.setPen(theme.line_of(place).pen(2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)
            left += grid.width_of(master) + _GAP
        problems = grid.desk.text_checks.problems_of(caption.id)
        if problems:
            painter.setPen(theme.WELL_PROBLEM)
            said = ", ".join(dict.fromkeys(SHORT[p.name] for p in problems))
            under = QRect(rect.left(), rect.top() + theme.px(_HIGH + 21), rect.width() - _GAP, theme.px(18))
            said = painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, under.width())
            painter.drawText(under, Qt.AlignmentFlag.AlignVCenter, said)
        painter.restore()

    def _picture(
        self, painter: QPainter, box: QRectF, doc: Document, track: CaptionTrack, caption: Caption, master: Master
    ) -> None:
        grid = self._grid
        key = caption.id, master.id
        image = None
        if grid.pictures is not None:
            frames = caption.frames(doc.lock.rate)
            frame = min((frames.start + frames.end) // 2, doc.lock.frames - 1)
            size = (box.size() * grid.devicePixelRatioF()).toSize()
            image = grid.pictures.get(wanted_picture(doc, master, frame, size))
        if image is not None:
            if len(grid.last) > _LAST:
                grid.last.clear()
            grid.last[key] = image
        shown = image if image is not None else grid.last.get(key)
        if shown is None:
            painter.fillRect(box, theme.WELL_EMPTY)
        else:
            shown.setDevicePixelRatio(grid.devicePixelRatioF())
            painter.drawImage(QPointF(box.left(), box.top()), shown)
