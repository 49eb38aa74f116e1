"""The window: stage strip, ledger, middle, card and edit strip around the pages of the stages."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from functools import partial
from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QApplication,
    QHBoxLayout,
    QInputDialog,
    QMainWindow,
    QMessageBox,
    QStackedWidget,
    QTreeWidget,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.background.desk import Desk
from ezvar.app.commands import HOUSE, ask_about_clips, ask_in_the_way, ask_rate, open_demo
from ezvar.app.kit import theme
from ezvar.app.kit.asking import ask
from ezvar.app.kit.commands import Bound, Catalogue, Command
from ezvar.app.kit.controls import KeyButton, keyed
from ezvar.app.kit.keymap import Keymap
from ezvar.app.kit.notices import notify
from ezvar.app.session.jobs import Jobs
from ezvar.app.session.session import Session
from ezvar.app.stages import STAGES, Page, Stage, first_stage
from ezvar.app.viewer.pictures import Stills, Viewer
from ezvar.app.viewer.player import Player
from ezvar.core.errors import EzvarError
from ezvar.core.lock import LockReader, loudness_task
from ezvar.core.machines import Way
from ezvar.core.store import fell_before, leftovers

from .banner import Banner
from .edit_strip import EditStrip
from .finder import Finder
from .guide_dialog import GuideDialog, guide_file
from .jobs_panel import JobsPanel
from .keys_dialog import KeysDialog
from .ledger import Ledger
from .machines_dialog import MachinesDialog
from .menus import Menus
from .preferences import KeptPreferences
from .reports_dialog import ReportsDialog
from .rest import Rest
from .stage_strip import StageStrip
from .walk_panel import WalkPanel

_COLUMNS, _MOST_COLUMNS = 4000, 400_000  # of the sound along the lock: one a frame, within these
_MOVES = frozenset({Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End})


class MainWindow(QMainWindow):
    """Ezvar's only window: the workbench of its pages and commands."""

    def __init__(self, desk: Desk | None = None, stages: Sequence[Stage[Any]] = STAGES) -> None:
        super().__init__()
        self.desk = desk or Desk(Jobs())
        self.jobs = self.desk.session.jobs
        self.player = Player()
        self.viewer: Viewer | None = None
        self.stills: Stills | None = None
        self.preferences = KeptPreferences(self.session.messages)
        self.session.project.author = self.preferences.now.author
        self._use_machines()
        self.setWindowTitle("Ezvar")
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.menus = Menus(self, self.desk.session.messages.say_mistake)
        self.stages = {stage.name: stage for stage in stages}
        self.pages: dict[str, Page[Any]] = {stage.name: stage.page(self) for stage in stages}
        self.session.at.stage = stages[0].name
        catalogue = self._catalogue(tuple(stages))
        keymap = Keymap(catalogue, self.preferences.now.keys)
        self._lay_out(keymap)
        self.menus.fill(catalogue, keymap)
        self._connect()
        self._show_stage(self.session.at.stage)
        self.ledger.view.setFocus()
        for widget in self.findChildren(QWidget):
            widget.ensurePolished()  # now rather than while something is being opened
            if isinstance(widget, QAbstractButton):
                keyed(widget)
        theme.warm_type()
        self.preferences.tell()

    # What the window is made of

    def _catalogue(self, stages: tuple[Stage[Any], ...]) -> Catalogue:
        """The commands of the house, of the stages, and one to go to each stage."""
        bound: list[Bound[Any]] = [Bound(command, self) for command in HOUSE]
        going: list[Bound[Any]] = []
        for k, stage in enumerate(stages, 1):
            page = self.pages[stage.name]
            bound += stage.bound(page, stages)
            going.append(
                Bound(Command(f"stage.{stage.title}", stage.title, Page[Any].show, f"Ctrl+{k}", "Stage"), page)
            )
        titles = (stage.title for stage in stages)
        return Catalogue(("File", "Edit", *titles, "Go", "View", "Help", "Stage"), (*bound, *going))

    def _lay_out(self, keymap: Keymap) -> None:
        session = self.session
        self.strip = StageStrip(session, tuple(self.stages.values()))
        self.ledger, self.edit_strip = Ledger(session), EditStrip(session)
        self.middles, self.cards = QStackedWidget(), QStackedWidget()
        self.cards.setFixedWidth(theme.px(252))
        for page in self.pages.values():
            self.middles.addWidget(page.middle)
            self.cards.addWidget(page.card)
        self.banner, self.walk = Banner(), WalkPanel(session, keymap)
        middle, right, row = QVBoxLayout(), QVBoxLayout(), QHBoxLayout()
        for layout in (middle, right, row):
            layout.setSpacing(0)
        middle.setContentsMargins(0, 0, 0, 0)
        middle.addWidget(self.banner)
        middle.addWidget(self.walk)
        middle.addWidget(self.middles, 1)
        self.jobs_panel = JobsPanel(self.jobs, session.machines.at_work)
        right.addWidget(self.cards, 1)
        right.addWidget(self.jobs_panel)
        row.setContentsMargins(0, 0, 0, 0)
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

    def _connect(self) -> None:
        session, at = self.session, self.session.at
        session.messages.said.connect(self.banner.say)
        session.messages.problem_said.connect(self.banner.say_problem)
        session.messages.mistake_said.connect(self.banner.say_mistake)
        self.jobs.stalled.connect(session.messages.say_problem)
        self.banner.offer.clicked.connect(lambda: self.run("file.save"))
        session.files.opened.connect(self._opened)
        session.media.changed.connect(self._take_up_pictures)
        session.media.back.connect(self._take_up_pictures)
        session.files.rate_needed.connect(partial(ask_rate, self))
        session.files.in_the_way.connect(partial(ask_in_the_way, self))
        self.desk.text_checks.ready.connect(self.strip.refresh)
        self.desk.text_checks.ready.connect(self.ledger.refresh)
        self.desk.making.ended.connect(self._all_made)
        self._soon = QTimer(self)  # several changes in one go are shown together
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._refresh)
        self._rest = Rest(self.jobs, at)
        for signal in (
            session.project.changed, session.project.saved, session.project.noted, session.media.analysed,
            at.shot_changed, at.master_changed, at.pane_changed,
        ):  # fmt: skip
            signal.connect(self._soon.start)
        at.frame_changed.connect(lambda _: self._moved())
        at.caption_changed.connect(lambda: self.menus.refresh(at.stage))  # what can be done with it
        at.stage_changed.connect(self._show_stage)
        self.strip.stage_chosen.connect(at.set_stage)
        self.strip.master_chosen.connect(at.set_master)
        self.ledger.chosen.connect(at.go)
        self.player.moved.connect(self._played)
        self.player.playing_changed.connect(self._playing)

    def _playing(self, on: bool) -> None:
        self.session.at.playing = on
        if not on:
            self.session.played.stopped()
            self.session.at.show_frame()

    def _played(self, frame: int) -> None:
        self.session.at.go(frame)
        if 0 < self.player.speed <= 1:
            self.session.played.passed(frame)

    # Keeping up to date

    @property
    def page(self) -> Page[Any]:
        """The page that is shown."""
        return self.pages[self.session.at.stage]

    def _opened(self) -> None:
        self.player.stop()
        self._close_media()
        QTimer.singleShot(0, self._take_up_pictures)  # in a turn of its own: the window answers in between
        self.banner.hide()
        self.session.at.set_stage(first_stage(self.session.project.document).name)

    def _take_up_pictures(self) -> None:
        """Show the pictures and hear the sound of what the lock is now."""
        self._close_media()
        media, doc = self.session.media, self.session.project.document
        reader, proxy = media.reader, media.proxy
        self.player.set_lock(doc)
        if reader is not None and proxy is not None:
            self.viewer = Viewer(LockReader(doc, media.failed), proxy, self.session.memory)
            self.stills = Stills(reader, proxy, self.session.memory)

            def heard(loud: np.ndarray) -> None:
                if media.reader is reader:
                    self.edit_strip.set_loudness(loud)
                    for page in self.pages.values():
                        page.set_loudness(loud)

            if doc.lock.has_sound:
                say_problem = self.session.messages.say_problem
                task = loudness_task(doc, min(max(_COLUMNS, doc.lock.frames), _MOST_COLUMNS))
                self.jobs.run("Reading the sound", lambda: task, self.session.around, heard, say_problem)
        for page in self.pages.values():
            page.set_viewer(self.viewer)
            page.set_stills(self.stills)
        self.ledger.set_stills(self.stills)
        self.edit_strip.set_stills(self.stills)

    def _close_media(self) -> None:
        if self.viewer is not None:
            self.viewer.close()
        if self.stills is not None:
            self.stills.close()
        self.viewer = self.stills = None

    def _show_stage(self, name: str) -> None:
        page = self.pages[name]
        self.middles.setCurrentWidget(page.middle)
        self.cards.setCurrentWidget(page.card)
        self.ledger.show_stage(self.stages[name])
        self.edit_strip.show_stage(self.stages[name])
        page.entered()
        self._refresh()

    def can_do_other_things(self) -> None:
        self.menus.refresh(self.session.at.stage)

    def _moved(self) -> None:
        if not self.session.at.playing:
            self.menus.refresh(self.session.at.stage)
        self.page.moved()

    def _refresh(self) -> None:
        project = self.session.project
        if project.doc is not None:
            self.player.hear(project.doc, self.session.at.master)
        self.menus.refresh(self.session.at.stage)
        name = project.path.name if project.path else project.doc.lock.name if project.doc else ""
        self.setWindowTitle(f"{name}[*]" if name else "Ezvar")
        self.setWindowModified(project.unsaved)
        self.page.refresh()

    # The workbench

    @property
    def session(self) -> Session:
        return self.desk.session

    @property
    def widget(self) -> QWidget:
        return self

    def button(self, command: Command[Any], main: bool = False, said: str = "") -> KeyButton:
        return self.menus.button(command, main, said)

    def run(self, id: str) -> None:
        """Run a command by its id."""
        self.menus.run(self.menus.catalogue.by_id[id])

    def to_next_waiting(self) -> None:
        self.page.to_next_waiting()

    def choose_all(self) -> None:
        if not self.page.choose_all():
            self.ledger.choose_all()

    def find_command(self) -> None:
        finder = Finder(self, self.menus.catalogue, self.menus.available(), self.menus.keymap)
        if finder.exec() and finder.chosen:
            self.run(finder.chosen)

    def show_guide(self) -> None:
        file = guide_file()
        if file is None:
            self.session.messages.say_problem("The guide was not installed with the program.")
        else:
            GuideDialog(file, self).show()

    def show_walk(self) -> None:
        """Begin the first walk, on the demo edit where nothing is open."""
        if self.session.project.doc is None:
            open_demo.run(self)
        self.walk.begin()

    def show_keys(self) -> None:
        dialog = KeysDialog(self, self.menus.catalogue, self.menus.keymap)
        if dialog.exec():
            self.menus.use(dialog.keymap)
            self.menus.refresh(self.session.at.stage)
            self.walk.keymap = dialog.keymap
            self.preferences.keep_keys(dialog.keymap.changed)

    def show_reports(self) -> None:
        ReportsDialog(self).exec()

    def turn_theme(self) -> None:
        self.preferences.turn_theme(self)

    def turn_text_size(self) -> None:
        self.preferences.turn_text_size()

    def choose_machines(self) -> None:
        now = self.preferences.now
        dialog = MachinesDialog(self, self.jobs, now.machines, now.paths, now.then_here)
        if dialog.exec():
            self.preferences.keep_machines(dialog.address, dialog.paths, dialog.then_here)
            self._use_machines()

    def _use_machines(self) -> None:
        """Have the work done where the preferences say."""
        now = self.preferences.now
        try:
            ways = [Way.parse(line) for line in now.paths]
        except EzvarError as error:
            self.session.messages.say_problem(str(error))
            return
        self.session.machines.choose(now.machines, ways, now.then_here)

    def ask_name(self) -> None:
        project = self.session.project
        name, given = QInputDialog.getText(self, "Who you are", "Changes and notes are by:", text=project.signed)
        if given:
            project.author = name.strip()
            self.preferences.keep_author(project.author)
            self._refresh()

    def leave(self) -> None:
        self.close()

    def may_leave(self) -> bool:
        """Ask before unsaved work is left behind, a change that is still being worked out too."""
        if not (self.session.project.unsaved or self.desk.framing_work.busy):
            return True
        answer = QMessageBox.question(
            self, "Unsaved work", "The project has changes that are not saved. Go on without them?",
            QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Cancel,
        )  # fmt: skip
        return answer == QMessageBox.StandardButton.Discard

    def _may_stop_making(self) -> bool:
        """Ask before movies that are being made are stopped."""
        making = self.desk.making
        if making.busy:
            said = "Movies are being made. What is whole of them is kept, and they go on from there."
            if ask(self, "Movies are being made", said, ("Stop and close", "Go on making them")) != "Stop and close":
                return False
            making.stop_all()
        return True

    def _all_made(self, said: str) -> None:
        """Nothing is being made any more: say so, and on the desktop where that is wanted."""
        self.session.messages.say(said)
        if self.preferences.now.notice:
            QApplication.beep()
            QApplication.alert(self)
            notify("Ezvar", said)

    def turn_notice(self) -> None:
        self.preferences.turn_notice()

    def keep_preset(self, name: str) -> None:
        self.preferences.keep_preset(name)
        self.desk.making.presets_changed()

    def offer_leftovers(self) -> None:
        """Offer back what a program that ended without closing left behind; the newest first."""
        if (report := fell_before()) is not None:
            self.banner.say_problem(f"Ezvar was ended by a fault last time. A report is in {report}.")
        for left in leftovers(self.session.cache.folder):
            when = datetime.fromtimestamp(left.written).strftime("%d %B, %H:%M")
            said = f"Ezvar ended without closing. Unsaved work on {left.name} from {when} is kept. Take it up again?"
            answer = ask(self, "Unsaved work", said, ("Take it up", "Throw it away", "Ask again next time"))
            if answer == "Take it up":
                self.session.files.recover(left)
                return
            if answer == "Throw it away":
                left.discard()

    # The window itself

    def event(self, event: QEvent | None) -> bool:
        """Keys that a focused part needs for itself go to it, although they are commands everywhere else."""
        if event is not None and event.type() == QEvent.Type.ShortcutOverride and _wanted(event.key()):  # type: ignore[attr-defined]
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Keys that nothing else took: digits are commands by their place on the keyboard."""
        if event is None or not self.menus.take_digit(event):
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and (data := event.mimeData()) is not None and any(u.isLocalFile() for u in data.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        files = [u.toLocalFile() for u in data.urls() if u.isLocalFile()] if data else []
        if files and self.may_leave():
            if len(files) > 1:
                ask_about_clips(self, files)
            else:
                self.session.files.open(files[0])

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not (self._may_stop_making() and self.may_leave()):
            event.ignore()
            return
        self.player.stop()
        self.jobs.stop_all()
        self.session.machines.close()
        self.session.project.journal.close()
        self.session.files.leave()
        self.desk.lock_work.watch.stop()
        self.desk.making.leave()
        self.desk.before_making.leave()
        self.desk.expecting.close()
        self.desk.incoming.stop()
        self._close_media()
        for page in self.pages.values():
            page.set_viewer(None)


def _wanted(key: int) -> bool:
    """Whether the focused part needs a key for itself."""
    focused = QApplication.focusWidget()
    if isinstance(focused, QAbstractButton):
        return key == Qt.Key.Key_Space
    if isinstance(focused, QTreeWidget):
        return key in _MOVES or key in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
    return isinstance(focused, QAbstractSlider) and key in _MOVES
