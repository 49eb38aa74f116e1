"""The output stage."""

from ezvar.app.session.session import Session
from ezvar.core.model import listing
from ezvar.core.waiting import rows_waiting

from ..stage import Stage
from .commands import OUTPUT as _MENU
from .page import OutputPage


def _waits(session: Session) -> int | None:
    """How many rows are not made as they should be; nothing before any was made."""
    return rows_waiting(listing(session.project.document), session.project.makings)


OUTPUT = Stage("output", "Output", _waits, OutputPage, tuple(_MENU.commands), rows="none")
