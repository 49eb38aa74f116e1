"""The review stage."""

from ezvar.core.waiting import verdicts_waiting

from ..stage import Stage, counted
from .commands import REVIEW as _MENU
from .page import ReviewPage

REVIEW = Stage("review", "Review", counted(verdicts_waiting), ReviewPage, tuple(_MENU.commands), several=True)
