"""Calls into libraries that may not come back: how long one may take, and what is given up where it takes longer.

No thread can be stopped in such a call. It is left alone in it, and whoever waits for it is told; the file that it
reads is never read again by this program. Reading apart, where the operating system ends what stalls, is
`ezvar.core.apart`; of pictures and sounds there are far too many for that.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from .errors import MediaError

STALLED = 90.0
"""Seconds that a call may take."""
_LOOK = 0.5  # seconds between looks at them

_calls: dict[int, tuple[float, str]] = {}  # by thread: since when, and which file
_threads: dict[int, str] = {}  # that are given up: in which file
_files: set[str] = set()


@contextmanager
def call_about(file: str) -> Iterator[None]:
    """Around a call that reads a file. Raises `MediaError` for one that was given up."""
    if file in _files:
        raise given_up(file)
    thread = threading.get_ident()
    _calls[thread] = time.monotonic(), file
    try:
        yield
    finally:
        _calls.pop(thread, None)
        _threads.pop(thread, None)  # it came back after all


def given_up(file: str) -> MediaError:
    """What is said of a file in which a call did not come back."""
    return MediaError(
        f"reading it came to a stop for more than {STALLED:.0f} s and was given up", file=file,
        remedy="Copy or export it again, then start anew",
    )  # fmt: skip


def is_given_up(thread: threading.Thread) -> bool:
    """Whether a thread is in a call that does not come back."""
    return thread.ident in _threads


def check(thread: threading.Thread) -> None:
    """Raise `MediaError` where a thread is in a call that does not come back."""
    if thread.ident is not None and (file := _threads.get(thread.ident)) is not None:
        raise given_up(file)


def joined(thread: threading.Thread) -> None:
    """Wait until a thread has ended, or is given up."""
    while thread.is_alive() and not is_given_up(thread):
        thread.join(_LOOK)


def forget() -> None:
    """Take files that were given up for what can be read again."""
    _files.clear()


def watch_calls(tell: Callable[[MediaError, int], object], over: Callable[[], bool] = lambda: False) -> None:
    """Look for calls that do not come back, on the calling thread, until it is ``over``; ``tell`` is told of each,
    once, with the thread that is in it.

    Looks are counted rather than time: a program that was stopped meanwhile, and goes on, has waited for nothing.
    """
    looks: dict[tuple[int, float], int] = {}
    while True:
        time.sleep(_LOOK)
        if over():
            return
        calls = list(_calls.items())
        looks = {(thread, since): looks.get((thread, since), 0) + 1 for thread, (since, _) in calls}
        for thread, (since, file) in calls:
            if thread not in _threads and looks[thread, since] * _LOOK > STALLED:
                _threads[thread] = file
                _files.add(file)
                tell(given_up(file), thread)
