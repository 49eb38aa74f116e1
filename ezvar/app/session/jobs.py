"""Long work in threads, shown in one place, each with time left and a way to stop it."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, Qt, pyqtBoundSignal, pyqtSignal

from ezvar.core.errors import EzvarError
from ezvar.core.progress import Cancelled, CancelToken, Progress
from ezvar.core.store import our_mistake, report_of


def later(signal: pyqtBoundSignal, slot: Callable[..., object]) -> None:
    """Connect so that the slot is called from the event loop of the thread that connects."""
    signal.connect(slot, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]


def stand_back() -> None:
    """Let the calling thread, and those it starts, leave the processor to the window's when both want it."""
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), 5)


def told(error: BaseException) -> str:
    """What is said of an error that nobody foresaw; a report of it is written."""
    return our_mistake(error, report_of(error))


class Job(QObject):
    """One piece of work under way. Signals arrive on the interface's thread."""

    moved = pyqtSignal(float, str)
    done = pyqtSignal(object)
    failed = pyqtSignal(str)
    stopped = pyqtSignal()
    ended = pyqtSignal()

    def __init__(self, title: str, work: Callable[[Progress, CancelToken], Any]) -> None:
        super().__init__()
        self.title = title
        self.fraction = 0.0
        self.message = title
        self._work = work
        self._cancel = CancelToken()
        self._started = time.monotonic()
        self._told = 0.0
        self.thread_ = threading.Thread(target=self._run, name=title, daemon=True)
        later(self.moved, self._note)

    def cancel(self) -> None:
        self._cancel.cancel()

    def seconds_gone(self) -> float:
        return time.monotonic() - self._started

    def seconds_left(self) -> float | None:
        """Seconds that are left if it goes on as until now; ``None`` too early to say."""
        gone = self.seconds_gone()
        if self.fraction < 0.02 or gone < 1.0:
            return None
        return gone * (1 - self.fraction) / self.fraction

    def time_left(self) -> str:
        """How long it will go on, in words; empty while too early to say."""
        seconds = self.seconds_left()
        if seconds is None:
            return ""
        return f"about {round(seconds)} s left" if seconds < 90 else f"about {round(seconds / 60)} min left"

    def _note(self, fraction: float, message: str) -> None:
        self.fraction, self.message = fraction, message

    def _progress(self, fraction: float, message: str) -> None:
        now = time.monotonic()
        if now - self._told > 0.08 or fraction >= 1.0:
            self._told = now
            self.moved.emit(fraction, message)

    def _run(self) -> None:
        stand_back()
        try:
            result = self._work(self._progress, self._cancel)
        except Cancelled:
            self.stopped.emit()
        except EzvarError as error:
            self.failed.emit(str(error))
        except Exception as error:
            self.failed.emit(told(error))
        else:
            self.done.emit(result)
        self.ended.emit()


class Quiet(QObject):
    """Short pieces of work on a thread, one at a time and without being shown, whose results are taken one by one."""

    _done = pyqtSignal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self.busy = False
        later(self._done, self._take)

    def run(self, work: Callable[[], Any], done: Callable[[Any], object]) -> None:
        """Begin; not while it is busy. ``done`` is called on the interface's thread with the result or the error."""
        assert not self.busy
        self.busy = True

        def whole() -> None:
            stand_back()
            try:
                result = work()
            except Exception as error:
                result = error
            self._done.emit(done, result)

        threading.Thread(target=whole, name="quiet", daemon=True).start()

    def _take(self, done: Callable[[Any], object], result: Any) -> None:
        self.busy = False
        done(result)


class Jobs(QObject):
    """All work under way."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.running: list[Job] = []

    def start(
        self,
        title: str,
        work: Callable[[Progress, CancelToken], Any],
        done: Callable[[Any], object] | None = None,
        failed: Callable[[str], object] | None = None,
        stopped: Callable[[], object] | None = None,
        ended: Callable[[], object] | None = None,
    ) -> Job:
        """Begin work on a thread of its own.

        One of ``done``, ``failed`` and ``stopped`` is called back on the
        interface's thread, then ``ended``.
        """
        job = Job(title, work)
        job.setParent(self)
        for signal, slot in ((job.done, done), (job.failed, failed), (job.stopped, stopped), (job.ended, ended)):
            if slot is not None:
                later(signal, slot)
        later(job.moved, lambda *_: self.changed.emit())
        later(job.ended, lambda: self._remove(job))
        self.running.append(job)
        job.thread_.start()
        self.changed.emit()
        return job

    def _remove(self, job: Job) -> None:
        self.running.remove(job)
        self.changed.emit()
        job.deleteLater()

    def stop_all(self) -> None:
        """Cancel everything and wait for it."""
        for job in self.running:
            job.cancel()
        for job in list(self.running):
            job.thread_.join(timeout=20)
