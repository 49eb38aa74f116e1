"""The framing stage."""

from ezvar.core.waiting import framings_waiting

from ..cuts.commands import cut_here
from ..lock.commands import turn_uses
from ..stage import Stage, counted
from .commands import COMMANDS
from .page import FramingPage

FRAMING = Stage(
    "framing", "Framing", counted(framings_waiting), FramingPage, COMMANDS, borrowed=(cut_here, turn_uses), several=True
)
