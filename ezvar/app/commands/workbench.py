"""What the window offers to commands and to the pages of stages."""

from __future__ import annotations

from typing import Any, Protocol

from PyQt6.QtWidgets import QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit.commands import Command
from ezvar.app.kit.controls import KeyButton
from ezvar.app.session.session import Session
from ezvar.app.viewer.player import Player


class Workbench(Protocol):
    """The work, the player, and what only the window as a whole can do."""

    desk: Desk
    player: Player

    @property
    def session(self) -> Session: ...

    @property
    def widget(self) -> QWidget:
        """What dialogs stand before."""

    def button(self, command: Command[Any], main: bool = False, said: str = "") -> KeyButton:
        """A button for a command; ``said`` is another title."""

    def can_do_other_things(self) -> None:
        """Something else is chosen in the present stage: switch on what can be done with it, and off what cannot."""

    def to_next_waiting(self) -> None:
        """Go to the next thing that waits in the present stage."""

    def may_leave(self) -> bool:
        """Ask before unsaved work is left behind."""

    def choose_all(self) -> None:
        """Choose every row that the ledger lists."""

    def find_command(self) -> None:
        """Let a command be found by its words, and run it."""

    def show_reports(self) -> None:
        """Show the reports of the program's mistakes."""

    def show_keys(self) -> None:
        """Show all keys, and let them be changed."""

    def show_guide(self) -> None:
        """Show the guide."""

    def show_walk(self) -> None:
        """Begin the first walk."""

    def turn_theme(self) -> None:
        """Change between the light and the dim theme."""

    def turn_text_size(self) -> None:
        """Another size of text, from the next start on."""

    def turn_notice(self) -> None:
        """Say on the desktop when all movies are made, or not any more."""

    def keep_preset(self, name: str) -> None:
        """Make a preset, by its name, the default one."""

    def choose_machines(self) -> None:
        """Ask which machines do the work, and keep it."""

    def ask_name(self) -> None:
        """Ask who notes are said by, and keep it."""

    def leave(self) -> None:
        """Close the window."""


def lock_open(bench: Workbench) -> bool:
    """Whether a lock is open."""
    return bench.session.project.doc is not None
