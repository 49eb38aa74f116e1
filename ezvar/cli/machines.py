"""Having work done on other machines, and workers on this one."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

from ezvar.core.progress import CancelToken

from .parser import command

if TYPE_CHECKING:
    from ezvar.core.errors import MachineError
    from ezvar.core.work import Runner

    from .parser import Commands, Parser


def add(commands: Commands) -> None:
    """Declare these commands."""
    work = command(commands, "work", _work, "have workers on this machine, until they are stopped")
    work.add_argument("--here", type=int, required=True, metavar="N", help="how many")


def add_machines(parser: Parser) -> None:
    """Give a command what says which machines do it."""
    parser.add_argument("--on", metavar="ADDRESS", help="a Dask scheduler's address, or here:N for N workers here")
    parser.add_argument(
        "--path", action="append", default=[], metavar="[MACHINE:]HERE=THERE",
        help="a beginning of paths that is called otherwise there",
    )  # fmt: skip
    parser.add_argument("--then-here", action="store_true", help="go on on this machine where the others fail")


@contextmanager
def machines_of(options: argparse.Namespace) -> Iterator[Runner | None]:
    """What does the tasks of a command, where that is not this program itself."""
    from ezvar.core.machines import Way, connected, going_on_here, unprotected

    ways = [Way.parse(text) for text in options.path]
    if not options.on:
        yield None
        return
    if warning := unprotected(options.on):
        print(f"ezvar: {warning}", file=sys.stderr)
    with connected(options.on, ways) as machines:
        yield going_on_here(machines.run, _say) if options.then_here else machines.run


def _say(error: MachineError) -> None:
    print(f"ezvar: {error} It goes on here.", file=sys.stderr)


def _work(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.core.machines import workers_until

    return workers_until(options.here, lambda address: print(address, flush=True), cancel)
