"""Writing a handoff: what, for which masters and shots, and a list of what will be written."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.background.exchange import Exchange
from ezvar.app.kit.controls import label
from ezvar.app.session.session import Session
from ezvar.core.names import readable
from ezvar.core.review import PARTS, USUAL, Asked, Movies, Part, planned_handoff

_MOVIES: tuple[tuple[Movies, str], ...] = (
    ("together", "the edit and all masters in one picture"), ("each", "one movie for each master"),
)  # fmt: skip


class HandoffDialog(QDialog):
    """Shows beforehand which files a handoff writes, and writes it."""

    def __init__(self, session: Session, exchange: Exchange, folder: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Write the handoff")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._session, self._exchange = session, exchange
        doc = session.project.document
        self.parts: dict[Part, QCheckBox] = {part: QCheckBox(said) for part, said in PARTS.items()}
        self.masters = {master.id: QCheckBox(master.name) for master in doc.masters}
        self.chosen = QCheckBox(f"Only the {len(session.at.chosen)} chosen shots")
        self.movies, self.sound = QComboBox(), QCheckBox("With their sound")
        self.folder = QLineEdit(folder)
        self.files, self.told = QTreeWidget(), label("", "soft")
        column = QVBoxLayout(self)
        self._add_parts(column)
        self._add_masters(column)
        self._add_folder(column)
        self._add_files(column)
        self.resize(720, 720)
        self.show_files()

    def _add_parts(self, column: QVBoxLayout) -> None:
        column.addWidget(label("What", "heading"))
        for part, box in self.parts.items():
            box.setChecked(part in USUAL)
            box.toggled.connect(self.show_files)
            column.addWidget(box)
        self.movies.setAccessibleName("What a review movie shows")
        for value, said in _MOVIES:
            self.movies.addItem(said, value)
        self.movies.activated.connect(self.show_files)
        self.sound.setChecked(True)
        movies = QHBoxLayout()
        movies.addSpacing(24)
        movies.addWidget(self.movies)
        movies.addWidget(self.sound)
        movies.addStretch(1)
        column.addLayout(movies)

    def _add_masters(self, column: QVBoxLayout) -> None:
        column.addWidget(label("For", "heading"))
        row = QHBoxLayout()
        for box in self.masters.values():
            box.setChecked(True)
            box.toggled.connect(self.show_files)
            row.addWidget(box)
        row.addStretch(1)
        column.addLayout(row)
        self.chosen.setVisible(bool(self._session.at.chosen))
        self.chosen.toggled.connect(self.show_files)
        column.addWidget(self.chosen)

    def _add_folder(self, column: QVBoxLayout) -> None:
        column.addWidget(label("Into", "heading"))
        self.folder.setAccessibleName("Folder")
        self.folder.setPlaceholderText("the folder that they go into")
        self.folder.textChanged.connect(self.show_files)
        choose = QPushButton("Choose…")
        choose.clicked.connect(self._choose)
        place = QHBoxLayout()
        place.addWidget(self.folder, 1)
        place.addWidget(choose)
        column.addLayout(place)

    def _add_files(self, column: QVBoxLayout) -> None:
        self.files.setHeaderLabels(["File", "What it is"])
        self.files.setRootIsDecorated(False)
        self.files.setMinimumHeight(180)
        self.files.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.ok = QPushButton("Write them")
        self.buttons.addButton(self.ok, QDialogButtonBox.ButtonRole.AcceptRole)
        self.buttons.accepted.connect(self._write)
        self.buttons.rejected.connect(self.reject)
        column.addWidget(self.files, 1)
        column.addWidget(self.told)
        column.addWidget(self.buttons)

    @property
    def asked(self) -> Asked:
        """What is to be written, as it is chosen."""
        parts = frozenset(part for part, box in self.parts.items() if box.isChecked())
        masters = tuple(master for master, box in self.masters.items() if box.isChecked())
        shots = self._session.at.chosen if self.chosen.isChecked() else ()
        return Asked(parts, masters, shots, self.movies.currentData(), self.sound.isChecked())

    def show_files(self) -> None:
        """List what would be written now; files that are there already are named as such."""
        asked, folder = self.asked, self.folder.text().strip()
        self.movies.setEnabled("movies" in asked.parts)
        self.sound.setEnabled(bool({"movies", "page", "otioz"} & asked.parts))
        self.files.clear()
        doc = self._session.project.document
        planned = planned_handoff(doc, folder or ".", asked) if asked.masters else None
        for name, what in planned.listed() if planned else ():
            there = bool(folder) and (Path(folder) / name).exists()
            said = f"{what} It is there, and made anew only if it is as it was written." if there else what
            self.files.addTopLevelItem(QTreeWidgetItem([readable(name), said]))
        self.files.resizeColumnToContents(0)
        self.told.setText(" ".join(planned.told) if planned else "")
        self.told.setVisible(bool(planned and planned.told))
        self.ok.setEnabled(bool(folder and planned and planned.files))

    def _choose(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Where to write the handoff", self.folder.text())
        if folder:
            self.folder.setText(folder)

    def _write(self) -> None:
        self._exchange.write_handoff(self.folder.text().strip(), self.asked)
        self.accept()
