"""The command line: the same core without a window.

Exit status: 0 done, 1 done with problems listed, 2 could not.
"""

from __future__ import annotations

import argparse
import csv
import io
import json
import os
import signal
import sys
from collections.abc import Callable
from dataclasses import asdict
from typing import TYPE_CHECKING, NoReturn

from ezvar import __version__
from ezvar.core.errors import EzvarError, InputError, ProjectError
from ezvar.core.names import readable
from ezvar.core.progress import Cancelled, CancelToken, Progress, silent
from ezvar.demo import DEMO_PROJECT

if TYPE_CHECKING:
    from ezvar.core.model import Document
    from ezvar.core.review import Taken


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        print(f"{self.prog}: {message}. Try {self.prog} --help.", file=sys.stderr)
        raise SystemExit(2)


def main(arguments: list[str] | None = None) -> int:
    """Run a command and return its exit status. No error outside the program shows a traceback."""
    parser = _parser()
    options = parser.parse_args(arguments)
    if isinstance(sys.stdout, io.TextIOWrapper):
        sys.stdout.reconfigure(errors="surrogateescape")  # paths are printed to the byte
    cancel = CancelToken()
    if options.command not in (None, "demo", "open"):
        signal.signal(signal.SIGINT, lambda *_: cancel.cancel())
        signal.signal(signal.SIGTERM, lambda *_: cancel.cancel())
    try:
        return int(options.run(options, cancel))
    except EzvarError as error:
        print(f"ezvar: {error}", file=sys.stderr)
    except Cancelled:
        print("ezvar: stopped, nothing was left half done.", file=sys.stderr)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    except Exception as error:  # that nobody foresaw: told in a sentence all the same
        from ezvar.core.store import our_mistake, report_of

        print(f"ezvar: {our_mistake(error, report_of(error))}", file=sys.stderr)
    return 2


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="ezvar", description="Reframes a locked edit for other shapes. Without a command: the window."
    )
    parser.add_argument("--version", action="version", version=f"ezvar {__version__}")
    parser.set_defaults(run=_window, file=None, command=None)
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", parser_class=_Parser)

    def command(name: str, run: Callable[[argparse.Namespace, CancelToken], int], help: str) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=help, description=help)
        sub.set_defaults(run=run)
        return sub

    command("demo", _demo, "open the window with the demo edit")
    command("open", _window, "open the window with a project or a movie").add_argument("file")
    cuts = command("cuts", _cuts, "find the cuts of a movie")
    cuts.add_argument("movie")
    cuts.add_argument("--json", action="store_true", help="print JSON")
    plan = command("plan", _plan, "find cuts and framings, write a project")
    plan.add_argument("lock")
    plan.add_argument("--master", action="append", required=True, metavar="9:16|NAME=WxH")
    plan.add_argument("--rate", help="the lock's rate, for timelines that state none")
    plan.add_argument("--media", action="append", default=[], help="a folder to look for media in")
    plan.add_argument("--reference", metavar="MOVIE", help="a flat movie of the lock, to find placements by")
    plan.add_argument("--replace", action="store_true", help="replace the project that is there")
    plan.add_argument("-o", dest="output", required=True, metavar="PROJECT")
    windows = command("windows", _windows, "list the crop windows of a master as CSV")
    windows.add_argument("project")
    windows.add_argument("--master", required=True)
    doubts = command("doubts", _doubts, "list framings and cuts by doubt")
    doubts.add_argument("project")
    doubts.add_argument("--json", action="store_true", help="print JSON")
    enlarged = command("enlarged", _enlarged, "list shots whose pixels are enlarged, the most first")
    enlarged.add_argument("project")
    handoff = command("handoff", _handoff, "write the decisions as timelines for review")
    handoff.add_argument("project")
    handoff.add_argument("-o", dest="output", required=True, metavar="FOLDER")
    kinds = ["timeline", "edl", "markers", "subclips"]
    handoff.add_argument("--cuts", choices=kinds, help="write the cuts alone, in this form, instead of the decisions")
    take = command("take", _take, "merge returned decisions into a project")
    take.add_argument("project")
    take.add_argument("file")
    take.add_argument(
        "--media", action="append", default=[], metavar="FOLDER", help="a folder whose files the return may name"
    )
    make = command("make", _make, "make the finished movies")
    make.add_argument("project")
    make.add_argument("--master", action="append", metavar="NAME")
    make.add_argument("--range", metavar="IN-OUT", help="timecodes or frames; OUT is the first frame left out")
    make.add_argument("-o", dest="output", required=True, metavar="FOLDER")
    command("check", _check, "list every problem of a project").add_argument("project")
    return parser


def _progress() -> Progress:
    """A line that is drawn over on a terminal; silence in a pipe."""
    if not sys.stderr.isatty():
        return silent
    last = ""

    def show(fraction: float, message: str) -> None:
        nonlocal last
        line = f"{message} {fraction:4.0%}"
        if line != last:
            print(f"\r\033[K{line}", end="" if fraction < 1 else "\n", file=sys.stderr, flush=True)
            last = line

    return show


