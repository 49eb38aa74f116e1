"""What it costs to have work done by others: reading and making by single-threaded workers of a scheduler, against the
same tasks in as many plain processes side by side, and in one. Starting is not counted. And what one task's journey
costs.

Run as ``python -m benchmarks.machines``; it takes half an hour.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path
from statistics import median
from typing import Any
from unittest.mock import patch

import psutil

from ezvar.core import output
from ezvar.core.compose import LockPictures
from ezvar.core.encoding import DELIVERY
from ezvar.core.evidence import look_tasks
from ezvar.core.lock import LockReader, take_lock
from ezvar.core.machines import Machines, dividing
from ezvar.core.machines.cluster import Cluster
from ezvar.core.machines.here import workers_here
from ezvar.core.model import Document, Framing, Keyframe, Master, Pane, Row
from ezvar.core.output import segments
from ezvar.core.output.job import RowJob
from ezvar.core.output.parted import segment_tasks
from ezvar.core.store import Cache, load_project
from ezvar.core.work import Surroundings, Task, run_here
from ezvar.demo import DEMO_PROJECT
from tests.media import make_movie

ROUNDS = 3
_FEW, _ERRANDS = 25, 60  # pictures of a tiny task, one second, and how many such there are
_PLAIN = """
import sys
from benchmarks.machines import plainly
plainly(*sys.argv[1:])
"""


def reading(folder: str) -> tuple[Document, list[Task]]:
    """Looking through the demo movie, of which nothing is known."""
    doc = take_lock(load_project(DEMO_PROJECT).lock.media[0].path).doc
    return doc, look_tasks(doc, Cache(Path(folder) / "empty"), False)


def making(folder: str) -> tuple[Document, list[Task]]:
    """The first two segments of a master of the demo: encoding takes ten times as long as looking."""
    doc = load_project(DEMO_PROJECT)
    tasks = segments_of(doc, output.row_of(doc, doc.masters[0], DELIVERY), Path(folder) / "made")
    return doc, tasks[:2]


def segments_of(doc: Document, row: Row, movie: Path) -> list[Task]:
    """The segments of a row."""
    with LockReader(doc) as reader, LockPictures(reader) as pictures:
        job = RowJob(output.Order(doc, row, movie.with_suffix(".mp4")), pictures, output.nobody)
        tasks = segment_tasks([job], False)
        job.tidy()
    job.folder.mkdir()
    return tasks


WORK: dict[str, Callable[[str], tuple[Document, list[Task]]]] = {"reading": reading, "making": making}


def share(tasks: Sequence[Task], k: int, count: int) -> Sequence[Task]:
    """The part of tasks that one of several plain processes does: as many pictures as each other."""

    def frames(each: Task) -> int:
        return each.number("end") - each.number("start")

    total, at, found = sum(map(frames, tasks)), 0, []
    for each in tasks:
        if total * k // count <= at + frames(each) // 2 < total * (k + 1) // count:
            found.append(each)
        at += frames(each)
    return found


def plainly(name: str, k: str, count: str, folder: str) -> None:
    """What a plain process does: gets ready, waits for a word, does its share."""
    doc, tasks = WORK[name](folder)
    around = Surroundings(doc, Cache(Path(folder) / "cache"), lambda error: None)
    mine = share(tasks, int(k), int(count))
    list(run_here(mine[:1], around))  # so that everything is loaded
    print("ready", flush=True)
    sys.stdin.readline()
    list(run_here(mine, around))
    print("done", flush=True)


def plain(name: str, count: int) -> float:
    """Seconds that so many plain processes take side by side."""
    with tempfile.TemporaryDirectory() as folder, ExitStack() as stack:
        processes = []
        for k in range(count):
            own = Path(folder) / str(k)
            own.mkdir()
            command = [sys.executable, "-c", _PLAIN, name, str(k), str(count), str(own)]
            pipe = subprocess.PIPE
            processes.append(stack.enter_context(subprocess.Popen(command, stdin=pipe, stdout=pipe, text=True)))
        for each in processes:
            _read(each)
        begun = time.monotonic()
        for each in processes:
            assert each.stdin is not None
            each.stdin.write("go\n")
            each.stdin.flush()
        for each in processes:
            _read(each)
        return time.monotonic() - begun


def _read(program: subprocess.Popen[str]) -> None:
    assert program.stdout is not None
    assert program.stdout.readline(), "a plain process has ended"


def by_workers(name: str, machines: Machines, count: int) -> float:
    """Seconds that so many workers take, which have done one such task before."""
    with tempfile.TemporaryDirectory() as folder:
        doc, tasks = WORK[name](folder)
        around = Surroundings(doc, Cache(Path(folder) / "cache"), lambda error: None)
        list(machines.run(tasks[: 2 * count], around))
        begun = time.monotonic()
        results = list(machines.run(tasks, around))
        took = time.monotonic() - begun
        assert len(results) == len(tasks)
        return took


def compared(name: str, count: int) -> tuple[float, float]:
    """The medians of what plain processes and workers take, in turns."""
    ours, theirs = [], []
    with workers_here(count) as address, Cluster(address) as cluster:
        for _ in range(ROUNDS):
            theirs.append(plain(name, count))
            ours.append(by_workers(name, cluster, count))
    return median(theirs), median(ours)


def journey() -> None:
    """What sending one task, and having its result, costs: segments of a few tiny pictures, one at a time, by one
    worker, against the same done here. Of the time, what this program and the scheduler themselves work on it, which
    is what does not go side by side."""
    with tempfile.TemporaryDirectory() as temp, patch.multiple(segments, LEAST=1, MOST=1):
        movie = make_movie(Path(temp) / "tiny.mp4", _FEW * _ERRANDS, size=(64, 36), gop=_FEW)
        doc = take_lock(movie).doc
        doc = replace(doc, masters=(Master("tiny", "tiny", 36, 36),))
        doc = replace(doc, framings=tuple(Framing(s.id, "tiny", (Pane(keys=(Keyframe(0),)),)) for s in doc.shots))
        around = Surroundings(doc, Cache(Path(temp) / "cache"), lambda error: None)

        def tasks(name: str) -> list[Task]:
            return segments_of(doc, output.row_of(doc, doc.masters[0], DELIVERY), Path(temp) / name)

        with workers_here(1) as address, Cluster(address) as cluster, patch.object(dividing, "MOST_TOGETHER", 1):
            scheduler = psutil.Process().children()[0]
            sent, lots = cluster.submit, []
            weights: list[int] = []

            def weighed(lot: Any, text: bytes, *rest: Any) -> None:
                lots.append(lot)
                weights.append(len(text))
                sent(lot, text, *rest)

            list(cluster.run(tasks("before")[:2], around))
            cluster.submit = weighed  # type: ignore[method-assign]
            wanted = tasks("there")
            own, others, begun = time.process_time(), sum(scheduler.cpu_times()[:2]), time.monotonic()
            list(cluster.run(wanted, around))
            took = time.monotonic() - begun
            own, others = time.process_time() - own, sum(scheduler.cpu_times()[:2]) - others
        begun = time.monotonic()
        list(run_here(tasks("here"), around))
        here, count = time.monotonic() - begun, len(wanted)
        back = sum(len(each) for lot in lots for each in lot.came) // len(lots)
    per, said = count / 1000, f"{count} tasks in {len(lots)} errands"
    print(f"journey  {said}: {(took - here) / per:.0f} ms beside the work of each ({here / per:.0f} ms), of which "
          f"{own / per:.0f} ms here and {others / per:.0f} ms by the scheduler; {sum(weights) // len(weights)} bytes "
          f"there, {back} back", flush=True)  # fmt: skip


def main() -> None:
    journey()
    for name in WORK:
        found: dict[int, float] = {}
        for count in (1, 2):
            bare, ours = compared(name, count)
            found[count] = ours
            aim = "(aim at most 1.05)" if count == 1 else "(aim at most 1.053)"
            said = f"{name:8} {count} workers {ours:6.1f} s   plain {bare:6.1f} s   ratio {ours / bare:5.3f}"
            print(f"{said}   {aim}", flush=True)
        print(f"{name:8} two workers are {found[1] / found[2]:.2f} times one", flush=True)


if __name__ == "__main__":
    main()
