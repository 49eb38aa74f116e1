"""Which key does what: the commands' own keys, with those that the user has changed in their place. Knows no Qt."""

from __future__ import annotations

from collections.abc import Mapping

from .commands import COMMANDS, Command

DIGITS = "123456789"


class Keymap:
    """The key of each command; ``changed`` are the ids with the keys that the user gave them, empty for none."""

    def __init__(self, changed: Mapping[str, str] | None = None) -> None:
        self.changed = {id: key for id, key in (changed or {}).items() if id in _OWN and key != _OWN[id].key}

    def key(self, id: str) -> str:
        """The key of a command, empty where it has none."""
        return self.changed.get(id, _OWN[id].key)

    def with_changes(self, changes: Mapping[str, str]) -> Keymap:
        """A keymap in which these commands have these keys."""
        return Keymap({**self.changed, **changes})

    def conflicts(self) -> dict[str, list[Command]]:
        """Keys that more than one command has where both can be run, with these commands."""
        by_key: dict[str, list[Command]] = {}
        for command in COMMANDS:
            if key := self.key(command.id):
                by_key.setdefault(key.lower(), []).append(command)
        found = {}
        for group in by_key.values():
            meeting = [c for c in group if any(o is not c and _meet(c, o) for o in group)]
            if meeting:
                found[self.key(meeting[0].id)] = meeting
        return found

    def sheet(self) -> list[tuple[str, list[tuple[str, str]]]]:
        """Everything that has a key, menu by menu: title and key."""
        menus: dict[str, list[tuple[str, str]]] = {}
        for command in COMMANDS:
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


def _meet(a: Command, b: Command) -> bool:
    return not a.stages or not b.stages or bool(set(a.stages) & set(b.stages))


_OWN = {c.id: c for c in COMMANDS}
