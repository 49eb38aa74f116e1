"""What the commands of the framing menu do."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QInputDialog

from ezvar.app.background.framing_work import at_most
from ezvar.app.kit.backdrops import BACKDROPS
from ezvar.app.stages.framing.agree_preview import LookFirst
from ezvar.app.stages.framing.panes_dialog import PanesDialog
from ezvar.core import edits
from ezvar.core.errors import EzvarError
from ezvar.core.evidence import Analysis
from ezvar.core.framing import (
    Part,
    Place,
    Way,
    apply_remedy,
    carried,
    follow,
    follow_from,
    follow_too,
    framed,
    in_one_pane,
    keep_both,
    pace_of,
    pane_aspect,
    pane_picture_size,
    pixel_zoom,
    plain,
    reset,
    solved_with,
)
from ezvar.core.model import EASES, Document, Master, Shot
from ezvar.core.planning import following_the_window
from ezvar.core.timing import FrameRange

from .paths import PathCommands

if TYPE_CHECKING:
    from ezvar.app.window.main_window import MainWindow

_PACE = 0.1
_PLACES = (0.5, 1 / 3, 2 / 3)
PARTS: dict[Part, str] = {
    "everything": "Everything",
    "position": "The position only",
    "zoom": "The zoom only",
    "choices": "The choices, each solved by itself",
}


class FramingCommands(PathCommands):
    """The commands of the framing menu: a method each, or made from the number or ease at the end of its name."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.dialog: PanesDialog | None = None

    def of(self, what: str) -> Callable[[], object]:
        """What runs the command ``framing.what``."""
        head, _, tail = what.rpartition("_")
        if tail.isdigit():
            return partial(getattr(self, f"_{head}"), int(tail))
        if head == "ease":
            return partial(self._ease, next(e for e in EASES if e.endswith(tail)))
        method: Callable[[], object] = getattr(self, what)
        return method

    # Solving

    def _solving(self, label: str, change: Callable[[Document, Shot, Master, Analysis], Document]) -> None:
        """Have the chosen shots changed by something that needs the analysis."""
        analysis = self._session.analysis
        if analysis is None:
            self._window.say("The lock is still being looked through; that comes first.")
            return
        self._work.each(label, lambda d, s, m: change(d, s, m, analysis))

    def _follow(self, number: int) -> None:
        pane = self._work.number
        self._solving(f"Follow {number}", lambda d, s, m, a: follow(d, s, m, [number], a, at_most(d, s, m, pane)))

    def _too(self, number: int) -> None:
        frame, pane = self._frame, self._work.number
        self._solving(
            f"Follow {number} as well",
            lambda d, s, m, a: follow_too(d, s, m, number, frame, a, at_most(d, s, m, pane)),
        )

    def _from(self, number: int) -> None:
        frame, pane = self._frame, self._work.number
        self._solving(
            f"From here on {number}",
            lambda d, s, m, a: follow_from(d, s, m, number, frame, a, at_most(d, s, m, pane)),
        )

    def _offer(self, number: int) -> None:
        offers, pane = self._session.insight.known.offers, self._work.number
        if number <= len(offers):
            offer = offers[number - 1]
            self._solving(offer.title, lambda d, s, m, a: apply_remedy(Place(d, s, m, pane), offer, a))

    def both(self) -> None:
        self._solving("Keep both", lambda d, s, m, a: keep_both(d, s, m, a))

    def panes(self) -> None:
        self._solving("Both, in two panes", lambda d, s, m, a: keep_both(d, s, m, a, panes=True))

    def one_pane(self) -> None:
        self._solving("Back to one pane", in_one_pane)

    def arrange(self) -> None:
        try:
            self._session.panes_work.arrange_next()
        except EzvarError as error:
            self._window.say_problem(str(error))

    def share(self) -> None:
        if self.dialog is None:
            self.dialog = PanesDialog(self._window)
            self.dialog.finished.connect(self._forget_dialog)
            self.dialog.show()
        self.dialog.activateWindow()

    def _forget_dialog(self) -> None:
        self.dialog = None

    def stand_higher(self) -> None:
        self._session.panes_work.stand_by(1)

    def stand_lower(self) -> None:
        self._session.panes_work.stand_by(-1)

    def here(self) -> None:
        frame, pane = self._session.frame, self._work.number
        self._solving(
            "Follow what the window shows", lambda d, s, m, a: following_the_window(Place(d, s, m, pane), frame, a)
        )

    def _back(self, way: Way, label: str) -> None:
        stretch = self._work.stretch if len(self._work.targets()) == 1 else None
        self._solving(label, lambda d, s, m, a: _reset(d, s, m, a, way, stretch))

    def solve(self) -> None:
        self._back("solved", "Back to solved")

    def static(self) -> None:
        self._back("static", "Best static window")

    def middle(self) -> None:
        if self._work.stretch is not None:
            self._back("centre", "Window to the middle")
        else:
            self._work.put_resting("Window to the middle", 1.0)

    def whole(self) -> None:
        self._work.put_resting("Whole picture", None)

    # Choices

    def _pace_by(self, by: float) -> None:
        pane, master = self._work.present_pane, self._session.master
        if pane is not None and master is not None:
            now = master.pace if pane.choices.pace is None else pane.choices.pace
            pace = round(min(1.0, max(0.0, now + by)), 2)
            self._work.ask(f"Pace {pace:.2f}, at most {pace_of(pace).speed:.2f} widths a second", pace=pace)

    def quicker(self) -> None:
        self._pace_by(_PACE)

    def slower(self) -> None:
        self._pace_by(-_PACE)

    def place(self) -> None:
        pane = self._work.present_pane
        if pane is not None:
            nearest = min(range(len(_PLACES)), key=lambda k: abs(_PLACES[k] - pane.choices.place))
            at = (nearest + 1) % len(_PLACES)
            self._work.ask(
                f"Subject {('in the middle', 'at the left third', 'at the right third')[at]}", place=_PLACES[at]
            )

    def _turn_choice(self, name: str, on: str, off: str) -> None:
        pane = self._work.present_pane
        if pane is not None:
            value = not getattr(pane.choices, name)
            self._work.ask(on if value else off, **{name: value})

    def look_room(self) -> None:
        self._turn_choice("look_room", "Look room", "No look room")

    def text(self) -> None:
        self._turn_choice("keep_text", "Keep text whole", "Text need not be whole")

    def gentle(self) -> None:
        pane = self._work.present_pane
        if pane is not None:
            move = "" if pane.choices.move else "gentle"
            self._work.ask("A gentle move" if move else "No gentle move", move=move)

    def pixels(self) -> None:
        pane, master, shot = self._work.present_pane, self._session.master, self._session.shot
        if pane is None or master is None or shot is None:
            return
        size = pane_picture_size(self._session.document, shot, pane)
        most = pixel_zoom(size, pane_aspect(pane, master), master.height * pane.rect.height)
        if pane.choices.tightest is not None and abs(pane.choices.tightest - most) < 1e-6:
            self._work.ask("Filling", loosest=None, tightest=None)
        else:
            self._work.ask("One pixel for one", loosest=most, tightest=most)

    def backdrop(self) -> None:
        pane = self._work.present_pane
        if pane is not None:
            known = [b for _, b in BACKDROPS]
            at = known.index(pane.backdrop) if pane.backdrop in known else -1
            name, backdrop = BACKDROPS[(at + 1) % len(BACKDROPS)]
            self._work.set_backdrop(name, lambda _: backdrop)

    # Versions

    def hold(self) -> None:
        shot, master = self._session.shot, self._session.master
        if shot is None or master is None or self._session.document.framing(shot.id, master.id) is None:
            return
        try:
            doc = edits.hold(self._session.document, shot.id, master.id)
        except ValueError as error:
            self._window.say(f"{error}. Keep one of them first.")
            return
        self._session.edit(f"Hold a version, shot {doc.place_of(shot.id) + 1}", doc)

    def next_held(self) -> None:
        shot, master, framing = self._session.shot, self._session.master, self._session.framing
        if shot is None or master is None or framing is None or not framing.held:
            self._window.say("No version is held beside yet.")
            return
        doc = self._session.document
        for k in range(len(framing.held)):  # the first comes, the present one goes to the end
            doc = edits.swap_held(doc, shot.id, master.id, k)
        self._session.edit(f"Next version, shot {doc.place_of(shot.id) + 1}", doc)

    def compare(self) -> None:
        self._window.framing.well.show_versions()
        self._window.handlers.going.loop()

    def keep(self) -> None:
        shot, master, framing = self._session.shot, self._session.master, self._session.framing
        if shot is not None and master is not None and framing is not None and framing.held:
            doc = edits.keep_present(self._session.document, shot.id, master.id)
            self._session.edit(f"Keep this version, shot {doc.place_of(shot.id) + 1}", doc)

    # Several shots

    def agree(self) -> None:
        targets, master = self._work.targets(), self._session.master
        if len(targets) > 1 and master is not None:
            doc = self._session.document
            for shot in targets:
                if doc.framing(shot.id, master.id) is not None:
                    doc = edits.set_verdict(doc, shot.id, master.id, "agreed")
            self._session.edit(f"Say “agreed”, {len(targets)} shots", doc)
        else:
            self._window.run("review.agreed")
        self._window.run("go.doubt")

    def copy(self) -> None:
        framing = self._session.framing
        if framing is not None:
            self._work.copied = framing
            self._window.say("The framing is copied.")

    def paste(self, part: Part = "everything") -> None:
        if self._work.copied is None:
            self._window.say("No framing was copied yet.")
            return
        to = tuple(s.id for s in self._work.targets())
        self._work.give(self._work.copied, to, part, f"Paste {PARTS[part].lower()}")

    def paste_part(self) -> None:
        words = list(PARTS.values())
        said, given = QInputDialog.getItem(self._window, "Paste the framing", "What of it:", words, 0, False)
        if given:
            self.paste(next(part for part, text in PARTS.items() if text == said))

    def _give(self, part: Part) -> None:
        shot, framing = self._session.shot, self._session.framing
        group = self._session.insight.setup
        if shot is None or framing is None or not group:
            self._window.say("This shot's camera position does not come again.")
            return
        self._work.give(framing, tuple(s for s in group if s != shot.id), part, "Give to the set-up")

    def give(self) -> None:
        self._give("everything")

    def give_choices(self) -> None:
        self._give("choices")

    def carry(self) -> None:
        masters, master = self._session.document.masters, self._session.master
        if master is None or len(masters) < 2:
            self._window.say("There is no other master to carry it over from.")
            return
        source = masters[masters.index(master) - 1]
        analysis = self._session.analysis
        self._work.each(
            f"Carry over from {source.name}",
            lambda d, s, m: edits.set_framings(d, [carried(d, s, source, m, analysis)]),
        )

    def look(self) -> None:
        LookFirst(self._window).exec()

    def draw(self) -> None:
        self._window.framing.well.hands.begin_drawing()


def _reset(
    doc: Document, shot: Shot, master: Master, analysis: Analysis, way: Way, stretch: FrameRange | None
) -> Document:
    """A framing taken back; whole ones to what the solver chooses by itself, whatever was asked of it."""
    framing = framed(doc, shot, master)
    if way == "solved" and stretch is None:
        return solved_with(doc, replace(plain(doc, shot, master), held=framing.held), analysis)
    opened = edits.set_framings(doc, [replace(framing, verdict="open")])
    return reset(opened, [shot], [master], way, analysis, stretch).doc
