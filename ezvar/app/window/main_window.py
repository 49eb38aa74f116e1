"""The window: stage strip, ledger, middle, card and edit strip, and what the commands do."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QApplication,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMessageBox,
    QPushButton,
    QStackedWidget,
    QTreeWidget,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.background.desk import Desk
from ezvar.app.commands.handlers import Handlers
from ezvar.app.kit import theme
from ezvar.app.kit.asking import ask
from ezvar.app.kit.commands import COMMANDS, STAGES, command
from ezvar.app.kit.controls import KeyButton, keyed
from ezvar.app.kit.digit_keys import pressed_digit
from ezvar.app.kit.keymap import Keymap, digit_of, shown
from ezvar.app.session.jobs import Jobs
from ezvar.app.stages.base import Stage
from ezvar.app.stages.cuts.page import CutsStage
from ezvar.app.stages.framing.page import FramingStage
from ezvar.app.stages.lock.page import LockStage
from ezvar.app.stages.output.page import OutputStage
from ezvar.app.stages.review.page import ReviewStage
from ezvar.app.stages.text.page import TextStage
from ezvar.app.viewer.pictures import Stills, Viewer
from ezvar.app.viewer.player import Player
from ezvar.core.errors import EzvarError
from ezvar.core.lock import LockReader, peaks
from ezvar.core.store import (
    TEXT_SIZES,
    Preferences,
    Theme,
    leftovers,
    load_preferences,
    preferences_file,
    save_preferences,
)

from .edit_strip import EditStrip
from .jobs_panel import JobsPanel
from .keys_dialog import KeysDialog
from .ledger import Ledger
from .stage_strip import StageStrip
from .walk_panel import WalkPanel

_MOVES = frozenset({Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End})


class MainWindow(QMainWindow):
    """Ezvar's only window."""

    def __init__(self, session: Desk | None = None) -> None:
        super().__init__()
        self.jobs = session.jobs if session else Jobs()
        self.session = session or Desk(self.jobs)
        self.player = Player()
        self.viewer: Viewer | None = None
        self.stills: Stills | None = None
        self.preferences_file = preferences_file()
        self.preferences = Preferences()
        self._unread = ""
        try:
            self.preferences = load_preferences(self.preferences_file)
        except EzvarError as error:
            self._unread = str(error)  # said once the window is there; the file stays as it is
        self.keymap = Keymap(self.preferences.keys)
        theme.use(self.preferences.theme)
        theme.set_text_size(self.preferences.text)
        theme.dress()
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
        self.handlers = Handlers(self)
        self._lay_out()
        self._make_menus()
        self._connect()
        self._show_stage(self.session.stage)
        self.ledger.view.setFocus()
        for widget in self.findChildren(QWidget):
            widget.ensurePolished()  # now rather than while something is being opened
            if isinstance(widget, QAbstractButton):
                keyed(widget)
        theme.warm_type()
        self._apply_keys()
        if self._unread:
            self.say_problem(self._unread)

    # What the window is made of

    def _lay_out(self) -> None:
        self.strip = StageStrip(self.session)
        self.ledger = Ledger(self.session)
        self.edit_strip = EditStrip(self.session)
        self.middles, self.cards = QStackedWidget(), QStackedWidget()
        self.cards.setFixedWidth(theme.px(252))
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
        self.walk = WalkPanel(self.session, self.keymap)
        middle.addWidget(self.banner)
        middle.addWidget(self.walk)
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
        for each in COMMANDS:
            name, _, part = each.menu.partition(" › ")
            if name not in menus:
                menus[name] = bar.addMenu(name)
            if each.menu not in menus:
                menus[each.menu] = menus[name].addMenu(part)
            action = QAction(each.title, self)
            action.triggered.connect(lambda _, id=each.id: self.run(id))
            menus[each.menu].addAction(action)
            self.actions_[each.id] = action

    def _apply_keys(self) -> None:
        """Give menus and buttons the keys that hold now. Digits are taken by their place on the keyboard instead."""
        for each in COMMANDS:
            key = self.keymap.key(each.id)
            action, by_place = self.actions_[each.id], digit_of(key) is not None
            action.setShortcut(QKeySequence() if by_place else QKeySequence(key))
            action.setText(f"{each.title}\t{shown(key)}" if by_place else each.title)
        for button in self.findChildren(KeyButton):
            button.set_key(self.keymap.key(button.command.id))
        self.walk.keymap = self.keymap

    def _connect(self) -> None:
        session = self.session
        session.opened.connect(self._opened)
        session.lock_changed.connect(self._take_up_pictures)
        session.media_back.connect(self._take_up_pictures)
        session.rate_needed.connect(self.handlers.ask_rate)
        session.in_the_way.connect(self.handlers.ask_in_the_way)
        session.lock_work.changed.connect(lambda: self.lock.sheet.refresh())
        self._soon = QTimer(self)  # several changes in one go are shown together
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._refresh)
        for signal in (session.document_changed, session.shot_changed, session.master_changed):
            signal.connect(self._soon.start)
        session.frame_changed.connect(lambda _: self._stage.moved())
        session.stage_changed.connect(self._show_stage)
        session.problem.connect(self.say_problem)
        session.notice.connect(self.say)
        self.jobs.changed.connect(lambda: self.output.refresh() if session.stage == "Output" else None)
        self.strip.stage_chosen.connect(session.set_stage)
        self.strip.master_chosen.connect(session.set_master)
        self.ledger.chosen.connect(session.go)
        self.player.moved.connect(self._played)
        self.player.playing_changed.connect(self._playing)
        self.dismiss.clicked.connect(self.banner.hide)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.timeout.connect(self.banner.hide)

    def _playing(self, on: bool) -> None:
        self.session.playing = on
        if not on:
            self.session.played.stopped()
            self.session.show_frame()

    def _played(self, frame: int) -> None:
        self.session.go(frame)
        if 0 < self.player.speed <= 1:
            self.session.played.passed(frame)

    @property
    def _stage(self) -> Stage:
        return self.stages[self.session.stage]

    # Keeping up to date

    def _opened(self) -> None:
        self.player.stop()
        self._close_media()
        doc = self.session.document
        QTimer.singleShot(0, self._take_up_pictures)  # in a turn of its own: the window answers in between
        self.banner.hide()
        self.session.set_stage("Framing" if doc.framings else "Lock")

    def _take_up_pictures(self) -> None:
        """Show the pictures and hear the sound of what the lock is now."""
        self._close_media()
        reader, proxy, doc = self.session.reader, self.session.proxy, self.session.document
        self.player.set_lock(doc)
        if reader is not None and proxy is not None:
            self.viewer = Viewer(LockReader(doc, self.session.media_failed), proxy)
            self.stills = Stills(reader, proxy)

            def heard(loud: np.ndarray) -> None:
                if self.session.reader is reader:
                    self.edit_strip.set_loudness(loud)

            if doc.lock.has_sound:
                self.jobs.start("Reading the sound", lambda p, c: peaks(doc, 4000, c), heard, self.say_problem)
        for well in (self.lock.well, self.framing.well):
            well.set_viewer(self.viewer)
        for shows in (self.ledger, self.edit_strip, self.cuts, self.review):
            shows.set_stills(self.stills)

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
        if session.doc is not None:
            self.player.hear(session.doc, session.master)
        holds = {"always": True, "open": there, "framed": session.framing is not None}
        for each in COMMANDS:
            fits = not each.stages or session.stage in each.stages
            self.actions_[each.id].setEnabled(fits and holds[each.when])
        for id, label in (
            ("edit.undo", session.history and session.history.undo_label),
            ("edit.redo", session.history and session.history.redo_label),
        ):
            self.actions_[id].setEnabled(bool(label))
            self.actions_[id].setText(f"{command(id).title}: {label}" if label else command(id).title)
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
        self.handlers.run(group, what)

    def show_walk(self) -> None:
        """Begin the first walk, on the demo edit where nothing is open."""
        if self.session.doc is None:
            self.run("file.demo")
        self.walk.begin()

    def show_keys(self) -> None:
        dialog = KeysDialog(self, self.keymap)
        if dialog.exec():
            self.keymap = dialog.keymap
            self._apply_keys()
            self._keep_preferences(replace(self.preferences, keys=dict(self.keymap.changed)))

    def turn_theme(self) -> None:
        """Change between the light and the dim theme."""
        name: Theme = "light" if self.preferences.theme == "dim" else "dim"
        theme.use(name)
        theme.dress()
        for widget in self.findChildren(QWidget):
            widget.update()
        self._keep_preferences(replace(self.preferences, theme=name))

    def turn_text_size(self) -> None:
        """Another size of text, from the next start on: everything is laid out by it."""
        size = TEXT_SIZES[(TEXT_SIZES.index(self.preferences.text) + 1) % len(TEXT_SIZES)]
        if self._keep_preferences(replace(self.preferences, text=size)):
            self.say(f"Text will be {size}\u00a0% from the next start on.")

    def _keep_preferences(self, preferences: Preferences) -> bool:
        """Keep preferences for the next start; whether that worked, else it is said."""
        self.preferences = preferences
        try:
            save_preferences(preferences, self.preferences_file)
        except EzvarError as error:
            self.say_problem(str(error))
            return False
        return True

    def available(self) -> set[str]:
        """The ids of the commands that can be run now."""
        return {id for id, action in self.actions_.items() if action.isEnabled()}

    # The window itself

    def event(self, event: QEvent | None) -> bool:
        """Keys that a focused part needs for itself go to it, although they are commands everywhere else."""
        if event is not None and event.type() == QEvent.Type.ShortcutOverride and self._wanted(event.key()):  # type: ignore[attr-defined]
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Keys that nothing else took: digits are commands by their place on the keyboard."""
        pressed = pressed_digit(event) if event is not None else None
        available = self.available() if pressed is not None else set()
        for each in COMMANDS:
            if each.id in available and digit_of(self.keymap.key(each.id)) == pressed:
                self.run(each.id)
                return
        super().keyPressEvent(event)

    def _wanted(self, key: int) -> bool:
        focused = QApplication.focusWidget()
        if isinstance(focused, QAbstractButton):
            return key == Qt.Key.Key_Space
        if isinstance(focused, QTreeWidget):
            return key in _MOVES or key in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        return isinstance(focused, QAbstractSlider) and key in _MOVES

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and (data := event.mimeData()) is not None and any(u.isLocalFile() for u in data.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        files = [u.toLocalFile() for u in data.urls() if u.isLocalFile()] if data else []
        if files and self.may_leave():
            if len(files) > 1:
                self.handlers.open_clips(files)
            else:
                self.session.open(files[0])

    def may_leave(self) -> bool:
        """Ask before unsaved work is left behind."""
        if not self.session.unsaved:
            return True
        answer = QMessageBox.question(
            self, "Unsaved work", "The project has changes that are not saved. Go on without them?",
            QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Cancel,
        )  # fmt: skip
        return answer == QMessageBox.StandardButton.Discard

    def offer_leftovers(self) -> None:
        """Offer back what a program that ended without closing left behind; the newest first."""
        for left in leftovers(self.session.cache.folder):
            when = datetime.fromtimestamp(left.written).strftime("%d %B, %H:%M")
            said = f"Ezvar ended without closing. Unsaved work on {left.name} from {when} is kept. Take it up again?"
            answer = ask(self, "Unsaved work", said, ("Take it up", "Throw it away", "Ask again next time"))
            if answer == "Take it up":
                self.session.recover(left)
                return
            if answer == "Throw it away":
                left.discard()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not self.may_leave():
            event.ignore()
            return
        self.player.stop()
        self.jobs.stop_all()
        self.session.journal.close()
        self.session.lock_work.watch.stop()
        self._close_media()
