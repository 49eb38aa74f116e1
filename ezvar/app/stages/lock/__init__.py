"""The lock stage."""

from ezvar.core.waiting import masters_waiting

from ..stage import Stage, counted
from .commands import LOCK as _MENU
from .page import LockPage

LOCK = Stage("lock", "Lock", counted(masters_waiting), LockPage, tuple(_MENU.commands))
