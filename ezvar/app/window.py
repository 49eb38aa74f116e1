"""The window: stage strip, ledger, middle, card and edit strip, and what the commands do."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMessageBox,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ezvar.cli import DEMO_PROJECT
from ezvar.core.media import peaks
from ezvar.core.model import Shot, edits
from ezvar.core.review import Taken, take, write_handoff

from .commands import COMMANDS, STAGES
from .jobs import Jobs
from .pictures import Stills, Viewer
from .player import Player
from .session import Session
from .stages.base import Stage
from .stages.cuts import CutsStage
from .stages.framing import FramingStage
from .stages.lock import LockStage
from .stages.output import OutputStage
from .stages.review import ReviewStage
from .stages.text import TextStage
from .widgets.edit_strip import EditStrip
from .widgets.finder import Finder
from .widgets.jobs_panel import JobsPanel
from .widgets.ledger import Ledger
from .widgets.stage_strip import StageStrip

_MOVIES = "Projects and movies (*.ezvar *.mp4 *.mov *.mkv *.webm *.mxf *.m4v *.avi);;All files (*)"


class MainWindow(QMainWindow):
    """Ezvar's only window."""

    def __init__(self, session: Session | None = None) -> None:
        super().__init__()
        self.jobs = session.jobs if session else Jobs()
        self.session = session or Session(self.jobs)
        self.player = Player()
        self.viewer: Viewer | None = None
        self.stills: Stills | None = None
        self.setWindowTitle("Ezvar")
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.lock = LockStage(self.session, self.run)
        self.cuts = CutsStage(self.session, self.run)
        self.framing = FramingStage(self.session, self.run)
        self.text = TextStage(self.session, self.run)
        self.review = ReviewStage(self.session, self.run)
        self.output = OutputStage(self.session, self.run)
        every = (self.lock, self.cuts, self.framing, self.text, self.review, self.output)
        self.stages: dict[str, Stage] = {stage.name: stage for stage in every}
        self._lay_out()
        self._make_menus()
        self._connect()
        self._show_stage(self.session.stage)
        self.ledger.view.setFocus()

    # What the window is made of

    def _lay_out(self) -> None:
        self.strip = StageStrip(self.session)
        self.ledger = Ledger(self.session)
        self.edit_strip = EditStrip(self.session)
        self.middles, self.cards = QStackedWidget(), QStackedWidget()
        self.cards.setFixedWidth(252)
        for stage in self.stages.values():
            self.middles.addWidget(stage.middle)
            self.cards.addWidget(stage.card)
        self.message = QLabel()
        self.message.setWordWrap(True)
        self.message.setTextFormat(Qt.TextFormat.PlainText)
        self.dismiss = QPushButton("Close")
        self.dismiss.setAccessibleName("Close the message")
        self.banner = QWidget()
        self.banner.setObjectName("paper")
        self.banner.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        line = QHBoxLayout(self.banner)
        line.setContentsMargins(14, 6, 10, 6)
        line.addWidget(self.message, 1)
        line.addWidget(self.dismiss)
        self.banner.hide()
        middle = QVBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self.banner)
        middle.addWidget(self.middles, 1)
        right = QVBoxLayout()
        right.setSpacing(0)
        right.addWidget(self.cards, 1)
        self.jobs_panel = JobsPanel(self.jobs)
        right.addWidget(self.jobs_panel)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.ledger)
        row.addLayout(middle, 1)
        row.addLayout(right)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.strip)
        column.addLayout(row, 1)
        column.addWidget(self.edit_strip)
        self.setCentralWidget(whole)

    def _make_menus(self) -> None:
        bar = self.menuBar()
        assert bar is not None
        menus: dict[str, Any] = {}
        self.actions_: dict[str, QAction] = {}
        for command in COMMANDS:
            if command.menu not in menus:
                menus[command.menu] = bar.addMenu(command.menu)
            action = QAction(command.title, self)
            if command.key:
                action.setShortcut(QKeySequence(command.key))
            action.triggered.connect(lambda _, id=command.id: self.run(id))
            menus[command.menu].addAction(action)
            self.actions_[command.id] = action

    def _connect(self) -> None:
        session = self.session
        session.opened.connect(self._opened)
        session.document_changed.connect(self._refresh)
        session.shot_changed.connect(self._refresh)
        session.master_changed.connect(self._refresh)
        session.frame_changed.connect(lambda _: self._stage.refresh())
        session.stage_changed.connect(self._show_stage)
        session.problem.connect(self.say_problem)
        session.notice.connect(self.say)
        self.jobs.changed.connect(lambda: self.output.refresh() if session.stage == "Output" else None)
        self.strip.stage_chosen.connect(session.set_stage)
        self.strip.master_chosen.connect(session.set_master)
        self.ledger.chosen.connect(session.go_to_shot)
        self.player.moved.connect(session.go)
        self.dismiss.clicked.connect(self.banner.hide)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.timeout.connect(self.banner.hide)

    @property
    def _stage(self) -> Stage:
        return self.stages[self.session.stage]

    # Keeping up to date

    def _opened(self) -> None:
        self.player.stop()
        self._close_media()
        reader, doc = self.session.reader, self.session.document
        self.player.set_movie(reader.facts if reader else None)
        proxy = self.session.proxy
        if reader is not None and proxy is not None:
            self.viewer = Viewer(reader, proxy)
            self.stills = Stills(reader.facts, proxy)
            facts = reader.facts

            def heard(loud: np.ndarray) -> None:
                if self.session.reader is reader:
                    self.edit_strip.set_loudness(loud)

            if facts.audio is not None:
                self.jobs.start("Reading the sound", lambda p, c: peaks(facts, 4000, c), heard, self.say_problem)
        for well in (self.lock.well, self.framing.well):
            well.set_viewer(self.viewer)
        for shows in (self.ledger, self.edit_strip, self.cuts, self.review):
            shows.set_stills(self.stills)
        self.banner.hide()
        self.session.set_stage("Framing" if doc.framings else "Lock")

    def _close_media(self) -> None:
        if self.viewer is not None:
            self.viewer.close()
        if self.stills is not None:
            self.stills.close()
        self.viewer = self.stills = None

    def _show_stage(self, name: str) -> None:
        place = STAGES.index(name)
        self.middles.setCurrentIndex(place)
        self.cards.setCurrentIndex(place)
        self._refresh()

    def _refresh(self) -> None:
        session = self.session
        there = session.doc is not None
        for command in COMMANDS:
            fits = not command.stages or session.stage in command.stages
            self.actions_[command.id].setEnabled(fits and (there or not command.needs_lock))
        for id, label in (
            ("edit.undo", session.history and session.history.undo_label),
            ("edit.redo", session.history and session.history.redo_label),
        ):
            title = next(c.title for c in COMMANDS if c.id == id)
            self.actions_[id].setEnabled(bool(label))
            self.actions_[id].setText(f"{title}: {label}" if label else title)
        name = session.path.name if session.path else session.doc.lock.name if session.doc else ""
        self.setWindowTitle(f"{name}[*]" if name else "Ezvar")
        self.setWindowModified(session.unsaved)
        self._stage.refresh()

    def say(self, text: str) -> None:
        """Say something that needs no answer; it goes by itself."""
        self.message.setObjectName("")
        self._put_message(text)
        self._quiet.start(6000)

    def say_problem(self, text: str) -> None:
        """Say what went wrong; it stays until closed."""
        self._quiet.stop()
        self.message.setObjectName("problem")
        self._put_message(text)

    def _put_message(self, text: str) -> None:
        self.message.style().polish(self.message)  # type: ignore[union-attr]
        self.message.setText(text)
        self.banner.show()

    # Commands

    def run(self, id: str) -> None:
        """Run a command by its id."""
        group, _, what = id.partition(".")
        if group == "stage":
            self.session.set_stage(what)
            return
        handler: Callable[[], object] = getattr(self, f"_{group}_{what}")
        handler()

    def available(self) -> set[str]:
        """The ids of the commands that can be run now."""
        return {id for id, action in self.actions_.items() if action.isEnabled()}

    def _file_open(self) -> None:
        if self._may_leave():
            path, _ = QFileDialog.getOpenFileName(self, "Open a movie or project", "", _MOVIES)
            if path:
                self.session.open(path)

    def _file_demo(self) -> None:
        if self._may_leave():
            self.session.open(DEMO_PROJECT, template=True)

    def _file_save(self) -> None:
        if self.session.path is None:
            self._file_save_as()
        else:
            self.session.save(self.session.path)

    def _file_save_as(self) -> None:
        start = str(self.session.path or Path.home() / f"{self.session.document.lock.name}.ezvar")
        path, _ = QFileDialog.getSaveFileName(self, "Save the project", start, "Ezvar projects (*.ezvar)")
        if path:
            self.session.save(path if path.endswith(".ezvar") else f"{path}.ezvar")

    def _file_quit(self) -> None:
        self.close()

    def _edit_undo(self) -> None:
        self.session.undo()

    def _edit_redo(self) -> None:
        self.session.redo()

    def _edit_finder(self) -> None:
        finder = Finder(self, self.available())
        if finder.exec() and finder.chosen:
            self.run(finder.chosen)

    # Cuts

    def _cuts_keep(self) -> None:
        shot = self.session.shot
        if shot is not None and shot.start > 0:
            self.session.edit("Keep cut", edits.settle_cut(self.session.document, shot.id))
        self._go_doubt()

    def _cuts_remove(self) -> None:
        shot = self.session.shot
        if shot is not None and shot.start > 0:
            doc = edits.remove_cut(self.session.document, shot.id)
            self.session.edit(f"Remove cut at {self.session.timecode(shot.start)}", doc)
        self._go_doubt()

    def _move_cut(self, by: int) -> None:
        shot = self.session.shot
        if shot is None or shot.start == 0:
            return
        try:
            doc = edits.move_cut(self.session.document, shot.id, shot.start + by)
        except ValueError as error:
            self.say(f"The cut cannot move on: {error}.")
            return
        self.session.edit("Move cut", doc)
        self.session.go(shot.start + by)

    def _cuts_earlier(self) -> None:
        self._move_cut(-1)

    def _cuts_later(self) -> None:
        self._move_cut(1)

    def _cuts_add(self) -> None:
        try:
            doc = edits.add_cut(self.session.document, self.session.frame)
        except ValueError as error:
            self.say(f"No cut can be put here: {error}.")
            return
        self.session.edit(f"Cut at {self.session.timecode(self.session.frame)}", doc)

    def _cuts_find(self) -> None:
        self.session.analyse(find_cuts=True)

    # Framing

    def _framing_agree(self) -> None:
        self._verdict("agreed")
        self._go_doubt()

    def _framing_solve(self) -> None:
        self.session.solve_again()

    def _framing_middle(self) -> None:
        self.session.put_resting("Window to the middle", 1.0)

    def _framing_whole(self) -> None:
        self.session.put_resting("Whole picture", None)

    def _nudge(self, by: float) -> None:
        framing = self.session.framing
        if framing is not None:
            along_y = self.framing.sweep.along_y
            self.session.shift(framing.panes[0], *((0.0, by) if along_y else (by, 0.0)))

    def _framing_left(self) -> None:
        self._nudge(-0.01)

    def _framing_right(self) -> None:
        self._nudge(0.01)

    # Review

    def _verdict(self, verdict: Any) -> None:
        shot, master = self.session.shot, self.session.master
        if shot is None or master is None or self.session.document.framing(shot.id, master.id) is None:
            return
        place = self.session.document.place_of(shot.id) + 1
        doc = edits.set_verdict(self.session.document, shot.id, master.id, verdict)
        self.session.edit(f"Say “{verdict}”, shot {place}", doc)

    def _review_agreed(self) -> None:
        self._verdict("agreed")

    def _review_change(self) -> None:
        self._verdict("change")

    def _review_open(self) -> None:
        self._verdict("open")

    def _review_write(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Where to write the handoff")
        if folder:
            self.write_handoff(folder)

    def write_handoff(self, folder: str) -> None:
        """Write the handoff into a folder, on a thread."""
        doc = self.session.document

        def done(result: Any) -> None:
            files, after = result
            self.session.edit("Write the handoff", edits.set_exchanged(self.session.document, after.exchanged))
            names = ", ".join(f.name for f in files)
            self.say(f"Written to {folder}: {names}." if files else "There is no master to hand off yet.")

        self.jobs.start("Writing the handoff", lambda p, c: write_handoff(doc, folder), done, self.say_problem)

    def _review_take(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Take decisions in", "", "Timelines (*.otio)")
        if path:
            self.take(path)

    def take(self, path: str) -> None:
        """Merge a returned timeline in, on a thread."""
        doc = self.session.document

        def done(result: tuple[Any, Taken]) -> None:
            merged, taken = result
            if self.session.doc is not doc:
                self.say_problem("The project changed while the file was read. Take it in again.")
                return
            self.session.edit(f"Take in {Path(path).name}", merged)
            said = [f"{len(taken.taken)} taken, {taken.same} the same, {len(taken.conflicts)} in conflict."]
            for ours, _ in taken.conflicts:
                said.append(f"Shot {merged.place_of(ours.shot) + 1} was changed on both sides, ours is kept.")
            self.review.result.setText("\n".join([*said, *taken.problems]))
            self.session.set_stage("Review")

        self.jobs.start(f"Taking in {Path(path).name}", lambda p, c: take(doc, path), done, self.say_problem)

    # Output

    def _output_make(self) -> None:
        if self.session.master is not None:
            self.session.set_stage("Output")
            self.output.make((self.session.master,))

    def _output_make_all(self) -> None:
        self.session.set_stage("Output")
        self.output.make(self.session.document.masters)

    # Going about

    def _go_play(self) -> None:
        if self.player.speed:
            self.player.stop()
        else:
            self.player.play(self.session.frame)

    def _go_back(self) -> None:
        self.player.play(self.session.frame, -1)

    def _go_stop(self) -> None:
        self.player.stop()

    def _go_forward(self) -> None:
        self.player.play(self.session.frame, 2 if self.player.speed == 1 else 1)

    def _step(self, by: int) -> None:
        self.player.stop()
        self.session.go(self.session.frame + by)

    def _go_frame_back(self) -> None:
        self._step(-1)

    def _go_frame_on(self) -> None:
        self._step(1)

    def _go_first(self) -> None:
        self._step(-self.session.frame)

    def _go_last(self) -> None:
        self._step(self.session.document.lock.frames)

    def _shot_by(self, by: int) -> None:
        self.player.stop()
        shot, doc = self.session.shot, self.session.document
        if shot is not None:
            place = doc.place_of(shot.id) + by
            self.session.go_to_shot(doc.shots[max(0, min(place, len(doc.shots) - 1))])

    def _go_shot_back(self) -> None:
        self._shot_by(-1)

    def _go_shot_on(self) -> None:
        self._shot_by(1)

    def _go_doubt(self) -> None:
        """Go to the next shot (in the cuts stage: cut) that needs a look, round the end."""
        session = self.session
        shot, doc = session.shot, session.document
        if shot is None:
            return
        wanted: Callable[[Shot], bool] = session.cut_needs_a_look if session.stage == "Cuts" else session.needs_a_look
        at = doc.place_of(shot.id)
        for candidate in (*doc.shots[at + 1 :], *doc.shots[: at + 1]):
            if wanted(candidate):
                self.player.stop()
                session.go_to_shot(candidate)
                return
        self.say(
            "Every cut is settled." if session.stage == "Cuts" else "Nothing needs a look in this master any more."
        )

    def _go_master(self) -> None:
        masters = [m.id for m in self.session.document.masters]
        if masters and self.session.master_id:
            self.session.set_master(masters[(masters.index(self.session.master_id) + 1) % len(masters)])

    # The window itself

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and (data := event.mimeData()) is not None and any(u.isLocalFile() for u in data.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        files = [u.toLocalFile() for u in data.urls() if u.isLocalFile()] if data else []
        if files and self._may_leave():
            self.session.open(files[0])

    def _may_leave(self) -> bool:
        """Ask before unsaved work is left behind."""
        if not self.session.unsaved:
            return True
        answer = QMessageBox.question(
            self, "Unsaved work", "The project has changes that are not saved. Go on without them?",
            QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Cancel,
        )  # fmt: skip
        return answer == QMessageBox.StandardButton.Discard

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not self._may_leave():
            event.ignore()
            return
        self.player.stop()
        self.jobs.stop_all()
        self._close_media()
