"""The cuts stage: what is known of the cut at the playhead, and what can be done with it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QSlider

from ezvar.app.commands import Workbench
from ezvar.app.kit.controls import label, rule
from ezvar.app.viewer.pictures import Stills

from ..stage import Page
from . import commands
from .commands import CutTools
from .cut_view import CutView

_SENSITIVITY = (
    (-1.0, "Only what is plain: long calm shots, hard light changes."),
    (-0.6, "Rather few: may miss cuts inside one set-up."),
    (-0.2, "Middle: finds cuts inside one set-up, asks about flashes."),
    (0.4, "Rather many: also faint changes, to be dropped by hand."),
)


class CutsPage(Page[CutTools]):
    """Settling the cuts."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self.tools = CutTools(bench)
        self.middle = self.view = CutView(self.session)
        self._title = label("", "title")
        self._what = label("", "soft")
        self._doubt = label("", "doubt")
        self.card.add(
            self._title, self._what, self._doubt,
            self.button(commands.keep, main=True), self.button(commands.remove),
            self.button(commands.move_earlier, said="One frame earlier"),
            self.button(commands.move_later, said="One frame later"),
            rule(),
        )  # fmt: skip
        self._here = label("", "soft")
        self.card.add(self._here, self.button(commands.cut_here), rule(), label("Sensitivity", "heading"))
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(-10, 10)
        self.slider.setPageStep(5)
        self.slider.setAccessibleName("Sensitivity of the search for cuts")
        self.slider.valueChanged.connect(self._say_sensitivity)
        self._sensitive = label("", "soft")
        self.card.add(
            self.slider, self._sensitive, self.button(commands.find_cuts), self.button(commands.find_cuts_in_shot)
        )
        self.card.column.addStretch(1)
        self._say_sensitivity()

    def _say_sensitivity(self) -> None:
        self.tools.sensitivity = self.slider.value() / 10
        known = [words for at, words in _SENSITIVITY if self.tools.sensitivity >= at or at == -1.0]
        self._sensitive.setText(known[-1])

    def entered(self) -> None:
        """Show the first cut that waits, or the first there is, where the playhead stands at none."""
        places = self.session.readings.cut_places
        if self.session.readings.cut_place is None and places:
            self.session.at.go(next((p for p in places if p.waits), places[0]).frame)

    def to_next_waiting(self) -> None:
        """Go to the next cut that needs a look, round the end."""
        waiting = [p for p in self.session.readings.cut_places if p.waits]
        if waiting:
            self.bench.player.stop()
            at = self.session.at
            at.go(next((p for p in waiting if p.frame > at.frame), waiting[0]).frame)
        else:
            self.session.messages.say("Every cut is settled.")

    def set_stills(self, stills: Stills | None) -> None:
        self.view.set_stills(stills)

    def refresh(self) -> None:
        self.view.update()
        session, place = self.session, self.session.readings.cut_place
        self._doubt.setVisible(False)
        if session.project.doc is None or session.at.shot is None:
            self._title.setText("No lock yet")
            self._what.setText("Open a movie or a timeline in the lock stage.")
            self._here.setText("")
            return
        self._here.setText(f"The playhead stands at {session.readings.timecode(session.at.frame)}.")
        if place is None:
            self._title.setText("The first shot")
            waiting = sum(p.waits for p in session.readings.cut_places)
            self._what.setText(
                f"It begins the lock. {len(session.project.doc.shots) - 1} cuts, {waiting} wait for a look."
            )
            return
        cut = place.cut
        self._title.setText(f"{'Cut' if place.shot else 'Change'} at {session.readings.timecode(place.frame)}")
        number = session.project.doc.place_of(session.project.doc.shot_at(place.frame).id) + 1
        where = f"between shots {number - 1} and {number}" if place.shot else f"inside shot {number}"
        kind = "hard cut" if cut.kind == "cut" else f"{cut.kind} of {cut.end - cut.start} frames"
        if cut.settled:
            self._what.setText(f"A {kind} {where}, settled.")
            return
        self._what.setText(f"A {kind} {where}, strength {cut.strength:.2f}.")
        if place.waits:
            self._doubt.setText(f"Doubt {cut.doubt:.0f}. {cut.why}")
            self._doubt.setVisible(True)
