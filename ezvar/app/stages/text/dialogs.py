"""What the text stage asks before it does something: giving captions out, a track, spreading text, finding words."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import (
    QCheckBox,
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
from ezvar.core.model import CaptionLimits, CaptionTrack, time_of
from ezvar.core.names import readable
from ezvar.core.text import (
    SUFFIXES,
    give_captions,
    language_used,
)
from ezvar.core.timing import frame_of

from .tools import TextTools


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
