"""A night's work, lock by lock: planned, its doubts told, made, checked. Going on is doing it again: what is there
already, and shows what it would show now, stays."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from queue import SimpleQueue
from typing import Any, Literal

from ezvar.core import edits
from ezvar.core.encoding import default_preset
from ezvar.core.errors import EzvarError, MachineError
from ezvar.core.evidence import look_through
from ezvar.core.framing import NEEDS_A_LOOK, doubted
from ezvar.core.model import CUT_NEEDS_A_LOOK, Document, Finished, Making, Row
from ezvar.core.output import (
    Made,
    Order,
    changed_since,
    colours_of,
    file_stamp,
    is_as_ordered,
    listed_rows,
    parts_of,
    row_tasks,
    targets,
    told_as,
)
from ezvar.core.planning import plan, with_framings
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.store import Cache, load_project, save_project, update_project
from ezvar.core.timing import moment_now, timecode
from ezvar.core.work import Runner, Surroundings, run_here

from .listed import Job

State = Literal["done", "kept", "problems", "failed"]


@dataclass(frozen=True)
class Step:
    """What a step of a lock came to; ``kept`` is what was there already. ``said`` is what of it a person may want to
    know, ``facts`` the rest, as plain values."""

    lock: str
    step: Literal["plan", "doubts", "make", "check"]
    state: State
    said: tuple[str, ...] = ()
    facts: dict[str, Any] = field(default_factory=dict)

    def values(self) -> dict[str, Any]:
        """All of it as plain values."""
        return {"lock": self.lock, "step": self.step, "state": self.state, "said": list(self.said), **self.facts}


@dataclass(frozen=True)
class Place:
    """Where a batch works: its folder, what it keeps, and who does its tasks."""

    folder: Path
    cache: Cache
    runner: Runner | None = None

    def project_of(self, job: Job) -> Path:
        """Where a job's project is."""
        return job.project or self.folder / f"{job.name}.ezvar"


