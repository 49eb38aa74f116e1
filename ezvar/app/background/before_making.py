"""What still waits before movies are made, worked out behind the editor's back."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ezvar.app.session.session import Session
from ezvar.core.output import Concern, before_making

from .making import RowMaking
from .text_checks import TextChecks

_REST = 200  # milliseconds without a change before it is looked through again


class BeforeMaking(QObject):
    """Looks through what rows of the output list show, when it is asked for and something has changed."""

    changed = pyqtSignal()

    def __init__(self, session: Session, making: RowMaking, text: TextChecks) -> None:
        super().__init__()
        self._session, self._making, self._text = session, making, text
        self.concerns: tuple[Concern, ...] = ()
        self._of: tuple[object, ...] = ()
        self._busy = False
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_REST)
        self._soon.timeout.connect(self._work)

    def look(self) -> None:
        """Have it looked through, unless nothing has changed since."""
        if self._now() != self._of and not self._busy:
            self._soon.start()

    def leave(self) -> None:
        """The program ends: nothing is looked for or told any more."""
        self._soon.stop()
        self.blockSignals(True)

    def _now(self) -> tuple[object, ...]:
        project = self._session.project
        looks = tuple(project.looks.items())
        return id(project.doc), looks, id(self._text.problems), tuple(row.id for row in self._making.rows())

    def _work(self) -> None:
        now, project, problems = self._now(), self._session.project, self._text.problems
        if project.doc is None or self._busy:
            return
        whole, rows = project.whole, self._making.rows()

        def done(found: list[Concern]) -> None:
            self.concerns, self._of = tuple(found), now
            self.changed.emit()

        def failed(said: str) -> None:
            self._of = now  # not again until something changes
            self._session.messages.say_problem(said)

        def ended() -> None:
            self._busy = False
            self.look()

        self._busy = True
        self._session.jobs.start(
            "Looking for what waits", lambda p, c: before_making(whole, rows, problems), done, failed, ended=ended,
            shown=False,
        )  # fmt: skip
