"""The framing stage: the picture with its windows, the sweep chart, and what can be said of the framing."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QSplitter

from ezvar.app.session import Session
from ezvar.app.widgets.parts import label, rule
from ezvar.app.widgets.sweep import SweepChart
from ezvar.app.widgets.well import Well
from ezvar.core.framing import key_at, picture_size, sentences
from ezvar.core.problems import without_cuts

from .base import Stage

_DECIDED = {"solved": "Solved.", "by hand": "", "from a set-up": "From its set-up.", "from review": "From review."}


class FramingStage(Stage):
    """Where an editor puts windows right."""

    name = "Framing"

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
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
        self.agree = self.button("framing.agree", main=True)
        self.card.add(self._title, self._block, self._why, self._doubt, self.agree)
        self._buttons = [self.button(f"framing.{what}") for what in ("solve", "middle", "whole")]
        self.card.add(*self._buttons, rule())
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        self._values = {}
        for row, name in enumerate(("Centre", "Zoom", "Keyframes")):
            grid.addWidget(label(name, "soft"), row, 0)
            self._values[name] = label("", selectable=True)
            grid.addWidget(self._values[name], row, 1)
        grid.setColumnStretch(1, 1)
        self.card.column.addLayout(grid)
        self.card.add(
            rule(),
            label(
                "Drag the window in the picture, or its band in the chart below. "
                "Alt+Left and Alt+Right move it by keys.",
                "soft",
            ),
        )
        self.card.column.addStretch(1)

    def refresh(self) -> None:
        session = self.session
        shot, master, framing = session.shot, session.master, session.framing
        there = framing is not None
        self._block.setVisible(session.doc is not None and session.analysis is None and without_cuts(session.doc))
        for button in (self.agree, *self._buttons):
            button.setEnabled(there)
        if shot is None or master is None or framing is None:
            self._doubt.hide()
            self._title.setText("No framing yet")
            self._why.setText(
                "Open a movie and choose a master in the lock stage."
                if shot is None
                else "Choose a master in the lock stage."
            )
            for value in self._values.values():
                value.setText("")
            return
        place = session.document.place_of(shot.id) + 1
        self._title.setText(f"Shot {place} in {master.name}")
        said = " ".join(part for part in (framing.why, _DECIDED[framing.decided]) if part)
        if framing.verdict == "agreed":
            said += " Agreed."
        self._why.setText(said)
        figure = session.doubt_of(shot)
        if figure >= 10:
            self._doubt.setText(f"Doubt {figure}. " + " ".join(sentences(framing.reasons)[:3]))
        self._doubt.setVisible(figure >= 10)
        pane = framing.panes[0]
        key = key_at(pane, session.frame - shot.start)
        size = picture_size(session.document, shot)
        self._values["Centre"].setText(f"{key.cx * size.width:.1f} , {key.cy * size.height:.1f} px")
        self._values["Zoom"].setText(f"{key.zoom:.2f}" + ("   fills" if key.zoom == 1 else ""))
        self._values["Keyframes"].setText("1, it rests" if len(pane.keys) == 1 else str(len(pane.keys)))
