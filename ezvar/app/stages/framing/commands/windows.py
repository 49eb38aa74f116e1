"""The window by keys: nudges, zoom, angle, and where a picture stands in its pane."""

from __future__ import annotations

from functools import partial

from ezvar.app.kit.commands import Menu
from ezvar.core.framing import shifted, turned, zoomed

from ..tools import FramingTools, framing_there

_FINE, _FAR = 0.0025, 0.02  # of the picture
_TIGHTER = 1.05
_TURN = 1.0  # degrees
WINDOW: Menu[FramingTools] = Menu("Framing › Window", when=framing_there, everywhere=False)


@WINDOW.command("framing.tighter", "Tighter", "+")
def tighter(tools: FramingTools) -> None:
    tools.by_hand("Tighter", lambda p, m, size: zoomed(p, m, size, _TIGHTER))


@WINDOW.command("framing.looser", "Looser", "-")
def looser(tools: FramingTools) -> None:
    tools.by_hand("Looser", lambda p, m, size: zoomed(p, m, size, 1 / _TIGHTER))


def _nudge(tools: FramingTools, dx: float, dy: float) -> None:
    tools.by_hand("Shift path", lambda p, m, size: shifted(p, m, size, dx, dy))


WINDOW.add("framing.left", "A little left", partial(_nudge, dx=-_FINE, dy=0.0), "Alt+Left")
WINDOW.add("framing.right", "A little right", partial(_nudge, dx=_FINE, dy=0.0), "Alt+Right")
WINDOW.add("framing.up", "A little up", partial(_nudge, dx=0.0, dy=-_FINE), "Alt+Up")
WINDOW.add("framing.down", "A little down", partial(_nudge, dx=0.0, dy=_FINE), "Alt+Down")
WINDOW.add("framing.far_left", "Far left", partial(_nudge, dx=-_FAR, dy=0.0), "Alt+Shift+Left")
WINDOW.add("framing.far_right", "Far right", partial(_nudge, dx=_FAR, dy=0.0), "Alt+Shift+Right")
WINDOW.add("framing.far_up", "Far up", partial(_nudge, dx=0.0, dy=-_FAR), "Alt+Shift+Up")
WINDOW.add("framing.far_down", "Far down", partial(_nudge, dx=0.0, dy=_FAR), "Alt+Shift+Down")


@WINDOW.command("framing.turn_left", "Turn against the clock", "Alt+[")
def turn_against_the_clock(tools: FramingTools) -> None:
    tools.by_hand("Turn", lambda p, m, size: turned(p, m, size, -_TURN))


@WINDOW.command("framing.turn_right", "Turn with the clock", "Alt+]")
def turn_with_the_clock(tools: FramingTools) -> None:
    tools.by_hand("Turn", lambda p, m, size: turned(p, m, size, _TURN))


@WINDOW.command("framing.pane", "Next pane", "Ctrl+P")
def next_pane(tools: FramingTools) -> None:
    panes = len(tools.place.framing.panes)
    if panes > 1:
        tools.at.choose_pane((tools.at.pane_number + 1) % panes)
    else:
        tools.messages.say("There is one pane only.")


@WINDOW.command("framing.stand_higher", "Picture higher in the frame", "Alt+PgUp")
def stand_higher(tools: FramingTools) -> None:
    tools.panes.stand_by(1)


@WINDOW.command("framing.stand_lower", "Picture lower in the frame", "Alt+PgDown")
def stand_lower(tools: FramingTools) -> None:
    tools.panes.stand_by(-1)
