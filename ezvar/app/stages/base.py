"""What every stage of the work has: a middle, a card, and a way to bring both up to date."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit.commands import command
from ezvar.app.kit.controls import Card, KeyButton


class Stage:
    """A stage. ``refresh`` is called when the stage is shown and something of the session has changed."""

    name = ""
    middle: QWidget

    def __init__(self, session: Desk, run: Callable[[str], object]) -> None:
        self.session = session
        self.run = run
        self.card = Card()

    def button(self, id: str, main: bool = False, title: str = "") -> KeyButton:
        """A button for a command."""
        return KeyButton(command(id), self.run, main, title)

    def refresh(self) -> None:
        """Bring the middle and the card up to date."""

    def moved(self) -> None:
        """Bring up to date what depends on the playhead's place in the shot; called for each frame that is played."""
        self.refresh()
