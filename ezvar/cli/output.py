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
    from ezvar.core.lock import silences
    from ezvar.core.model import master_named
    from ezvar.core.names import longest_name
    from ezvar.core.output import Delivery, deliveries, movie_task, output_path, parse_range, renamed
    from ezvar.core.store import default_cache, load_project
    from ezvar.core.work import Surroundings, run_here

    doc = load_project(options.project)
    masters = [master_named(doc, name) for name in options.master] if options.master else doc.masters
    if not masters:
        raise InputError("there is no master to make", file=options.project, remedy="Plan one with --master")
    within = parse_range(options.range, doc.lock) if options.range else None
    around = Surroundings(doc, default_cache(), lambda error: None)
    wanted = [d for m in masters for d in ((Delivery(m),) if within else deliveries(m))]
    for delivery in wanted:
        output_path(doc, delivery, options.output)  # what cannot be made is told before the first is
    span = (within.start, within.end) if within else (0, None)
    unheard = (silence.said(doc.lock) for silence in silences(doc, *span))
    said = [*renamed(doc, wanted, longest_name(options.output)), *dict.fromkeys(unheard)]
    for line in said:
        print(line)
    status = 1 if said else 0
    for delivery in wanted:
        made = next(run_here([movie_task(doc, delivery, options.output, within)], around, terminal_progress(), cancel))
        print(made.path)
        for problem in made.problems:
            status = 1
            if problem not in said:  # before it was made
                print(f"{readable(made.path.name)}: {problem}")
    return status
