"""What menus do with a list of named things that users keep: keep one, choose one, write them out, take others in."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Generic, TypeVar

from PyQt6.QtWidgets import QFileDialog, QInputDialog

from ezvar.core.errors import EzvarError
from ezvar.core.store import Named, NamedList

from ..tools import TextTools

T = TypeVar("T", bound=Named)


class Keeping(Generic[T]):
    """A list and the words for what it holds: ``one`` look, ``many`` looks."""

    def __init__(self, kept: NamedList[T], one: str, many: str) -> None:
        self._kept, self._one, self._many = kept, one, many
        self._files = f"{many[0].upper()}{many[1:]} (*.json)"

    def keep(self, tools: TextTools, made: Callable[[str], T]) -> None:
        """Keep what ``made`` makes of a name that the user says."""
        name, ok = QInputDialog.getText(tools.bench.widget, f"Keep this {self._one}", "Its name:")
        if not ok or not name.strip():
            return
        try:
            self._kept.keep(made(name.strip()))
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))
        else:
            tools.session.messages.say(f"“{name.strip()}” is kept, for this project and others.")

    def chosen(self, tools: TextTools) -> T | None:
        """The kept one that the user chooses."""
        try:
            known = {thing.name: thing for thing in self._kept.load()}
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))
            return None
        if not known:
            tools.session.messages.say(f"No {self._one} is kept yet.")
            return None
        title = f"Use a kept {self._one}"
        name, ok = QInputDialog.getItem(tools.bench.widget, title, "Which:", list(known), 0, False)
        return known[name] if ok else None

    def give(self, tools: TextTools, things: Callable[[], Iterable[T]]) -> None:
        """Write things to a file that the user names."""
        title = f"Write the {self._many}"
        name = f"{self._many.replace(' ', '-')}.json"
        file, _ = QFileDialog.getSaveFileName(tools.bench.widget, title, name, self._files)
        if file:
            try:
                self._kept.save(things(), file)
            except EzvarError as error:
                tools.session.messages.say_problem(str(error))

    def take(self, tools: TextTools) -> None:
        """Keep what a file holds that the user names."""
        title = f"Take {self._many} in"
        file, _ = QFileDialog.getOpenFileName(tools.bench.widget, title, "", self._files)
        if not file:
            return
        try:
            new = self._kept.load(file)
            self._kept.keep(*new)
        except EzvarError as error:
            tools.session.messages.say_problem(str(error))
        else:
            word = self._one if len(new) == 1 else self._many
            tools.session.messages.say(f"{len(new)} {word} from the file can be chosen now.")
