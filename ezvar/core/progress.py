"""How long work reports how far it is, and how it is told to stop."""

from __future__ import annotations

import threading
from collections.abc import Callable

Progress = Callable[[float, str], None]
"""Called with the fraction done, 0 to 1, and what is being done."""


def silent(fraction: float, message: str) -> None:
    """A progress that nobody watches."""


class Cancelled(Exception):
    """Raised inside long work after its token was cancelled."""


class CancelToken:
    """A flag that long work looks at between steps. Safe across threads."""

    def __init__(self) -> None:
        self._event = threading.Event()

    def cancel(self) -> None:
        self._event.set()

    @property
    def cancelled(self) -> bool:
        return self._event.is_set()

    def check(self) -> None:
        """Raise `Cancelled` once `cancel` has been called."""
        if self._event.is_set():
            raise Cancelled


def portion(progress: Progress, start: float, end: float) -> Progress:
    """A progress for a step that fills ``start`` to ``end`` of the whole."""
    return lambda fraction, message: progress(start + (end - start) * fraction, message)
