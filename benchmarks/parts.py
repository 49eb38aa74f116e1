"""Whether what is seen in parts, each done by a worker for itself, is what one pass sees: the demo, as a movie and as a
timeline, and generated edits, in 1, 2, 3 and 7 parts, value by value.

Run as ``python -m benchmarks.parts [FIRST]``; it takes a quarter of an hour.
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from ezvar.core.evidence import look_tasks, looking
from ezvar.core.evidence import tasks as looking_tasks
from ezvar.core.evidence.keeping import to_arrays
from ezvar.core.evidence.looking import STRETCH, Seen
from ezvar.core.lock import take_lock
from ezvar.core.machines.errand import Errand, as_sent, errand_text
from ezvar.core.machines.needed import Files
from ezvar.core.machines.proof import programs, token_in
from ezvar.core.machines.worker import perform, read_answer
from ezvar.core.model import Document
from ezvar.core.store import Cache, load_project
from ezvar.core.work import Surroundings, Task, kind_of, run_here
from ezvar.demo import DEMO_PROJECT

from .edits import make_edit

COUNTS = (1, 2, 3, 7)
FIRST, EDITS = 3000, 20
_STRETCH = 25  # pictures of a task, so that short edits have many


def compared(name: str, doc: Document, stretch: int, folder: Path) -> bool:
    """Whether all is equal, which is told in a line."""
    looking.STRETCH = looking_tasks.STRETCH = stretch
    cache = Cache(folder / "cache")
    around = Surroundings(doc, cache, lambda error: None)
    tasks = look_tasks(doc, cache, False)
    one = [values(seen) for seen in run_here(tasks, around)]
    parts = [count for count in COUNTS if count <= len(tasks)]
    equal = [count for count in parts if in_parts(doc, tasks, count, cache, around) == one]
    total = sum(len(arrays) for *_, arrays in one)
    print(f"{name:24}{len(tasks):3} tasks, {total} arrays: in {parts} parts equal in {equal}", flush=True)
    return equal == parts


def in_parts(
    doc: Document, tasks: Sequence[Task], count: int, cache: Cache, around: Surroundings
) -> list[tuple[int, bool, dict[str, tuple[str, bytes]]]]:
    """What workers see of so many parts."""
    found = []
    for those in np.array_split(np.arange(len(tasks)), count):
        own = [tasks[k] for k in those]
        first, *results = perform(*errand_of(doc, own, cache), lambda: True, lambda said: None)
        assert (answer := read_answer(first)).done == len(own), answer
        travel = kind_of(own[0]).travel
        assert travel is not None
        found += [values(travel.unpack(t, r, around)) for t, r in zip(own, results, strict=True)]
    return found


def errand_of(doc: Document, tasks: Sequence[Task], cache: Cache) -> tuple[bytes, bytes]:
    kind, files = kind_of(tasks[0]), Files(doc)
    assert kind.travel is not None
    media = {id for each in tasks for id in kind.travel.media(each, doc)}
    made = Errand(
        programs(), kind.name, kind.version, as_sent(tasks), files.sent.name, files.needed(media),
        (token_in(cache.folder),),
    )  # fmt: skip
    return errand_text(made), files.sent.packed


def values(seen: Seen) -> tuple[int, bool, dict[str, tuple[str, bytes]]]:
    return seen.start, seen.gone, {name: (str(a.dtype), a.tobytes()) for name, a in to_arrays(seen).items()}


def main() -> None:
    first = int(sys.argv[1]) if len(sys.argv) > 1 else FIRST
    equal = []
    for name, doc in (
        ("the demo", take_lock(load_project(DEMO_PROJECT).lock.media[0].path).doc),
        ("the demo's timeline", take_lock(DEMO_PROJECT.with_name("lantern-night.otio")).doc),
    ):
        with tempfile.TemporaryDirectory() as temp:
            equal.append(compared(name, doc, STRETCH, Path(temp)))
    for seed in range(first, first + EDITS):
        with tempfile.TemporaryDirectory() as temp:
            edit = make_edit(Path(temp) / f"{seed}.mp4", seed)
            equal.append(compared(f"edit {seed}", take_lock(edit.path).doc, _STRETCH, Path(temp)))
    print(f"{sum(equal)} of {len(equal)} equal in any number of parts")


if __name__ == "__main__":
    main()
