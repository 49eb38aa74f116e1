"""The output stage."""

from ezvar.core.waiting import nothing_known

from ..stage import Stage, counted
from .commands import OUTPUT as _MENU
from .page import OutputPage

OUTPUT = Stage("output", "Output", counted(nothing_known), OutputPage, tuple(_MENU.commands))
