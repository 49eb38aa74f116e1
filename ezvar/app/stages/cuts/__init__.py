"""The cuts stage."""

from ezvar.core.waiting import cuts_waiting

from ..stage import Stage, counted
from .commands import CUTS as _MENU
from .page import CutsPage

CUTS = Stage("cuts", "Cuts", counted(cuts_waiting), CutsPage, tuple(_MENU.commands), rows="cuts", several=True)
