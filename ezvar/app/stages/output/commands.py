"""The output menu."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMessageBox

from ezvar.app.background.making import RowMaking
from ezvar.app.commands import Workbench, lock_open
from ezvar.app.kit.commands import Menu
from ezvar.app.session.jobs import Work
from ezvar.core import edits
from ezvar.core.model import Finished, Row
from ezvar.core.names import file_names, readable
from ezvar.core.output import told_as, write_contact_sheets, write_still

from .presets_dialog import PresetsDialog
from .report_dialog import ReportDialog
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


@OUTPUT.command("output.presets", "Presets…", "Ctrl+Alt+R")
def show_presets(tools: OutputTools) -> None:
    dialog = PresetsDialog(tools.making.default.name, tools.bench.keep_preset, tools.bench.widget)
    dialog.kept_changed.connect(tools.making.presets_changed)
    dialog.open()


@OUTPUT.command("output.notice", "Say on the desktop when all is made")
def turn_notice(tools: OutputTools) -> None:
    tools.bench.turn_notice()


def _made(tools: OutputTools) -> bool:
    makings = tools.bench.session.project.makings
    return any(makings.finished_of(row.id) is not None for row in tools.view.chosen)


@OUTPUT.command("output.report", "What was checked…", "Ctrl+R", when=_made, everywhere=False)
def show_report(tools: OutputTools) -> None:
    makings = tools.bench.session.project.makings
    for row in tools.view.chosen[:1]:
        if (finished := makings.finished_of(row.id)) is not None:
            ReportDialog(tools.bench.session, finished, tools.bench.widget).open()


def _sendable(tools: OutputTools) -> list[Finished]:
    """What was made of the chosen rows, as they are now, and can be sent."""
    now = (tools.making.row(row.id) for row in tools.view.chosen)
    return tools.bench.desk.sending.may_send(row for row in now if row is not None)


def _to_send(tools: OutputTools) -> bool:
    return bool(_sendable(tools))


@OUTPUT.command("output.send", "Send it to its receiver", "Ctrl+Alt+D", when=_to_send, everywhere=False)
def send_it(tools: OutputTools) -> None:
    """Send what was made of the chosen rows; what failed its check only where that is wanted."""
    movies = _sendable(tools)
    flawed = [f for f in movies if f.report.flaws]
    if flawed:
        buttons = QMessageBox.StandardButton
        asked = f"{len(flawed)} of them failed the check." if len(movies) > 1 else "It failed the check."
        answer = QMessageBox.question(
            tools.bench.widget, "Send", f"{asked} Send anyway?", buttons.Yes | buttons.No, buttons.No
        )
        if answer != buttons.Yes:
            return
    tools.bench.desk.sending.send(movies)


def _lock_open(tools: OutputTools) -> bool:
    return lock_open(tools.bench) and tools.bench.session.at.master is not None


@OUTPUT.command("output.still", "Keep this frame as a still…", "Ctrl+Alt+P", when=_lock_open)
def keep_still(tools: OutputTools) -> None:
    session = tools.bench.session
    doc, master, frame = session.project.document, session.at.master, session.at.frame
    name = f"{doc.lock.name} {master.name if master is not None else ''} {session.readings.timecode(frame)}"
    path = _asked_path(tools, "Keep this frame", f"{file_names([name], '.png')[0].name}", "Stills (*.png *.jpg *.tif)")
    if path and master is not None:
        _written(tools, lambda p, c: write_still(doc, master, frame, path), path)


@OUTPUT.command("output.poster", "Poster: this frame, or none", "Ctrl+Alt+F", when=_lock_open)
def choose_poster(tools: OutputTools) -> None:
    """Let this frame stand for the master, beside whose movies it is written; once more takes it off."""
    session = tools.bench.session
    doc, master, frame = session.project.document, session.at.master, session.at.frame
    if master is not None:
        wanted = None if master.poster == frame else frame
        session.project.edit(f"Poster of {master.name}", edits.set_poster(doc, master.id, wanted))
        at = session.readings.timecode(frame)
        session.messages.say(
            f"{master.name} has no poster now." if wanted is None else f"{master.name}: poster at {at}."
        )


@OUTPUT.command("output.sheet", "Keep a contact sheet…", when=_lock_open)
def keep_sheet(tools: OutputTools) -> None:
    session = tools.bench.session
    doc, master = session.project.document, session.at.master
    name = f"{doc.lock.name} {master.name if master is not None else ''} shots"
    path = _asked_path(tools, "Keep a contact sheet", file_names([name], ".jpg")[0].name, "JPEG (*.jpg)")
    if path and master is not None:
        _written(tools, lambda p, c: write_contact_sheets(doc, master, doc.shots, path, p, c), path)


def _asked_path(tools: OutputTools, title: str, name: str, kinds: str) -> Path | None:
    folder = tools.bench.session.project.path
    start = str((folder.parent if folder is not None else Path.home()) / name)
    path, _ = QFileDialog.getSaveFileName(tools.bench.widget, title, start, kinds)
    return (Path(path) if Path(path).suffix else Path(f"{path}{Path(name).suffix}")) if path else None


def _written(tools: OutputTools, work: Work, path: Path) -> None:
    said = tools.bench.session.messages
    done = partial(said.say, f"Kept as {readable(path.name)}.")
    tools.bench.session.jobs.start(
        f"Drawing {readable(path.name)}", work, lambda _: done(), said.say_problem, stands=True
    )


@OUTPUT.command("output.folder", "Open its folder", when=_made, everywhere=False)
def open_folder(tools: OutputTools) -> None:
    makings = tools.bench.session.project.makings
    for row in tools.view.chosen[:1]:
        if (finished := makings.finished_of(row.id)) is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(Path(finished.made.file).parent)))
