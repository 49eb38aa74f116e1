"""What the text stage asks before it does something: taking captions in, giving them out, finding words."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QInputDialog,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
)

from ezvar.app.kit.controls import label, spin
from ezvar.core import edits
from ezvar.core.errors import EzvarError
from ezvar.core.model import CaptionLimits, CaptionTrack, time_of
from ezvar.core.names import readable
from ezvar.core.text import (
    ENCODINGS,
    SUFFIXES,
    Cues,
    give_captions,
    in_lock,
    language_used,
    parse_offset,
    rate_change,
    read_captions,
    take_captions,
)
from ezvar.core.timing import Rate, frame_of

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


def ask_giving(tools: TextTools) -> None:
    """Write captions for all masters, in a format and to a folder that are asked for."""
    widget, session = tools.bench.widget, tools.session
    chosen, ok = QInputDialog.getItem(widget, "Give captions out", "As:", list(SUFFIXES), 0, False)
    folder = QFileDialog.getExistingDirectory(widget, "Give captions out to") if ok else ""
    if not folder:
        return
    doc = session.project.document
    work = partial(give_captions, doc, next(f for f in SUFFIXES if f == chosen), folder)

    def done(files: list[Path]) -> None:
        session.messages.say(f"{len(files)} files were written to {readable(Path(folder).name)}.")

    session.jobs.start("Writing captions", lambda p, c: work(), done, session.messages.say_problem, stands=True)


class FindDialog(QDialog):
    """Words to be found, and what is to stand in their place."""

    def __init__(self, tools: TextTools) -> None:
        super().__init__(tools.bench.widget)
        self.setWindowTitle("Find and replace")
        self._tools = tools
        column, form = QVBoxLayout(self), QFormLayout()
        self.words, self.by, self.case = QLineEdit(), QLineEdit(), QCheckBox("Tell capitals from small letters")
        form.addRow("Find", self.words)
        form.addRow("Replace by", self.by)
        column.addLayout(form)
        column.addWidget(self.case)
        self.said = label("", "soft")
        column.addWidget(self.said)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        for words, work in (("Find next", self.find_next), ("Replace all", self.replace_all)):
            button = buttons.addButton(words, QDialogButtonBox.ButtonRole.ActionRole)
            assert button is not None
            button.clicked.connect(work)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.setMinimumWidth(380)

    def find_next(self) -> None:
        """Go to the next caption that has the words."""
        work, wanted = self._tools.work, self.words.text()
        listed = [c for _, c in work.all()]
        present = work.present
        at = next((k for k, c in enumerate(listed) if present and c.id == present[1].id), -1)
        fold = (lambda t: t) if self.case.isChecked() else str.casefold
        found = next(
            (c for c in (*listed[at + 1 :], *listed[: at + 1]) if wanted and fold(wanted) in fold(c.text)), None
        )
        self.said.setText("" if found else "No caption has it.")
        if found is not None:
            work.choose(found.id)

    def replace_all(self) -> None:
        """Replace the words in all captions of the present track."""
        work, track = self._tools.work, self._tools.work.track
        if track is None:
            return
        doc = self._tools.session.project.document
        changed, count = edits.replace_text(doc, track.id, self.words.text(), self.by.text(), self.case.isChecked())
        self.said.setText(f"Replaced {count} times." if count else "No caption has it.")
        if count:
            work.edit(f"Replace “{self.words.text()}”", lambda d: changed)


class TrackDialog(QDialog):
    """A track by itself: its name, its language, whether it is shown and locked, what its captions should keep to."""

    def __init__(self, tools: TextTools, track: CaptionTrack) -> None:
        super().__init__(tools.bench.widget)
        self.setWindowTitle("The track")
        self._tools, self._track = tools, track
        limits = track.limits
        column, form = QVBoxLayout(self), QFormLayout()
        self.name, self.language = QLineEdit(track.name), QLineEdit(track.language)
        self.language.setPlaceholderText(f"told from its words: {language_used(track)}")
        self.shown, self.locked = QCheckBox("Shown"), QCheckBox("Locked")
        self.shown.setChecked(track.shown)
        self.locked.setChecked(track.locked)
        self.pace = spin(1, 60, 1, " letters a second")
        self.shortest, self.longest = spin(0, 10, 2, " s"), spin(0.5, 60, 1, " s")
        self.gap, self.line = spin(0, 25, 0, " frames"), spin(5, 200, 0, " letters")
        for field, value in (
            (self.pace, limits.letters_a_second), (self.shortest, limits.shortest / 1000),
            (self.longest, limits.longest / 1000), (self.gap, limits.gap), (self.line, limits.letters_a_line),
        ):  # fmt: skip
            field.setValue(value)
        for said, widget in (
            ("Name", self.name), ("Language", self.language), ("", self.shown), ("", self.locked),
            ("Read at most", self.pace), ("Stand at least", self.shortest), ("At most", self.longest),
            ("Apart, or without a gap", self.gap), ("A line has at most", self.line),
        ):  # fmt: skip
            form.addRow(said, widget)
        self.said = label("", "doubt")
        self.said.setVisible(False)
        if track.source:
            column.addWidget(label(f"From {readable(Path(track.source).name)}, {track.encoding}.", "soft"))
        column.addLayout(form)
        column.addWidget(self.said)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.change)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def change(self) -> None:
        """Give the track what the fields say."""
        try:
            limits = CaptionLimits(
                self.pace.value(), round(1000 * self.shortest.value()), round(1000 * self.longest.value()),
                round(self.gap.value()), round(self.line.value()),
            )  # fmt: skip
        except ValueError as error:
            self.said.setText(f"That cannot be: {error}.")
            self.said.setVisible(True)
            return
        track = replace(
            self._track, name=self.name.text().strip() or self._track.name, language=self.language.text().strip(),
            shown=self.shown.isChecked(), locked=self.locked.isChecked(), limits=limits,
        )  # fmt: skip
        self._tools.work.edit(f"The track {track.name}", lambda d: edits.change_track(d, track))
        self.accept()


def ask_about_track(tools: TextTools) -> None:
    """Show what a track is like, and change it."""
    track = tools.work.track
    if track is not None:
        TrackDialog(tools, track).exec()


class SpreadDialog(QDialog):
    """A text, and from where to where it is to be spread."""

    def __init__(self, tools: TextTools) -> None:
        super().__init__(tools.bench.widget)
        self.setWindowTitle("Spread a text over time")
        self._tools = tools
        session = tools.session
        column, form = QVBoxLayout(self), QFormLayout()
        self.text = QPlainTextEdit()
        self.text.setAccessibleName("The text")
        self.text.setPlaceholderText("Paste what is said. It is parted where its sense and the sound part.")
        shot, lock = session.at.shot, session.project.document.lock
        last = shot.end if shot is not None else lock.frames
        self.first, self.last = QLineEdit(session.readings.timecode(session.at.frame)), QLineEdit()
        self.last.setText(session.readings.timecode(max(last, session.at.frame + 1)))
        form.addRow("From", self.first)
        form.addRow("To", self.last)
        self.said = label("", "doubt")
        self.said.setVisible(False)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.ok = QPushButton("Spread it")
        buttons.addButton(self.ok, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self._spread)
        buttons.rejected.connect(self.reject)
        column.addWidget(self.text)
        column.addLayout(form)
        column.addWidget(self.said)
        column.addWidget(buttons)
        self.setMinimumSize(460, 320)

    def _spread(self) -> None:
        lock = self._tools.session.project.document.lock
        try:
            start, end = (
                time_of(max(0, frame_of(field.text(), lock.rate) - lock.start), lock.rate)
                for field in (self.first, self.last)
            )
            self._tools.work.spread(self.text.toPlainText(), start, end)
        except ValueError as error:
            self.said.setText(f"That cannot be: {error}.")
            self.said.setVisible(True)
            return
        self.accept()


def ask_spreading(tools: TextTools) -> None:
    """Spread a text that is pasted over a stretch of time."""
    SpreadDialog(tools).exec()


def ask_find(tools: TextTools) -> None:
    """Find and replace words in the captions."""
    FindDialog(tools).exec()
