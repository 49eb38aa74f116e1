"""The menu bar: an action a command, switched on and off with it, each with the key that holds now."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtGui import QAction, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QMainWindow, QMenu

from ezvar.app.kit.commands import Bound, Catalogue, Command
from ezvar.app.kit.controls import KeyButton
from ezvar.app.kit.digit_keys import pressed_digit
from ezvar.app.kit.keymap import Keymap, digit_of, shown
from ezvar.app.session.jobs import told


class Menus:
    """Actions for all commands of a catalogue, and the buttons that stand for some of them."""

    def __init__(self, window: QMainWindow, say_mistake: Callable[[str], object]) -> None:
        self._window, self._say_mistake = window, say_mistake
        self._actions: dict[str, QAction] = {}
        self._buttons: list[tuple[str, KeyButton]] = []
        self._on: set[str] = set()
        self.catalogue: Catalogue
        self.keymap: Keymap

    def button(self, command: Command[Any], main: bool, said: str) -> KeyButton:
        """A button for a command."""
        made = KeyButton(self._action(command), command.title, main, said)
        made.set_key(command.key)
        self._buttons.append((command.id, made))
        return made

    def _action(self, command: Command[Any]) -> QAction:
        if command.id not in self._actions:
            action = QAction(command.title, self._window)
            action.setEnabled(False)
            self._actions[command.id] = action
        return self._actions[command.id]

    def fill(self, catalogue: Catalogue, keymap: Keymap) -> None:
        """Fill the menu bar with these commands."""
        self.catalogue = catalogue
        bar = self._window.menuBar()
        assert bar is not None
        menus: dict[str, QMenu | None] = {}
        for bound in catalogue.bound:
            command = bound.command
            name, _, part = command.menu.partition(" › ")
            if name not in menus:
                menus[name] = bar.addMenu(name)
            whole = menus[name]
            assert whole is not None
            if command.menu not in menus:
                menus[command.menu] = whole.addMenu(part)
            menu = menus[command.menu]
            assert menu is not None
            action = self._action(command)
            action.triggered.connect(lambda _, bound=bound: self.run(bound))
            menu.addAction(action)
        self.use(keymap)

    def use(self, keymap: Keymap) -> None:
        """Give menus and buttons these keys. Digits are taken by their place on the keyboard instead."""
        self.keymap = keymap
        for command in self.catalogue.commands:
            key = keymap.key(command.id)
            action, by_place = self._actions[command.id], digit_of(key) is not None
            action.setShortcut(QKeySequence() if by_place else QKeySequence(key))
            action.setText(f"{command.title}\t{shown(key)}" if by_place else command.title)
        for id, button in self._buttons:
            button.set_key(keymap.key(id))

    def refresh(self, stage: str) -> None:
        """Switch on what can be run now and off what cannot, where that has changed."""
        now = self.catalogue.can_run(stage)
        for id in now ^ self._on:
            self._actions[id].setEnabled(id in now)
        self._on = now
        for bound in self.catalogue.bound:
            if bound.command.said is not None and self._actions[bound.command.id].text() != bound.title():
                self._actions[bound.command.id].setText(bound.title())

    def run(self, bound: Bound[Any]) -> None:
        """Run a command; what nobody foresaw is told with what was tried."""
        try:
            bound.run()
        except Exception as error:
            self._say_mistake(f"“{bound.title().rstrip('…')}” went wrong. {told(error)}")

    def available(self) -> set[str]:
        """The ids of the commands that can be run now."""
        return set(self._on)

    def take_digit(self, event: QKeyEvent) -> bool:
        """Run the command that has the digit pressed as its key; whether there was one."""
        pressed = pressed_digit(event)
        if pressed is None:
            return False
        for bound in self.catalogue.bound:
            if bound.command.id in self._on and digit_of(self.keymap.key(bound.command.id)) == pressed:
                self.run(bound)
                return True
        return False
