"""What encoders and disks say, in words."""

from __future__ import annotations

import errno
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import av

from ezvar.core.errors import EzvarError, OutputError, from_os
from ezvar.core.store import in_place_of, part_beside

_OF_THE_DISK = (errno.ENOSPC, errno.EACCES, errno.EDQUOT, errno.EIO, errno.EROFS, errno.EFBIG)


def told(error: OSError | av.error.FFmpegError, target: Path) -> EzvarError:
    """What an encoder or the disk says when something is written."""
    code = error.errno if isinstance(error.errno, int) and error.errno > 0 else errno.EIO
    if isinstance(error, av.error.FFmpegError) and code not in _OF_THE_DISK:
        return OutputError(
            f"the encoder refused it ({error.strerror})", file=target, remedy="Choose another preset, or another size"
        )
    return from_os(OSError(code, os.strerror(code)), "written", target, OutputError)


@contextmanager
def in_its_place(target: Path) -> Iterator[Path]:
    """As `in_place_of`; what an encoder says counts too."""
    try:
        with in_place_of(target, OutputError, "written") as part:
            yield part
    except av.error.FFmpegError as error:
        raise told(error, target) from error


@contextmanager
def folder_in_its_place(target: Path) -> Iterator[Path]:
    """A name for a folder to be made beside a target, that takes the target's place, a folder's too, when all went
    well, and is removed when not; what was there is then as it was."""
    part = part_beside(target)
    old = part.with_suffix(".old")
    try:
        yield part
        if target.exists():
            target.rename(old)
        try:
            part.rename(target)
        except OSError:
            if old.exists():
                old.rename(target)
            raise
    except OSError as error:
        raise told(error, target) from error
    finally:
        for left in (part, old):
            shutil.rmtree(left, ignore_errors=True)  # what a disk will not remove is in nobody's way
