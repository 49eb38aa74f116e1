"""The command finder: type a few letters, press Enter."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from ezvar.app.kit.commands import Catalogue, Command
from ezvar.app.kit.keymap import Keymap, shown


class Finder(QDialog):
    """Lists the commands whose title or menu holds every word typed. ``chosen`` has the id after it was accepted."""

    def __init__(self, parent: QWidget, catalogue: Catalogue, available: set[str], keymap: Keymap) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find a command")
        self.resize(420, 360)
        self.chosen: str | None = None
        self._catalogue = catalogue
        self._available = available
        self._keymap = keymap
        column = QVBoxLayout(self)
        self.field = QLineEdit()
        self.field.setPlaceholderText("what do you want to do?")
        self.field.setAccessibleName("Words of the command")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands found")
        column.addWidget(self.field)
        column.addWidget(self.list)
        self.field.textChanged.connect(self._fill)
        self.field.returnPressed.connect(self._accept)
        self.list.itemActivated.connect(lambda _: self._accept())
        self.field.installEventFilter(self)
        self._fill("")

    def _fill(self, text: str) -> None:
        self.list.clear()
        words = text.lower().split()
        for command in self._catalogue.commands:
            if all(w in f"{command.title} {command.menu}".lower() for w in words):
                self.list.addItem(self._item(command))
        self.list.setCurrentRow(0)

    def _item(self, command: Command[Any]) -> QListWidgetItem:
        key = shown(self._keymap.key(command.id))
        item = QListWidgetItem(f"{command.menu}: {command.title}" + (f"    {key}" if key else ""))
        item.setData(Qt.ItemDataRole.UserRole, command.id)
        if command.id not in self._available:
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
        return item

    def _accept(self) -> None:
        item = self.list.currentItem()
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.chosen = item.data(Qt.ItemDataRole.UserRole)
            self.accept()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step:
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + step)))
                return True
        return super().eventFilter(watched, event)
