"""What the commands share: their parser, and how one is declared."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from typing import TYPE_CHECKING, NoReturn

from ezvar.core.progress import CancelToken

if TYPE_CHECKING:
    Commands = argparse._SubParsersAction["Parser"]

Run = Callable[[argparse.Namespace, CancelToken], int]


class Parser(argparse.ArgumentParser):
    """Says what is wrong in one line, and exits with 2."""

    def error(self, message: str) -> NoReturn:
        print(f"{self.prog}: {message}. Try {self.prog} --help.", file=sys.stderr)
        raise SystemExit(2)


def command(commands: Commands, name: str, run: Run, help: str) -> Parser:
    """Declare a command; its arguments are to be added to what is returned."""
    made = commands.add_parser(name, help=help, description=help)
    made.set_defaults(run=run)
    return made


def say_who_has_it(project: str) -> None:
    """Say who has a project open that a command is about to change; nothing is lost by that, but surprises."""
    from ezvar.core.names import readable
    from ezvar.core.store import holder_of

    if (other := holder_of(project)) is not None:
        print(f"ezvar: {readable(project)} is open too: {other}. It is told there when saving.", file=sys.stderr)
