"""The text stage."""

from ..stage import Stage
from .commands import LOOK, OFFERS, TITLES
from .commands import TEXT as _MENU
from .page import TextPage

TEXT = Stage(
    "text", "Text", lambda session: session.readings.captions_waiting, TextPage,
    (*_MENU.commands, *OFFERS.commands, *LOOK.commands, *TITLES.commands), rows="captions",
)  # fmt: skip
