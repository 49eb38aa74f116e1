"""What is sent to a worker at once, and what becomes of it."""

from __future__ import annotations

from dataclasses import dataclass, field

from distributed import Future

from ezvar.core.work import Task


@dataclass(eq=False)
class Lot:
    """Tasks that are sent together, and what has become of them."""

    first: int  # of all tasks
    tasks: tuple[Task, ...]
    key: str = ""
    future: Future | None = None
    not_on: dict[str, str] = field(default_factory=dict)  # machines that cannot do it, and why
    tries: int = 0
    deaths: int = 0  # of workers that had it when it was sent before
    lost: int = 0  # workers that had it and died, since it was sent
    alone: int = 0  # times that it was tried with nothing else under way
    done: float = 0.0
    sent_to: str = ""  # the address of the worker for which it is meant, though any may do it
    on: str = ""  # the worker's address that last said something of it

    def anew(self, start: int = 0, stop: int | None = None) -> Lot:
        """Some of its tasks, or all, to be sent again, with what is known of them."""
        return Lot(
            self.first + start, self.tasks[start:stop], not_on=dict(self.not_on), tries=self.tries,
            deaths=self.deaths + self.lost, alone=self.alone,
        )  # fmt: skip


@dataclass(frozen=True)
class Ended:
    """That a lot has come to something: what, as it came, or why not."""

    lot: Lot
    came: object = None
    failed: Exception | None = None
