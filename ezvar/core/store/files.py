"""Writing files so that a crash, a kill or a full disk leaves the old one or the new one, whole."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import IO

from ezvar.core.errors import EzvarError, ProjectError, from_os


def write_atomically(
    path: str | os.PathLike[str], write: Callable[[IO[bytes]], object], family: type[EzvarError] = ProjectError
) -> None:
    """Write a file under a temporary name beside its place, sync it, and move it into place.

    Raises an error of ``family`` where the disk refuses; the old file is then untouched.
    """
    target = Path(path)
    temp: str | None = None
    try:
        handle, temp = tempfile.mkstemp(prefix=f".{target.name}.", suffix=".part", dir=target.parent)
        with os.fdopen(handle, "wb") as file:
            write(file)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(temp, 0o666 & ~_umask())
        os.replace(temp, target)
        _sync_folder(target.parent)
    except OSError as error:
        if temp is not None:
            Path(temp).unlink(missing_ok=True)
        raise from_os(error, "saved", target, family) from error


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
