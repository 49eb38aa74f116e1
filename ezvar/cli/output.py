"""Making the finished movies."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from typing import TYPE_CHECKING

from ezvar.core.errors import InputError
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken

from .machines import add_machines, machines_of
from .parser import command
from .progress import terminal_progress

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ezvar.core.model import Document, Finished, Row
    from ezvar.core.output import Made, Order
    from ezvar.core.work import Runner

    from .parser import Commands


def add(commands: Commands) -> None:
    """Declare these commands."""
    make = command(commands, "make", _make, "make the finished movies")
    make.add_argument("project")
    make.add_argument("--master", action="append", metavar="NAME")
    make.add_argument("--rows", metavar="N,N", help="rows of the output list, by their numbers or names")
    make.add_argument("--range", metavar="IN-OUT", help="timecodes or frames; OUT is the first frame left out")
    make.add_argument(
        "--preset", default="", metavar="NAME", help="how movies are coded; some words of its name will do"
    )
    make.add_argument(
        "--again", action="store_true",
        help="make unfinished rows of the project as it is now, not as it was when they were ordered",
    )  # fmt: skip
    make.add_argument("--json", action="store_true", help="one line of JSON for each movie")
    make.add_argument("-o", dest="output", required=True, metavar="FOLDER")
    add_machines(make)
    sent = command(commands, "send", _send, "send finished movies to their receivers, or go on with it")
    sent.add_argument("project")
    sent.add_argument("--rows", metavar="N,N", help="rows of the output list, by their numbers or names")
    sent.add_argument("--made", metavar="FOLDER", help="those that were made in a folder, not those of the window")
    sent.add_argument("--json", action="store_true", help="one line of JSON for each movie")
    still = command(commands, "still", _still, "write a picture of a master, or small ones of all its shots")
    still.add_argument("project")
    still.add_argument("--master", required=True, metavar="NAME")
    still.add_argument(
        "--at", metavar="TIMECODE", help="a timecode, a frame or poster; without it, contact sheets of all shots"
    )
    still.add_argument("-o", dest="output", required=True, metavar="FILE")


def _send(options: argparse.Namespace, cancel: CancelToken) -> int:
    from dataclasses import asdict

    from ezvar.core.encoding import default_preset
    from ezvar.core.output import listed_rows, rows_named, send, told_as
    from ezvar.core.store import load_project, update_project

    doc = load_project(options.project)
    every = listed_rows(doc, default_preset())
    wanted = rows_named(doc, every, options.rows.split(",")) if options.rows else list(every)
    wanted = [row for row in wanted if options.rows or row.receiver is not None]
    ready = [(row, finished) for row in wanted if (finished := _finished(doc, row, every, options.made)) is not None]
    if not ready:
        raise InputError("there is nothing to send", file=options.project, remedy="Make a row that has a receiver")
    taken = True
    for row, finished in ready:
        sent = send(doc, finished, terminal_progress(), cancel)
        update_project(
            options.project, lambda now, row=row, sent=sent: (  # type: ignore[misc]
                replace(now, makings=now.makings.with_sent(row.id, sent)), None
            ),
        )  # fmt: skip
        taken &= sent.state == "accepted"
        if options.json:
            print(json.dumps({"row": told_as(doc, row), "file": finished.made.file, **asdict(sent)}))
        else:
            print(f"{told_as(doc, row)}: {sent.state}{sent.said and f': {sent.said}'}")
    return 0 if taken else 1


def _finished(doc: Document, row: Row, every: Sequence[Row], folder: str | None) -> Finished | None:
    """What was made of a row, in a folder where one is named; for the receiver that the row has now."""
    from ezvar.core.model import Finished, Making
    from ezvar.core.output import file_stamp, made_in

    finished = doc.makings.finished_of(row.id)
    if folder is not None:
        order = made_in(doc, tuple(every), folder)[row.id]
        made = None if order is None else Making(str(order.target), file_stamp(order.target), ())
        finished = None if made is None else Finished(row, "", made, "")
    return finished and replace(finished, row=replace(finished.row, receiver=row.receiver))


def _make(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.lock import silences
    from ezvar.core.memory import keep_level
    from ezvar.core.names import longest_name
    from ezvar.core.output import parse_range, renamed, targets
    from ezvar.core.store import load_project

    keep_level()
    doc = load_project(options.project)
    if not doc.masters:
        raise InputError("there is no master to make", file=options.project, remedy="Plan one with --master")
    within = parse_range(options.range, doc.lock) if options.range else None
    # Names are those that the rows have when all are made, so that a movie has the same however it is made.
    every, wanted = _rows(doc, options)
    where = targets(doc, every, options.output, wanted)  # what cannot be made is told before the first is
    span = (within.start, within.end) if within else (0, None)
    unheard = (silence.said(doc.lock) for silence in silences(doc, *span))
    said = [*renamed(doc, every, wanted, longest_name(options.output)), *dict.fromkeys(unheard)]
    if not options.json:
        for line in said:
            print(line)
    orders = [_order(doc, row, str(where[row.id]), options.again) for row in wanted]
    with machines_of(options) as others:
        found = _made(orders, cancel, others)
    errors = [made.error for made in found if made.error is not None]
    if errors and len(errors) == len(found):
        raise errors[0]
    for order, made in zip(orders, found, strict=True):
        if options.json:
            print(json.dumps(_told(doc, order.row, made), ensure_ascii=False))
        elif made.error is not None:
            print(made.error)
        else:
            print(made.path)
            for problem in made.problems:
                if problem not in said:  # before it was made
                    print(f"{readable(made.path.name)}: {problem}")
    return 1 if said or errors or any(made.problems for made in found) else 0


def _still(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.model import master_named
    from ezvar.core.output import frame_named, write_contact_sheets, write_still
    from ezvar.core.store import load_project

    doc = load_project(options.project)
    master = master_named(doc, options.master)
    if options.at is None:
        for path in write_contact_sheets(doc, master, doc.shots, options.output, terminal_progress(), cancel):
            print(path)
    else:
        frame = master.poster if options.at == "poster" else frame_named(options.at, doc.lock)
        if frame is None:
            raise InputError(f"{master.name} has no poster", remedy="Choose a frame for it")
        write_still(doc, master, frame, options.output)
        print(options.output)
    return 0


def _rows(doc: Document, options: argparse.Namespace) -> tuple[Sequence[Row], list[Row]]:
    """All rows there are, and those that are wanted."""
    from ezvar.core.encoding import preset_named
    from ezvar.core.model import master_named
    from ezvar.core.output import listed_rows, parse_range, row_of, rows_named

    preset = preset_named(options.preset)
    every: Sequence[Row]
    if options.range:
        every = [row_of(doc, m, preset, parse_range(options.range, doc.lock)) for m in doc.masters]
    else:
        every = listed_rows(doc, preset)
    if options.preset:
        every = [replace(row, preset=preset) for row in every]
    masters = [master_named(doc, name).id for name in options.master or ()]
    chosen = rows_named(doc, every, options.rows.split(",")) if options.rows else list(every)
    wanted = [row for row in chosen if row.master in masters] if masters else chosen
    if masters and not options.rows:
        wanted.sort(key=lambda row: masters.index(row.master))
    if not wanted:
        raise InputError("there is nothing to make", file=options.project, remedy="Choose other masters or rows")
    return every, wanted


def _order(doc: Document, row: Row, target: str, again: bool) -> Order:
    """A row as it is ordered: one that is unfinished goes on as the project was then, unless it is made ``again``."""
    from pathlib import Path

    from ezvar.core.output import Order
    from ezvar.core.store import unpacked

    finished, unfinished = doc.makings.finished_of(row.id), doc.makings.ordered_of(row.id)
    before = finished.made if finished is not None and finished.made.file == target else None
    revision = doc.makings.revision(unfinished.revision) if unfinished is not None and not again else None
    if unfinished is None or revision is None:
        return Order(doc, row, Path(target), before)
    return Order(unpacked(revision, doc), replace(unfinished.row, id=row.id), Path(target), before)


def _made(orders: Sequence[Order], cancel: CancelToken, others: Runner | None) -> list[Made]:
    """What orders came to, those of one document made together."""
    from ezvar.core.output import row_tasks
    from ezvar.core.progress import portion
    from ezvar.core.store import default_cache
    from ezvar.core.work import Surroundings, run_here

    groups: dict[int, list[Order]] = {}
    for order in orders:
        groups.setdefault(id(order.doc), []).append(order)
    found: dict[str, Made] = {}
    progress = terminal_progress()
    for those in groups.values():
        around = Surroundings(those[0].doc, default_cache(), lambda error: None, others=others)
        share = portion(progress, len(found) / len(orders), (len(found) + len(those)) / len(orders))
        made = run_here(row_tasks(those[0].doc, those), around, share, cancel)
        found.update({order.row.id: each for order, each in zip(those, made, strict=True)})
    return [found[order.row.id] for order in orders]


def _told(doc: Document, row: Row, made: Made) -> dict[str, object]:
    """What a row came to, as plain values."""
    return {
        "master": doc.master(row.master).name, "start": row.start, "end": row.end, "preset": row.preset.name,
        "file": None if made.error else str(made.path), "frames": made.frames,
        "problems": [str(made.error)] if made.error else list(made.problems),
        "checked": [check.what for check in made.report.checks],
    }  # fmt: skip
