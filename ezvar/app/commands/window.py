"""The help menu, and what of the view menu is of the whole window: theme, size of text, keys, the first walk."""

from __future__ import annotations

from ezvar.app.kit.commands import Menu

from .workbench import Workbench

LOOK: Menu[Workbench] = Menu("View")
HELP: Menu[Workbench] = Menu("Help")


@LOOK.command("view.text", "Larger text: 100, 125, 150 per cent")
def turn_text_size(bench: Workbench) -> None:
    bench.turn_text_size()


@LOOK.command("view.theme", "Light or dim theme", "Ctrl+D")
def turn_theme(bench: Workbench) -> None:
    bench.turn_theme()


@LOOK.command("view.machines", "Machines that do the work…")
def choose_machines(bench: Workbench) -> None:
    bench.choose_machines()


@HELP.command("help.walk", "First walk", "F1")
def show_walk(bench: Workbench) -> None:
    bench.show_walk()


@HELP.command("help.guide", "Guide…", "Shift+F1")
def show_guide(bench: Workbench) -> None:
    bench.show_guide()


@HELP.command("help.keys", "Keys…", "F2")
def show_keys(bench: Workbench) -> None:
    bench.show_keys()


@HELP.command("help.reports", "Reports of mistakes…")
def show_reports(bench: Workbench) -> None:
    bench.show_reports()
