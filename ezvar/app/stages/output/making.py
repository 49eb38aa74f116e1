"""The masters that are being made, wait to be made, or were made: one after the other, each on a thread."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.app.session.jobs import Job
from ezvar.app.session.session import Session
from ezvar.core.encoding import DELIVERY
from ezvar.core.errors import EzvarError
from ezvar.core.model import Master, Row
from ezvar.core.output import Made, Order, row_tasks, rows_of, targets, told_as


class Making(QObject):
    """Makes rows, known by their ids. What is made no more, since its master is gone, is stopped."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._queue: list[str] = []
        self._under_way: tuple[str, Job] | None = None
        self.folder: Path | None = None
        """The folder that was chosen."""
        self.made: dict[str, Made] = {}
        self.failed: dict[str, str] = {}
        session.files.opened.connect(self._forget)
        session.project.changed.connect(self._stop_the_unwanted)

    def _forget(self) -> None:
        self.made.clear()
        self.failed.clear()
        self.folder = None

    def rows(self) -> list[Row]:
        """All that there is to make."""
        doc = self._session.project.doc
        return rows_of(doc, doc.masters, DELIVERY) if doc else []

    def target(self) -> Path:
        """The folder that masters go to: the one chosen, or one beside the project or the lock."""
        if self.folder is not None:
            return self.folder
        project = self._session.project
        beside = project.path or Path(project.document.lock.media[0].path)
        base = beside.parent if os.access(beside.parent, os.W_OK) and project.path else Path.home()
        return base / "Ezvar masters"

    def job_of(self, key: str) -> Job | None:
        """The work under way on a row."""
        return self._under_way[1] if self._under_way is not None and self._under_way[0] == key else None

    def is_waiting(self, key: str) -> bool:
        """Whether a row waits for its turn."""
        return key in self._queue

    def make(self, masters: Iterable[Master]) -> None:
        """Make masters or their ranges one after the other; those under way or waiting are left alone."""
        rows = self.rows()
        for key in (row.id for master in masters for row in rows if row.master == master.id):
            if key not in self._queue and self.job_of(key) is None:
                self.made.pop(key, None)
                self.failed.pop(key, None)
                self._queue.append(key)
        self._next()
        self.changed.emit()

    def stop(self, key: str) -> None:
        """Stop making a row, or have it wait no more."""
        if (job := self.job_of(key)) is not None:
            job.cancel()
        elif key in self._queue:
            self._queue.remove(key)
            self.changed.emit()

    def _stop_the_unwanted(self) -> None:
        if self._under_way is not None and self._under_way[0] not in {row.id for row in self.rows()}:
            self._under_way[1].cancel()

    def _next(self) -> None:
        if not self._queue or self._under_way is not None:
            return
        key = self._queue.pop(0)
        doc = self._session.project.document
        rows = self.rows()
        row = next((each for each in rows if each.id == key), None)
        if row is None:
            self._next()
            return
        try:
            order = Order(doc, row, targets(doc, rows, self.target(), [row])[key])
        except EzvarError as error:
            self.failed[key] = str(error)
            self._next()
            return

        def done(made: Made) -> None:
            if made.error is not None:
                failed(str(made.error))
            else:
                self.made[key] = made

        def failed(message: str) -> None:
            self.failed[key] = message

        job = self._session.jobs.run(
            f"Making {told_as(doc, row)}",
            lambda: row_tasks(doc, [order])[0],
            self._session.around,
            done,
            failed,
            lambda: failed("Stopped. It goes on from there when it is made again."),
            self._ended,
            stands=True,
        )
        self._under_way = key, job

    def _ended(self) -> None:
        self._under_way = None
        self._next()
        self.changed.emit()
