"""The edit menu: taking steps back, choosing, and finding any command."""

from __future__ import annotations

from ezvar.app.kit.commands import Menu, always

from .workbench import Workbench, lock_open

EDIT: Menu[Workbench] = Menu("Edit", when=lock_open)


def _can_undo(bench: Workbench) -> bool:
    history = bench.session.project.history
    return history is not None and bool(history.undo_label)


def _can_redo(bench: Workbench) -> bool:
    history = bench.session.project.history
    return history is not None and bool(history.redo_label)


def _undo_title(bench: Workbench) -> str:
    history = bench.session.project.history
    return f"Undo: {history.undo_label}" if history and history.undo_label else "Undo"


def _redo_title(bench: Workbench) -> str:
    history = bench.session.project.history
    return f"Redo: {history.redo_label}" if history and history.redo_label else "Redo"


@EDIT.command("edit.undo", "Undo", "Ctrl+Z", when=_can_undo, said=_undo_title)
def undo(bench: Workbench) -> None:
    bench.session.project.undo()


@EDIT.command("edit.redo", "Redo", "Ctrl+Shift+Z", when=_can_redo, said=_redo_title)
def redo(bench: Workbench) -> None:
    bench.session.project.redo()


@EDIT.command("edit.all", "Choose all shots", "Ctrl+A")
def choose_all(bench: Workbench) -> None:
    bench.choose_all()


@EDIT.command("edit.finder", "Find a command…", "Ctrl+Space", when=always)
def find_command(bench: Workbench) -> None:
    bench.find_command()
