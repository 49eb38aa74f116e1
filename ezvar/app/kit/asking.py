"""Asking a question that has a few answers, each a button of its own."""

from __future__ import annotations

from PyQt6.QtWidgets import QMessageBox, QWidget


def ask(parent: QWidget, title: str, question: str, answers: tuple[str, ...]) -> str:
    """The answer that was chosen. The last one is the harmless one, which Escape and Enter give too."""
    box = QMessageBox(QMessageBox.Icon.Question, title, question, parent=parent)
    roles = QMessageBox.ButtonRole
    buttons = {answer: box.addButton(answer, roles.ActionRole) for answer in answers[:-1]}
    harmless = box.addButton(answers[-1], roles.RejectRole)
    box.setDefaultButton(harmless)
    box.exec()
    return next((answer for answer, button in buttons.items() if button is box.clickedButton()), answers[-1])
