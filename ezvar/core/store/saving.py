"""Saving projects: only over what is meant, and never over what somebody else has saved meanwhile."""

from __future__ import annotations

import errno
import fcntl
import os
import re
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import TypeVar

from ezvar.core.errors import ProjectError, from_os
from ezvar.core.model import Document, media_named
from ezvar.core.way_in import LARGEST

from .files import regular_mode, write_atomically
from .project import project_text, read_project, revision_of

_PROJECT = re.compile(rb'\s*\{\s*"ezvar"\s*:\s*\d+\s*,')
_PATIENCE = 10.0  # seconds until another program has saved
_TRIES = 50
_T = TypeVar("_T")


class ProjectChanged(ProjectError):
    """Somebody else has saved the project since it was read."""


def save_project(doc: Document, path: str | os.PathLike[str], over: str | None = None) -> str:
    """Write a project; returns the name of its revision.

    ``over`` is the revision that it may take the place of, "" for none at all;
    where another one is there `ProjectChanged` is raised and that one stays.
    Without it any project is replaced. What is no project is never replaced:
    that, and what the disk refuses, raises `ProjectError`.
    """
    text = project_text(doc, path)
    with _held(path) as there:
        if there and not _PROJECT.match(there):
            raise _no_project(doc, path)
        if there and over is not None and revision_of(there) != over:
            raise ProjectChanged(
                "somebody else has saved it meanwhile", file=path, remedy="Save under another name, or take theirs in"
            )
        write_atomically(path, lambda file: file.write(text), ProjectError)
    return revision_of(text)


def update_project(path: str | os.PathLike[str], change: Callable[[Document], tuple[Document, _T]]) -> _T:
    """Read a project, change it and save it; again where somebody else saved it meanwhile, so that nothing is lost.

    Returns what ``change`` gave beside the document. It is called once for each try.
    """
    for last in range(_TRIES - 1, -1, -1):
        doc, revision = read_project(path)
        changed, told = change(doc)
        try:
            save_project(changed, path, revision)
        except ProjectChanged:
            if not last:
                raise
        else:
            return told
    raise AssertionError  # the last try returns or raises


def occupied(path: str | os.PathLike[str]) -> str:
    """What a project would replace at ``path``, in words: "" where nothing is there, or an empty file.

    Raises `ProjectError` where it is anything but a project, which is never replaced.
    """
    with _held(path) as there:
        if there and not _PROJECT.match(there):
            raise _no_project(None, path)
    if not there:
        if not Path(os.path.realpath(path)).parent.is_dir():
            raise ProjectError("it cannot be saved, its folder is not there", file=path, remedy="Make the folder first")
        return ""
    saved = datetime.fromtimestamp(os.path.getmtime(path))
    when = f"saved {saved:%Y-%m-%d %H:%M}"
    try:
        doc, _ = read_project(path)
    except ProjectError:
        return f"a project that cannot be read here, {when}"
    masters = ", ".join(m.name for m in doc.masters) or "none yet"
    shots = "1 shot" if len(doc.shots) == 1 else f"{len(doc.shots)} shots"
    return f"the project {doc.lock.name} with {shots}, masters: {masters}; {when}"


def _no_project(doc: Document | None, path: str | os.PathLike[str]) -> ProjectError:
    named = media_named(doc) if doc else ()
    if any(os.path.exists(m) and os.path.samefile(m, path) for m in named):
        return ProjectError(
            "it is one of the lock's media, which are never changed", file=path, remedy="Choose another"
        )
    return ProjectError("it is there already and no project, so it stays", file=path, remedy="Choose another name")


@contextmanager
def _held(path: str | os.PathLike[str]) -> Iterator[bytes]:
    """What stands in the file at ``path``, nothing where none is there, while no other Ezvar can save it.

    The lock is on the file itself: whoever waited for it looks whether it is still the one at its path.
    """
    handle = _locked(path)
    try:
        if handle is None:
            yield b""
            return
        size = os.fstat(handle).st_size
        if size > LARGEST["a project"]:
            raise _no_project(None, path)
        with open(handle, "rb", closefd=False) as file:
            yield file.read()
    finally:
        if handle is not None:
            os.close(handle)


def _locked(path: str | os.PathLike[str]) -> int | None:
    target = Path(os.path.realpath(path))
    until = time.monotonic() + _PATIENCE
    try:
        while True:
            if regular_mode(target, ProjectError, "saved") is None:
                return None
            handle = os.open(target, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
            if _alone(handle, until) and _is_at(handle, target):
                return handle
            os.close(handle)
            if time.monotonic() > until:
                raise ProjectError("another program keeps on saving it", file=path, remedy="Try again")
    except OSError as error:
        raise from_os(error, "saved", path, ProjectError) from error


def _is_at(handle: int, target: Path) -> bool:
    """Whether an open file is the one at a path still, and was not replaced while it was waited for."""
    try:
        return os.path.samestat(os.fstat(handle), os.stat(target))
    except FileNotFoundError:
        return False


def _alone(handle: int, until: float) -> bool:
    """Wait until no other program holds the file, or the time is over."""
    while True:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            if time.monotonic() > until:
                return False
            time.sleep(0.02)
        except OSError as error:
            if error.errno in (errno.EBADF, errno.ENOLCK, errno.EOPNOTSUPP):
                return True  # a shared disk that knows no locks: the revision alone must tell
            raise
        else:
            return True
