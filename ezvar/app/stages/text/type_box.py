"""Choosing the family of type of a caption track or a title: one that is shipped, or a font file."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QComboBox, QFileDialog, QSizePolicy, QWidget

from ezvar.app.session.messages import Messages
from ezvar.core.errors import EzvarError
from ezvar.core.text import SHIPPED, FontFile, read_font

_FILE = "a font file…"


class TypeBox(QComboBox):
    """Calls ``chosen`` with the family, and the path and content of the font file that it is taken from, if any."""

    def __init__(self, messages: Messages, chosen: Callable[[str, str, str], object]) -> None:
        super().__init__()
        self._messages, self._chosen = messages, chosen
        self.setAccessibleName("Family of type")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        for family in SHIPPED:
            self.addItem(family.removeprefix("Atkinson "), family)
        self.addItem(_FILE)
        self._shown = SHIPPED[0], ""
        self.activated.connect(self._choose)

    def show_type(self, family: str, font: str) -> None:
        """Show which family is used, with the font file that it is taken from; empty for a shipped one."""
        self._shown = family, font
        while self.count() > len(SHIPPED) + 1:
            self.removeItem(len(SHIPPED))
        place = self.findData(family)
        if font or place < 0:
            place = len(SHIPPED)
            self.insertItem(place, family, None)
        self.setCurrentIndex(place)
        self.setToolTip(f"{family}, from {Path(font).name}" if font else family)

    def _choose(self, place: int) -> None:
        if place < len(SHIPPED):
            self._chosen(self.itemData(place), "", "")
        elif self.itemText(place) == _FILE:
            font = font_chosen(self, self._messages)
            self.show_type(*self._shown)  # where nothing was chosen
            if font is not None:
                self._chosen(font.family, font.path, font.content)


def font_chosen(parent: QWidget, messages: Messages) -> FontFile | None:
    """A font file that the user names; ``None`` for none, or for one that cannot be used, which is said."""
    file, _ = QFileDialog.getOpenFileName(parent, "Use a font file", "", "Fonts (*.ttf *.otf *.ttc)")
    try:
        return read_font(file) if file else None
    except EzvarError as error:
        messages.say_problem(str(error))
        return None
