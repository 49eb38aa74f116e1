"""The window. Shows what the core computes; holds no arithmetic of its own."""

from __future__ import annotations

import os


def run(file: str | os.PathLike[str] | None = None, template: bool = False) -> int:
    """Open the window, with a project or movie if one is given, and stay until it closes.

    A ``template`` is opened as a new, unsaved project.
    """
    from ezvar.app.window.main import run_window

    return run_window(file, template)
