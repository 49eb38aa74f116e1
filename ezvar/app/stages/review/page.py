"""The review stage: every shot in every master, its verdict and notes, and decisions going out and coming back."""

from __future__ import annotations

from collections import Counter
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QWidget

from ezvar.app.commands import Workbench
from ezvar.app.kit.controls import label, pair, paper, rule
from ezvar.app.viewer.made_pictures import made_pictures
from ezvar.app.viewer.pictures import Viewer
from ezvar.core.framing import NEEDS_A_LOOK, sentences
from ezvar.core.model import doubt
from ezvar.core.review import overlap
from ezvar.demo import DEMO_PROJECT

from ..stage import Page
from . import commands
from .board import LISTED, Board
from .commands import ReviewTools
from .large import Large
from .notes_part import NotesPart


class ReviewPage(Page[ReviewTools]):
    """Decisions out to the team, and back in."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        exchange = self.desk.exchange
        self.board, self.large, self.notes = Board(self.desk, exchange), Large(self.desk), NotesPart(self.desk)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.board)
        self.stack.addWidget(self.large)
        self._counted: tuple[object, frozenset[tuple[str, str]]] | None = None
        self.tools = ReviewTools(bench, exchange, self.board, self.notes, self.stack)
        self.middle, column = paper((0, 0, 0, 0), 0)
        self.filters = {listed: QPushButton(said) for listed, said in LISTED.items()}
        row = QWidget()
        choices = QHBoxLayout(row)
        choices.setContentsMargins(16, 6, 16, 2)
        choices.setSpacing(6)
        for listed, button in self.filters.items():
            button.setCheckable(True)
            button.setObjectName("filter")
            button.clicked.connect(partial(self.board.rows.list, listed))
            choices.addWidget(button)
        choices.addStretch(1)
        column.addWidget(row)
        self._counts = label("", "soft")
        self._counts.setContentsMargins(16, 2, 16, 6)
        column.addWidget(self._counts)
        column.addWidget(self.stack, 1)
        self._title, self._why = label("", "title"), label("", "soft")
        verdicts = pair(
            self.button(commands.say_agreed), self.button(commands.say_change),
            self.button(commands.say_open, said="Open"), self.button(commands.enlarge, said="Large"),
        )  # fmt: skip
        self.result = label("")
        self._differs = label("", "doubt")
        self._offer = label("", "doubt")
        self.offered = [self.button(commands.take_offered), self.button(commands.leave_offered)]
        self.ways = [self.button(way) for way in (commands.take_theirs, commands.keep_ours, commands.go_halfway)]
        self._next = self.button(commands.next_differing)
        self._below = rule()
        self.card.add(
            self._offer, *self.offered, self._title, self._why, self._differs, *self.ways, self._below, self.notes,
            rule(), verdicts, self.button(commands.show_history), rule(), self.result,
            self._next,
        )  # fmt: skip
        self.card.column.addStretch(1)
        self._sharing = [self.button(commands.share_decided), self.button(commands.ask_reviewer)]
        self.card.add(*self._sharing, self.button(commands.take), self.button(commands.write_handoff, main=True))
        self.board.rows.listed_changed.connect(self.refresh)
        exchange.taken.connect(self._show_taken)
        exchange.differs_changed.connect(self.refresh)
        exchange.files_named.connect(partial(commands.ask_about_files, self.tools))
        self.desk.incoming.offers_changed.connect(self._offers_changed)
        self.stack.currentChanged.connect(lambda _: self.large.ask())

    def _offers_changed(self) -> None:
        """Say what came into the shared folder, in whatever stage somebody is."""
        offers = self.desk.incoming.offers
        if offers and not self.is_shown:
            self.session.messages.say(f"{offers[-1].said} It is offered in the review stage.")
        self.refresh()

    def _show_offer(self) -> None:
        """Show what came into the shared folder, the first of it."""
        offers = self.desk.incoming.offers
        for widget in (self._offer, *self.offered):
            widget.setVisible(bool(offers))
        shares, reviewer = self._sharing
        shares.setVisible(bool(self.desk.incoming.folder))
        reviewer.setVisible(bool(self.desk.incoming.folder) or self._is_demo())
        if offers:
            more = f" {len(offers) - 1} more wait." if len(offers) > 1 else ""
            self._offer.setText(f"{offers[0].said}{more}")

    def _is_demo(self) -> bool:
        doc = self.session.project.doc
        return doc is not None and any(DEMO_PROJECT.parent in Path(m.path).parents for m in doc.lock.media)

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

    def set_viewer(self, viewer: Viewer | None) -> None:
        self.board.set_pictures(made_pictures(self.session) if viewer is not None else None)
        self.large.set_viewer(viewer)

    def moved(self) -> None:
        """Nothing here depends on the frame but the large picture, which follows the playhead by itself."""

    def refresh(self) -> None:
        session, doc, rows = self.session, self.session.project.doc, self.board.rows
        if not self.is_shown:
            return
        rows.refresh()
        self._show_counts()
        self.board.redraw()
        self.notes.refresh()
        self._show_differing()
        self._show_offer()
        shot, master, framing = session.at.shot, session.at.master, session.at.framing
        if doc is None or shot is None or master is None or framing is None:
            self._title.setText("Nothing to review yet")
            self._why.setText("Open a movie and choose a master in the lock stage.")
            return
        row = rows.shots.index(shot.id)
        if self.board.currentIndex().row() != row:
            self.board.setCurrentIndex(rows.index(row))
        self._title.setText(f"Shot {doc.place_of(shot.id) + 1} in {master.name}")
        said = f"Verdict: {framing.verdict}. {framing.why}"
        if doubt(framing.reasons) >= NEEDS_A_LOOK:
            said += " " + " ".join(sentences(framing.reasons)[:2])
        self._why.setText(said)

    def _show_counts(self) -> None:
        """How many shots each choice lists, and what is said of each master; counted where something has changed."""
        doc, rows, differing = self.session.project.doc, self.board.rows, frozenset(self.tools.exchange.differing)
        for listed, button in self.filters.items():
            button.setChecked(listed == rows.listed)
        if self._counted is not None and self._counted[0] is doc and self._counted[1] == differing:
            return
        self._counted = doc, differing
        for listed, count in rows.counts().items():
            self.filters[listed].setText(f"{LISTED[listed]} {count}")
        self.filters["differs"].setVisible(bool(differing))
        parts = []
        for each in doc.masters if doc is not None else ():
            verdicts = Counter(f.verdict for f in doc.framings if f.master == each.id) if doc is not None else Counter()
            counted = [f"{verdicts[v]} {v}" for v in ("agreed", "change", "open") if verdicts[v]]
            parts.append(f"{each.name}   {' · '.join(counted)}")
        self._counts.setText("          ".join(parts))
