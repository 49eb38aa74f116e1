"""Long work in threads, shown in one place, each with time left and a way to stop it."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, Qt, pyqtBoundSignal, pyqtSignal

from ezvar.core.errors import EzvarError
from ezvar.core.progress import Cancelled, CancelToken, Progress
from ezvar.core.stalls import watch_calls
from ezvar.core.store import our_mistake, report_of
from ezvar.core.threads import begin
from ezvar.core.work import Surroundings, Task, run_here

Work = Callable[[Progress, CancelToken], Any]


def later(signal: pyqtBoundSignal, slot: Callable[..., object]) -> None:
    """Connect so that the slot is called from the event loop of the thread that connects."""
    signal.connect(slot, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]


def told(error: BaseException) -> str:
    """What is said of an error that nobody foresaw; a report of it is written."""
    return our_mistake(error, report_of(error))


class Job(QObject):
    """One piece of work under way. Signals arrive on the interface's thread.

    What it comes to is dropped where it was stopped meanwhile, even by work
    that never looks at its token, unless it ``stands``: a file was written.
    """

    moved = pyqtSignal(float, str)
    done = pyqtSignal(object)
    failed = pyqtSignal(str)
    stopped = pyqtSignal()
    ended = pyqtSignal()

    def __init__(self, title: str, work: Work, shown: bool, stands: bool) -> None:
        super().__init__()
        self.title, self.shown = title, shown
        self.fraction = 0.0
        self.message = title
        self._work, self._stands = work, stands
        self._cancel = CancelToken()
        self._started = time.monotonic()
        self._told = 0.0
        self._given_up = False
        later(self.moved, self._note)

    def begin(self) -> None:
        self._thread = begin(self.title, self._run, low=True)

    def cancel(self) -> None:
        self._cancel.cancel()

    def wait(self, seconds: float) -> None:
        """Wait until its thread has ended."""
        self._thread.join(timeout=seconds)

    def give_up(self, thread: int, said: str) -> None:
        """Let it have failed where its thread is the one that does not come back; what it may still come to is
        dropped."""
        if self._thread.ident == thread:
            self.failed.emit(said)
            self._given_up = True
            self.ended.emit()

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
        if not self._given_up and (now - self._told > 0.08 or fraction >= 1.0):
            self._told = now
            self.moved.emit(fraction, message)

    def _run(self) -> None:
        said: list[Any]
        try:
            result = self._work(self._progress, self._cancel)
            if not self._stands:
                self._cancel.check()
        except Cancelled:
            how, said = "stopped", []
        except EzvarError as error:
            how, said = "failed", [str(error)]
        except Exception as error:
            how, said = "failed", [told(error)]
        else:
            how, said = "done", [result]
        if self._given_up:
            return  # its end was told, and it is no more
        {"stopped": self.stopped, "failed": self.failed, "done": self.done}[how].emit(*said)
        self.ended.emit()


class Jobs(QObject):
    """All work under way."""

    changed = pyqtSignal()
    stalled = pyqtSignal(str)
    """What is said of a file in which a call of a library does not come back."""
    _found_stalled = pyqtSignal(object, str)  # a thread's number is larger than the toolkit's

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._all: list[Job] = []
        later(self._found_stalled, self._give_up)

    def watch(self, over: Callable[[], bool] = lambda: False) -> None:
        """Look for work that does not come back, until it is ``over``, and give it up."""

        def found(error: EzvarError, thread: int) -> None:
            self._found_stalled.emit(thread, str(error))

        begin("watch", lambda: watch_calls(found, over), low=True)

    def _give_up(self, thread: int, said: str) -> None:
        for job in list(self._all):
            job.give_up(thread, said)
        self.stalled.emit(said)

    @property
    def running(self) -> list[Job]:
        """The work under way that is shown."""
        return [job for job in self._all if job.shown]

    def start(
        self,
        title: str,
        work: Work,
        done: Callable[[Any], object] | None = None,
        failed: Callable[[str], object] | None = None,
        stopped: Callable[[], object] | None = None,
        ended: Callable[[], object] | None = None,
        *,
        shown: bool = True,
        stands: bool = False,
    ) -> Job:
        """Begin work on a thread of its own.

        One of ``done``, ``failed`` and ``stopped`` is called back on the
        interface's thread, then ``ended``. Short work behind what is seen is
        not ``shown``. What ``stands`` is reported as done even where it was
        stopped meanwhile.
        """
        job = Job(title, work, shown, stands)
        job.setParent(self)
        for signal, slot in ((job.done, done), (job.failed, failed), (job.stopped, stopped), (job.ended, ended)):
            if slot is not None:
                later(signal, slot)
        later(job.ended, lambda: self._remove(job))
        if shown:
            later(job.moved, lambda *_: self.changed.emit())
        self._all.append(job)
        job.begin()
        if shown:
            self.changed.emit()
        return job

    def run(
        self,
        title: str,
        task: Callable[[], Task],
        around: Surroundings,
        done: Callable[[Any], object] | None = None,
        failed: Callable[[str], object] | None = None,
        stopped: Callable[[], object] | None = None,
        ended: Callable[[], object] | None = None,
        *,
        stands: bool = False,
    ) -> Job:
        """Have a task done as `start` has work done; it is named on the thread, which may take its time."""
        return self.start(
            title, lambda p, c: next(run_here([task()], around, p, c)), done, failed, stopped, ended, stands=stands
        )

    def stop(self, job: Job | None) -> None:
        """Cancel a job if it is still under way."""
        if job is not None and job in self._all:
            job.cancel()

    def _remove(self, job: Job) -> None:
        self._all.remove(job)
        if job.shown:
            self.changed.emit()
        job.deleteLater()

    def stop_all(self) -> None:
        """Cancel everything and wait for it."""
        for job in self._all:
            job.cancel()
        for job in list(self._all):
            job.wait(20)
