"""Noticing media that move or vanish, and come back, while the program runs."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.app.session.jobs import later

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
        self._stopping = threading.Event()
        later(self.changed, slot)
        self._thread = threading.Thread(target=self._run, name="media", daemon=True)
        self._thread.start()

    def watch(self, paths: frozenset[str]) -> None:
        """Watch these files from now on."""
        self._paths = paths

    def stop(self) -> None:
        self._stopping.set()
        self._thread.join()

    def _run(self) -> None:
        while not self._stopping.wait(_EVERY):
            paths = self._paths
            gone = frozenset(p for p in paths if not os.path.isfile(p))
            fresh, back = gone - self._gone, (self._gone & paths) - gone
            self._gone = gone
            if fresh or back:
                self.changed.emit(fresh, back)
