"""How large rows of the output list will be and how long they take, tried out behind the editor's back."""

from __future__ import annotations

from collections.abc import Hashable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ezvar.app.session.jobs import Job
from ezvar.app.session.session import Session
from ezvar.core.model import Document, Row
from ezvar.core.output import Expected, expected

from .making import RowMaking

_REST = 1200  # milliseconds in which nothing is asked for before something is tried


class Expecting(QObject):
    """Tries rows out, one after the other, while it is asked for and nothing is being made. What was told of a row
    holds until its preset, its range, its master's size or the lock is another one."""

    changed = pyqtSignal()

    def __init__(self, session: Session, making: RowMaking) -> None:
        super().__init__()
        self._session, self._making = session, making
        self._known: dict[Hashable, Expected] = {}
        self._job: Job | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_REST)
        self._soon.timeout.connect(self._work)
        making.changed.connect(lambda: self.leave() if making.busy else None)
        session.at.stage_changed.connect(lambda stage: self.leave() if stage != "output" else None)

    def of(self, row: Row) -> Expected | None:
        """What a row is expected to come to, as far as that is known."""
        doc = self._session.project.doc
        return self._known.get(_key(doc, row)) if doc is not None else None

    def ask(self) -> None:
        """Have what is not known tried out soon."""
        if self._next() is not None and self._job is None:
            self._soon.start()

    def leave(self) -> None:
        """Nothing is tried any more for now."""
        self._soon.stop()
        if self._job is not None:
            self._job.cancel()

    def close(self) -> None:
        """The program ends: nothing is told any more."""
        self.leave()
        self.blockSignals(True)

    def _next(self) -> Row | None:
        doc = self._session.project.doc
        if doc is None or self._making.busy or self._session.media.reader is None:
            return None
        return next((row for row in self._making.rows() if _key(doc, row) not in self._known), None)

    def _work(self) -> None:
        row, doc = self._next(), self._session.project.doc
        if row is None or doc is None or self._job is not None:
            return
        key = _key(doc, row)

        def done(found: dict[str, Expected]) -> None:
            self._known[key] = found[row.id]
            self.changed.emit()

        def failed(said: str) -> None:  # what cannot be read is told where it is made
            self._known[key] = Expected(0, 0.0)

        def ended() -> None:
            self._job = None
            self.ask()

        self._job = self._session.jobs.start(
            "Trying out", lambda p, c: expected(doc, [row], p, c), done, failed, self._soon.stop, ended, shown=False
        )


def _key(doc: Document, row: Row) -> Hashable:
    master, media = doc.master(row.master), tuple(m.content for m in doc.lock.media)
    return row.start, row.end, row.preset, master.width, master.height, media
