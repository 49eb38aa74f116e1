"""The output menu."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QInputDialog

from ezvar.app.background.making import RowMaking
from ezvar.app.commands import Workbench
from ezvar.app.kit.commands import Menu
from ezvar.core import edits
from ezvar.core.model import Row
from ezvar.core.output import told_as

from .rows_view import RowsView


@dataclass(frozen=True)
class OutputTools:
    """What the commands of the output menu work with; ``show`` goes to the stage."""

    bench: Workbench
    making: RowMaking
    view: RowsView
    show: Callable[[], None]

    @property
    def chosen(self) -> tuple[Row, ...]:
        """The rows that a command is for: the chosen ones, elsewhere than in the stage those of the active master."""
        at = self.bench.session.at
        if at.stage == "output":
            return self.view.chosen
        return tuple(row for row in self.making.rows() if row.master == at.master_id)


def _something_to_make(tools: OutputTools) -> bool:
    return bool(tools.making.rows()) and tools.bench.session.media.reader is not None


def _chosen(tools: OutputTools) -> bool:
    return bool(tools.view.chosen)


def _being_made(tools: OutputTools) -> bool:
    return any(o.state == "waits" for o in tools.bench.session.project.makings.ordered)


def _unfinished(tools: OutputTools) -> bool:
    return bool(tools.making.unfinished())


OUTPUT: Menu[OutputTools] = Menu("Output", when=_something_to_make)


def _make(tools: OutputTools, rows: Iterable[Row]) -> None:
    tools.show()
    tools.making.make([row.id for row in rows])


@OUTPUT.command("output.make_all", "Make all", "Ctrl+Shift+M")
def make_all(tools: OutputTools) -> None:
    _make(tools, tools.making.rows())


@OUTPUT.command("output.make", "Make this one", "Ctrl+M")
def make(tools: OutputTools) -> None:
    _make(tools, tools.chosen)


@OUTPUT.command("output.go_on", "Go on with what is not finished", "Ctrl+Alt+M", when=_unfinished)
def go_on(tools: OutputTools) -> None:
    tools.show()
    tools.making.go_on(tools.making.unfinished())


@OUTPUT.command("output.stop", "Stop", "Esc", when=_being_made, everywhere=False)
def stop(tools: OutputTools) -> None:
    tools.making.stop()


@OUTPUT.command("output.stop_this", "Stop this one", "Ctrl+Esc", when=_being_made, everywhere=False)
def stop_this(tools: OutputTools) -> None:
    tools.making.stop([row.id for row in tools.view.chosen])


def _ordered(tools: OutputTools) -> bool:
    makings = tools.bench.session.project.makings
    return any(makings.ordered_of(row.id) is not None for row in tools.view.chosen)


@OUTPUT.command("output.forget", "Do not make it after all", when=_ordered, everywhere=False)
def forget(tools: OutputTools) -> None:
    tools.making.forget([row.id for row in tools.view.chosen])


def _move(tools: OutputTools, by: int) -> None:
    project, chosen = tools.bench.session.project, tools.view.chosen
    doc = project.document
    for row in chosen if by < 0 else reversed(chosen):
        doc = edits.move_row(doc, row.id, by)
    project.edit("Order of movies", doc)
    tools.view.choose(*(row.id for row in chosen))


@OUTPUT.command("output.up", "Move it up", "Alt+Up", when=_chosen, everywhere=False)
def move_up(tools: OutputTools) -> None:
    _move(tools, -1)


@OUTPUT.command("output.down", "Move it down", "Alt+Down", when=_chosen, everywhere=False)
def move_down(tools: OutputTools) -> None:
    _move(tools, 1)


@OUTPUT.command("output.add", "One more movie…", "Ins", everywhere=False)
def add(tools: OutputTools) -> None:
    """Add a row: a master, or one of its ranges."""
    project = tools.bench.session.project
    doc = project.document
    offered = {
        (m.id, label): f"{m.name} {label}".strip() for m in doc.masters for label in _labels(doc.master(m.id).ranges)
    }
    said, given = QInputDialog.getItem(
        tools.bench.widget, "One more movie", "Of which master and range:", list(offered.values()), 0, False
    )
    if given:
        master, label = next(key for key, text in offered.items() if text == said)
        doc, id = edits.add_row(doc, master, label)
        project.edit(f"One more movie, {said}", doc)
        tools.view.refresh()
        tools.view.choose(id)


def _labels(ranges: Iterable[object]) -> list[str]:
    return ["", *(r.name for r in ranges)]  # type: ignore[attr-defined]


@OUTPUT.command("output.remove", "Take it off the list", "Del", when=_chosen, everywhere=False)
def remove(tools: OutputTools) -> None:
    project = tools.bench.session.project
    doc, chosen = project.document, tools.view.chosen
    for row in chosen:
        doc = edits.remove_row(doc, row.id)
    names = told_as(project.document, chosen[0]) if len(chosen) == 1 else f"{len(chosen)} movies"
    project.edit(f"Take off the list, {names}", doc)


@OUTPUT.command("output.notice", "Say on the desktop when all is made")
def turn_notice(tools: OutputTools) -> None:
    tools.bench.turn_notice()


def _made(tools: OutputTools) -> bool:
    makings = tools.bench.session.project.makings
    return any(makings.finished_of(row.id) is not None for row in tools.view.chosen)


@OUTPUT.command("output.folder", "Open its folder", when=_made, everywhere=False)
def open_folder(tools: OutputTools) -> None:
    makings = tools.bench.session.project.makings
    for row in tools.view.chosen[:1]:
        if (finished := makings.finished_of(row.id)) is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(Path(finished.made.file).parent)))
