"""What is done once nothing moves any more."""

from __future__ import annotations

from PyQt6.QtCore import QTimer

from ezvar.app.session.jobs import Jobs
from ezvar.app.session.position import Position
from ezvar.core.memory import give_back

_REST = 2000  # milliseconds without a job or a move


class Rest(QTimer):
    """Gives memory that was set free back to the system when the window has come to rest, so that no work waits."""

    def __init__(self, jobs: Jobs, at: Position) -> None:
        super().__init__()
        self._jobs, self._at = jobs, at
        self.setSingleShot(True)
        self.setInterval(_REST)
        self.timeout.connect(self._rested)
        jobs.changed.connect(self.start)
        at.frame_changed.connect(lambda _: self.start())

    def _rested(self) -> None:
        if not self._jobs.running and not self._at.playing:
            give_back()
