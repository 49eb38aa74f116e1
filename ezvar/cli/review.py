"""Decisions out to the team and back."""

from __future__ import annotations

import argparse
from collections.abc import Mapping
from typing import TYPE_CHECKING

from ezvar.core.progress import CancelToken

from .machines import add_machines, machines_of
from .parser import command, say_who_has_it
from .progress import terminal_progress

if TYPE_CHECKING:
    from ezvar.core.model import Document
    from ezvar.core.review import Asked, Movies, Part, Returned, State, Taken

    from .parser import Commands


_PARTS: dict[Part, str] = {
    "otio": "a timeline for each master", "edl": "an edit decision list for each master",
    "aaf": "the cut alone",
    "csv": "a table of all decisions", "json": "all decisions, exactly", "windows": "the window of every frame",
    "captions": "the captions of each master", "pdf": "a book with pictures, to be read and ticked",
    "page": "a page with moving pictures, to be answered in a browser",
    "otioz": "a bundle of a timeline with a review movie of each master",
}  # fmt: skip


def add(commands: Commands) -> None:
    """Declare these commands."""
    handoff = command(commands, "handoff", _handoff, "write the decisions as open files for review")
    handoff.add_argument("project")
    handoff.add_argument("-o", dest="output", required=True, metavar="FOLDER")
    kinds = ["timeline", "edl", "markers", "subclips"]
    handoff.add_argument("--cuts", choices=kinds, help="write the cuts alone, in this form, instead of the decisions")
    parts = handoff.add_argument_group("what to write; timelines, lists, tables, captions where nothing is named")
    for part, said in _PARTS.items():
        parts.add_argument(f"--{part}", action="store_true", help=said)
    parts.add_argument(
        "--movies", nargs="?", const="together", choices=["together", "each"],
        help="review movies: of all masters together in one picture, or of each by itself",
    )  # fmt: skip
    parts.add_argument("--silent", action="store_true", help="without their sound")
    handoff.add_argument("--master", action="append", default=[], metavar="NAME", help="for this master alone")
    handoff.add_argument("--shots", default="", metavar="N,N-N", help="of these shots alone, by their numbers")
    handoff.add_argument("--list", action="store_true", help="say what would be written, and write nothing")
    add_machines(handoff)
    take = command(commands, "take", _take, "merge returned decisions into a project")
    take.add_argument("project")
    take.add_argument("file")
    take.add_argument(
        "--media", action="append", default=[], metavar="FOLDER", help="a folder whose files the return may name"
    )

    way = take.add_mutually_exclusive_group()
    way.add_argument("--ours", action="store_true", help="keep ours where both changed a decision, as is usual")
    way.add_argument("--theirs", action="store_true", help="take theirs where both changed a decision")
    way.add_argument("--list", action="store_true", help="list what differs, and change nothing")
    compare = command(commands, "compare", _compare, "list which framings of two projects of a lock differ")
    compare.add_argument("project")
    compare.add_argument("other")


def _handoff(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.edits import set_exchanged
    from ezvar.core.review import planned_handoff, write_cuts, write_handoff
    from ezvar.core.store import default_cache, load_project, update_project
    from ezvar.core.work import Surroundings

    doc = load_project(options.project)
    if options.cuts:
        for file in write_cuts(doc, options.output, options.cuts):
            print(file)
        return 0
    asked = _asked(options, doc)
    planned = planned_handoff(doc, options.output, asked)
    for line in planned.told:
        print(line)
    if options.list:
        for name, said in planned.listed():
            print(f"{name}: {said}")
        return 0
    with machines_of(options) as others:
        around = Surroundings(doc, default_cache(), lambda error: None, others=others)
        exchanged, files = write_handoff(doc, options.output, asked, terminal_progress(), cancel, around)
    update_project(options.project, lambda doc: (set_exchanged(doc, exchanged), None))
    for file in files:
        print(file)
    return 1 if planned.told else 0


def _asked(options: argparse.Namespace, doc: Document) -> Asked:
    """What is to be handed out, as the options say."""
    from ezvar.core.model import master_named
    from ezvar.core.review import USUAL, Asked

    wanted = vars(options)
    parts: set[Part] = {part for part in _PARTS if wanted[part]}
    if options.movies:
        parts.add("movies")
    masters = tuple(master_named(doc, name).id for name in options.master)
    movies: Movies = "each" if options.movies == "each" else "together"
    return Asked(frozenset(parts) or USUAL, masters, _shots(options.shots, doc), movies, not options.silent)


def _shots(said: str, doc: Document) -> tuple[str, ...]:
    """The ids of shots that are named by numbers and ranges of them. Raises `InputError` for what is none."""
    from ezvar.core.errors import InputError

    found: list[str] = []
    for part in said.split(",") if said else ():
        first, _, last = part.strip().partition("-")
        try:
            low, high = int(first), int(last or first)
        except ValueError:
            low = high = 0
        if not 1 <= low <= high <= len(doc.shots):
            raise InputError(
                f"there is no shot “{part.strip()}”", remedy=f"Name shots by their numbers, 1 to {len(doc.shots)}"
            )
        found += [shot.id for shot in doc.shots[low - 1 : high]]
    return tuple(dict.fromkeys(found))


def _take(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.planning import taken_in
    from ezvar.core.review import STATES, read_return
    from ezvar.core.store import load_project, update_project

    if options.list:
        doc = load_project(options.project)
        return _list(doc, read_return(doc, options.file), STATES)

    def change(doc: Document) -> tuple[Document, tuple[Document, Taken]]:
        merged, taken = taken_in(doc, options.file, options.media, "theirs" if options.theirs else "ours")
        return merged, (merged, taken)

    say_who_has_it(options.project)
    doc, taken = update_project(options.project, change)
    print(f"{len(taken.taken)} taken, {taken.same} the same, {len(taken.conflicts)} in conflict")
    if taken.notes:
        print(f"{len(taken.notes)} notes are new")
    for ours, _ in taken.conflicts:
        name = doc.master(ours.master).name
        print(f"shot {doc.place_of(ours.shot) + 1} in {name}: changed on both sides, ours is kept")
    for problem in taken.problems:
        print(problem)
    return 1 if taken.conflicts or taken.problems else 0


def _compare(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.review import returned_of
    from ezvar.core.store import load_project

    doc, other = load_project(options.project), load_project(options.other)
    return _list(
        doc, [returned_of(other, master) for master in other.masters], {"theirs": "there only", "both": "differs"}
    )


def _list(doc: Document, returned: list[Returned], words: Mapping[State, str]) -> int:
    """Print what differs, a line each, and how far windows show the same; the exit status."""
    from ezvar.core.review import compare, overlap

    differs = False
    for each in returned:
        compared, problems = compare(doc, each)
        for problem in problems:
            print(problem)
        differs = differs or bool(problems)
        for found in compared:
            if found.state in ("same", "not placed"):
                continue
            differs, theirs = True, found.theirs
            where = f"shot {doc.place_of(theirs.shot) + 1} in {doc.master(theirs.master).name}"
            said = f"{where}: {words[found.state]}"
            if found.ours is not None:
                said += f", windows overlap by {100 * overlap(doc, found.ours, theirs):.0f} %"
                if found.ours.verdict != theirs.verdict:
                    said += f", {found.ours.verdict} here and {theirs.verdict} there"
            print(said)
    return 1 if differs else 0
