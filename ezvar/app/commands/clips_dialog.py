"""Choosing the order, in and out of loose clips that make a small lock."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.kit.controls import label
from ezvar.core.lock import LooseClip

_PATH = Qt.ItemDataRole.UserRole


class ClipsDialog(QDialog):
    """A row each clip, in the order in which they are shown."""

    def __init__(self, parent: QWidget, paths: Sequence[str]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Loose clips")
        self.resize(620, 360)
        column = QVBoxLayout(self)
        column.addWidget(label("The clips follow each other from top to bottom. An empty out means to the end."))
        self.table = QTableWidget(len(paths), 3)
        self.table.setAccessibleName("Clips with in and out")
        self.table.setHorizontalHeaderLabels(["Clip", "In, frames", "Out, frames"])
        header = self.table.horizontalHeader()
        assert header is not None
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for row, path in enumerate(paths):
            name = QTableWidgetItem(Path(path).name)
            name.setData(_PATH, path)
            name.setFlags(name.flags() & ~Qt.ItemFlag.ItemIsEditable)
            for place, item in enumerate((name, QTableWidgetItem("0"), QTableWidgetItem(""))):
                self.table.setItem(row, place, item)
        column.addWidget(self.table, 1)
        moves = QHBoxLayout()
        for words, by in (("Move up", -1), ("Move down", 1)):
            button = QPushButton(words)
            button.clicked.connect(lambda _, b=by: self.move_row(b))
            moves.addWidget(button)
        moves.addStretch(1)
        column.addLayout(moves)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.table.setCurrentCell(0, 0)

    def move_row(self, by: int) -> None:
        """Move the present row up or down."""
        row = self.table.currentRow()
        other = row + by
        if not 0 <= other < self.table.rowCount():
            return
        for place in range(3):
            a, b = self.table.takeItem(row, place), self.table.takeItem(other, place)
            self.table.setItem(row, place, b)
            self.table.setItem(other, place, a)
        self.table.setCurrentCell(other, 0)

    def clips(self) -> list[LooseClip]:
        """What was chosen. Raises `ValueError` for an in or out that is no number."""
        found = []
        for row in range(self.table.rowCount()):
            name, first, last = (self.table.item(row, place) for place in range(3))
            assert name is not None
            assert first is not None
            assert last is not None
            start = int(first.text() or 0)
            found.append(LooseClip(name.data(_PATH), start, int(last.text()) if last.text().strip() else None))
        return found
