"""Decisions out to the team and back."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ezvar.core.progress import CancelToken

from .parser import command

if TYPE_CHECKING:
    from ezvar.core.model import Document
    from ezvar.core.review import Taken

    from .parser import Commands


def add(commands: Commands) -> None:
    """Declare these commands."""
    handoff = command(commands, "handoff", _handoff, "write the decisions as timelines for review")
    handoff.add_argument("project")
    handoff.add_argument("-o", dest="output", required=True, metavar="FOLDER")
    kinds = ["timeline", "edl", "markers", "subclips"]
    handoff.add_argument("--cuts", choices=kinds, help="write the cuts alone, in this form, instead of the decisions")
    take = command(commands, "take", _take, "merge returned decisions into a project")
    take.add_argument("project")
    take.add_argument("file")
    take.add_argument(
        "--media", action="append", default=[], metavar="FOLDER", help="a folder whose files the return may name"
    )


def _handoff(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.planning import handed_out
    from ezvar.core.review import handoff_renamed, write_cuts
    from ezvar.core.store import load_project, update_project

    if options.cuts:
        print(write_cuts(load_project(options.project), options.output, options.cuts))
        return 0
    said = handoff_renamed(load_project(options.project), options.output)
    for line in said:
        print(line)
    for file in update_project(options.project, lambda doc: handed_out(doc, options.output)):
        print(file)
    return 1 if said else 0


def _take(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.planning import taken_in
    from ezvar.core.store import update_project

    def change(doc: Document) -> tuple[Document, tuple[Document, Taken]]:
        merged, taken = taken_in(doc, options.file, options.media)
        return merged, (merged, taken)

    doc, taken = update_project(options.project, change)
    print(f"{len(taken.taken)} taken, {taken.same} the same, {len(taken.conflicts)} in conflict")
    for ours, _ in taken.conflicts:
        name = doc.master(ours.master).name
        print(f"shot {doc.place_of(ours.shot) + 1} in {name}: changed on both sides, ours is kept")
    for problem in taken.problems:
        print(problem)
    return 1 if taken.conflicts or taken.problems else 0
