"""Finding cuts and framings."""

from __future__ import annotations

import argparse
import json
import sys
from typing import TYPE_CHECKING

from ezvar.core.errors import InputError, ProjectError
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken

from .machines import add_machines, machines_of
from .parser import command
from .progress import terminal_progress

if TYPE_CHECKING:
    from .parser import Commands


def add(commands: Commands) -> None:
    """Declare these commands."""
    cuts = command(commands, "cuts", _cuts, "find the cuts of a movie")
    cuts.add_argument("movie")
    cuts.add_argument("--json", action="store_true", help="print JSON")
    plan = command(commands, "plan", _plan, "find cuts and framings, write a project")
    plan.add_argument("lock")
    plan.add_argument("--master", action="append", required=True, metavar="9:16|NAME=WxH")
    plan.add_argument("--rate", help="the lock's rate, for timelines that state none")
    plan.add_argument("--media", action="append", default=[], help="a folder to look for media in")
    plan.add_argument("--reference", metavar="MOVIE", help="a flat movie of the lock, to find placements by")
    plan.add_argument("--replace", action="store_true", help="replace the project that is there")
    plan.add_argument("-o", dest="output", required=True, metavar="PROJECT")
    add_machines(plan)


def _cuts(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.cuts import find_cuts
    from ezvar.core.media import MovieReader
    from ezvar.core.timing import timecode

    with MovieReader(options.movie) as reader:
        facts = reader.facts
        cuts = find_cuts(reader, terminal_progress(), cancel)
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
    from ezvar.core.work import run_here

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
    with machines_of(options) as runner:
        taken = plan(
            options.lock, masters, default_cache(), terminal_progress(), cancel,
            rate=rate, folders=options.media, reference=options.reference, runner=runner or run_here,
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
