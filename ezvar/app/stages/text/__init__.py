"""The text stage."""

from ..stage import Stage
from .commands import COMMANDS
from .page import TextPage

TEXT = Stage(
    "text", "Text", lambda session: session.readings.captions_waiting, TextPage,
    COMMANDS, rows="captions",
)  # fmt: skip
