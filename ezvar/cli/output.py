"""Making the finished movies."""

from __future__ import annotations

import argparse
import json
from typing import TYPE_CHECKING

from ezvar.core.errors import InputError
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken

from .parser import command
from .progress import terminal_progress

if TYPE_CHECKING:
    from ezvar.core.model import Document, Row
    from ezvar.core.output import Made

    from .parser import Commands


def add(commands: Commands) -> None:
    """Declare these commands."""
    make = command(commands, "make", _make, "make the finished movies")
    make.add_argument("project")
    make.add_argument("--master", action="append", metavar="NAME")
    make.add_argument("--range", metavar="IN-OUT", help="timecodes or frames; OUT is the first frame left out")
    make.add_argument(
        "--preset", default="", metavar="NAME", help="how movies are coded; some words of its name will do"
    )
    make.add_argument("--json", action="store_true", help="one line of JSON for each movie")
    make.add_argument("-o", dest="output", required=True, metavar="FOLDER")


def _make(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.encoding import preset_named
    from ezvar.core.lock import silences
    from ezvar.core.model import master_named
    from ezvar.core.names import longest_name
    from ezvar.core.output import Order, parse_range, renamed, row_of, row_tasks, rows_of, targets
    from ezvar.core.store import default_cache, load_project
    from ezvar.core.work import Surroundings, run_here

    doc = load_project(options.project)
    masters = [master_named(doc, name) for name in options.master] if options.master else doc.masters
    if not masters:
        raise InputError("there is no master to make", file=options.project, remedy="Plan one with --master")
    within = parse_range(options.range, doc.lock) if options.range else None
    around = Surroundings(doc, default_cache(), lambda error: None)
    # Names are those that the rows have when all are made, so that a movie has the same however it is made.
    preset = preset_named(options.preset)
    every = [row_of(doc, m, preset, within) for m in doc.masters] if within else rows_of(doc, doc.masters, preset)
    wanted = [row for master in masters for row in every if row.master == master.id]
    where = targets(doc, every, options.output, wanted)  # what cannot be made is told before the first is
    span = (within.start, within.end) if within else (0, None)
    unheard = (silence.said(doc.lock) for silence in silences(doc, *span))
    said = [*renamed(doc, every, wanted, longest_name(options.output)), *dict.fromkeys(unheard)]
    if not options.json:
        for line in said:
            print(line)
    orders = [Order(doc, row, where[row.id]) for row in wanted]
    found = list(run_here(row_tasks(doc, orders), around, terminal_progress(), cancel))
    errors = [made.error for made in found if made.error is not None]
    if errors and len(errors) == len(found):
        raise errors[0]
    for row, made in zip(wanted, found, strict=True):
        if options.json:
            print(json.dumps(_told(doc, row, made), ensure_ascii=False))
        elif made.error is not None:
            print(made.error)
        else:
            print(made.path)
            for problem in made.problems:
                if problem not in said:  # before it was made
                    print(f"{readable(made.path.name)}: {problem}")
    return 1 if said or errors or any(made.problems for made in found) else 0


def _told(doc: Document, row: Row, made: Made) -> dict[str, object]:
    """What a row came to, as plain values."""
    return {
        "master": doc.master(row.master).name, "start": row.start, "end": row.end, "preset": row.preset.name,
        "file": None if made.error else str(made.path), "frames": made.frames,
        "problems": [str(made.error)] if made.error else list(made.problems),
    }  # fmt: skip
