"""The first walk's panel, above the middle of the window."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ezvar.app.kit.controls import label
from ezvar.app.kit.keymap import Keymap
from ezvar.app.session.session import Session

from .walk import STEPS


class WalkPanel(QWidget):
    """Shows one step at a time and goes on by itself when it was tried."""

    def __init__(self, session: Session, keymap: Keymap) -> None:
        super().__init__()
        self.keymap = keymap
        self.at = 0
        self._session = session
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 10, 8)
        words = QVBoxLayout()
        words.setSpacing(2)
        self.title, self.text = label("", "heading"), label("")
        words.addWidget(self.title)
        words.addWidget(self.text)
        row.addLayout(words, 1)
        self.back, self.on, self.leave = QPushButton("Back"), QPushButton("Next"), QPushButton("Leave the walk")
        for button in (self.back, self.on, self.leave):
            row.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        self.back.clicked.connect(lambda: self._go(-1))
        self.on.clicked.connect(lambda: self._go(1))
        self.leave.clicked.connect(self.hide)
        for signal in (
            session.project.changed,
            session.at.shot_changed,
            session.at.master_changed,
            session.project.noted,
        ):
            signal.connect(self._tried)
        self.hide()

    def begin(self) -> None:
        self.at = 0
        self.show()
        self._say()

    def _go(self, by: int) -> None:
        self.at += by
        if self.at >= len(STEPS):
            self.hide()
            self.at = 0
        self._say()

    def _tried(self) -> None:
        if self.isVisible() and STEPS[self.at].done(self._session):
            self._go(1)

    def _say(self) -> None:
        step = STEPS[self.at]
        self.title.setText(f"{self.at + 1} of {len(STEPS)}: {step.title}")
        self.text.setText(step.said(self.keymap))
        self.back.setEnabled(self.at > 0)
        self.on.setText("Done" if self.at == len(STEPS) - 1 else "Next")
