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
