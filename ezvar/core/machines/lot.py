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
    alone: bool = False  # tried with nothing else under way
    done: float = 0.0
    on: str = ""  # the worker's address that last said something of it
    came: object = None  # what it came to, as it came
    failed: Exception | None = None
