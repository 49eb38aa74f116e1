"""All commands with their keys: changing them, seeing which meet, and a sheet to print."""

from __future__ import annotations

from html import escape
from pathlib import Path

from PyQt6.QtCore import QMarginsF, Qt
from PyQt6.QtGui import QKeySequence, QPageLayout, QPageSize, QPdfWriter, QTextDocument
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QHBoxLayout,
    QKeySequenceEdit,
    QLineEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.kit import theme
from ezvar.app.kit.commands import Catalogue
from ezvar.app.kit.controls import label
from ezvar.app.kit.keymap import Keymap, shown

_ID = Qt.ItemDataRole.UserRole


class KeysDialog(QDialog):
    """Shows and changes keys. ``keymap`` is what was agreed on once it is accepted."""

    def __init__(self, parent: QWidget, catalogue: Catalogue, keymap: Keymap) -> None:
        super().__init__(parent)
        self._catalogue = catalogue
        self.keymap = keymap
        self.setWindowTitle("Keys")
        self.resize(theme.px(620), theme.px(640))
        column = QVBoxLayout(self)
        self.field = QLineEdit()
        self.field.setPlaceholderText("a word of the command, or its key")
        self.field.setAccessibleName("Words of the command")
        column.addWidget(self.field)
        self.tree = QTreeWidget()
        self.tree.setHeaderLabels(["Command", "Key"])
        self.tree.setAccessibleName("Commands and their keys")
        self.tree.setRootIsDecorated(False)
        self.tree.setUniformRowHeights(True)
        column.addWidget(self.tree, 1)
        row = QHBoxLayout()
        self.keys = QKeySequenceEdit()
        self.keys.setMaximumSequenceLength(1)
        self.keys.setAccessibleName("New key of the chosen command")
        self.give, self.none, self.own = (QPushButton(t) for t in ("Give it this key", "No key", "Its own key"))
        for widget in (self.keys, self.give, self.none, self.own):
            row.addWidget(widget)
        column.addLayout(row)
        self.said = label("", "problem")
        column.addWidget(self.said)
        buttons = QDialogButtonBox()
        sheet = buttons.addButton("Write a key sheet…", QDialogButtonBox.ButtonRole.ActionRole)
        buttons.addButton("Use these keys", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Leave as it was", QDialogButtonBox.ButtonRole.RejectRole)
        column.addWidget(buttons)
        assert sheet is not None
        sheet.clicked.connect(self._write_sheet)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        self.field.textChanged.connect(lambda _: self._fill())
        self.give.clicked.connect(lambda: self._change(self.keys.keySequence().toString()))
        self.none.clicked.connect(lambda: self._change(""))
        self.own.clicked.connect(self._restore)
        self._fill()

    def _fill(self) -> None:
        words = self.field.text().lower().split()
        chosen = self._chosen()
        self.tree.clear()
        for command in self._catalogue.commands:
            key = shown(self.keymap.key(command.id))
            if all(w in f"{command.menu} {command.title} {key}".lower() for w in words):
                item = QTreeWidgetItem([f"{command.menu}: {command.title}", key])
                item.setData(0, _ID, command.id)
                if command.id in self.keymap.changed:
                    font = theme.sans(13, bold=True)
                    item.setFont(1, font)
                self.tree.addTopLevelItem(item)
                if command.id == chosen:
                    self.tree.setCurrentItem(item)
        self.tree.resizeColumnToContents(0)
        meeting = [
            f"{shown(key)}: {' and '.join(c.title.lower() for c in group)}"
            for key, group in self.keymap.conflicts().items()
        ]
        self.said.setText("Keys that meet. " + "; ".join(meeting) + "." if meeting else "")
        self.said.setVisible(bool(meeting))

    def _chosen(self) -> str:
        item = self.tree.currentItem()
        return str(item.data(0, _ID)) if item is not None else ""

    def _change(self, key: str) -> None:
        if id := self._chosen():
            self.keymap = self.keymap.with_changes({id: QKeySequence(key).toString()})
            self._fill()

    def _restore(self) -> None:
        if id := self._chosen():
            self.keymap = self.keymap.with_own(id)
            self._fill()

    def _write_sheet(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self, "Write the key sheet", str(Path.home() / "Ezvar keys.pdf"), "PDF (*.pdf)"
        )
        if path:
            write_sheet(self.keymap, path)


def write_sheet(keymap: Keymap, path: str) -> None:
    """Write all keys, menu by menu, as a PDF of A4 pages."""
    parts = []
    for menu, rows in keymap.sheet():
        lines = "".join(f"<tr><td>{escape(t)}</td><td><b>{escape(k)}</b></td></tr>" for t, k in rows)
        parts.append(f"<h3>{escape(menu)}</h3><table width='100%' cellpadding='2'>{lines}</table>")
    document = QTextDocument()
    document.setDefaultFont(theme.sans(12))
    document.setHtml("<h1>Ezvar: keys</h1>" + "".join(parts))
    writer = QPdfWriter(path)
    writer.setTitle("Ezvar: keys")
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(18, 16, 18, 16), QPageLayout.Unit.Millimeter)
    document.print(writer)
