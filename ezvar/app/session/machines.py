"""The machines that this program's tasks are done on."""

from __future__ import annotations

import threading
from collections.abc import Generator, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from functools import partial
from typing import Any

from ezvar.core.machines import Machine, Machines, Way, connected, going_on_here
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.threads import begin
from ezvar.core.work import Runner, Surroundings, Task, run_here

from .messages import Messages


class _Connection:
    """The machines at an address, connected with when they are first wanted, and left when nobody uses them any more.
    Safe across threads; only `use` waits."""

    def __init__(self, address: str, ways: tuple[Way, ...]) -> None:
        self.address, self.ways = address, ways
        self.machines: Machines | None = None
        self._connecting, self._counting = threading.Lock(), threading.Lock()
        self._stack = ExitStack()
        self._users, self._given_up = 0, False

    @contextmanager
    def use(self) -> Iterator[Machines]:
        """The machines, for as long as they are used. Raises as `connected`."""
        with self._counting:
            self._users += 1
        try:
            with self._connecting:
                if self.machines is None:
                    self.machines = self._stack.enter_context(connected(self.address, self.ways))
                machines = self.machines
            yield machines
        finally:
            with self._counting:
                self._users -= 1
            self._leave_unused()

    def give_up(self) -> None:
        """Leave them, and end those that were started here, once nobody uses them any more."""
        with self._counting:
            self._given_up = True
        self._leave_unused()

    def _leave_unused(self) -> None:
        with self._counting:
            if self._users or not self._given_up or self.machines is None:
                return
            self.machines = None
            left, self._stack = self._stack, ExitStack()
        begin("leaving machines", left.close)


class MachinesUsed:
    """This machine alone, or those of an ``address`` that has been chosen. Used by jobs, on their threads.

    The others are connected with when the first task wants them, and stay so until others are chosen, they fail, or
    the program ends. What is being done by them when others are chosen goes on where it is.
    """

    def __init__(self, messages: Messages) -> None:
        self._messages = messages
        self._now = _Connection("", ())
        self.then_here = False

    @property
    def address(self) -> str:
        return self._now.address

    @property
    def ways(self) -> tuple[Way, ...]:
        return self._now.ways

    def choose(self, address: str, ways: Sequence[Way], then_here: bool) -> None:
        """Have tasks done there from now on; on this machine where no address is given."""
        self.then_here = then_here
        self._connect_anew(_Connection(address, tuple(ways)))

    def close(self) -> None:
        """Leave the others, and end those that were started here."""
        self._now.give_up()

    def _connect_anew(self, now: _Connection) -> None:
        left, self._now = self._now, now
        left.give_up()

    def at_work(self) -> list[Machine]:
        """Those that are connected with."""
        machines = self._now.machines
        return machines.machines() if machines is not None else []

    @property
    def others(self) -> Runner | None:
        """What does tasks on the others; nothing where this machine does all."""
        if not self.address:
            return None
        run = partial(self._run, self._now)
        if not self.then_here:
            return run
        return going_on_here(run, lambda error: self._messages.say_problem(f"{error} It goes on here."))

    @property
    def runner(self) -> Runner:
        """What does tasks."""
        return self.others or run_here

    def _run(
        self, now: _Connection, tasks: Sequence[Task], around: Surroundings, progress: Progress = silent,
        cancel: CancelToken | None = None,
    ) -> Generator[Any]:  # fmt: skip
        with now.use() as machines:
            try:
                yield from machines.run(tasks, around, progress, cancel)
            except Exception:
                if not machines.there() and self._now is now:
                    self._connect_anew(_Connection(now.address, now.ways))
                raise
