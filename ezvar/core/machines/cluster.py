"""Tasks done by the workers of a Dask scheduler.

It decides where what is done, and does it again elsewhere where a worker
dies. Nothing here is loaded before somebody asks for it.
"""

from __future__ import annotations

from collections.abc import Generator, Sequence
from itertools import groupby
from typing import Any

from ezvar.core.progress import CancelToken, Progress, portion, silent
from ezvar.core.work import Surroundings, Task, kind_of, run_here

from .scheduler import Scheduler
from .sending import Sending


class Cluster(Scheduler):
    """The workers at a scheduler's address, as a `Runner`."""

    def run(
        self, tasks: Sequence[Task], around: Surroundings, progress: Progress = silent,
        cancel: CancelToken | None = None,
    ) -> Generator[Any]:  # fmt: skip
        """Do tasks, as `run_here` does, but elsewhere, those of kinds that travel.

        What has come back when it is closed, cancelled, or when something goes
        wrong, and was not given yet, is kept as its kind says. Where a task
        has ended the workers that tried it, all others are done, and then
        `MachineError` is raised, which names it.
        """
        token = cancel or CancelToken()
        found = [(task, kind_of(task), kind_of(task).kept(task, around)) for task in tasks]
        done = 0
        for (missing, kind), group in groupby(found, key=lambda each: (each[2] is None, each[1])):
            those = [task for task, _, _ in group]
            within = portion(progress, done / len(tasks), (done + len(those)) / len(tasks))
            if not missing:
                yield from (kept for _, _, kept in found[done : done + len(those)])
            elif kind.travel is None:
                yield from run_here(those, around, within, token)
            else:
                yield from Sending(self, kind, those, around, within, token).results()
            done += len(those)
