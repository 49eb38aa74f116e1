"""The framing stage: the picture with its windows, the sweep chart, and what can be said of the framing."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QSplitter

from ezvar.app.commands import Workbench
from ezvar.app.kit.controls import label, pair, rule
from ezvar.app.kit.keymap import shown
from ezvar.app.viewer.pictures import Viewer
from ezvar.app.viewer.well import Well
from ezvar.core.framing import NEEDS_A_LOOK, WORTH_SAYING, sentences
from ezvar.core.problems import without_cuts

from ..stage import Page
from .card_parts import Asks, Facts, Subjects, Values, Versions
from .commands import ways
from .commands.several import give
from .commands.subjects import take_offer, title_anew
from .sweep import SweepChart
from .tools import FramingTools

_DECIDED = {"solved": "Solved.", "by hand": "", "from a set-up": "From its set-up.", "from review": "From review."}


class FramingPage(Page[FramingTools]):
    """Where an editor puts windows right."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        session, desk = self.session, self.desk
        self.well = Well(desk)
        self.sweep = SweepChart(desk)
        tools = self.tools = FramingTools(bench, self.well, self.sweep)
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
        self._doubt, self._slight = label("", "doubt"), label("", "soft")
        self._block = label(
            "The cuts of this movie are not found yet: it would be framed as one block. "
            "Find them in the cuts stage first.",
            "doubt",
        )
        self._many = label("", "heading")
        self.agree = self.button(ways.agree, main=True)
        self.offers = [self.button(offer) for offer in take_offer]
        self._anew = self.button(title_anew)
        self.card.add(
            self._title, self._block, self._many, self._why, self._doubt, self._slight, *self.offers, self._anew,
            self.agree,
        )  # fmt: skip
        self.subjects = Subjects(tools)
        self.asks = Asks(tools)
        self.values = Values(desk)
        self.versions = Versions(tools)
        self.facts = Facts(desk)
        plain = (
            self.button(ways.back_to_solved, said="Solved"), self.button(ways.best_static, said="Static"),
            self.button(ways.to_the_middle, said="Middle"), self.button(ways.show_whole, said="Whole"),
            self.button(ways.keep_both_subjects, said="Both"), self.button(ways.both_in_panes, said="Panes"),
        )  # fmt: skip
        self.card.add(
            self.subjects, pair(*plain), rule(), self.asks, self.button(ways.show_panes_dialog), rule(), self.values,
            rule(),
        )  # fmt: skip
        self._setup = label("", "soft")
        self.give = self.button(give)
        self.card.add(self._setup, self.give, self.versions, rule(), self.facts)
        self.card.column.addStretch(1)
        desk.of_shot.ready.connect(self.refresh)
        session.at.chosen_changed.connect(self.refresh)
        session.project.noted.connect(self.refresh)

    def set_viewer(self, viewer: Viewer | None) -> None:
        self.well.set_viewer(viewer)

    def refresh(self) -> None:
        session = self.session
        shot, master, framing = session.at.shot, session.at.master, session.at.framing
        there = framing is not None
        self._block.setVisible(
            session.project.doc is not None and session.media.analysis is None and without_cuts(session.project.doc)
        )
        for part in (self.subjects, self.asks, self.values, self.versions, self.facts):
            part.setVisible(there)
            if there and self.is_shown:
                part.refresh()
        if shot is None or master is None or framing is None:
            for widget in (self._doubt, self._slight, self._many, self._setup, self.give, self._anew, *self.offers):
                widget.hide()
            self._title.setText("No framing yet")
            self._why.setText(
                "Open a movie and choose a master in the lock stage."
                if shot is None
                else "Choose a master in the lock stage."
            )
            return
        place = session.project.document.place_of(shot.id) + 1
        self._title.setText(f"Shot {place} in {master.name}")
        played = "" if session.played.is_played(shot, master) else "Not played since it changed."
        agreed = "Agreed." if framing.verdict == "agreed" else ""
        self._why.setText(" ".join(p for p in (framing.why, _DECIDED[framing.decided], agreed, played) if p))
        figure = session.readings.doubt_of(shot)
        said = f"Doubt {figure}. " + " ".join(sentences(framing.reasons)[:3])
        self._doubt.setText(said)
        self._slight.setText(said)
        self._doubt.setVisible(figure >= NEEDS_A_LOOK)
        self._slight.setVisible(WORTH_SAYING <= figure < NEEDS_A_LOOK)
        self._show_offers(figure)
        chosen = len(session.at.chosen)
        self._many.setText(f"{chosen} shots are chosen: what you do is done to all of them.")
        self._many.setVisible(chosen > 1)
        self._show_setup(shot.id)

    def moved(self) -> None:
        if self.session.at.framing is not None:
            self.values.refresh()
            if not self.session.at.playing:
                self.subjects.refresh()

    def _show_offers(self, figure: int) -> None:
        offers = self.desk.of_shot.known.offers if figure >= WORTH_SAYING else ()
        self._anew.setVisible(figure >= WORTH_SAYING and title_anew.when(self.tools))
        for k, button in enumerate(self.offers):
            button.setVisible(k < len(offers))
            if k < len(offers):
                button.setText(offers[k].title)
                button.setAccessibleName(offers[k].title)
                button.setToolTip(f"{offers[k].title} ({shown(button.key)})")

    def _show_setup(self, shot: str) -> None:
        group = self.desk.of_shot.setup
        others = [str(self.session.project.document.place_of(s) + 1) for s in group if s != shot]
        self._setup.setText(f"Same camera position as shot{'s' if len(others) > 1 else ''} {', '.join(others)}.")
        self._setup.setVisible(bool(others))
        self.give.setVisible(bool(others))
