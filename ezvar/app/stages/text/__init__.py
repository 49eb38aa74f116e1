"""The text stage."""

from ezvar.core.waiting import nothing_known

from ..stage import Stage
from .page import TextPage

TEXT = Stage("text", "Text", nothing_known, TextPage)
