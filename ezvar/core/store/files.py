"""Writing files so that a crash, a kill or a full disk leaves the old one or the new one, whole."""

from __future__ import annotations

import errno
import hashlib
import os
import re
import secrets
import socket
import stat
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO

from ezvar.core.errors import EzvarError, ProjectError, from_os

_HOST = hashlib.sha256(socket.gethostname().encode()).hexdigest()[:8]
_PART = re.compile(r"\.ezvar-([0-9a-f]{8})-(\d+)-[0-9a-f]{8}\.part")
_FORMER = re.compile(r"\..+\.(ezvar|journal|npz)\.[a-z0-9_]{8}\.part")  # as they were named before
_QUIET, _OLD = 60, 24 * 3600  # seconds without a word written, after which a part of a dead, of any program is left


def write_atomically(
    path: str | os.PathLike[str], write: Callable[[IO[bytes]], object], family: type[EzvarError] = ProjectError
) -> None:
    """Write a file as `in_place_of` does."""
    with in_place_of(path, family) as part, part.open("wb") as file:
        write(file)


@contextmanager
def in_place_of(
    path: str | os.PathLike[str], family: type[EzvarError] = ProjectError, doing: str = "saved"
) -> Iterator[Path]:
    """An empty file to be written, beside ``path``: synced and moved there when all went well, removed when not.

    A link is written through; a file that is replaced keeps its mode, a new
    one has what the user's mask leaves. Raises an error of ``family``, which
    says what cannot be done (``doing``), where the disk refuses or anything
    but a regular file is there; what was there is then untouched.
    """
    target = Path(os.path.realpath(path))
    part: Path | None = None
    try:
        mode = regular_mode(target, family, doing)
        remove_leftovers(target.parent)
        part = part_beside(target)
        os.close(os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, 0o666))
        yield part
        _sync(part, os.O_RDWR)
        if mode is not None:
            part.chmod(mode)
        os.replace(part, target)
        _sync(target.parent, os.O_RDONLY)
    except OSError as error:
        raise from_os(error, doing, target, family) from error
    finally:
        if part is not None:
            with suppress(OSError):  # a disk that has gone away; where it comes back, a later run removes it
                part.unlink(missing_ok=True)


def regular_mode(path: str | os.PathLike[str], family: type[EzvarError], doing: str) -> int | None:
    """The mode of what is to be replaced; ``None`` where nothing is there.

    Raises an error of ``family`` for folders, devices, pipes and the like.
    """
    try:
        mode = os.stat(path).st_mode
    except FileNotFoundError:
        return None
    if stat.S_ISDIR(mode):
        raise from_os(OSError(errno.EISDIR, ""), doing, path, family)
    if not stat.S_ISREG(mode):
        raise family(f"it cannot be {doing}, it is a device or a pipe", file=path, remedy="Choose another name")
    return stat.S_IMODE(mode)


def part_beside(target: Path) -> Path:
    """A name for what becomes ``target``, in the same folder, that tells whose it is."""
    return target.with_name(f".ezvar-{_HOST}-{os.getpid()}-{secrets.token_hex(4)}.part")


def remove_leftovers(folder: Path) -> None:
    """Remove what killed programs were writing in a folder.

    Ours only: of a program on this machine that is no more once nothing was
    written for a minute, of any other after a day.
    """
    try:
        entries = list(os.scandir(folder))
    except OSError:
        return  # a folder that can be written to and not be listed, or has gone away: writing there says so
    for entry in entries:
        if not entry.name.startswith(".") or not entry.name.endswith(".part"):
            continue
        named, former = _PART.fullmatch(entry.name), _FORMER.fullmatch(entry.name)
        try:
            facts = entry.stat(follow_symlinks=False)
            if not (named or former) or not stat.S_ISREG(facts.st_mode) or facts.st_uid != os.geteuid():
                continue
            dead = named is not None and named[1] == _HOST and not os.path.exists(f"/proc/{named[2]}")
            if time.time() - facts.st_mtime > (_QUIET if dead else _OLD):
                os.unlink(entry.path)
        except OSError:
            continue  # somebody else has just moved or removed it, or the disk can only be read


def _sync(path: Path, flags: int) -> None:
    handle = os.open(path, flags | os.O_CLOEXEC)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
