"""This machine alone, as one of the machines that work: by threads of this program, where processes would not pay."""

from __future__ import annotations

import os
from collections.abc import Generator, Sequence
from typing import Any

from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.work import Surroundings, Task, run_here

from .machine import Machine
from .proof import machine_name


class ThreadsHere:
    """`Machines` without a scheduler: what they are asked is done here."""

    def __init__(self) -> None:
        self._doing = ""

    def run(
        self, tasks: Sequence[Task], around: Surroundings, progress: Progress = silent,
        cancel: CancelToken | None = None,
    ) -> Generator[Any]:  # fmt: skip
        """Do tasks as `run_here`."""

        def on_progress(fraction: float, message: str) -> None:
            self._doing = message
            progress(fraction, message)

        try:
            yield from run_here(tasks, around, on_progress, cancel)
        finally:
            self._doing = ""

    def machines(self) -> list[Machine]:
        """This one, and what it does."""
        return [Machine(machine_name(), "", len(os.sched_getaffinity(0)), self._doing)]

    def wait_for_workers(self, cancel: CancelToken) -> None:
        """There is nothing to wait for."""

    def there(self) -> bool:
        """It always is."""
        return True