def all_steps(
    jobs: Sequence[Job], place: Place, at_once: int = 1, progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Iterator[Step]:  # fmt: skip
    """The steps of many locks, so many of which are under way ``at_once``, as they come. Raises as `steps_of`; the
    others are stopped then."""
    token = cancel or CancelToken()
    came: SimpleQueue[Step | BaseException | None] = SimpleQueue()
    told = [0.0] * len(jobs)

    def do(k: int) -> None:
        def tell(fraction: float, message: str) -> None:
            told[k] = fraction
            progress(sum(told) / len(jobs), f"{jobs[k].name}: {message}")

        try:
            for step in steps_of(jobs[k], place, tell, token):
                came.put(step)
            told[k] = 1.0
            came.put(None)
        except BaseException as error:
            token.cancel()
            came.put(error)

    with ThreadPoolExecutor(at_once, "locks") as threads:
        for k in range(len(jobs)):
            threads.submit(do, k)
        first: BaseException | None = None
        left = len(jobs)
        while left:
            each = came.get()
            if isinstance(each, Step):
                yield each
                continue
            left -= 1
            first = first or each
        if first is not None:
            raise first


def steps_of(job: Job, place: Place, progress: Progress = silent, cancel: CancelToken | None = None) -> Iterator[Step]:
    """Do all of one lock, step by step. What is wrong with it ends it, with a step that failed; other machines that
    fail raise `MachineError`, and `Cancelled` is raised as ever."""
    step: Literal["plan", "make"] = "plan"
    try:
        yield _planned(job, place, progress, cancel)
        project = place.project_of(job)
        yield _doubts(job, load_project(project))
        step = "make"
        yield from _made(job, place, project, progress, cancel)
    except MachineError:
        raise
    except EzvarError as error:
        yield Step(job.name, step, "failed", (str(error),))


def _planned(job: Job, place: Place, progress: Progress, cancel: CancelToken | None) -> Step:
    project = place.project_of(job)
    if os.path.lexists(project):
        return _with_masters(job, place, project, progress, cancel)
    assert job.lock is not None
    place.folder.mkdir(parents=True, exist_ok=True)
    taken = plan(
        job.lock, job.masters, place.cache, progress, cancel, rate=job.rate, folders=job.media,
        runner=place.runner or run_here,
    )  # fmt: skip
    save_project(taken.doc, project, over="")
    known = {m.id: m for m in taken.doc.lock.media}
    missing = [f"{known[id].name or known[id].path} was not found." for id in taken.search.guesses]
    said = (*taken.doc.lock.left_out, *taken.search.problems, *missing)
    facts = {"project": str(project), "shots": len(taken.doc.shots)}
    return Step(job.name, "plan", "problems" if said else "done", said, facts)


def _with_masters(job: Job, place: Place, project: Path, progress: Progress, cancel: CancelToken | None) -> Step:
    """A project that is there, with those masters of the job that it does not have yet."""
    doc = load_project(project)
    new = [master for master in job.masters if master.name not in {m.name for m in doc.masters}]
    facts = {"project": str(project), "shots": len(doc.shots)}
    if not new:
        return Step(job.name, "plan", "kept", facts=facts)
    analysis = look_through(doc, place.cache, progress, cancel, runner=place.runner or run_here)

    def change(now: Document) -> tuple[Document, None]:
        for master in new:
            now = edits.add_master(now, master)
        added = [m for m in now.masters if m.name in {n.name for n in new}]
        return with_framings(now, analysis, added, cancel=cancel), None

    update_project(project, change)
    return Step(job.name, "plan", "done", facts=facts)


def _doubts(job: Job, doc: Document) -> Step:
    """What deserves a look."""
    least = {"framing": NEEDS_A_LOOK, "cut": CUT_NEEDS_A_LOOK}
    found = [d for d in doubted(doc) if d.doubt >= least[d.kind]]
    said = []
    for d in found:
        at = timecode(doc.lock.start + d.frame, doc.lock.rate, doc.lock.drop)
        what = f"Shot {d.shot} in {d.master}" if d.kind == "framing" else "A cut"
        said.append(f"{at} {what}, doubt {d.doubt}. {' '.join(d.reasons)}".rstrip())
    return Step(
        job.name, "doubts", "problems" if found else "done", tuple(said), {"doubts": [asdict(d) for d in found]}
    )


def _rows(job: Job, doc: Document) -> list[Row]:
    """The rows of the project's list, by each preset of the job."""
    if not job.presets:
        return list(listed_rows(doc, default_preset()))
    rows = []
    for preset in job.presets:
        for row in listed_rows(doc, preset):
            id = row.id if len(job.presets) == 1 else f"{row.id} {preset.name}"
            rows.append(replace(row, id=id, preset=preset))
    return rows


def _made(job: Job, place: Place, project: Path, progress: Progress, cancel: CancelToken | None) -> Iterator[Step]:
    doc = load_project(project)
    rows = _rows(job, doc)
    where = targets(doc, rows, place.folder / job.name)
    orders = []
    for row in rows:
        finished = doc.makings.finished_of(row.id)
        before = finished.made if finished is not None and finished.made.file == str(where[row.id]) else None
        if finished is not None and before is not None and _is_as_it_would_be(doc, row, finished):
            yield _make_step(job, doc, row, "kept", where[row.id])
            yield _check_step(job, doc, row, finished)
        else:
            orders.append(Order(doc, row, where[row.id], before))
    around = Surroundings(doc, place.cache, lambda error: None, others=place.runner)
    done: Iterator[Made] = run_here(row_tasks(doc, orders), around, progress, cancel) if orders else iter(())
    for order, made in zip(orders, done, strict=True):
        if made.error is not None:
            yield Step(job.name, "make", "failed", (str(made.error),), {"row": told_as(doc, order.row)})
            continue
        finished = _noted(project, order, made)
        yield _make_step(job, doc, order.row, "done", made.path)
        yield _check_step(job, doc, order.row, finished)


def _is_as_it_would_be(doc: Document, row: Row, finished: Finished) -> bool:
    parts = parts_of(doc, [row], colours_of(doc))[row.id]
    return is_as_ordered(finished, row) and changed_since(finished, row, parts) == ()


def _noted(project: Path, order: Order, made: Made) -> Finished:
    """What was made of a row, noted in the project, so that it need not be made again."""
    file = str(made.path)
    making = Making(file, file_stamp(file), made.parts, made.sound, not made.report.flaws)
    finished = Finished(order.row, "", making, moment_now(), made.report)
    update_project(project, lambda now: (replace(now, makings=now.makings.with_finished(finished)), None))
    return finished


def _make_step(job: Job, doc: Document, row: Row, state: State, file: Path) -> Step:
    return Step(job.name, "make", state, facts={"row": told_as(doc, row), "file": str(file), "frames": len(row.range)})


def _check_step(job: Job, doc: Document, row: Row, finished: Finished) -> Step:
    problems = tuple(finished.report.problems)
    facts = {"row": told_as(doc, row), "file": finished.made.file, "checked": [c.what for c in finished.report.checks]}
    return Step(job.name, "check", "problems" if problems else "done", problems, facts)
