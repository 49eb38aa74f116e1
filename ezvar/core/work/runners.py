"""Runners: they take tasks, leave out what is kept, and give what each comes to, in the order of the tasks."""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import groupby, pairwise
from typing import Any

from ezvar.core.apart import Task
from ezvar.core.progress import CancelToken, Progress, portion, silent
from ezvar.core.threads import stand_back

from .kinds import Surroundings, kind_of

Runner = Callable[[Sequence[Task], Surroundings, Progress, CancelToken | None], Generator[Any]]
"""What does tasks. Closed before its end, it leaves the rest undone."""


def run_here(
    tasks: Sequence[Task], around: Surroundings, progress: Progress = silent, cancel: CancelToken | None = None
) -> Generator[Any]:
    """Do tasks on the calling thread, those of a kind that follow one another in one go. Raises what they raise.

    Closed before its end, it leaves the rest undone.
    """
    token = cancel or CancelToken()
    found = [(task, kind_of(task), kind_of(task).kept(task, around)) for task in tasks]
    done = 0
    for (missing, kind), group in groupby(found, key=lambda each: (each[2] is None, each[1])):
        those = list(group)
        if missing:
            within = portion(progress, done / len(tasks), (done + len(those)) / len(tasks))
            yield from kind.run([task for task, _, _ in those], around, within, token)
        else:
            yield from (kept for _, _, kept in those)
        done += len(those)


def run_on_threads(
    tasks: Sequence[Task], around: Surroundings, progress: Progress = silent, cancel: CancelToken | None = None,
    count: int = 2,
) -> Iterator[Any]:  # fmt: skip
    """Do tasks on ``count`` threads, each with as many that follow one another; the first error stops all."""
    token = cancel or CancelToken()
    bounds = [len(tasks) * k // count for k in range(count + 1)]
    shares = [tasks[a:b] for a, b in pairwise(bounds) if b > a]
    told = [0.0] * len(shares)

    def telling(k: int) -> Progress:
        def tell(fraction: float, message: str) -> None:
            told[k] = fraction
            progress(sum(told) / len(shares), message)

        return tell

    with ThreadPoolExecutor(count, "tasks", stand_back) as threads:
        running = [
            threads.submit(lambda s=s, k=k: list(run_here(s, around, telling(k), token)))  # type: ignore[misc]
            for k, s in enumerate(shares)
        ]
        try:
            for each in running:
                yield from each.result()
        except BaseException:
            token.cancel()
            raise
