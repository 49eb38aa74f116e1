"""Making the finished movies."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ezvar.core.errors import InputError
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken

from .parser import command
from .progress import terminal_progress

if TYPE_CHECKING:
    from .parser import Commands


def add(commands: Commands) -> None:
    """Declare these commands."""
    make = command(commands, "make", _make, "make the finished movies")
    make.add_argument("project")
    make.add_argument("--master", action="append", metavar="NAME")
    make.add_argument("--range", metavar="IN-OUT", help="timecodes or frames; OUT is the first frame left out")
    make.add_argument("-o", dest="output", required=True, metavar="FOLDER")


def _make(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.encoding import DELIVERY
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
    every = [row_of(doc, m, DELIVERY, within) for m in doc.masters] if within else rows_of(doc, doc.masters, DELIVERY)
    wanted = [row for master in masters for row in every if row.master == master.id]
    where = targets(doc, every, options.output, wanted)  # what cannot be made is told before the first is
    span = (within.start, within.end) if within else (0, None)
    unheard = (silence.said(doc.lock) for silence in silences(doc, *span))
    said = [*renamed(doc, every, wanted, longest_name(options.output)), *dict.fromkeys(unheard)]
    for line in said:
        print(line)
    status = 1 if said else 0
    orders = [Order(doc, row, where[row.id]) for row in wanted]
    found = list(run_here(row_tasks(doc, orders), around, terminal_progress(), cancel))
    errors = [made.error for made in found if made.error is not None]
    if errors and len(errors) == len(found):
        raise errors[0]
    for made in found:
        if made.error is not None:
            print(made.error)
            status = 1
            continue
        print(made.path)
        for problem in made.problems:
            status = max(status, 1)
            if problem not in said:  # before it was made
                print(f"{readable(made.path.name)}: {problem}")
    return status
