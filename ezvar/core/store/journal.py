"""The journal: unsaved work kept on disk within a second, so that a crash costs next to nothing."""

from __future__ import annotations

import os
import time
from dataclasses import dataclass
from pathlib import Path

from filelock import FileLock, Timeout

from ezvar.core.errors import EzvarError, ProjectError
from ezvar.core.model import Document
from ezvar.core.threads import Worker
from ezvar.core.way_in import read_bytes

from .files import remove_leftovers, write_atomically
from .plain_json import dump_plain, parse_plain
from .project import dump_project, parse_project

_WAIT = 0.3  # seconds between one writing and the next, in which edits gather

_ABOUT = 60.0  # seconds within which a new journal has taken its lock


@dataclass(frozen=True)
class Leftover:
    """Work that a program which ended without closing left behind. ``project`` is empty where it was never saved."""

    file: Path
    name: str
    project: str
    written: float  # seconds since the epoch
    revision: str = ""  # of the project file that the work began with

    def document(self) -> Document:
        """The work itself. Raises `ProjectError` where it is damaged."""
        return _read(self.file)[0]

    def discard(self) -> None:
        """Remove it."""
        for file in (self.file, self.file.with_suffix(".lock")):
            file.unlink(missing_ok=True)


class Journal:
    """Writes the newest unsaved document behind the program's back.

    `note` takes a document and returns at once; a thread writes it within a
    second. A file that only this program locks tells living journals from
    left ones. What the disk refuses is told to ``problem`` once.
    """

    def __init__(self, folder: str | os.PathLike[str]) -> None:
        self.problem: EzvarError | None = None
        self._folder = Path(folder) / "journal"
        self._file = self._folder / f"{os.getpid()}-{time.time_ns()}.journal"
        self._held = FileLock(self._file.with_suffix(".lock"), timeout=0, thread_local=False)
        self._newest: tuple[Document, str, str] | None = None
        self._dropped = False
        self._worker = Worker("journal", self._keep)

    def note(self, doc: Document, project: str | os.PathLike[str] | None, revision: str = "") -> None:
        """Keep this document, whose project file is at ``project`` and was read or written as ``revision``."""
        with self._worker.changed:
            self._newest = (doc, str(project or ""), revision)
        self._worker.wake()

    def forget(self) -> None:
        """The work is saved, or given up: keep nothing. Returns at once; the file goes as soon as the disk lets it."""
        with self._worker.changed:
            self._newest, self._dropped = None, True
        self._worker.wake()

    def close(self) -> None:
        """End in good order and leave nothing behind."""
        self._worker.close()
        self._file.unlink(missing_ok=True)
        if self._held.is_locked:
            self._file.with_suffix(".lock").unlink(missing_ok=True)
            self._held.release()

    def _keep(self) -> None:
        with self._worker.changed:
            dropped, self._dropped = self._dropped, False
            newest, self._newest = self._newest, None
        if dropped:
            self._file.unlink(missing_ok=True)
        if newest is not None:
            self._write(*newest)
        self._worker.wait(lambda: self._dropped, _WAIT)

    def _write(self, doc: Document, project: str, revision: str) -> None:
        try:
            if not self._held.is_locked:
                self._folder.mkdir(parents=True, exist_ok=True)
                self._held.acquire()
            data = {"project": project, "revision": revision, "name": doc.lock.name, **dump_project(doc)}
            text = dump_plain(data)
            write_atomically(self._file, lambda file: file.write(text), ProjectError)
        except ProjectError as error:
            self.problem = error
        except OSError as error:
            self.problem = ProjectError(f"unsaved work cannot be kept ({error.strerror})", file=self._folder)


def leftovers(folder: str | os.PathLike[str]) -> list[Leftover]:
    """Journals of programs that are no more, the newest first. What else such programs left there goes away."""
    found, there = [], Path(folder) / "journal"
    remove_leftovers(there)
    for lock in there.glob("*.lock"):
        if not lock.with_suffix(".journal").exists() and _is_old(lock) and _is_left(lock):
            lock.unlink(missing_ok=True)
    for file in there.glob("*.journal"):
        if not _is_left(file.with_suffix(".lock")):
            continue
        try:
            doc, project, revision = _read(file)
        except ProjectError:
            continue  # damaged beyond use: the program was killed before its first word was whole
        found.append(Leftover(file, doc.lock.name, project, file.stat().st_mtime, revision))
    return sorted(found, key=lambda left: -left.written)


def _is_old(lock: Path) -> bool:
    """Whether a lock is no longer about to be taken by whoever made it."""
    try:
        return time.time() - lock.stat().st_mtime > _ABOUT
    except OSError:
        return False


def _is_left(lock: Path) -> bool:
    """Whether nobody holds a journal's lock any more."""
    if not lock.exists():
        return True
    try:
        with FileLock(lock, timeout=0):
            return True
    except (Timeout, OSError):
        return False


def _read(file: Path) -> tuple[Document, str, str]:
    try:
        data = parse_plain(read_bytes(file, ProjectError, "a journal"))
    except ValueError as error:
        raise ProjectError("it is damaged", file=file) from error
    return parse_project(data, file), str(data.get("project", "")), str(data.get("revision", ""))
