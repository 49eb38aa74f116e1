"""What of the view menu is of the picture in its well and of the sweep chart."""

from __future__ import annotations

from functools import partial

from ezvar.app.commands import lock_open
from ezvar.app.kit.commands import Menu

from ..tools import FramingTools

_STEP = 1.25


def _lock_open(tools: FramingTools) -> bool:
    return lock_open(tools.bench)


VIEW: Menu[FramingTools] = Menu("View", when=_lock_open)
SNAPPING: Menu[FramingTools] = Menu("View › Snapping", when=_lock_open, everywhere=False)


@VIEW.command("view.guides", "Guides: thirds, middle, safe area", "Shift+T")
def turn_guides(tools: FramingTools) -> None:
    tools.well.turn_guides()


@VIEW.command("view.wipe", "Wipe between source and result", "Z", everywhere=False)
def turn_wipe(tools: FramingTools) -> None:
    tools.well.turn_wipe()


@VIEW.command("view.enlarge", "Enlarge the next master", "Shift+Z", everywhere=False)
def enlarge_next(tools: FramingTools) -> None:
    tools.well.enlarge_next()


@VIEW.command("view.closer", "Closer to the picture", "Ctrl++")
def closer(tools: FramingTools) -> None:
    tools.well.zoom_by(_STEP)


@VIEW.command("view.farther", "Farther from the picture", "Ctrl+-")
def farther(tools: FramingTools) -> None:
    tools.well.zoom_by(1 / _STEP)


@VIEW.command("view.fit", "The whole picture in sight", "Ctrl+0")
def fit(tools: FramingTools) -> None:
    tools.well.fit()


@VIEW.command("view.chart_closer", "Less time in the chart", "Ctrl+Alt++", everywhere=False)
def less_time(tools: FramingTools) -> None:
    tools.sweep.zoom_by(_STEP)


@VIEW.command("view.chart_farther", "More time in the chart", "Ctrl+Alt+-", everywhere=False)
def more_time(tools: FramingTools) -> None:
    tools.sweep.zoom_by(1 / _STEP)


@VIEW.command("view.chart_height", "Width or height in the chart", "Shift+H", everywhere=False)
def turn_height(tools: FramingTools) -> None:
    tools.sweep.turn_height()


@VIEW.command("view.snap", "Snapping on or off", "Shift+S", everywhere=False)
def turn_snapping(tools: FramingTools) -> None:
    tools.sweep.turn_snapping()


def _turn_snap(tools: FramingTools, to: str) -> None:
    tools.sweep.turn_snap(to)


SNAPPING.add("view.snap_cuts", "Snap to cuts, or not", partial(_turn_snap, to="cuts"))
SNAPPING.add("view.snap_keyframes", "Snap to the other masters' keyframes, or not", partial(_turn_snap, to="keyframes"))
SNAPPING.add("view.snap_playhead", "Snap to the playhead, or not", partial(_turn_snap, to="playhead"))
