"""Which key does what: the commands' own keys, with those that the user has changed in their place. Knows no Qt."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from .commands import Bound, Catalogue, Command, meet

DIGITS = "123456789"


class Keymap:
    """The key of each command; ``changed`` are the ids with the keys that the user gave them, empty for none."""

    def __init__(self, catalogue: Catalogue, changed: Mapping[str, str] | None = None) -> None:
        self._catalogue = catalogue
        own = catalogue.by_id
        self.changed = {id: key for id, key in (changed or {}).items() if id in own and key != own[id].command.key}

    def key(self, id: str) -> str:
        """The key of a command, empty where it has none."""
        return self.changed.get(id, self._catalogue.by_id[id].command.key)

    def with_changes(self, changes: Mapping[str, str]) -> Keymap:
        """A keymap in which these commands have these keys."""
        return Keymap(self._catalogue, {**self.changed, **changes})

    def with_own(self, id: str) -> Keymap:
        """A keymap in which a command has its own key again."""
        return Keymap(self._catalogue, {k: v for k, v in self.changed.items() if k != id})

    def conflicts(self) -> dict[str, list[Command[Any]]]:
        """Keys that more than one command has where both can be run, with these commands."""
        by_key: dict[str, list[Bound[Any]]] = {}
        for bound in self._catalogue.bound:
            if key := self.key(bound.command.id):
                by_key.setdefault(key.lower(), []).append(bound)
        found = {}
        for group in by_key.values():
            meeting = [b.command for b in group if any(o is not b and meet(b, o) for o in group)]
            if meeting:
                found[self.key(meeting[0].id)] = meeting
        return found

    def sheet(self) -> list[tuple[str, list[tuple[str, str]]]]:
        """Everything that has a key, menu by menu: title and key."""
        menus: dict[str, list[tuple[str, str]]] = {}
        for command in self._catalogue.commands:
            if self.key(command.id):
                menus.setdefault(command.menu, []).append((command.title, shown(self.key(command.id))))
        return list(menus.items())


def shown(key: str) -> str:
    """A key as it is written on a keyboard.

    >>> shown("Ctrl+Return")
    'Ctrl+Enter'
    """
    return key.replace("Return", "Enter")


def digit_of(key: str) -> tuple[str, str] | None:
    """The modifier and the digit of a key that is one, which is taken by its position on the keyboard.

    >>> digit_of("Shift+2")
    ('Shift', '2')
    """
    modifier, _, last = key.rpartition("+")
    return (modifier, last) if last and last in DIGITS and modifier in ("", "Shift", "Alt") else None
