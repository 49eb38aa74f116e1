"""What a bundle of a timeline holds beside it, unpacked apart and handed over in pieces."""

from __future__ import annotations

import os
import zipfile
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from typing import IO, Any

from ezvar.core.apart import Done, Task, run_apart, task
from ezvar.core.errors import TimelineError

from .files import opened_bundle, reading_bundle

_PIECE = 32 << 20  # bytes that are asked for at once


@dataclass(frozen=True)
class Member:
    """A file in a bundle: its name as it is written there, which is not to be trusted, and the bytes that it states."""

    name: str
    size: int


def bundle_members(path: str | os.PathLike[str]) -> list[Member]:
    """The files of a bundle. Raises `TimelineError`."""
    told: Any = run_apart(task("members", [os.fspath(path)]), TimelineError).told
    return [Member(str(name), int(size)) for name, size in told]


def member_bytes(path: str | os.PathLike[str], number: int, size: int) -> Iterator[memoryview]:
    """The bytes of a file of a bundle, by its place in `bundle_members`: not more than it states, whatever it unpacks
    to. Raises `TimelineError`."""
    at = 0
    while at < size:
        asked = task("member", [os.fspath(path)], number=number, at=at, count=min(_PIECE, size - at))
        piece = run_apart(asked, TimelineError).data
        if not piece:
            return
        yield piece
        at += len(piece)


def bundle_here(task: Task) -> Done:
    """Do the task of `bundle_members` or `member_bytes`."""
    path = task.inputs[0]
    if task.kind == "members":
        with opened_bundle(path) as bundle:
            return [[member.filename, member.file_size] for member in _files(bundle)], ()
    return None, (_OPENED.piece(path, task.number("number"), task.number("at"), task.number("count")),)


def _files(bundle: zipfile.ZipFile) -> list[zipfile.ZipInfo]:
    return [member for member in bundle.infolist() if not member.is_dir()]


class _Opened:
    """The file of a bundle that is being unpacked, open at the place where the next piece begins."""

    def __init__(self) -> None:
        self._which: tuple[str, int] | None = None
        self._held = ExitStack()
        self._file: IO[bytes] | None = None

    def piece(self, path: str, number: int, at: int, count: int) -> bytes:
        with reading_bundle(path), ExitStack() as trying:
            trying.callback(self._close)
            if self._which != (path, number) or at == 0:
                self._close()
                bundle = self._held.enter_context(opened_bundle(path))
                self._file = self._held.enter_context(bundle.open(_files(bundle)[number]))
                self._which = path, number
            assert self._file is not None
            self._file.seek(at)  # where it stands, but for the first piece after another program took over
            data = self._file.read(count)
            if len(data) == count:
                trying.pop_all()  # there may be more
        return data

    def _close(self) -> None:
        self._which, self._file = None, None
        self._held.close()


_OPENED = _Opened()
