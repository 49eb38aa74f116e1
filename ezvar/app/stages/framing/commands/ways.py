"""The framing menu itself: agreeing, the plain ways back, keeping both, panes, drawing and following."""

from __future__ import annotations

from dataclasses import replace

from ezvar.app.kit.commands import Menu
from ezvar.core.errors import EzvarError
from ezvar.core.evidence import Analysis
from ezvar.core.framing import Place, Way, in_one_pane, keep_both, plain, reset, solved_with
from ezvar.core.model import Framing
from ezvar.core.planning import following_the_window
from ezvar.core.timing import FrameRange

from ..panes_dialog import PanesDialog
from ..tools import FramingTools, framing_there

WAYS: Menu[FramingTools] = Menu("Framing", when=framing_there, everywhere=False)


@WAYS.command("framing.agree", "Looks right, next", "Return")
def agree(tools: FramingTools) -> None:
    tools.work.say_verdict("agreed", tools.work.targets())
    tools.bench.to_next_waiting()


@WAYS.command("framing.open_again", "Open again, to be changed", "Shift+Return")
def open_again(tools: FramingTools) -> None:
    tools.work.say_verdict("open", tools.work.targets())


def _back(tools: FramingTools, way: Way, label: str) -> None:
    stretch = tools.work.stretch if len(tools.work.targets()) == 1 else None
    tools.solve(label, lambda place, analysis: _reset(place, analysis, way, stretch))


def _reset(place: Place, analysis: Analysis, way: Way, stretch: FrameRange | None) -> Framing:
    """A framing taken back; whole ones to what the solver chooses by itself, whatever was asked of it."""
    doc, shot, master = place.doc, place.shot, place.master
    if way == "solved" and stretch is None:
        return solved_with(doc, replace(plain(doc, shot, master), held=place.framing.held), analysis)
    opened = doc.with_framings([replace(place.framing, verdict="open")])
    (back,) = reset(opened, [shot], [master], way, analysis, stretch).framings
    return back


@WAYS.command("framing.solve", "Back to solved", "S")
def back_to_solved(tools: FramingTools) -> None:
    _back(tools, "solved", "Back to solved")


@WAYS.command("framing.static", "Best static window", "R")
def best_static(tools: FramingTools) -> None:
    _back(tools, "static", "Best static window")


@WAYS.command("framing.middle", "Window to the middle", "M")
def to_the_middle(tools: FramingTools) -> None:
    if tools.work.stretch is not None:
        _back(tools, "centre", "Window to the middle")
    else:
        tools.work.put_resting("Window to the middle", 1.0)


@WAYS.command("framing.whole", "Whole picture on its backdrop", "W")
def show_whole(tools: FramingTools) -> None:
    tools.work.put_resting("Whole picture", None)


@WAYS.command("framing.both", "Keep both", "B")
def keep_both_subjects(tools: FramingTools) -> None:
    tools.solve("Keep both", keep_both)


@WAYS.command("framing.panes", "Both, in two panes", "U")
def both_in_panes(tools: FramingTools) -> None:
    tools.solve("Both, in two panes", lambda p, a: keep_both(p, a, panes=True))


@WAYS.command("framing.one_pane", "Back to one pane", "Ctrl+B")
def back_to_one_pane(tools: FramingTools) -> None:
    tools.solve("Back to one pane", in_one_pane)


@WAYS.command("framing.arrange", "Next arrangement of panes", "Shift+U")
def next_arrangement(tools: FramingTools) -> None:
    try:
        tools.panes.arrange_next()
    except EzvarError as error:
        tools.messages.say_problem(str(error))


@WAYS.command("framing.share", "Panes and backdrop…", "Ctrl+U")
def show_panes_dialog(tools: FramingTools) -> None:
    if tools.dialog is None:
        tools.dialog = PanesDialog(tools.bench.widget, tools.desk)
        tools.dialog.finished.connect(lambda _: _forget_dialog(tools))
        tools.dialog.show()
    tools.dialog.activateWindow()


def _forget_dialog(tools: FramingTools) -> None:
    tools.dialog = None


@WAYS.command("framing.draw", "Draw a subject", "D")
def draw_subject(tools: FramingTools) -> None:
    tools.well.hands.begin_drawing()


@WAYS.command("framing.here", "Follow what the window shows", "F")
def follow_the_window(tools: FramingTools) -> None:
    frame = tools.at.frame
    tools.solve("Follow what the window shows", lambda p, a: following_the_window(p, frame, a))
