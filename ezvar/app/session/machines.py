"""The machines that this program's tasks are done on."""

from __future__ import annotations

import threading
from collections.abc import Generator, Sequence
from contextlib import ExitStack
from typing import Any

from ezvar.core.machines import Machine, Machines, Way, connected, going_on_here
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.work import Runner, Surroundings, Task, run_here

from .messages import Messages


class MachinesUsed:
    """This machine alone, or those of an ``address`` that has been chosen. Used by jobs, on their threads.

    The others are connected with when the first task wants them, and stay so until others are chosen, they fail, or
    the program ends.
    """

    def __init__(self, messages: Messages) -> None:
        self._messages = messages
        self._lock = threading.Lock()
        self._stack = ExitStack()
        self._machines: Machines | None = None
        self.address, self.ways, self.then_here = "", tuple[Way, ...](), False

    def choose(self, address: str, ways: Sequence[Way], then_here: bool) -> None:
        """Have tasks done there from now on; on this machine where no address is given."""
        with self._lock:
            self.address, self.ways, self.then_here = address, tuple(ways), then_here
            self._leave()

    def close(self) -> None:
        """Leave the others, and end those that were started here."""
        with self._lock:
            self._leave()

    def at_work(self) -> list[Machine]:
        """Those that are connected with."""
        machines = self._machines
        return machines.machines() if machines is not None else []

    @property
    def others(self) -> Runner | None:
        """What does tasks on the others; nothing where this machine does all."""
        if not self.address:
            return None
        if not self.then_here:
            return self._run
        return going_on_here(self._run, lambda error: self._messages.say_problem(f"{error} It goes on here."))

    @property
    def runner(self) -> Runner:
        """What does tasks."""
        return self.others or run_here

    def _run(
        self, tasks: Sequence[Task], around: Surroundings, progress: Progress = silent,
        cancel: CancelToken | None = None,
    ) -> Generator[Any]:  # fmt: skip
        machines = self._connected()
        try:
            yield from machines.run(tasks, around, progress, cancel)
        except Exception:
            with self._lock:
                if self._machines is machines and not machines.there():
                    self._leave()  # and connect anew the next time
            raise

    def _connected(self) -> Machines:
        with self._lock:
            if self._machines is None:
                self._machines = self._stack.enter_context(connected(self.address, self.ways))
            return self._machines

    def _leave(self) -> None:
        self._machines = None
        self._stack.close()
