"""Machines that work for this one, as the rest of the program knows them."""

from __future__ import annotations

from collections import Counter
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
    names = sorted({machine.name for machine in _able(machines)})
    left = (f"Left out is {each.name}: {each.refused.rstrip('.')}." for each in machines if each.refused)
    found = f"{counted(machines)}: {', '.join(names)}." if names else "There is no machine that can work."
    return " ".join([found, *left])


def counted(machines: Sequence[Machine]) -> str:
    """How many can work.

    >>> counted([Machine("big", "tcp://1", 2), Machine("old", "tcp://3", 1)])
    '2 machines with 3 threads'
    """
    able = _able(machines)
    names, threads = len({machine.name for machine in able}), sum(machine.threads for machine in able)
    return f"{names} machine{'s' * (names != 1)} with {threads} thread{'s' * (threads != 1)}"


def doings(machines: Sequence[Machine]) -> list[str]:
    """What is done on each machine, and by how many of its workers: the busy ones first, those left out last.

    >>> big = [Machine("big", f"tcp://{k}", 1, "Looking" if k < 2 else "") for k in range(3)]
    >>> doings([*big, Machine("old", "tcp://3", 1, "", "it has another Ezvar")])
    ['big (2): looking', 'big: waiting', 'old: left out, it has another Ezvar']
    """
    lines = Counter((_rank(each), each.name, _word(each)) for each in machines)
    return [f"{name}{f' ({count})' if count > 1 else ''}: {word}" for (_, name, word), count in sorted(lines.items())]


def _able(machines: Sequence[Machine]) -> list[Machine]:
    return [machine for machine in machines if not machine.refused]


def _rank(machine: Machine) -> int:
    return 2 if machine.refused else 0 if machine.doing else 1


def _word(machine: Machine) -> str:
    if machine.refused:
        return f"left out, {machine.refused}"
    return machine.doing[:1].lower() + machine.doing[1:] or "waiting"


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
