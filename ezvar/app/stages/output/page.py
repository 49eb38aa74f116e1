"""The output stage: the list of movies, what still waits before they are made, and what their check says."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ezvar.app.commands import Workbench
from ezvar.app.kit import theme
from ezvar.app.kit.controls import clear, keyed, label, paper
from ezvar.app.viewer.made_pictures import made_pictures
from ezvar.app.viewer.pictures import Viewer
from ezvar.core.output import Concern, coming_said

from ..stage import Page
from . import commands
from .card import RowCard
from .commands import OutputTools
from .rows_view import RowsView

_MOST = 40  # things that wait, of which each has a line
_WAITING_HIGH = 122
_COUNTED = {"moved on": "to be made again", "failed": "could not be made", "stopped": "not finished"}
_COMING = ("not made", "waits")  # of which it is told what they will come to


class OutputPage(Page[OutputTools]):
    """Making the finished movies."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self.making, self.before = self.desk.making, self.desk.before_making
        self.view = RowsView(self.session, self.making, self.desk.expecting)
        self.tools = OutputTools(bench, self.making, self.view, self.show)
        self.middle, column = paper((0, 14, 0, 8), 8)
        head = QHBoxLayout()
        head.setContentsMargins(24, 0, 24, 0)
        self._counts = label("", "soft")
        title = label("To be made", "title")
        title.setWordWrap(False)
        head.addWidget(title)
        head.addSpacing(18)
        head.addWidget(self._counts, 1)
        column.addLayout(head)
        self._unfinished = QWidget()
        offered = QHBoxLayout(self._unfinished)
        offered.setContentsMargins(24, 0, 24, 0)
        offered.addWidget(self.button(commands.go_on))
        column.addWidget(self._unfinished)
        self._empty = label("There is no master yet. Choose the shapes to deliver in the lock stage.", "soft")
        self._empty.setContentsMargins(24, 0, 24, 0)
        column.addWidget(self._empty)
        column.addWidget(self.view, 1)
        self._waiting, waits = QWidget(), QVBoxLayout()
        self._waiting.setLayout(waits)
        waits.setContentsMargins(24, 4, 24, 0)
        waits.setSpacing(4)
        self._waiting_head = label("Before making", "heading")
        waits.addWidget(self._waiting_head)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFixedHeight(_WAITING_HIGH)
        sheet, self._lines = paper((0, 0, 0, 0), 2)
        area.setWidget(sheet)
        waits.addWidget(area)
        column.addWidget(self._waiting)
        self.row_card = RowCard(self.session, self.making, lambda: self.view.chosen)
        about = QScrollArea()  # the buttons below it stay in sight, however much is said
        about.setWidgetResizable(True)
        about.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        about.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        about.setWidget(self.row_card)
        self.card.column.addWidget(about, 1)
        for command, main in ((commands.make_all, True), (commands.make, False), (commands.stop, False)):
            self.card.add(self.button(command, main=main))
        self._send = self.button(commands.send_it)
        self.card.add(self._send)
        self._told: tuple[Concern, ...] | None = None
        self.making.changed.connect(self.refresh)
        self.before.changed.connect(self.refresh)
        self.desk.expecting.changed.connect(self.refresh)
        self.desk.sending.changed.connect(self.refresh)
        self.view.chosen_changed.connect(self.row_card.refresh)
        self.view.chosen_changed.connect(self._offer_sending)
        self.view.chosen_changed.connect(bench.can_do_other_things)

    def set_viewer(self, viewer: Viewer | None) -> None:
        self.view.set_pictures(made_pictures(self.session) if viewer is not None else None)

    def choose_all(self) -> bool:
        self.view.selectAll()
        return True

    def moved(self) -> None:
        """Nothing here depends on the frame."""

    def entered(self) -> None:
        self.before.look()

    def refresh(self) -> None:
        if not self.is_shown:
            return
        self.view.refresh()
        self.row_card.refresh()
        self._offer_sending()
        rows, looks = self.view.rows.rows, self.view.rows.looks
        self._empty.setVisible(not rows)
        self.view.setVisible(bool(rows))
        counted = [f"{len(rows)} movie{'s' if len(rows) != 1 else ''}"] if rows else []
        for state in ("checked", "moved on", "failed the check", "failed", "stopped"):
            if count := sum(look.state == state for look in looks):
                counted.append(f"{count} {_COUNTED.get(state, state)}")
        job = next((job for row in rows if (job := self.making.job_of(row.id)) is not None), None)
        if job is None:
            coming = [
                self.desk.expecting.of(row) for row, look in zip(rows, looks, strict=True) if look.state in _COMING
            ]
            if said := coming_said(coming):
                counted.append(said)
        else:
            counted.append(f"{job.message.lower()}, {job.fraction:.0%} {job.time_left()}".replace("%", " %").strip())
        self._counts.setText(" · ".join(counted))
        self._unfinished.setVisible(bool(self.making.unfinished()))
        self.before.look()
        self.desk.expecting.ask()
        self._show_waiting()

    def _offer_sending(self) -> None:
        """Show the button where somebody is to take the chosen movies."""
        self._send.setVisible(any(row.receiver is not None for row in self.view.chosen))

    def _show_waiting(self) -> None:
        concerns = self.before.concerns
        if concerns is self._told:
            return
        self._told = concerns
        clear(self._lines)
        self._waiting.setVisible(bool(concerns))
        for concern in concerns[:_MOST]:
            self._lines.addWidget(self._line(concern))
        if len(concerns) > _MOST:
            self._lines.addWidget(label(f"and {len(concerns) - _MOST} more", "soft"))
        self._lines.addStretch(1)

    def _line(self, concern: Concern) -> QWidget:
        whole = QWidget()
        line = QHBoxLayout(whole)
        line.setContentsMargins(0, 0, 0, 0)
        said = label(concern.said)
        said.setMinimumWidth(theme.px(240))
        go = QPushButton("Go there")
        go.setObjectName("quiet")
        go.setAccessibleName(f"Go there: {concern.said}")
        keyed(go)
        go.clicked.connect(partial(self._go, concern))
        line.addWidget(said, 2)
        line.addWidget(go)
        line.addStretch(3)
        return whole

    def _go(self, concern: Concern) -> None:
        at = self.session.at
        at.set_stage(concern.where)
        if concern.master:
            at.set_master(concern.master)
        at.go(concern.frame)
