"""What the program says to whoever sits before it."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal


class Messages(QObject):
    """Says things; the window shows them. May be called on any thread."""

    said = pyqtSignal(str)
    problem_said = pyqtSignal(str)
    mistake_said = pyqtSignal(str)

    def say(self, text: str) -> None:
        """Say something that needs no answer; it goes by itself."""
        self.said.emit(text)

    def say_mistake(self, text: str) -> None:
        """Say that the program itself made a mistake; it stays until closed, and saving is offered."""
        self.mistake_said.emit(text)

    def say_problem(self, text: str) -> None:
        """Say what went wrong; it stays until closed."""
        self.problem_said.emit(text)
