"""How far a command is, on a terminal."""

from __future__ import annotations

import sys

from ezvar.core.progress import Progress, silent


def terminal_progress() -> Progress:
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
