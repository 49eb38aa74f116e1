"""Listing what a project says."""

from __future__ import annotations

import argparse
import csv
import json
import sys
from dataclasses import asdict
from typing import TYPE_CHECKING

from ezvar.core.names import readable
from ezvar.core.progress import CancelToken

from .machines import add_machines, machines_of
from .parser import command
from .progress import terminal_progress

if TYPE_CHECKING:
    from ezvar.core.model import Document

    from .parser import Commands


def add(commands: Commands) -> None:
    """Declare these commands."""
    windows = command(commands, "windows", _windows, "list the crop windows of a master as CSV")
    windows.add_argument("project")
    windows.add_argument("--master", required=True)
    doubts = command(commands, "doubts", _doubts, "list framings and cuts by doubt")
    doubts.add_argument("project")
    doubts.add_argument("--json", action="store_true", help="print JSON")
    enlarged = command(commands, "enlarged", _enlarged, "list shots whose pixels are enlarged, the most first")
    enlarged.add_argument("project")


def add_check(commands: Commands) -> None:
    """Declare the command that lists problems."""
    check = command(commands, "check", _check, "list every problem of a project")
    check.add_argument("project")
    check.add_argument("--made", metavar="FOLDER", help="check the movies that were made in a folder instead")
    check.add_argument("--json", action="store_true", help="print JSON")
    add_machines(check)


def _windows(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.model import master_named
    from ezvar.core.review import WINDOW_COLUMNS, window_rows
    from ezvar.core.store import load_project

    doc = load_project(options.project)
    master = master_named(doc, options.master)
    out = csv.writer(sys.stdout, lineterminator="\n")
    out.writerow(WINDOW_COLUMNS)
    out.writerows(window_rows(doc, master))
    return 0


def _doubts(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.framing import doubted
    from ezvar.core.store import load_project
    from ezvar.core.timing import timecode

    doc = load_project(options.project)
    found = doubted(doc)
    if options.json:
        print(json.dumps({"doubts": [asdict(d) for d in found]}))
        return 0
    for d in found:
        at = timecode(doc.lock.start + d.frame, doc.lock.rate, doc.lock.drop)
        what = f"shot {d.shot} in {d.master}" if d.kind == "framing" else "cut"
        print(f"{d.doubt:3}  {at}  {what}  {' '.join(d.reasons)}".rstrip())
    return 0


def _enlarged(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.framing import enlargements
    from ezvar.core.store import load_project

    doc = load_project(options.project)
    for e in enlargements(doc):
        print(f"{100 * e.factor:4.0f} %  shot {doc.place_of(e.shot) + 1} in {doc.master(e.master).name}")
    return 0


def _check(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.compose import layers_taken
    from ezvar.core.evidence import kept_analysis
    from ezvar.core.problems import problems
    from ezvar.core.store import default_cache, load_project
    from ezvar.core.text import CaptionChecks, problem_line, problem_values
    from ezvar.demo import DEMO_SEEN

    doc = load_project(options.project)
    if options.made:
        return _check_made(doc, options, cancel)
    analysis = kept_analysis(doc, default_cache(DEMO_SEEN))
    found = problems(doc, analysis)
    captions = CaptionChecks().all(doc, analysis, layers_taken(doc).rects)
    if options.json:
        print(json.dumps({"problems": found, "captions": [problem_values(doc, each) for each in captions]}))
    else:
        for said in (*found, *(problem_line(doc, each) for each in captions)):
            print(said)
    return 1 if found or captions else 0


def _check_made(doc: Document, options: argparse.Namespace, cancel: CancelToken) -> int:
    """Check the movies that were made of a project in a folder."""
    from ezvar.core.encoding import default_preset
    from ezvar.core.memory import keep_level
    from ezvar.core.output import check_task, listed_rows, made_in, told_as
    from ezvar.core.store import default_cache
    from ezvar.core.work import Surroundings, run_here

    keep_level()
    as_json = options.json
    rows = {row.id: row for row in listed_rows(doc, default_preset())}
    orders = made_in(doc, tuple(rows.values()), options.made)
    those = [order for order in orders.values() if order is not None]
    tasks = [check_task(order) for order in those]
    around = Surroundings(doc, default_cache(), lambda error: None)
    with machines_of(options) as runner:
        checked = (runner or run_here)(tasks, around, terminal_progress(), cancel)
        reports = dict(zip(map(id, those), checked, strict=True))
    found: list[dict[str, object]] = []
    wrong = False
    for row, order in orders.items():
        called = told_as(doc, rows[row])
        if order is None:
            wrong = True
            found.append({"row": called, "file": None, "checks": []})
            if not as_json:
                print(f"{called}: it is not there.")
            continue
        report = reports[id(order)]
        wrong |= bool(report.flaws)
        found.append({"row": called, "file": str(order.target), **asdict(report)})
        for check in () if as_json else report.checks:
            said = " ".join(flaw.said for flaw in check.flaws) or "as it should be."
            print(f"{readable(order.target.name)}: {check.what}: {said}")
    if as_json:
        print(json.dumps({"made": found}, ensure_ascii=False))
    return 1 if wrong else 0
