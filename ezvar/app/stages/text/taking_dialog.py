"""Taking a caption file in: what it holds, and how it is to be taken."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
)

from ezvar.app.kit.controls import label
from ezvar.core.errors import EzvarError
from ezvar.core.names import readable
from ezvar.core.text import (
    ENCODINGS,
    Cues,
    in_lock,
    parse_offset,
    rate_change,
    read_captions,
    take_captions,
)
from ezvar.core.timing import Rate

from .tools import TextTools

_LISTED = 8  # lines of what was left out


class TakingDialog(QDialog):
    """What a caption file holds as it is read, and how it is to be taken: encoding, offset, rate, into which track."""

    def __init__(self, tools: TextTools, file: str) -> None:
        super().__init__(tools.bench.widget)
        self.setWindowTitle("Take captions in")
        self._tools, self._file = tools, file
        self.cues: Cues | None = None
        column, form = QVBoxLayout(self), QFormLayout()
        self.said = label("")
        self.first = label("", "soft")
        self.left_out = label("", "doubt")
        self.encoding = QComboBox()
        self.encoding.setAccessibleName("Encoding")
        for name, words in ENCODINGS:
            self.encoding.addItem(words, name)
        self.encoding.activated.connect(lambda _: self.read(self.encoding.currentData()))
        self.offset = QLineEdit()
        self.offset.setPlaceholderText("as the file says")
        self.offset.setToolTip("Seconds to add, like -1.5, or the timecode that the file's times begin at")
        self.offset.editingFinished.connect(self.show_times)
        self.rate = QLineEdit()
        self.rate.setPlaceholderText("that of the lock")
        self.rate.setToolTip("The rate that the captions were made for, like 23.976")
        self.rate.editingFinished.connect(self.show_times)
        self.into = QComboBox()
        self.into.addItem("a new track", "")
        for track in tools.session.project.document.tracks:
            self.into.addItem(f"in place of those of “{track.name}”", track.id)
        for name, field in (
            ("Encoding", self.encoding), ("Offset", self.offset), ("Made for", self.rate), ("Into", self.into)
        ):  # fmt: skip
            form.addRow(name, field)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.ok = QPushButton("Take them in")
        self.buttons.addButton(self.ok, QDialogButtonBox.ButtonRole.AcceptRole)
        self.buttons.accepted.connect(self._take)
        self.buttons.rejected.connect(self.reject)
        for widget in (label(readable(Path(file).name), "heading"), self.said, self.first):
            column.addWidget(widget)
        column.addLayout(form)
        column.addWidget(self.left_out)
        column.addWidget(self.buttons)
        self.setMinimumWidth(460)
        self.read("")

    def read(self, encoding: str) -> None:
        """Read the file in an encoding, or as it is told from its bytes."""
        try:
            self.cues = read_captions(self._file, encoding)
        except EzvarError as error:
            self.cues = None
            self.said.setText(str(error))
        else:
            self.encoding.setCurrentIndex(max(0, self.encoding.findData(self.cues.encoding.replace("-", "_"))))
            if self.cues.encoding == "utf-8":
                self.encoding.setCurrentIndex(self.encoding.findData("utf-8"))
        self.encoding.setEnabled(self.cues is None or self.cues.format != "TTML")
        self.show_times()

    def _by(self) -> Fraction:
        lock, text = self._tools.session.project.document.lock, self.rate.text().strip()
        return rate_change(Rate.parse(text), lock) if text else Fraction(1)

    def show_times(self) -> None:
        """Say what would be taken, with the first caption and its timecode."""
        self.ok.setEnabled(False)
        self.left_out.setVisible(False)
        self.first.setText("")
        if self.cues is None:
            return
        lock, offset = self._tools.session.project.document.lock, self.offset.text().strip()
        try:
            placed, added = in_lock(self.cues, lock, parse_offset(offset, lock) if offset else None, self._by())
        except (EzvarError, ValueError) as error:
            self.said.setText(str(error))
            return
        count = len(placed.captions)
        moved = f", moved by {added / 1000:+g} s" if added else ""
        self.said.setText(f"{count} caption{'s' if count != 1 else ''}, {self.cues.format}{moved}.")
        if placed.captions:
            first = placed.captions[0]
            at = self._tools.session.readings.timecode(first.frames(lock.rate).start)
            self.first.setText(f"The first at {at}: {first.words}")
        listed = [str(each) for each in placed.left_out]
        more = f"\nand {len(listed) - _LISTED} more" if len(listed) > _LISTED else ""
        self.left_out.setText("\n".join(listed[:_LISTED]) + more)
        self.left_out.setVisible(bool(listed))
        self.ok.setEnabled(bool(placed.captions))

    def _take(self) -> None:
        session, offset = self._tools.session, self.offset.text().strip()
        doc = session.project.document
        try:
            changed, taken = take_captions(
                doc, self._file, parse_offset(offset, doc.lock) if offset else None, self.encoding.currentData()
                if self.encoding.isEnabled() else "", self._by(), self.into.currentData(),
            )  # fmt: skip
        except EzvarError as error:
            self.said.setText(str(error))
            return
        session.project.edit(f"Captions from {readable(Path(self._file).name)}", changed)
        session.messages.say(f"{taken.said(doc.lock)}.")
        self._tools.work.choose(taken.track.captions[0].id)
        self.accept()


def ask_taking(tools: TextTools, file: str) -> None:
    """Show what a caption file holds, and take it in."""
    TakingDialog(tools, file).exec()
