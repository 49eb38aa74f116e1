"""The review stage: every shot in every master, its verdict, and decisions going out and coming back."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QAbstractListModel, QEvent, QModelIndex, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ezvar.app.commands import Workbench
from ezvar.app.kit import theme
from ezvar.app.kit.controls import label, paper, pip, rule, stamp
from ezvar.app.session.jobs import later
from ezvar.app.session.session import Session
from ezvar.app.viewer.made_pictures import MadePictures, made_pictures, wanted_picture
from ezvar.app.viewer.pictures import Viewer
from ezvar.app.viewer.well_drawing import scaled
from ezvar.core.framing import NEEDS_A_LOOK, framed, sentences
from ezvar.core.model import Framing, Master, Shot, doubt
from ezvar.core.review import overlap, seen_from_ours

from ..stage import Page
from . import commands
from .commands import ReviewTools
from .exchange import Exchange

_HIGH = 150
_NUMBER = 46


class _Shots(QAbstractListModel):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self._session.project.doc.shots) if self._session.project.doc else 0

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.AccessibleTextRole:
            doc = self._session.project.document
            shot = doc.shots[index.row()]
            said = [f"{m.name} {f.verdict}" for m in doc.masters if (f := doc.framing(shot.id, m.id))]
            return f"Shot {index.row() + 1}: {', '.join(said)}"
        return None


class _Cells(QStyledItemDelegate):
    """Draws a shot's row: its result in each master, with the verdict beside it."""

    def __init__(self, stage: ReviewPage) -> None:
        super().__init__(stage.view)
        self._stage = stage

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(300, _HIGH)

    def cell(self, rect: QRect, place: int) -> QRectF:
        masters = max(1, len(self._stage.session.project.document.masters))
        wide = (rect.width() - _NUMBER) / masters
        return QRectF(rect.left() + _NUMBER + place * wide, rect.top(), wide, rect.height())

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        session = self._stage.session
        doc, shot, rect = session.project.document, session.project.document.shots[index.row()], option.rect
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
            str(index.row() + 1),
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
        """A small result: the shot's middle, as it will be made."""
        session = self._stage.session
        doc = session.project.document
        width = min((_HIGH - 18) * master.width / master.height, cell.width() - 100)
        height = width * master.height / master.width
        box = QRectF(cell.left() + 8, cell.center().y() - height / 2, width, height)
        painter.fillRect(box, theme.WELL_EMPTY)
        framing = framed(doc, shot, master)
        if self._stage.pictures is not None:
            size_on_screen = (box.size() * self._stage.view.devicePixelRatioF()).toSize()
            frame = (shot.start + shot.end) // 2
            image = self._stage.pictures.get(wanted_picture(doc, master, frame, size_on_screen))
            if image is not None:
                image.setDevicePixelRatio(self._stage.view.devicePixelRatioF())
                painter.drawImage(box.topLeft(), image)
        right, foot = box.right() + 84, box.bottom() - 10
        theirs = self._stage.tools.exchange.differing.get((shot.id, master.id))
        if theirs is not None:
            self._their_window(painter, box, framing, theirs, shot.frames // 2)
            painter.setFont(theme.sans(13))
            painter.setPen(theme.PROBLEM)
            differs = QRectF(box.right() + 10, box.top() + 4, 90, 20)
            painter.drawText(differs, Qt.AlignmentFlag.AlignVCenter, "theirs differs")
        figure = doubt(framing.reasons)
        if framing.verdict != "open":
            stamp(
                painter,
                right - 6,
                foot,
                framing.verdict,
                theme.ACCENT if framing.verdict == "agreed" else theme.PROBLEM,
            )
            return
        painter.setFont(theme.sans(13))
        painter.setPen(theme.SOFT)
        painter.drawText(QRectF(box.right() + 10, foot - 10, 60, 20), Qt.AlignmentFlag.AlignVCenter, "open")
        if figure >= NEEDS_A_LOOK:
            pip(painter, box.right() + 40, foot - 24, figure)

    def _their_window(self, painter: QPainter, box: QRectF, ours: Framing, theirs: Framing, frame: int) -> None:
        """Their window, dashed, over our result."""
        place = seen_from_ours(self._stage.session.project.document, ours, theirs, frame)
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
            for place, master in enumerate(self._stage.session.project.document.masters):
                if self.cell(option.rect, place).contains(event.position()):
                    self._stage.session.at.set_master(master.id)
        return False


class ReviewPage(Page[ReviewTools]):
    """Decisions out as timelines, and back in."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        session = self.session
        self.tools = ReviewTools(bench, Exchange(session))
        self.pictures: MadePictures | None = None
        self.middle, column = paper((0, 0, 0, 0), 0)
        self._counts = label("", "soft")
        self._counts.setContentsMargins(16, 8, 16, 8)
        column.addWidget(self._counts)
        self.view = QListView()
        self.view.setAccessibleName("Shots and masters in review")
        self.model = _Shots(session)
        self.view.setModel(self.model)
        self.view.setUniformItemSizes(True)
        self.view.setItemDelegate(_Cells(self))
        self.view.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.view.setObjectName("paper")
        self.view.clicked.connect(lambda index: session.at.go_to_shot(session.project.document.shots[index.row()]))
        column.addWidget(self.view, 1)
        self._title = label("", "title")
        self._why = label("", "soft")
        verdicts = (self.button(commands.say_agreed), self.button(commands.say_change), self.button(commands.say_open))
        self.result = label("")
        self._differs = label("", "doubt")
        self.ways = [self.button(way) for way in (commands.take_theirs, commands.keep_ours, commands.go_halfway)]
        self._next = self.button(commands.next_differing)
        self._below = rule()
        self.card.add(
            self._title, self._why, self._differs, *self.ways, self._below, *verdicts, rule(), self.result, self._next
        )
        self.card.column.addStretch(1)
        self.card.add(self.button(commands.take), self.button(commands.write_handoff, main=True))
        self._shown: object = None
        self.tools.exchange.taken.connect(self._show_taken)
        self.tools.exchange.differs_changed.connect(self._show_differing)
        self.tools.exchange.files_named.connect(partial(commands.ask_about_files, self.tools))

    def _show_taken(self, said: str) -> None:
        self.result.setText(said)
        self.show()

    def _show_differing(self) -> None:
        """Show whether a return differs here, how far, and what can be done about it."""
        exchange, ours = self.tools.exchange, self.session.at.framing
        theirs = exchange.theirs
        for widget in (self._differs, *self.ways, self._below):
            widget.setVisible(theirs is not None)
        self._next.setVisible(bool(exchange.differing))
        if ours is not None and theirs is not None:
            share = round(100 * overlap(self.session.project.document, ours, theirs))
            moves = "moves" if len(theirs.panes[0].keys) > 1 else "rests"
            said = f"A return differs: windows overlap by {share} %. Theirs {moves}"
            self._differs.setText(f"{said}, and says “{theirs.verdict}”." if theirs.verdict != "open" else f"{said}.")
        self._redraw()

    def set_viewer(self, viewer: Viewer | None) -> None:
        if self.pictures is not None:
            self.pictures.close()
        self.pictures = made_pictures(self.session) if viewer is not None else None
        if self.pictures is not None:
            later(self.pictures.arrived, self._redraw)

    def _redraw(self) -> None:
        self.view.viewport().update()  # type: ignore[union-attr]

    def refresh(self) -> None:
        session, doc = self.session, self.session.project.doc
        if self._shown is not (doc.shots if doc else None):
            self._shown = doc.shots if doc else None
            self.model.beginResetModel()
            self.model.endResetModel()
        self.view.viewport().update()  # type: ignore[union-attr]
        shot, master, framing = session.at.shot, session.at.master, session.at.framing
        if doc is None or shot is None or master is None or framing is None:
            self._title.setText("Nothing to review yet")
            self._why.setText("Open a movie and choose a master in the lock stage.")
            self._counts.setText("")
            self._show_differing()
            return
        row = doc.place_of(shot.id)
        if self.view.currentIndex().row() != row:
            self.view.setCurrentIndex(self.model.index(row))
        self._title.setText(f"Shot {row + 1} in {master.name}")
        said = f"Verdict: {framing.verdict}. {framing.why}"
        if doubt(framing.reasons) >= NEEDS_A_LOOK:
            said += " " + " ".join(sentences(framing.reasons)[:2])
        self._why.setText(said)
        self._show_differing()
        parts = []
        for each in doc.masters:
            verdicts = [f.verdict for s in doc.shots if (f := doc.framing(s.id, each.id))]
            counted = [f"{verdicts.count(v)} {v}" for v in ("agreed", "change", "open") if v in verdicts]
            parts.append(f"{each.name}   {' · '.join(counted)}")
        self._counts.setText("          ".join(parts))
