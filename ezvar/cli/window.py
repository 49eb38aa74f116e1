"""Opening the window."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ezvar.core.progress import CancelToken
from ezvar.demo import DEMO_PROJECT

from .parser import command

if TYPE_CHECKING:
    from .parser import Commands


def add(commands: Commands) -> None:
    """Declare these commands."""
    command(commands, "demo", _demo, "open the window with the demo edit")
    opening = command(commands, "open", open_window, "open the window with a project, a timeline or a movie")
    opening.add_argument("file", nargs="?")


def open_window(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.app import run

    return run(options.file)


def _demo(options: argparse.Namespace, cancel: CancelToken) -> int:
    from ezvar.app import run

    return run(DEMO_PROJECT, template=True)
