"""Many locks in one go."""

from __future__ import annotations

import argparse
import json
import os
import sys
from typing import TYPE_CHECKING

from ezvar.core.progress import CancelToken

from .machines import add_machines, machines_of
from .parser import command
from .progress import terminal_progress

if TYPE_CHECKING:
    from pathlib import Path

    from ezvar.core.batch import Step

    from .parser import Commands

_MOST_AT_ONCE = 64


def add(commands: Commands) -> None:
    """Declare these commands."""
    batch = command(commands, "batch", _batch, "plan, make and check all locks of a list, or go on with it")
    batch.add_argument("list", metavar="LIST.toml")
    batch.add_argument("-o", dest="output", required=True, metavar="FOLDER")
    batch.add_argument(
        "--at-once", type=int, default=1, metavar="N", help="how many locks are under way at once; 1 by itself"
    )
    add_machines(batch)


def _batch(options: argparse.Namespace, cancel: CancelToken) -> int:
    from pathlib import Path

    from ezvar.core.batch import Place, all_steps, read_batch
    from ezvar.core.errors import InputError
    from ezvar.core.memory import keep_level
    from ezvar.core.store import default_cache

    keep_level()
    if not 0 < options.at_once <= _MOST_AT_ONCE:
        raise InputError(f"{options.at_once} is no number of locks", remedy=f"Choose one from 1 to {_MOST_AT_ONCE}")
    jobs, folder = read_batch(options.list), Path(os.path.abspath(options.output))
    steps: list[Step] = []
    try:
        with machines_of(options) as runner:
            place = Place(folder, default_cache(), runner)
            for step in all_steps(jobs, place, options.at_once, terminal_progress(), cancel):
                steps.append(step)
                print(json.dumps(step.values(), ensure_ascii=False), flush=True)
    finally:
        if steps:
            _write_summary(options.list, folder, [job.name for job in jobs], steps)
    failed = {step.lock for step in steps if step.state == "failed"}
    if len(failed) == len(jobs):
        return 2
    return 1 if any(step.said for step in steps) else 0


def _write_summary(listed: str, folder: Path, names: list[str], steps: list[Step]) -> None:
    """The page on what needs a person, in the order of the list."""
    from pathlib import Path

    from ezvar.core.batch import summary_page
    from ezvar.core.store import write_atomically

    page = summary_page(Path(listed).stem, sorted(steps, key=lambda step: names.index(step.lock)))
    folder.mkdir(parents=True, exist_ok=True)
    write_atomically(folder / "summary.html", lambda file: file.write(page))
    print(f"What needs a person is in {folder / 'summary.html'}", file=sys.stderr)
