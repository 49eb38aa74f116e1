"""The ledger: one row a shot, or in the cuts stage one row a cut."""

from __future__ import annotations

from itertools import compress
from operator import is_not

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.kit.controls import pip, stamp, tick
from ezvar.app.kit.digit_keys import pressed_digit
from ezvar.app.viewer.pictures import Stills
from ezvar.core.framing import framed, pane_window, picture_size
from ezvar.core.model import CutPlace, Framing, Shot

_SHOT = Qt.ItemDataRole.UserRole


Row = Shot | CutPlace


class _Rows(QAbstractListModel):
    """The shots (or the places of cuts), in the order and with the filter that is chosen."""

    look_changed = pyqtSignal(QModelIndex)  # in place of dataChanged, at which Qt draws the whole list anew

    def __init__(self, session: Desk) -> None:
        super().__init__()
        self._session = session
        self.cuts = False
        self.by_doubt = False
        self.only_doubtful = False
        self.only_unplayed = False
        self.rows: list[Row] = []
        self._shown: list[tuple[object, ...]] = []

    def reload(self) -> None:
        session = self._session
        rows: list[Row] = list(session.places if self.cuts else session.doc.shots if session.doc else ())
        if self.only_doubtful:
            rows = [r for r in rows if (r.waits if isinstance(r, CutPlace) else session.needs_a_look(r))]
        if self.only_unplayed and not self.cuts:
            unplayed = {s.id for s in session.played.unplayed()}
            rows = [r for r in rows if isinstance(r, CutPlace) or r.id in unplayed]
        if self.by_doubt:
            rows.sort(key=lambda r: (-self.figure(r), frame_of_row(r)))
        shown = [self._look(r) for r in rows]
        if [_identity(r) for r in rows] != [_identity(r) for r in self.rows]:
            self.beginResetModel()
            self.rows, self._shown = rows, shown
            self.endResetModel()
            return
        changed = [k for k, (before, now) in enumerate(zip(self._shown, shown, strict=True)) if before != now]
        self.rows, self._shown = rows, shown
        for k in changed:
            self.look_changed.emit(self.index(k))

    def reload_framings(self, before: tuple[Framing, ...]) -> bool:
        """Draw again only the rows whose framings have changed since ``before``; whether that was enough."""
        session = self._session
        doc = session.doc
        if doc is None or self.by_doubt or self.only_doubtful or self.only_unplayed or self.cuts:
            return False
        if len(before) != len(doc.framings) or len(self.rows) != len(doc.shots):
            return False
        others = list(compress(zip(before, doc.framings, strict=True), map(is_not, before, doc.framings)))
        if any((old.shot, old.master) != (new.shot, new.master) for old, new in others):
            return False
        for place in {doc.place_of(new.shot) for _, new in others}:
            self._shown[place] = self._look(self.rows[place])
            self.look_changed.emit(self.index(place))
        return True

    def _look(self, row: Row) -> tuple[object, ...]:
        """Whatever a row's drawing depends on: rows are drawn again only where it has changed."""
        session = self._session
        if not isinstance(row, Shot):
            return (row,)
        master = session.master
        framing = session.document.framing(row.id, master.id) if master else None
        doc = session.document
        played = master is not None and session.played.is_played(row, master)
        return row, doc.place_of(row.id), master, doc.masters, framing, session.is_missing(row), played

    def figure(self, row: Row) -> int:
        """The doubt that a row shows; 0 shows none."""
        if isinstance(row, Shot):
            return self._session.doubt_of(row)
        return 0 if row.cut.settled else round(row.cut.doubt)

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == _SHOT:
            return row
        if role in (Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            if isinstance(row, Shot):
                what = f"Shot {self._session.document.place_of(row.id) + 1}"
            else:
                what = f"{row.cut.kind.capitalize()}{'' if row.shot else ', passed over'}"
            return f"{what}, {self._session.timecode(frame_of_row(row))}, doubt {self.figure(row)}"
        return None


def frame_of_row(row: Row) -> int:
    """The lock frame at which a row's shot or cut is."""
    return row.start if isinstance(row, Shot) else row.frame


def _identity(row: Row) -> tuple[object, ...]:
    return (row.id, row.start, row.end) if isinstance(row, Shot) else (row.shot, row.frame, row.cut.kind)


class _Delegate(QStyledItemDelegate):
    def __init__(self, ledger: Ledger) -> None:
        super().__init__(ledger)
        self._ledger = ledger

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(theme.px(200), theme.px(40 if self._ledger.rows.cuts else 63))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        if not option.rect.intersects(self._ledger.view.drawn):
            return
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        rect, row = option.rect, index.data(_SHOT)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.CHOSEN)
            present = self._ledger.session.shot
            if not isinstance(row, Shot) or (present is not None and row.id == present.id):
                painter.fillRect(QRect(rect.left(), rect.top(), 4, rect.height()), theme.ACCENT)
        painter.fillRect(QRect(rect.left(), rect.bottom(), rect.width(), 1), theme.RULE)
        if isinstance(row, Shot):
            self._shot(painter, rect, row)
        else:
            self._cut(painter, rect, row, index.row() + 1)
        painter.restore()

    def _cut(self, painter: QPainter, rect: QRect, place: CutPlace, number: int) -> None:
        px = theme.px
        session, middle, cut = self._ledger.session, rect.center().y() + 1, place.cut
        _text(
            painter,
            QRect(rect.left(), rect.top(), px(34), rect.height()),
            str(number),
            theme.sans(14, bold=True),
            right=True,
        )
        _text(
            painter,
            QRect(rect.left() + px(44), rect.top(), px(100), rect.height()),
            session.timecode(place.frame),
            theme.mono(13),
        )
        kind = f"{cut.kind} {cut.end - cut.start}" if cut.end > cut.start else cut.kind
        kind = kind if place.shot else f"{cut.kind}?"
        _text(
            painter, QRect(rect.left() + px(138), rect.top(), px(70), rect.height()), kind, theme.sans(12), theme.SOFT
        )
        if place.waits:
            pip(painter, rect.right() - px(10), middle, self._ledger.rows.figure(place))

    def _shot(self, painter: QPainter, rect: QRect, shot: Shot) -> None:
        session, px = self._ledger.session, theme.px
        place = session.document.place_of(shot.id) + 1
        _text(
            painter,
            QRect(rect.left(), rect.top(), px(29), rect.height()),
            str(place),
            theme.sans(14, bold=True),
            right=True,
        )
        box = QRect(rect.left() + px(36), rect.top() + px(8), px(84), px(47))
        image = self._ledger.still(shot)
        if image is not None:
            shown = self._ledger.picture_box(image, box)
            painter.drawImage(shown, image)
            self._window(painter, shown, shot)
        else:
            painter.fillRect(box, theme.RULE)
        left = rect.left() + px(126)
        _text(painter, QRect(left, rect.top() + px(7), px(100), px(22)), session.timecode(shot.start), theme.mono(13))
        rate = session.document.lock.rate
        length = f"{shot.frames // rate.nominal}:{shot.frames % rate.nominal:02d}"
        _text(painter, QRect(left, rect.top() + px(31), px(60), px(22)), length, theme.mono(13), theme.SOFT)
        if session.is_missing(shot):
            where = QRect(left, rect.top() + px(31), rect.right() - left - px(8), px(22))
            _text(painter, where, "missing", theme.sans(13, bold=True), theme.PROBLEM, right=True)
            return
        framing = session.document.framing(shot.id, session.master_id) if session.master_id else None
        figure, right, middle = self._ledger.rows.figure(shot), rect.right() - px(8), rect.top() + px(42)
        if framing is not None and framing.verdict != "open":
            stamp(
                painter, right, middle, framing.verdict, theme.ACCENT if framing.verdict == "agreed" else theme.PROBLEM
            )
        elif figure >= 40:
            pip(painter, right, middle, figure)
        if session.master is not None and session.played.is_played(shot, session.master):
            tick(painter, rect.right() - px(20), rect.top() + px(18), theme.SOFT)

    def _window(self, painter: QPainter, shown: QRect, shot: Shot) -> None:
        session = self._ledger.session
        master = session.master
        if master is None:
            return
        doc, size = session.document, picture_size(session.document, shot)
        at = pane_window(framed(doc, shot, master).panes[0], master, size, shot.frames // 2)
        painter.setClipRect(shown)
        painter.setPen(theme.line_of(doc.masters.index(master)).pen(1.6))
        scale = shown.width() / size.width
        painter.drawRect(
            QRectF(shown.left() + at.left * scale, shown.top() + at.top * scale, at.width * scale, at.height * scale)
        )
        painter.setClipping(False)


def _text(
    painter: QPainter, rect: QRect, text: str, font: object, colour: QColor = theme.INK, right: bool = False
) -> None:
    painter.setFont(font)  # type: ignore[arg-type]
    painter.setPen(colour)
    side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
    painter.drawText(rect, side | Qt.AlignmentFlag.AlignVCenter, text)


class _View(QListView):
    """A list that tells its delegate which rows are to be drawn; Qt asks for all that are in sight."""

    def __init__(self) -> None:
        super().__init__()
        self.drawn = QRect()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Leave digits to the window: rows are not searched for by typing."""
        if event is not None and pressed_digit(event) is not None:
            event.ignore()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if event is not None:
            self.drawn = event.rect()
            super().paintEvent(event)


class Ledger(QWidget):
    """The list of shots at the left of every stage."""

    chosen = pyqtSignal(int)  # the lock frame of the row

    def __init__(self, session: Desk) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(theme.px(238))
        self.session = session
        self._stills: Stills | None = None
        self.rows = _Rows(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(8, 2, 8, 0)
        self.order = QToolButton()
        self.filter = QToolButton()
        self.unplayed = QToolButton()
        for button, name in (
            (self.order, "Order of the ledger"), (self.filter, "Show only what needs a look"),
            (self.unplayed, "Show only what was not played since it changed"),
        ):  # fmt: skip
            button.setAutoRaise(True)
            button.setAccessibleName(name)
            button.setToolTip(name)
            button.setObjectName("head" if button is self.order else "filter")
        self.filter.setCheckable(True)
        self.unplayed.setCheckable(True)
        self.unplayed.clicked.connect(self._turn_unplayed)
        self.order.clicked.connect(self._turn_order)
        self.filter.clicked.connect(self._turn_filter)
        head.addWidget(self.order)
        head.addStretch(1)
        head.addWidget(self.filter)
        column.addLayout(head)
        second = QHBoxLayout()
        second.setContentsMargins(8, 0, 8, 2)
        second.addStretch(1)
        second.addWidget(self.unplayed)
        column.addLayout(second)
        line = QWidget()
        line.setFixedHeight(1)
        line.setObjectName("ruled")
        line.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column.addWidget(line)
        self._shows: tuple[object, ...] = ()
        self._framings: tuple[Framing, ...] = ()
        self.view = _View()
        self.view.setModel(self.rows)
        self.rows.look_changed.connect(self.view.update)
        self.view.setItemDelegate(_Delegate(self))
        self.view.setUniformItemSizes(True)
        self.view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.view.setAccessibleName("Ledger")
        selection = self.view.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self._tell_chosen())
        self.view.clicked.connect(lambda index: self.chosen.emit(frame_of_row(index.data(_SHOT))))
        column.addWidget(self.view, 1)
        session.played.changed.connect(self.refresh)
        session.document_changed.connect(self.refresh)
        session.opened.connect(self.refresh)
        session.master_changed.connect(self.refresh)
        session.shot_changed.connect(self._follow)
        session.frame_changed.connect(lambda _: self._follow() if self.rows.cuts else None)
        session.stage_changed.connect(lambda stage: self._set_cuts(stage == "Cuts"))
        self.refresh()

    def set_stills(self, stills: Stills | None) -> None:
        self._stills = stills
        if stills is not None:
            stills.arrived.connect(lambda *_: self.view.viewport().update())  # type: ignore[union-attr]

    def still(self, shot: Shot) -> QImage | None:
        return self._stills.thumb_near(shot.start, shot.end, (shot.start + shot.end) // 2) if self._stills else None

    @staticmethod
    def picture_box(image: QImage, box: QRect) -> QRect:
        """Where a picture of any shape stands in a box."""
        size = image.size().scaled(box.size(), Qt.AspectRatioMode.KeepAspectRatio)
        return QRect(
            box.left() + (box.width() - size.width()) // 2,
            box.top() + (box.height() - size.height()) // 2,
            size.width(),
            size.height(),
        )

    def refresh(self) -> None:
        session, rows, doc = self.session, self.rows, self.session.doc
        shows = (
            doc and doc.shots, doc and doc.masters, doc and doc.lock, doc and doc.passed, session.master_id,
            session.analysis, rows.cuts, rows.by_doubt, rows.only_doubtful, rows.only_unplayed, session.played.count,
        )  # fmt: skip
        framings = doc.framings if doc else ()
        same = len(self._shows) == len(shows) and all(a is b for a, b in zip(self._shows, shows, strict=True))
        if same and framings is self._framings:
            self._follow()  # opening a lock asks several times over for the same rows
            return
        before, self._framings, self._shows = self._framings, framings, shows
        if not (same and rows.reload_framings(before)):
            rows.reload()
        shots = len(self.session.doc.shots) if self.session.doc else 0
        what = f"{len(self.session.places)} found" if self.rows.cuts else f"{shots} shots"
        self.order.setText(f"{what}, by {'doubt' if self.rows.by_doubt else 'order'}")
        stage = "Cuts" if self.rows.cuts else "Framing"
        waiting = self.session.waiting(stage) if stage == "Cuts" else self.session.needing
        self.filter.setText(f"needs a look: {waiting or 0}")
        self.unplayed.setVisible(not self.rows.cuts and bool(self.session.doc and self.session.doc.framings))
        self.unplayed.setText(f"not played: {self.session.played.left}")
        self._follow()

    def _turn_order(self) -> None:
        self.rows.by_doubt = not self.rows.by_doubt
        self.refresh()

    def _turn_filter(self) -> None:
        self.rows.only_doubtful = self.filter.isChecked()
        self.refresh()

    def _turn_unplayed(self) -> None:
        self.rows.only_unplayed = self.unplayed.isChecked()
        self.refresh()

    def _set_cuts(self, cuts: bool) -> None:
        self.rows.cuts = cuts
        mode = QListView.SelectionMode
        several = cuts or self.session.stage == "Framing"
        self.view.setSelectionMode(mode.ExtendedSelection if several else mode.SingleSelection)
        self.refresh()

    def choose_all(self) -> None:
        """Choose every row that is listed."""
        if self.view.selectionMode() == QListView.SelectionMode.ExtendedSelection:
            self.view.selectAll()

    def _tell_chosen(self) -> None:
        rows = [index.data(_SHOT) for index in self.view.selectedIndexes()]
        shots = sorted((r for r in rows if isinstance(r, Shot)), key=lambda s: s.start)
        self.session.choose(tuple(s.id for s in shots))

    def chosen_places(self) -> list[CutPlace]:
        """The cuts that are chosen, where it is more than one."""
        rows = [index.data(_SHOT) for index in self.view.selectedIndexes()]
        places = [r for r in rows if isinstance(r, CutPlace)]
        return sorted(places, key=lambda p: p.frame) if len(places) > 1 else []

    def _follow(self) -> None:
        present: Row | None = self.session.place if self.rows.cuts else self.session.shot
        if len(self.view.selectedIndexes()) > 1:
            return  # several are chosen on purpose
        at = self.view.currentIndex().row()
        if (
            present is not None
            and 0 <= at < len(self.rows.rows)
            and self.view.selectedIndexes()
            and _identity(self.rows.rows[at]) == _identity(present)
        ):
            return
        for row, candidate in enumerate(self.rows.rows):
            if present is not None and _identity(candidate) == _identity(present):
                index = self.rows.index(row)
                if index != self.view.currentIndex() or not self.view.selectedIndexes():
                    self.view.setCurrentIndex(index)
                return
        self.view.clearSelection()
