"""The line above the middle of the window in which messages stand."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

_QUIET = 6000  # milliseconds after which what needs no answer goes by itself


class Banner(QWidget):
    """Hidden until there is something to say."""

    def __init__(self) -> None:
        super().__init__()
        self.message = QLabel()
        self.message.setWordWrap(True)
        self.message.setTextFormat(Qt.TextFormat.PlainText)
        self.dismiss = QPushButton("Close")
        self.dismiss.setAccessibleName("Close the message")
        self.offer = QPushButton("Save now")
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        line = QHBoxLayout(self)
        line.setContentsMargins(14, 6, 10, 6)
        line.addWidget(self.message, 1)
        line.addWidget(self.offer)
        line.addWidget(self.dismiss)
        self.dismiss.clicked.connect(self.hide)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.timeout.connect(self.hide)
        self.hide()

    def say(self, text: str) -> None:
        """Say something that needs no answer; it goes by itself."""
        self._put("", text)
        self._quiet.start(_QUIET)

    def say_problem(self, text: str) -> None:
        """Say what went wrong; it stays until closed."""
        self._quiet.stop()
        self._put("problem", text)

    def say_mistake(self, text: str) -> None:
        """Say that the program made a mistake, and offer to save."""
        self.say_problem(text)
        self.offer.show()

    def _put(self, look: str, text: str) -> None:
        self.message.setObjectName(look)
        self.message.style().polish(self.message)  # type: ignore[union-attr]
        self.message.setText(text)
        self.offer.hide()
        self.show()
