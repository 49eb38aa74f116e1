"""The cuts menu."""

from __future__ import annotations

from collections.abc import Callable

from ezvar.app.commands import Workbench, lock_open
from ezvar.app.kit.commands import Menu
from ezvar.core import edits
from ezvar.core.model import CutPlace, Document


class CutTools:
    """What the commands of the cuts menu work with."""

    def __init__(self, bench: Workbench) -> None:
        self.bench, self.session, self.desk = bench, bench.desk.session, bench.desk
        self.sensitivity = 0.0
        """From -1, only what is plain, to 1, also what is faint."""

    def chosen(self) -> tuple[CutPlace, ...]:
        """The cuts that are chosen in the ledger, or the present one."""
        present = self.session.readings.cut_place
        return self.session.at.chosen_cuts or ((present,) if present else ())


def _lock_open(tools: CutTools) -> bool:
    return lock_open(tools.bench)


def _a_cut_here(tools: CutTools) -> bool:
    return bool(tools.chosen())


CUTS: Menu[CutTools] = Menu("Cuts", when=_lock_open, everywhere=False)


def _settle(tools: CutTools, verb: str, change: Callable[[Document, CutPlace], Document]) -> None:
    """Change all chosen cuts in one step of undo, then go on to the next that waits."""
    session = tools.session
    doc, changed = session.project.document, []
    for place in tools.chosen():
        try:
            doc = change(doc, place)
            changed.append(place)
        except ValueError as error:
            session.messages.say(f"The cut at {session.readings.timecode(place.frame)} stays: {error}.")
    if changed:
        where = session.readings.timecode(changed[0].frame) if len(changed) == 1 else f"{len(changed)} places"
        session.project.edit(f"{verb} at {where}", doc)
    if len(changed) <= 1:
        tools.bench.to_next_waiting()


@CUTS.command("cuts.keep", "Keep the cut, next", "Y", when=_a_cut_here)
def keep(tools: CutTools) -> None:
    _settle(tools, "Keep cut", edits.keep)


@CUTS.command("cuts.remove", "Not a cut, next", "U", when=_a_cut_here)
def remove(tools: CutTools) -> None:
    _settle(tools, "No cut", edits.drop)


def _move_cut(tools: CutTools, by: int) -> None:
    session, shot = tools.session, tools.session.at.shot
    if shot is None or shot.start == 0:
        return
    try:
        doc = edits.move_cut(session.project.document, shot.id, shot.start + by)
    except ValueError as error:
        session.messages.say(f"The cut cannot move on: {error}.")
        return
    session.project.edit("Move cut", doc)
    session.at.go(shot.start + by)


@CUTS.command("cuts.earlier", "Cut one frame earlier", "[", when=_a_cut_here)
def move_earlier(tools: CutTools) -> None:
    _move_cut(tools, -1)


@CUTS.command("cuts.later", "Cut one frame later", "]", when=_a_cut_here)
def move_later(tools: CutTools) -> None:
    _move_cut(tools, 1)


@CUTS.command("cuts.add", "Cut here", "X")
def cut_here(tools: CutTools) -> None:
    session = tools.session
    try:
        doc = edits.add_cut(session.project.document, session.at.frame)
    except ValueError as error:
        session.messages.say(f"No cut can be put here: {error}.")
        return
    session.project.edit(f"Cut at {session.readings.timecode(session.at.frame)}", doc)


@CUTS.command("cuts.find", "Find the cuts anew", "F")
def find_cuts(tools: CutTools) -> None:
    tools.desk.lock_work.find_cuts(tools.sensitivity)


@CUTS.command("cuts.find_in_shot", "Search this shot for cuts", "Shift+F")
def find_cuts_in_shot(tools: CutTools) -> None:
    shot = tools.session.at.shot
    if shot is not None:
        tools.desk.lock_work.find_cuts(tools.sensitivity, shot.start + 1, shot.end)
