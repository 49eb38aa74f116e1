"""A piece of work as a value, which can be sent elsewhere and compared."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass

Plain = str | int | float | bool | None | list["Plain"] | dict[str, "Plain"]
"""What JSON can hold."""
_LONG = 24  # hexadecimal digits of a name


@dataclass(frozen=True)
class Task:
    """Work of a kind, of inputs, with parameters.

    ``inputs`` are names of what is read, by content: another content has
    another name. ``parameters`` (name, value) are all that the result
    depends on besides, in the order of their names; nothing of the machine
    it is done on. Made by `task`.
    """

    kind: str
    inputs: tuple[str, ...]
    parameters: tuple[tuple[str, Plain], ...] = ()

    def __getitem__(self, parameter: str) -> Plain:
        return dict(self.parameters)[parameter]

    def number(self, parameter: str) -> int:
        """A parameter that is a whole number."""
        value = self[parameter]
        assert isinstance(value, int)
        return value

    def result(self, version: int) -> str:
        """The name of what it comes to, done by a version of its kind: equal tasks have equal names.

        >>> task("add", ["a"], n=1).result(1) == task("add", ["a"], n=1).result(1)
        True
        >>> task("add", ["a"], n=1).result(1) == task("add", ["a"], n=2).result(1)
        False
        """
        said = json.dumps([version, self.inputs, self.parameters], separators=(",", ":"), sort_keys=True)
        return f"{self.kind}-{hashlib.sha256(said.encode()).hexdigest()[:_LONG]}"


def task(kind: str, inputs: list[str] | tuple[str, ...], **parameters: Plain) -> Task:
    """A task, its parameters in the order of their names."""
    return Task(kind, tuple(inputs), tuple(sorted(parameters.items())))