def _window(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.app import run

    return run(options.file)


def _demo(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.app import run

    return run(DEMO_PROJECT, template=True)


def _cuts(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.cuts import find_cuts
    from ezvar.core.media import MovieReader
    from ezvar.core.timing import timecode

    with MovieReader(options.movie) as reader:
        facts = reader.facts
        cuts = find_cuts(reader, _progress(), cancel)
    if options.json:
        listed = [
            {"frame": c.end if c.kind == "cut" else (c.start + c.end) // 2, "kind": c.kind, "start": c.start,
             "end": c.end, "strength": c.strength, "doubt": c.doubt}
            for c in cuts
        ]  # fmt: skip
        rate = f"{facts.rate.numerator}/{facts.rate.denominator}"
        print(json.dumps({"media": readable(facts.path), "rate": rate, "frames": facts.frames, "cuts": listed}))
    elif not cuts:
        print("No cut was found.", file=sys.stderr)
    else:
        for cut in cuts:
            label = timecode(facts.start + cut.start, facts.rate, facts.drop)
            print(f"{label}  {cut.kind}  doubt {cut.doubt:.0f}")
    return 0


def _plan(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.model import master_from_text
    from ezvar.core.planning import plan
    from ezvar.core.store import default_cache, occupied, save_project
    from ezvar.core.timing import Rate

    masters = [master_from_text(text) for text in options.master]
    if len({m.name for m in masters}) < len(masters):
        raise InputError("two masters have the same name", remedy="Write NAME=WxH to tell them apart")
    try:
        rate = Rate.parse(options.rate) if options.rate is not None else None
    except ValueError as error:
        raise InputError(str(error), remedy="Write it like 25 or 29.97") from error
    standing = occupied(options.output)
    if standing and not options.replace:
        raise ProjectError(
            f"it is there already, {standing}", file=options.output, remedy="Add --replace to replace it"
        )
    taken = plan(
        options.lock, masters, default_cache(), _progress(), cancel,
        rate=rate, folders=options.media, reference=options.reference,
    )  # fmt: skip
    save_project(taken.doc, options.output, over=None if options.replace else "")
    known = {m.id: m for m in taken.doc.lock.media}
    said = [*taken.doc.lock.left_out, *taken.search.problems]
    for id, guesses in taken.search.guesses.items():
        near = "".join(f" Perhaps {readable(g.path)}: {g.why}." for g in guesses[:1])
        said.append(f"{readable(known[id].name or known[id].path)} was not found.{near}")
    for line in said:
        print(line)
    return 1 if said else 0


def _windows(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.framing import crop_windows
    from ezvar.core.model import master_named
    from ezvar.core.store import load_project

    doc = load_project(options.project)
    master = master_named(doc, options.master)
    out = csv.writer(sys.stdout, lineterminator="\n")
    out.writerow(["master", "frame", "shot", "layer", "pane", "x", "y", "width", "height", "angle"])
    for row in crop_windows(doc, master):
        w = row.window
        numbers = [f"{v:.3f}" for v in (w.left, w.top, w.width, w.height, w.angle)]
        out.writerow([master.name, row.frame, row.shot, row.part, row.pane, *numbers])
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


def _handoff(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.review import handoff_renamed, write_cuts, write_handoff
    from ezvar.core.store import load_project, update_project

    if options.cuts:
        print(write_cuts(load_project(options.project), options.output, options.cuts))
        return 0
    said = handoff_renamed(load_project(options.project), options.output)
    for line in said:
        print(line)
    for file in update_project(options.project, lambda doc: write_handoff(doc, options.output)):
        print(file)
    return 1 if said else 0


def _take(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.review import take
    from ezvar.core.store import update_project

    def change(doc: Document) -> tuple[Document, tuple[Document, Taken]]:
        merged, taken = take(doc, options.file, options.media)
        return merged, (merged, taken)

    doc, taken = update_project(options.project, change)
    print(f"{len(taken.taken)} taken, {taken.same} the same, {len(taken.conflicts)} in conflict")
    for ours, _ in taken.conflicts:
        name = doc.master(ours.master).name
        print(f"shot {doc.place_of(ours.shot) + 1} in {name}: changed on both sides, ours is kept")
    for problem in taken.problems:
        print(problem)
    return 1 if taken.conflicts or taken.problems else 0


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
        made = next(run_here([movie_task(doc, delivery, options.output, within)], around, _progress(), cancel))
        print(made.path)
        for problem in made.problems:
            status = 1
            if problem not in said:  # before it was made
                print(f"{readable(made.path.name)}: {problem}")
    return status


def _check(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.problems import problems
    from ezvar.core.store import load_project

    found = problems(load_project(options.project))
    for problem in found:
        print(problem)
    return 1 if found else 0
