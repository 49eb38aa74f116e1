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


class Machines(Protocol):
    """Machines that work."""

    def run(
        self, tasks: Sequence[Task], around: Surroundings, progress: Progress = ..., cancel: CancelToken | None = ...
    ) -> Generator[Any]:
        """Do tasks there: a `Runner`."""

    def machines(self) -> list[Machine]:
        """Those that there are."""
