"""The threads of the program: all of them are begun here, and each says how it ends."""

from __future__ import annotations

import os
import threading
from collections import deque
from collections.abc import Callable, Generator, Iterator
from typing import TypeVar

from .stalls import check, is_given_up, joined

T = TypeVar("T")
_LOOK = 1.0  # seconds between looks at whether a thread is given up


def begin(name: str, work: Callable[[], object], low: bool = False) -> threading.Thread:
    """Begin work on a thread of its own, which ends with it; ``low`` leaves the processor to others that want it."""

    def run() -> None:
        if low:
            stand_back()
        work()

    thread = threading.Thread(target=run, name=name, daemon=True)
    thread.start()
    return thread


def stand_back() -> None:
    """Let the calling thread, and those it starts, leave the processor to others when both want it."""
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), 5)


class Worker:
    """A thread that does a step whenever it is woken, until it is closed.

    Waking it several times while it is at work is as waking it once.
    ``step`` runs on the thread; it returns the seconds after which it is to
    run again without being woken, or ``None``. What it shares with others is
    guarded by ``changed``. ``ended`` runs last, on the thread.
    """

    def __init__(
        self,
        name: str,
        step: Callable[[], float | None],
        ended: Callable[[], object] = lambda: None,
        low: bool = False,
    ) -> None:
        self.changed = threading.Condition()
        self.closing = False
        self._woken = False
        self._step, self._ended = step, ended
        self._name, self._low = name, low
        self.thread: threading.Thread | None = None
        """The thread that does its steps; `None` before the first."""

    def wake(self) -> None:
        """Have a step done; returns at once. The thread is begun by the first one, and anew where it is given up."""
        with self.changed:
            self._woken = True
            if (self.thread is None or is_given_up(self.thread)) and not self.closing:
                self.thread = begin(self._name, self._run, self._low)
            self.changed.notify()

    def wait(self, until: Callable[[], bool], seconds: float) -> bool:
        """Of a step: wait until something holds, or it is closed, or the time is over; whether it holds."""
        with self.changed:
            self.changed.wait_for(lambda: self.closing or until(), seconds)
            return until()

    def close(self) -> None:
        """Do no more steps, and wait until the one under way is over."""
        with self.changed:
            self.closing = True
            self.changed.notify()
        if self.thread is not None:
            joined(self.thread)

    def _run(self) -> None:
        again: float | None = None
        while True:
            with self.changed:
                self.changed.wait_for(lambda: self.closing or self._woken, again)
                if self.closing or threading.current_thread() is not self.thread:
                    break
                self._woken = False
            again = self._step()
        self._ended()


def ahead(made: Iterator[T], most: int, name: str = "ahead") -> Generator[T]:
    """What an iterator gives, made on a thread of its own up to ``most`` ahead.

    What it raises is raised here. Closed before its end, the iterator is
    closed on its own thread, and waited for.
    """
    ready: deque[tuple[T] | BaseException | None] = deque()
    changed = threading.Condition()
    closing = False

    def put(each: tuple[T] | BaseException | None) -> bool:
        with changed:
            changed.wait_for(lambda: closing or len(ready) < most)
            ready.append(each)
            changed.notify_all()
            return not closing

    def run() -> None:
        try:
            for each in made:
                if not put((each,)):
                    break
            put(None)
        except BaseException as error:
            put(error)
        finally:
            if isinstance(made, Generator):
                made.close()

    thread = begin(name, run)
    try:
        while True:
            with changed:
                while not changed.wait_for(lambda: bool(ready), _LOOK):
                    check(thread)
                each = ready.popleft()
                changed.notify_all()
            if each is None:
                return
            if isinstance(each, BaseException):
                raise each
            yield each[0]
    finally:
        with changed:
            closing = True
            changed.notify_all()
        joined(thread)
