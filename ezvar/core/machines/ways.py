"""Where files are on another machine: beginnings of paths, and what they are called there."""

from __future__ import annotations

import fnmatch
from collections.abc import Iterable
from dataclasses import dataclass

from ezvar.core.errors import InputError


@dataclass(frozen=True)
class Way:
    """Paths that begin with ``here`` begin with ``there`` on machines whose names are like ``machines``.

    A beginning ends at a whole name. ``machines`` is a pattern as in a shell
    (``render-*``); as it is, it stands for all.
    """

    here: str
    there: str
    machines: str = "*"

    def __post_init__(self) -> None:
        for path in (self.here, self.there):
            if not path.startswith("/") or "\0" in path:
                raise ValueError("beginnings of paths are absolute")
        if not self.machines:
            raise ValueError("a way is for machines of some name")

    @classmethod
    def parse(cls, text: str) -> Way:
        """A way from how it is written. Raises `InputError` for what is none.

        >>> Way.parse("/media/rushes=/mnt/rushes")
        Way(here='/media/rushes', there='/mnt/rushes', machines='*')
        >>> Way.parse("render-*:/media=/mnt").machines
        'render-*'
        """
        here, parted, there = text.partition("=")
        machines = "*"
        if not here.startswith("/"):
            machines, _, here = here.partition(":")
        try:
            if not parted:
                raise ValueError("it says no other beginning")
            if not (here and there):
                raise ValueError("a beginning is missing")
            return cls(here.rstrip("/") or "/", there.rstrip("/") or "/", machines)
        except ValueError as error:
            raise InputError(
                f"{text!r} is no map of paths", remedy="Write it like /media/rushes=/mnt/rushes"
            ) from error

    def __str__(self) -> str:
        return f"{'' if self.machines == '*' else self.machines + ':'}{self.here}={self.there}"


def path_there(path: str, ways: Iterable[Way], machine: str) -> str:
    """What a path is called on a machine: by the longest beginning that is mapped there, else as here.

    >>> ways = [Way("/media", "/mnt"), Way("/media/a", "/fast", "big")]
    >>> path_there("/media/a/x.mov", ways, "small"), path_there("/media/a/x.mov", ways, "big")
    ('/mnt/a/x.mov', '/fast/x.mov')
    >>> path_there("/mediaeval/x.mov", ways, "big")
    '/mediaeval/x.mov'
    """
    fitting = [way for way in ways if fnmatch.fnmatch(machine, way.machines) and _begins(path, way.here)]
    if not fitting:
        return path
    way = max(fitting, key=lambda each: len(each.here))
    rest = path[len(way.here) :].lstrip("/")
    return f"{way.there.rstrip('/')}/{rest}" if rest else way.there


def _begins(path: str, beginning: str) -> bool:
    return path == beginning or path.startswith(beginning.rstrip("/") + "/")
