"""The ledger: the list at the left of every stage."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QListView, QToolButton, QVBoxLayout, QWidget

from ezvar.app.kit import theme
from ezvar.app.session.session import Session
from ezvar.app.stages import Stage
from ezvar.app.viewer.pictures import Stills
from ezvar.core.model import CutPlace, Framing, Shot

from .drawing import RowDrawing, RowView
from .rows import ROW, CaptionRow, Row, Rows, frame_of_row, identity


class Ledger(QWidget):
    """The list of shots at the left of every stage."""

    chosen = pyqtSignal(int)  # the lock frame of the row

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(theme.px(238))
        self.session = session
        self.rows = Rows(session)
        self._shows: tuple[object, ...] = ()
        self._framings: tuple[Framing, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self._lay_out_head(column)
        self._lay_out_list(column)
        at, project = session.at, session.project
        for signal in (project.noted, project.changed, session.media.analysed, at.master_changed):
            signal.connect(self.refresh)
        at.shot_changed.connect(self._follow)
        at.frame_changed.connect(lambda _: self._follow() if self.rows.kind != "shots" else None)
        at.caption_changed.connect(self._follow)
        self.refresh()

    def _lay_out_head(self, column: QVBoxLayout) -> None:
        head, second = QHBoxLayout(), QHBoxLayout()
        head.setContentsMargins(8, 2, 8, 0)
        second.setContentsMargins(8, 0, 8, 2)
        self.order, self.filter, self.unplayed = QToolButton(), QToolButton(), QToolButton()
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
        second.addStretch(1)
        second.addWidget(self.unplayed)
        column.addLayout(head)
        column.addLayout(second)
        line = QWidget()
        line.setFixedHeight(1)
        line.setObjectName("ruled")
        line.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column.addWidget(line)

    def _lay_out_list(self, column: QVBoxLayout) -> None:
        self.view = RowView()
        self.view.setModel(self.rows)
        self.rows.look_changed.connect(self.view.update)
        self._drawing = RowDrawing(self.session, self.rows, self.view)
        self.view.setItemDelegate(self._drawing)
        self.view.setUniformItemSizes(True)
        self.view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.view.setAccessibleName("Ledger")
        selection = self.view.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self._tell_chosen())
        self.view.clicked.connect(lambda index: self._clicked(index.data(ROW)))
        column.addWidget(self.view, 1)

    def _clicked(self, row: Row) -> None:
        if isinstance(row, CaptionRow):
            (self.session.at.set_caption if row.number else self.session.at.set_title)(row.item)
        self.chosen.emit(frame_of_row(row))

    def set_stills(self, stills: Stills | None) -> None:
        self._drawing.stills = stills
        if stills is not None:
            stills.arrived.connect(lambda *_: self.view.viewport().update())  # type: ignore[union-attr]

    def refresh(self) -> None:
        session, rows, doc = self.session, self.rows, self.session.project.doc
        shows = (
            doc and doc.shots, doc and doc.masters, doc and doc.lock, doc and doc.passed, session.at.master_id,
            session.media.analysis, rows.kind, session.readings.caption_waits, doc and doc.tracks,
            doc and doc.titles, rows.by_doubt, rows.only_doubtful, rows.only_unplayed,
            session.played.count,
        )  # fmt: skip
        framings = doc.framings if doc else ()
        same = len(self._shows) == len(shows) and all(a is b for a, b in zip(self._shows, shows, strict=True))
        if same and framings is self._framings:
            self._follow()  # opening a lock asks several times over for the same rows
            return
        before, self._framings, self._shows = self._framings, framings, shows
        if not (same and rows.reload_framings(before)):
            rows.reload()
        what = self._what()
        readings, analysis = session.readings, session.media.analysis
        said = f"{what}, by {'doubt' if self.rows.by_doubt else 'order'}"
        if doc is not None and analysis is not None and analysis.known is not None:
            said = f"{100 * analysis.read // doc.lock.frames}\u00a0% read"
        self.order.setText(said)
        waiting = {
            "cuts": lambda: sum(p.waits for p in readings.cut_places), "shots": lambda: readings.waiting_here,
            "captions": lambda: readings.captions_waiting or 0,
        }[rows.kind]()  # fmt: skip
        self.filter.setText(f"{'to settle' if rows.kind == 'captions' else 'needs a look'}: {waiting}")
        self.unplayed.setVisible(
            self.rows.kind == "shots" and bool(self.session.project.doc and self.session.project.doc.framings)
        )
        self.unplayed.setText(f"not played: {self.session.played.left}")
        self._follow()

    def _what(self) -> str:
        """How many there are of what is listed."""
        doc = self.session.project.doc
        if self.rows.kind == "cuts":
            return f"{len(self.session.readings.cut_places)} found"
        if self.rows.kind == "captions":
            captions = sum(len(t.captions) for t in doc.tracks) if doc else 0
            return f"{captions + len(doc.titles)} texts" if doc and doc.titles else f"{captions} captions"
        return f"{len(doc.shots) if doc else 0} shots"

    def _turn_order(self) -> None:
        self.rows.by_doubt = not self.rows.by_doubt
        self.refresh()

    def _turn_filter(self) -> None:
        self.rows.only_doubtful = self.filter.isChecked()
        self.refresh()

    def _turn_unplayed(self) -> None:
        self.rows.only_unplayed = self.unplayed.isChecked()
        self.refresh()

    def show_stage(self, stage: Stage[Any]) -> None:
        """List what a stage works on; where it has a list of its own there is no ledger."""
        self.setVisible(stage.rows != "none")
        if stage.rows == "none":
            return
        self.rows.kind = stage.rows
        mode = QListView.SelectionMode
        self.view.setSelectionMode(mode.ExtendedSelection if stage.several else mode.SingleSelection)
        self.refresh()

    def choose_all(self) -> None:
        """Choose every row that is listed."""
        if self.view.selectionMode() == QListView.SelectionMode.ExtendedSelection:
            self.view.selectAll()

    def _tell_chosen(self) -> None:
        rows = [index.data(ROW) for index in self.view.selectedIndexes()]
        shots = sorted((r for r in rows if isinstance(r, Shot)), key=lambda s: s.start)
        self.session.at.choose(tuple(s.id for s in shots))
        self.session.at.choose_cuts(tuple(sorted((r for r in rows if isinstance(r, CutPlace)), key=lambda p: p.frame)))

    def _present(self) -> tuple[object, ...] | None:
        """What tells the row of what is worked on from all others."""
        session = self.session
        if self.rows.kind == "captions":
            if session.at.title is not None:
                return (session.at.title.id,)
            return (session.at.caption[1].id,) if session.at.caption else None
        row = session.readings.cut_place if self.rows.kind == "cuts" else session.at.shot
        return identity(row) if row is not None else None

    def _follow(self) -> None:
        present = self._present()
        if len(self.view.selectedIndexes()) > 1:
            return  # several are chosen on purpose
        at = self.view.currentIndex().row()
        if (
            present is not None
            and 0 <= at < len(self.rows.rows)
            and self.view.selectedIndexes()
            and identity(self.rows.rows[at]) == present
        ):
            return
        for row, candidate in enumerate(self.rows.rows):
            if present is not None and identity(candidate) == present:
                index = self.rows.index(row)
                if index != self.view.currentIndex() or not self.view.selectedIndexes():
                    self.view.setCurrentIndex(index)
                return
        self.view.clearSelection()
