"""A folder that a team shares: what lies in it as a return, noticed once it is whole, and own decisions put there."""

from __future__ import annotations

import hashlib
import os
import time
from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from ezvar.core.errors import EzvarError, OutputError, TimelineError, from_os
from ezvar.core.model import Document
from ezvar.core.names import LONGEST, file_names, readable
from ezvar.core.store import write_atomically

from .back.merge import Taken, take
from .back.returned import NotOurs
from .out.decisions import decisions_json
from .out.folder import digest_of

_SUFFIXES = {".json", ".csv", ".otio", ".edl"}
_MOST, _LARGEST = 1000, 256 * 1024**2  # files that are looked at, and bytes of one
_DEEP = 1  # folders in the folder are looked into


@dataclass(frozen=True)
class Incoming:
    """A file that came in: where it is, the digest of its content, who seems to have sent it, by its name, and for how
    many seconds it has been as it is, as far as was looked."""

    path: Path
    digest: str
    sender: str
    rests: float


@dataclass(frozen=True)
class Offered:
    """A return that can be taken in, with what that would come to; or why it cannot be, in ``problem``. What has
    nothing to do with decisions has neither."""

    incoming: Incoming
    taken: Taken | None
    problem: str = ""

    @property
    def said(self) -> str:
        """What it is, in a sentence."""
        who, name = self.incoming.sender, readable(self.incoming.path.name)
        if self.taken is None:
            return f"“{name}” cannot be taken in: {self.problem}"
        parts = (
            (len(self.taken.taken), "change", "changes"),
            (len(self.taken.conflicts), "that we changed too", "that we changed too"),
            (len(self.taken.notes), "note", "notes"),
        )
        counted = ", ".join(f"{n} {one if n == 1 else many}" for n, one, many in parts if n) or "nothing new"
        return f"A return of {who}: {counted}." if who else f"A return, “{name}”: {counted}."

    @property
    def says_anything(self) -> bool:
        """Whether it would change anything, or has to be told."""
        if self.taken is None:
            return bool(self.problem)
        return bool(self.taken.taken or self.taken.conflicts or self.taken.notes)


class SharedFolder:
    """Looks into a folder again and again. A file counts once it is the same at two looks; each is told once."""

    def __init__(self, folder: str | os.PathLike[str]) -> None:
        self.folder = Path(folder)
        self._before: dict[Path, tuple[tuple[int, int], float]] = {}
        self._told: dict[Path, tuple[int, int]] = {}

    def look(self, known: Collection[str]) -> list[Incoming]:
        """Files that came in since, whole as far as that can be told, in order of their names; without those whose
        digest is ``known``. Raises `TimelineError` where the folder cannot be read."""
        now, moment = self._files(), time.monotonic()
        rests = [path for path, facts in now.items() if path in self._before and self._before[path][0] == facts]
        ready = [path for path in rests if self._told.get(path) != now[path]]
        self._before = {p: self._before[p] if p in rests else (facts, moment) for p, facts in now.items()}
        found = []
        for path in sorted(ready):
            self._told[path] = now[path]
            try:
                digest = digest_of(path)
            except OSError:
                continue  # it is gone again, or not yet ours to read; another look tells
            if digest not in known:
                found.append(Incoming(path, digest, sender_of(path.name), moment - self._before[path][1]))
        return found

    def again(self, incoming: Incoming) -> None:
        """Have a file told once more: it may not be whole yet."""
        self._told.pop(incoming.path, None)

    def _files(self) -> dict[Path, tuple[int, int]]:
        """All files that may be returns, with size and time of change."""
        found: dict[Path, tuple[int, int]] = {}
        try:
            for entry in _entries(self.folder, _DEEP):
                if len(found) == _MOST:
                    break
                facts = entry.stat(follow_symlinks=False)
                if facts.st_size <= _LARGEST:
                    found[Path(entry.path)] = facts.st_size, facts.st_mtime_ns
        except OSError as error:
            raise from_os(error, "read", self.folder, TimelineError) from error
        return found


def _entries(folder: str | os.PathLike[str], deep: int) -> Iterator[os.DirEntry[str]]:
    """Regular files of a folder, and of those in it, that may be returns; what a program hides is passed over."""
    with os.scandir(folder) as entries:
        for entry in entries:
            if entry.name.startswith("."):
                continue
            if entry.is_dir(follow_symlinks=False):
                if deep:
                    yield from _entries(entry.path, deep - 1)
            elif entry.is_file(follow_symlinks=False) and Path(entry.name).suffix.lower() in _SUFFIXES:
                yield entry


def sender_of(name: str) -> str:
    """Who has sent a file, by its name "… by SENDER 2026-01-31 12.00.00.json"; empty where it does not say.

    >>> sender_of("walk by Director 2026-01-31 12.00.00.json")
    'Director'
    """
    _, by, rest = Path(name).stem.rpartition(" by ")
    words = rest.split(" ")
    while len(words) > 1 and not any(sign.isalpha() for sign in words[-1]):
        words.pop()
    return " ".join(words) if by else ""


PATIENCE = 20.0
"""Seconds for which a file rests that cannot be read before that is told: somebody may still be writing it, slowly."""


def came_in(doc: Document, folder: SharedFolder) -> list[Offered]:
    """What came into a folder since it was looked into last, and what it would come to."""
    found = []
    for incoming in folder.look(doc.returns):
        offer = offered(doc, incoming)
        if offer.problem and incoming.rests < PATIENCE:
            folder.again(incoming)
        else:
            found.append(offer)
    return found


def digests_of(files: Iterable[Path]) -> list[str]:
    """The digests of those files that would be taken for returns, by which our own are known again."""
    return [digest_of(file) for file in files if file.suffix.lower() in _SUFFIXES]


def offered(doc: Document, incoming: Incoming) -> Offered:
    """What taking a file in would come to. Nothing is changed."""
    try:
        return Offered(incoming, take(doc, incoming.path))
    except NotOurs:
        return Offered(incoming, None)
    except EzvarError as error:
        return Offered(incoming, None, error.what)


def share(doc: Document, folder: str | os.PathLike[str], author: str) -> tuple[str, str]:
    """Put all decisions and notes into a shared folder as a file of one's own, named by author and moment; returns its
    name, and the digest of its content.

    Nothing that is there is replaced. Raises `OutputError` for what the disk refuses.
    """
    moment = datetime.now(UTC).strftime("%Y-%m-%d %H.%M.%S")
    (name,) = file_names([f"{doc.lock.name} by {author} {moment}"], "", LONGEST - 12)
    target, number = Path(folder) / f"{name.name}.json", 1
    while os.path.lexists(target):
        number += 1
        target = Path(folder) / f"{name.name} {number}.json"
    data = decisions_json(doc, doc.masters)
    if not os.path.isdir(folder):
        raise OutputError("there is no such folder", file=folder, remedy="Choose another folder")
    write_atomically(target, lambda file: file.write(data), OutputError)
    return target.name, hashlib.sha256(data).hexdigest()
