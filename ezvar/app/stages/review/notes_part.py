"""The part of the card where notes are read, answered and written."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.kit.controls import clear, label
from ezvar.core.model import ReviewNote


class NoteField(QPlainTextEdit):
    """Where a note is written. Ctrl and Enter say it, Escape gives the keys back to the window."""

    said = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("A note at this frame")
        self.setPlaceholderText("Write a note at this frame")
        self.setToolTip("Ctrl and Enter note it, Escape leaves it")
        self.setFixedHeight(theme.px(60))
        self.setTabChangesFocus(True)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.said.emit()
        elif event.key() == Qt.Key.Key_Escape:
            self.clearFocus()
        else:
            super().keyPressEvent(event)


class NotesPart(QWidget):
    """The threads on the present shot in the active master, and a field for the next note."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._work = desk, desk.note_work
        self._answers: ReviewNote | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._list = QWidget()
        self._threads = QVBoxLayout(self._list)
        self._threads.setContentsMargins(0, 0, 0, 0)
        self._threads.setSpacing(3)
        self._told = label("", "soft")
        self.field = NoteField()
        self.field.said.connect(self.say)
        self.everywhere = QCheckBox("in all masters")
        self._note = QPushButton("Note it")
        self._note.clicked.connect(self.say)
        column.addWidget(self._list)
        column.addWidget(self._told)
        column.addWidget(self.field)
        row = QHBoxLayout()
        row.addWidget(self._note, 1)
        row.addWidget(self.everywhere)
        column.addLayout(row)
        self._shown: object = None
        self._work.drawn_changed.connect(self._tell)

    def write(self) -> None:
        """Take the keys, for a note to be written."""
        self.field.setFocus()

    def answer(self, note: ReviewNote) -> None:
        """Let the next note answer one."""
        self._answers = note
        self._tell()
        self.write()

    def say(self) -> None:
        """Note what is written and drawn."""
        answers = self._answers.id if self._answers is not None else ""
        text, stretch = self.field.toPlainText(), self._desk.framing_work.stretch
        if self._work.say(text, stretch, answers, self.everywhere.isChecked()):
            self._answers = None
            self.everywhere.setChecked(False)
            self.field.clear()
            self.field.clearFocus()
            self._tell()

    def refresh(self) -> None:
        """Show the threads that are there now."""
        found, shot = self._work.threads(), self._desk.session.at.shot
        shown = (found, shot.id if shot else "", self._work.signed)
        self.setEnabled(shot is not None)
        if shown == self._shown:
            return
        if self._answers is not None and not any(self._answers in thread for thread in found):
            self._answers = None
        self._shown = shown
        clear(self._threads)
        for thread in found:
            for note in thread:
                self._threads.addWidget(self._line(note))
        self._tell()

    def _line(self, note: ReviewNote) -> QWidget:
        session, shot = self._desk.session, self._desk.session.at.shot
        start = (shot.start if shot else 0) + max(0, note.start)
        made = QWidget()
        column = QVBoxLayout(made)
        column.setContentsMargins(theme.px(14) if note.answers else 0, 2, 0, 2)
        column.setSpacing(1)
        head = QHBoxLayout()
        head.addWidget(label(note.author or "Somebody", "heading"), 1)
        for said, name, do in (
            (session.readings.timecode(start), "Go there", partial(session.at.go, start)),
            ("Answer", "Answer this note", partial(self.answer, note)),
        ):
            button = QPushButton(said)
            button.setObjectName("quiet")
            button.setAccessibleName(f"{name}, {note.author}")
            button.clicked.connect(lambda _, do=do: do())
            head.addWidget(button)
        column.addLayout(head)
        column.addWidget(label(note.text or "A drawing.", selectable=True))
        if note.author == self._work.signed:
            away = QPushButton("Withdraw")
            away.setObjectName("quiet")
            away.setAccessibleName("Withdraw this note")
            away.clicked.connect(lambda: self._work.withdraw(note))
            column.addWidget(away, 0, Qt.AlignmentFlag.AlignLeft)
        return made

    def _tell(self) -> None:
        said = []
        if self._answers is not None:
            said.append(f"An answer to {self._answers.author or 'somebody'}.")
        if self._work.drawn:
            said.append(f"With what is drawn, {len(self._work.drawn)} line{'s' if len(self._work.drawn) > 1 else ''}.")
        self._told.setText(" ".join(said))
        self._told.setVisible(bool(said))
