"""The review menu."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QInputDialog, QStackedWidget

from ezvar.app.background.exchange import Exchange
from ezvar.app.commands import Workbench, lock_open
from ezvar.app.kit.asking import ask
from ezvar.app.kit.commands import Menu
from ezvar.core.model import Verdict
from ezvar.core.names import file_names, readable
from ezvar.core.review import CUTS_KINDS, halfway

from .board import LISTED, Board
from .handoff_dialog import HandoffDialog
from .history_dialog import HistoryDialog
from .notes_part import NotesPart


@dataclass(frozen=True)
class ReviewTools:
    """What the commands of the review menu work with."""

    bench: Workbench
    exchange: Exchange
    board: Board
    notes: NotesPart
    stack: QStackedWidget


def _lock_open(tools: ReviewTools) -> bool:
    return lock_open(tools.bench)


def _framed(tools: ReviewTools) -> bool:
    return tools.bench.session.at.framing is not None


REVIEW: Menu[ReviewTools] = Menu("Review", when=_lock_open)


@REVIEW.command("review.write", "Write the handoff…", "Ctrl+H")
def write_handoff(tools: ReviewTools) -> None:
    session = tools.bench.session
    path, shared = session.project.path, tools.bench.desk.incoming.folder
    name = f"{session.project.document.lock.name} handoff"
    parent = Path(shared) if shared else path.parent if path else None
    folder = str(parent / file_names([name], "")[0].name) if parent else ""
    HandoffDialog(session, tools.exchange, folder, tools.bench.widget).open()


@REVIEW.command("review.write_cuts", "Write the cuts alone…")
def write_cuts(tools: ReviewTools) -> None:
    words = list(CUTS_KINDS.values())
    said, given = QInputDialog.getItem(tools.bench.widget, "Write the cuts", "What to write:", words, 0, False)
    folder = QFileDialog.getExistingDirectory(tools.bench.widget, "Where to write the cuts") if given else ""
    if folder:
        tools.exchange.write_cuts(folder, next(kind for kind, text in CUTS_KINDS.items() if text == said))


@REVIEW.command("review.take", "Take decisions in…", "Ctrl+T")
def take(tools: ReviewTools) -> None:
    path, _ = QFileDialog.getOpenFileName(
        tools.bench.widget, "Take decisions in", "", "What came back (*.otio *.json *.csv *.edl)"
    )
    if path:
        tools.exchange.take(path)


@REVIEW.command("review.compare", "Compare with a saved project…")
def compare(tools: ReviewTools) -> None:
    path, _ = QFileDialog.getOpenFileName(tools.bench.widget, "Compare with", "", "Projects (*.ezvar)")
    if path:
        tools.exchange.compare_with(path)


@REVIEW.command("review.history", "What it was before…", "B", when=_framed, everywhere=False)
def show_history(tools: ReviewTools) -> None:
    HistoryDialog(tools.bench.session, tools.board.pictures, tools.bench.widget).open()


@REVIEW.command("review.shared_folder", "A folder that the team shares…")
def share_folder(tools: ReviewTools) -> None:
    work = tools.bench.desk.incoming
    folder = QFileDialog.getExistingDirectory(tools.bench.widget, "The folder that the team shares", work.folder)
    if folder:
        work.share_folder(folder)


def _shares(tools: ReviewTools) -> bool:
    return bool(tools.bench.desk.incoming.folder)


@REVIEW.command("review.share_none", "Share no folder any more", when=_shares)
def share_none(tools: ReviewTools) -> None:
    tools.bench.desk.incoming.share_folder("")


@REVIEW.command("review.share", "Share what is decided", "Ctrl+Alt+S", when=_shares)
def share_decided(tools: ReviewTools) -> None:
    tools.bench.desk.incoming.share()


@REVIEW.command("review.reviewer", "Ask the simulated reviewer")
def ask_reviewer(tools: ReviewTools) -> None:
    tools.bench.desk.incoming.ask_reviewer()


def _offered(tools: ReviewTools) -> bool:
    return bool(tools.bench.desk.incoming.offers)


@REVIEW.command("review.take_offered", "Take the return in", "Ctrl+Alt+T", when=_offered)
def take_offered(tools: ReviewTools) -> None:
    work = tools.bench.desk.incoming
    work.take(work.offers[0])


@REVIEW.command("review.leave_offered", "Leave the return alone", when=_offered)
def leave_offered(tools: ReviewTools) -> None:
    work = tools.bench.desk.incoming
    work.leave(work.offers[0])


def _say(tools: ReviewTools, verdict: Verdict) -> None:
    work = tools.bench.desk.framing_work
    work.say_verdict(verdict, work.targets())


@REVIEW.command("review.agreed", "Agreed", "A", when=_framed, everywhere=False)
def say_agreed(tools: ReviewTools) -> None:
    _say(tools, "agreed")


@REVIEW.command("review.change", "Change", "C", when=_framed, everywhere=False)
def say_change(tools: ReviewTools) -> None:
    _say(tools, "change")


@REVIEW.command("review.open", "Open again", "O", when=_framed, everywhere=False)
def say_open(tools: ReviewTools) -> None:
    _say(tools, "open")


@REVIEW.command("review.note", "Write a note at this frame", "W", when=_framed, everywhere=False)
def write_note(tools: ReviewTools) -> None:
    tools.notes.write()


def _noted(tools: ReviewTools) -> bool:
    return bool(tools.bench.desk.note_work.threads())


@REVIEW.command("review.answer", "Answer the last note", "R", when=_noted, everywhere=False)
def answer_note(tools: ReviewTools) -> None:
    threads = tools.bench.desk.note_work.threads()
    tools.notes.answer(max(threads, key=lambda thread: thread[-1].moment)[0])


@REVIEW.command("review.withdraw", "Withdraw your last note", "Shift+W", when=_noted, everywhere=False)
def withdraw_note(tools: ReviewTools) -> None:
    work = tools.bench.desk.note_work
    own = work.own_last()
    if own is not None:
        work.withdraw(own)
    else:
        tools.bench.session.messages.say("No note here is yours.")


@REVIEW.command("review.forget_drawn", "Wipe off what is drawn", "Shift+D", when=_framed, everywhere=False)
def forget_drawn(tools: ReviewTools) -> None:
    tools.bench.desk.note_work.forget_drawn()


@REVIEW.command("review.name", "Say who you are…")
def say_name(tools: ReviewTools) -> None:
    tools.bench.ask_name()


@REVIEW.command("review.large", "One picture, large, to draw on", "E", when=_framed, everywhere=False)
def enlarge(tools: ReviewTools) -> None:
    tools.stack.setCurrentIndex(1 - tools.stack.currentIndex())


@REVIEW.command("review.list", "List others: all, open, agreed, change, with notes", "F", everywhere=False)
def list_others(tools: ReviewTools) -> None:
    rows = tools.board.rows
    choices = [each for each in LISTED if each != "differs" or tools.exchange.differing]
    rows.list(choices[(choices.index(rows.listed) + 1) % len(choices)] if rows.listed in choices else "all")


def _differs(tools: ReviewTools) -> bool:
    chosen, exchange = tools.bench.session.at.chosen, tools.exchange
    return exchange.theirs is not None or (len(chosen) > 1 and any(shot in chosen for shot, _ in exchange.differing))


def _some_differ(tools: ReviewTools) -> bool:
    return bool(tools.exchange.differing)


@REVIEW.command("review.theirs", "Take theirs", "T", when=_differs, everywhere=False)
def take_theirs(tools: ReviewTools) -> None:
    tools.exchange.settle("Take theirs", lambda ours, theirs: theirs)


@REVIEW.command("review.ours", "Keep ours", "U", when=_differs, everywhere=False)
def keep_ours(tools: ReviewTools) -> None:
    tools.exchange.settle("Keep ours", lambda ours, theirs: ours)


@REVIEW.command("review.halfway", "Halfway", "H", when=_differs, everywhere=False)
def go_halfway(tools: ReviewTools) -> None:
    tools.exchange.settle("Halfway", halfway)


@REVIEW.command("review.next_differing", "The next that differs", "Shift+N", when=_some_differ, everywhere=False)
def next_differing(tools: ReviewTools) -> None:
    tools.exchange.go_to_next()


def ask_about_files(tools: ReviewTools, path: str, files: tuple[str, ...]) -> None:
    """Ask whether files that a return names may be opened, and take it in again if so."""
    listed = ", ".join(readable(Path(file).name) for file in files[:5])
    said = f"The return shows files that the project does not use yet: {listed}. They lie beside its media. Open them?"
    if ask(tools.bench.widget, "Files of a return", said, ("Open them", "Leave them")) == "Open them":
        tools.exchange.take(path, {str(Path(file).parent) for file in files})
