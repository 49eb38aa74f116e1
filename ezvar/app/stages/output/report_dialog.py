"""The report of a check: what was looked at, what is wrong, and the pictures that differ."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage, QPixmap
from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.kit import theme
from ezvar.app.kit.controls import label
from ezvar.app.session.session import Session
from ezvar.app.viewer.pictures import image_of
from ezvar.core.errors import EzvarError
from ezvar.core.model import Finished, Flaw
from ezvar.core.names import readable
from ezvar.core.output import order_again, side_by_side
from ezvar.core.store import write_atomically

_PICTURE = 300


class ReportDialog(QDialog):
    """What the check of a finished movie said."""

    def __init__(self, session: Session, finished: Finished, parent: QWidget) -> None:
        super().__init__(parent)
        self._session, self._finished = session, finished
        self._asked: Flaw | None = None
        name = readable(Path(finished.made.file).name)
        self.setWindowTitle(f"Check of {name}")
        self.resize(theme.px(940), theme.px(560))
        column = QVBoxLayout(self)
        column.addWidget(label(name, "title"))
        row = QHBoxLayout()
        self.list = QListWidget()
        self.list.setAccessibleName("What was checked")
        self.list.setWordWrap(True)
        for check in finished.report.checks:
            item = QListWidgetItem(f"{'✗' if check.flaws else '✓'}  {check.what}")
            item.setForeground(theme.PROBLEM if check.flaws else theme.INK)
            self.list.addItem(item)
            for flaw in check.flaws:
                told = QListWidgetItem(f"      {flaw.said}")
                told.setData(Qt.ItemDataRole.UserRole, flaw)
                self.list.addItem(told)
        self.list.currentItemChanged.connect(lambda item, _: self._show(item))
        row.addWidget(self.list, 1)
        self.made, self.stated = self._place(row, "as it was made"), self._place(row, "as it was decided")
        column.addLayout(row, 1)
        self.said = label("", "soft")
        column.addWidget(self.said)
        foot = QHBoxLayout()
        keep = QPushButton("Keep as JSON…")
        keep.clicked.connect(self._keep)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        foot.addStretch(1)
        foot.addWidget(keep)
        foot.addWidget(close)
        column.addLayout(foot)
        first = next((k for k in range(self.list.count()) if self._flaw(self.list.item(k)) is not None), 0)
        self.list.setCurrentRow(first)

    def _place(self, row: QHBoxLayout, said: str) -> QLabel:
        column, picture = QVBoxLayout(), QLabel()
        picture.setFixedSize(theme.px(_PICTURE), theme.px(_PICTURE))
        picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        picture.setAccessibleName(f"The picture {said}")
        picture.setObjectName("pictured")
        column.addWidget(picture)
        under = label(said, "soft")
        under.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        column.addWidget(under)
        column.addStretch(1)
        row.addLayout(column)
        return picture

    def _flaw(self, item: QListWidgetItem | None) -> Flaw | None:
        return item.data(Qt.ItemDataRole.UserRole) if item is not None else None

    def _show(self, item: QListWidgetItem | None) -> None:
        """Show the pictures of a flaw, as they are now."""
        flaw = self._asked = self._flaw(item)
        self.made.clear()
        self.stated.clear()
        if flaw is None or flaw.start is None:
            self.said.setText("" if flaw is None else flaw.said)
            return
        doc, finished, frame = self._session.project.whole, self._finished, flaw.start
        self.said.setText("Drawing it…")

        def done(pictures: tuple[np.ndarray, np.ndarray]) -> None:
            if flaw is self._asked:
                self.said.setText(flaw.said)
                for place, picture in zip((self.made, self.stated), pictures, strict=True):
                    place.setPixmap(_fitted(image_of(picture), place))

        def failed(said: str) -> None:
            if flaw is self._asked:
                self.said.setText(said)

        self._session.jobs.start(
            "Drawing what differs", lambda p, c: side_by_side(order_again(doc, finished), frame), done, failed,
            shown=False,
        )  # fmt: skip

    def _keep(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Keep the report", "check.json", "JSON (*.json)")
        if not path:
            return
        values = {"file": self._finished.made.file, **asdict(self._finished.report)}
        text = json.dumps(values, indent=1, ensure_ascii=False).encode()
        try:
            write_atomically(path, lambda file: file.write(text), EzvarError)
            self.said.setText(f"Kept as {readable(Path(path).name)}.")
        except EzvarError as error:
            self.said.setText(str(error))


def _fitted(image: QImage, place: QLabel) -> QPixmap:
    return QPixmap.fromImage(
        image.scaled(place.size(), Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
    )
