"""The file menu: opening, saving, leaving."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QInputDialog

from ezvar.app.kit.asking import ask
from ezvar.app.kit.commands import Menu, always
from ezvar.app.session.project_files import InTheWay
from ezvar.core.names import readable
from ezvar.core.timing import Rate
from ezvar.demo import DEMO_PROJECT, DEMO_TIMELINE

from .clips_dialog import ClipsDialog
from .workbench import Workbench, lock_open

OPENS = (
    "Projects, timelines and movies "
    "(*.ezvar *.otio *.otioz *.edl *.aaf *.mp4 *.mov *.mkv *.webm *.mxf *.m4v *.avi);;All files (*)"
)
FILE: Menu[Workbench] = Menu("File", when=lock_open)


@FILE.command("file.open", "Open a movie, timeline or project…", "Ctrl+O", when=always)
def open_file(bench: Workbench) -> None:
    if bench.may_leave():
        path, _ = QFileDialog.getOpenFileName(bench.widget, "Open a movie, timeline or project", "", OPENS)
        if path:
            bench.session.files.open(path)


@FILE.command("file.clips", "Open loose clips…", "Ctrl+Shift+O", when=always)
def open_loose_clips(bench: Workbench) -> None:
    if bench.may_leave():
        paths, _ = QFileDialog.getOpenFileNames(bench.widget, "Open loose clips")
        if paths:
            ask_about_clips(bench, paths)


def ask_about_clips(bench: Workbench, paths: list[str]) -> None:
    """Ask for order, in and out of loose clips, then open them."""
    dialog = ClipsDialog(bench.widget, paths)
    if not dialog.exec():
        return
    try:
        bench.session.files.open_clips(dialog.clips())
    except ValueError:
        bench.session.messages.say_problem("An in or out is no number of frames. Open the clips again.")


@FILE.command("file.demo", "Open the demo edit", when=always)
def open_demo(bench: Workbench) -> None:
    if bench.may_leave():
        bench.session.files.open(DEMO_PROJECT, template=True)


@FILE.command("file.demo_timeline", "Open the demo edit as a timeline", when=always)
def open_demo_timeline(bench: Workbench) -> None:
    if bench.may_leave():
        bench.session.files.open(DEMO_TIMELINE)


@FILE.command("file.save", "Save", "Ctrl+S")
def save(bench: Workbench) -> None:
    path = bench.session.project.path
    if path is None:
        save_as.run(bench)
    else:
        bench.session.files.save(path)


@FILE.command("file.save_as", "Save as…", "Ctrl+Shift+S")
def save_as(bench: Workbench) -> None:
    project = bench.session.project
    start = str(project.path or Path.home() / f"{project.document.lock.name}.ezvar")
    path, _ = QFileDialog.getSaveFileName(
        bench.widget, "Save the project", start, "Ezvar projects (*.ezvar)",
        options=QFileDialog.Option.DontConfirmOverwrite,  # it is asked when it is known what is there
    )  # fmt: skip
    if path:
        bench.session.files.save(path if path.endswith(".ezvar") else f"{path}.ezvar")


@FILE.command("file.quit", "Quit", "Ctrl+Q", when=always)
def leave(bench: Workbench) -> None:
    bench.leave()


def ask_rate(bench: Workbench, path: Path, choices: tuple[Rate, ...]) -> None:
    """Ask for the rate of a timeline that states none, offering those that its timecodes allow."""
    words = [f"{rate} frames a second" for rate in choices]
    usual = next((k for k, rate in enumerate(choices) if rate == Rate(25)), 0)
    said = f"{readable(path.name)} does not say its frame rate. Its timecodes allow these:"
    chosen, given = QInputDialog.getItem(bench.widget, "Frame rate", said, words, usual, False)
    if given:
        bench.session.files.open(path, rate=choices[words.index(chosen)])


def ask_in_the_way(bench: Workbench, there: InTheWay) -> None:
    """Ask what to do where a project was to be saved and another one is."""
    name, files = readable(there.path.name), bench.session.files
    if there.other:
        said = f"{name} is there already: {there.other}. Replace it?"
        if ask(bench.widget, "Save the project", said, ("Replace it", "Keep it")) == "Replace it":
            files.save(there.path, replacing=True)
        return
    said = f"Somebody else has saved {name} since it was read here. Nothing of theirs or yours is lost yet."
    answers = ("Take theirs in", "Save beside it…", "Replace theirs", "Not now")
    match ask(bench.widget, "Saved by somebody else", said, answers):
        case "Take theirs in":
            files.take_theirs()
        case "Save beside it…":
            save_as.run(bench)
        case "Replace theirs":
            files.save(there.path, replacing=True)
