"""Sending finished movies to their receivers, behind the editor's back."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.app.session.session import Session
from ezvar.core.model import Finished, Row, Sent
from ezvar.core.output import send, told_as


class RowSending(QObject):
    """Sends what was made of rows, one after the other or side by side, and notes in the project what came of it."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._project = session, session.project
        self._under_way: set[str] = set()

    def may_send(self, rows: Iterable[Row]) -> list[Finished]:
        """What was made of rows and can be sent now, to the receivers that the rows have now."""
        made = ((row, self._project.makings.finished_of(row.id)) for row in rows)
        return [
            replace(finished, row=replace(finished.row, receiver=row.receiver))
            for row, finished in made
            if finished is not None and row.receiver is not None and row.id not in self._under_way
        ]

    def send(self, movies: Iterable[Finished]) -> None:
        """Send movies, or go on with them."""
        for finished in movies:
            self._send(finished)

    def _send(self, finished: Finished) -> None:
        doc, project, row = self._project.document, self._project.document.project, finished.row
        name = told_as(doc, row)

        def done(sent: Sent) -> None:
            if self._project.doc is not None and self._project.document.project == project:
                self._project.note_makings(self._project.makings.with_sent(row.id, sent))
            words = {"accepted": "took", "refused": "does not take", "broken off": "has not got all of"}[sent.state]
            said = f"{sent.receiver[:1].upper()}{sent.receiver[1:]} {words} {name}{sent.said and f': {sent.said}'}."
            (self._session.messages.say if sent.state == "accepted" else self._session.messages.say_problem)(said)

        def ended() -> None:
            self._under_way.discard(row.id)
            self.changed.emit()

        self._under_way.add(row.id)
        self._session.jobs.start(
            f"Sending {name}", partial(send, doc, finished), done, self._session.messages.say_problem,
            ended=ended, stands=True,
        )  # fmt: skip
        self.changed.emit()
