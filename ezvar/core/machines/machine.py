"""Machines that work for this one, as the rest of the program knows them."""

from __future__ import annotations

from collections.abc import Generator, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

from ezvar.core.progress import CancelToken, Progress
from ezvar.core.work import Surroundings, Task


@dataclass(frozen=True)
class Machine:
    """A worker: its machine's name and its address, its threads, what it does, and why it is left out, if it is."""

    name: str
    address: str
    threads: int
    doing: str = ""
    refused: str = ""


def described(machines: Sequence[Machine]) -> str:
    """Machines in a sentence or two.

    >>> described([Machine("big", "tcp://1", 2), Machine("big", "tcp://2", 2), Machine("old", "tcp://3", 1, "", "no")])
    '1 machine with 4 threads: big. Left out is old: no.'
    """
    able = [machine for machine in machines if not machine.refused]
    names = sorted({machine.name for machine in able})
    threads = sum(machine.threads for machine in able)
    found = f"{len(names)} machine{'s' * (len(names) != 1)} with {threads} thread{'s' * (threads != 1)}"
    left = (f"Left out is {each.name}: {each.refused.rstrip('.')}." for each in machines if each.refused)
    return " ".join([f"{found}: {', '.join(names)}." if names else "There is no machine that can work.", *left])


class Machines(Protocol):
    """Machines that work."""

    def run(
        self, tasks: Sequence[Task], around: Surroundings, progress: Progress = ..., cancel: CancelToken | None = ...
    ) -> Generator[Any]:
        """Do tasks there: a `Runner`."""

    def machines(self) -> list[Machine]:
        """Those that there are."""

    def wait_for_workers(self, cancel: CancelToken) -> None:
        """Wait until some worker is there that can do something. Raises `MachineError` where none comes."""

    def there(self) -> bool:
        """Whether whoever schedules them still answered when last asked."""
