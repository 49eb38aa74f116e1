"""The framing stage: the picture with its windows, the sweep chart, and what can be said of the framing."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QSplitter

from ezvar.app.background.desk import Desk
from ezvar.app.kit.controls import label, pair, rule
from ezvar.app.kit.keymap import shown
from ezvar.app.viewer.well import Well
from ezvar.core.framing import sentences
from ezvar.core.problems import without_cuts

from ..base import Stage
from .card_parts import Asks, Facts, Subjects, Values, Versions
from .sweep import SweepChart

_DECIDED = {"solved": "Solved.", "by hand": "", "from a set-up": "From its set-up.", "from review": "From review."}
_OFFERS = 3


class FramingStage(Stage):
    """Where an editor puts windows right."""

    name = "Framing"

    def __init__(self, session: Desk, run: Callable[[str], object]) -> None:
        super().__init__(session, run)
        self.well = Well(session)
        self.sweep = SweepChart(session)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setObjectName("well")
        split.setChildrenCollapsible(False)
        split.setHandleWidth(5)
        split.addWidget(self.well)
        split.addWidget(self.sweep)
        split.setStretchFactor(0, 1)
        split.setStretchFactor(1, 0)
        self.middle = split
        self._title = label("", "title")
        self._why = label("", "soft")
        self._doubt = label("", "doubt")
        self._block = label(
            "The cuts of this movie are not found yet: it would be framed as one block. "
            "Find them in the cuts stage first.",
            "doubt",
        )
        self._many = label("", "heading")
        self.agree = self.button("framing.agree", main=True)
        self.offers = [self.button(f"framing.offer_{n + 1}") for n in range(_OFFERS)]
        self.card.add(self._title, self._block, self._many, self._why, self._doubt, *self.offers, self.agree)
        self.subjects = Subjects(session, run)
        self.asks = Asks(session, run)
        self.values = Values(session)
        self.versions = Versions(session, run)
        self.facts = Facts(session)
        ways: list[QPushButton] = [
            self.button(f"framing.{what}", title=title)
            for what, title in (
                ("solve", "Solved"), ("static", "Static"), ("middle", "Middle"), ("whole", "Whole"),
                ("both", "Both"), ("panes", "Panes"),
            )
        ]  # fmt: skip
        self._buttons = [*ways, self.button("framing.share")]
        self.card.add(
            self.subjects, pair(*ways), rule(), self.asks, self._buttons[-1], rule(), self.values, rule()
        )  # fmt: skip
        self._setup = label("", "soft")
        self.give = self.button("framing.give")
        self.card.add(self._setup, self.give, self.versions, rule(), self.facts)
        self.card.column.addStretch(1)
        session.insight.ready.connect(self.refresh)
        session.chosen_changed.connect(self.refresh)
        session.played.changed.connect(self.refresh)

    def refresh(self) -> None:
        session = self.session
        shot, master, framing = session.shot, session.master, session.framing
        there = framing is not None
        self._block.setVisible(session.doc is not None and session.analysis is None and without_cuts(session.doc))
        for button in (self.agree, *self._buttons):
            button.setEnabled(there)
        for part in (self.subjects, self.asks, self.values, self.versions, self.facts):
            part.setVisible(there)
            if there and session.stage == self.name:
                part.refresh()
        if shot is None or master is None or framing is None:
            for widget in (self._doubt, self._many, self._setup, self.give, *self.offers):
                widget.hide()
            self._title.setText("No framing yet")
            self._why.setText(
                "Open a movie and choose a master in the lock stage."
                if shot is None
                else "Choose a master in the lock stage."
            )
            return
        place = session.document.place_of(shot.id) + 1
        self._title.setText(f"Shot {place} in {master.name}")
        played = "" if session.played.is_played(shot, master) else "Not played since it changed."
        agreed = "Agreed." if framing.verdict == "agreed" else ""
        self._why.setText(" ".join(p for p in (framing.why, _DECIDED[framing.decided], agreed, played) if p))
        figure = session.doubt_of(shot)
        if figure >= 10:
            self._doubt.setText(f"Doubt {figure}. " + " ".join(sentences(framing.reasons)[:3]))
        self._doubt.setVisible(figure >= 10)
        self._show_offers(figure)
        chosen = len(session.chosen)
        self._many.setText(f"{chosen} shots are chosen: what you do is done to all of them.")
        self._many.setVisible(chosen > 1)
        self._show_setup(shot.id)

    def moved(self) -> None:
        if self.session.framing is not None:
            self.values.refresh()
            if not self.session.playing:
                self.subjects.refresh()

    def _show_offers(self, figure: int) -> None:
        offers = self.session.insight.known.offers if figure >= 10 else ()
        for k, button in enumerate(self.offers):
            button.setVisible(k < len(offers))
            if k < len(offers):
                button.setText(offers[k].title)
                button.setAccessibleName(offers[k].title)
                button.setToolTip(f"{offers[k].title} ({shown(button.key)})")

    def _show_setup(self, shot: str) -> None:
        group = self.session.insight.setup
        others = [str(self.session.document.place_of(s) + 1) for s in group if s != shot]
        self._setup.setText(f"Same camera position as shot{'s' if len(others) > 1 else ''} {', '.join(others)}.")
        self._setup.setVisible(bool(others))
        self.give.setVisible(bool(others))
