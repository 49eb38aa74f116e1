"""A button that shows a colour and asks for another."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QColorDialog, QPushButton


class ColourButton(QPushButton):
    """A colour, written and shown; a click asks for another."""

    def __init__(self, name: str, changed: Callable[[str], object]) -> None:
        super().__init__()
        self._name, self._changed = name, changed
        self.show_colour("#000000")
        self.clicked.connect(self._ask)

    def show_colour(self, colour: str) -> None:
        self.colour = colour
        ink = "#000000" if QColor(colour).lightness() > 140 else "#ffffff"
        self.setStyleSheet(f"background: {colour}; color: {ink}; padding-left: 3px; padding-right: 0px;")
        self.setText(colour)
        self.setAccessibleName(f"{self._name}: {colour}")

    def choose(self, colour: str) -> None:
        """Take a colour as if it had been asked for."""
        self.show_colour(colour)
        self._changed(colour)

    def _ask(self) -> None:
        chosen = QColorDialog.getColor(QColor(self.colour), self, self._name)
        if chosen.isValid():
            self.choose(chosen.name())
