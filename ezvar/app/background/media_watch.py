"""Noticing media that move or vanish, and come back, while the program runs."""

from __future__ import annotations

import os
from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.app.session.jobs import later
from ezvar.core.threads import Worker

_EVERY = 2.0  # seconds


class MediaWatch(QObject):
    """Looks every two seconds, on a thread, whether files are still there.

    ``changed`` brings the paths that are gone now and those that are back.
    """

    changed = pyqtSignal(object, object)

    def __init__(self, slot: Callable[[frozenset[str], frozenset[str]], object]) -> None:
        super().__init__()
        self._paths: frozenset[str] = frozenset()
        self._gone: frozenset[str] = frozenset()
        later(self.changed, slot)
        self._worker = Worker("media", self._look)

    def watch(self, paths: frozenset[str]) -> None:
        """Watch these files from now on."""
        self._paths = paths
        self._worker.wake()

    def stop(self) -> None:
        self._worker.close()

    def _look(self) -> float:
        paths = self._paths
        gone = frozenset(p for p in paths if not os.path.isfile(p))
        fresh, back = gone - self._gone, (self._gone & paths) - gone
        self._gone = gone
        if fresh or back:
            self.changed.emit(fresh, back)
        return _EVERY
