"""The one family of errors that Ezvar raises for things outside its control.

Each carries what is wrong, the file, the place in it and a remedy, and reads
as one plain sentence or two. Errors of the program itself stay Python's own.
"""

from __future__ import annotations

import errno
import os
from pathlib import Path

from .names import readable


class EzvarError(Exception):
    """Something outside the program is wrong.

    Parameters are plain phrases: ``what`` without a full stop, ``place`` such
    as "frame 120" or "line 7", ``remedy`` an imperative sentence without its
    full stop.

    >>> str(EzvarError("it holds no picture", file="a/talk.mp4", remedy="Choose another file"))
    'talk.mp4: it holds no picture. Choose another file.'
    """

    def __init__(
        self,
        what: str,
        *,
        file: str | os.PathLike[str] | None = None,
        place: str | None = None,
        remedy: str | None = None,
    ) -> None:
        super().__init__(what)
        self.what = what
        self.file = Path(file) if file is not None else None
        self.place = place
        self.remedy = remedy

    def __str__(self) -> str:
        where = [readable(self.file.name or self.file)] if self.file is not None else []
        if self.place:
            where.append(self.place)
        text = ": ".join([*where, self.what]) + "."
        text = " ".join(text.split())
        return f"{text} {self.remedy}." if self.remedy else text


class MediaError(EzvarError):
    """A movie, a still or a sound that cannot be read."""


class TimelineError(EzvarError):
    """A timeline file that cannot be read or does not fit the lock."""


class ProjectError(EzvarError):
    """A project file that cannot be read or written."""


class OutputError(EzvarError):
    """A movie that could not be made, or that is not what it should be."""


class MachineError(EzvarError):
    """Other machines that do not do their part, or what schedules work on them."""


class InputError(EzvarError):
    """A value given by the user that cannot be used."""


def from_os(error: OSError, doing: str, file: str | os.PathLike[str], family: type[EzvarError]) -> EzvarError:
    """Put an operating-system error into plain words.

    ``doing`` completes "it cannot be ...", e.g. "saved".

    >>> print(from_os(OSError(errno.ENOSPC, ""), "saved", "p.ezvar", ProjectError))
    p.ezvar: it cannot be saved, the disk is full. Free some space or choose another folder.
    """
    reasons = {
        errno.ENOSPC: ("the disk is full", "Free some space or choose another folder"),
        errno.EDQUOT: ("the disk quota is used up", "Free some space or choose another folder"),
        errno.EFBIG: ("the file would be larger than this disk allows", "Choose another folder"),
        errno.EACCES: ("access is not permitted", "Choose another folder or change its permissions"),
        errno.EPERM: ("access is not permitted", "Choose another folder or change its permissions"),
        errno.EROFS: ("the disk can only be read", "Choose another folder"),
        errno.ENOENT: ("it is not there", "Check whether it was moved or renamed"),
        errno.ENOTDIR: ("a part of its path is not a folder", "Choose another folder"),
        errno.EISDIR: ("it is a folder", "Choose a file"),
        errno.ENAMETOOLONG: ("its name is longer than this disk allows", "Choose a shorter name"),
        errno.ELOOP: ("its links lead in a circle", "Choose another file"),
    }
    reason, remedy = reasons.get(error.errno or 0, (error.strerror or str(error), None))
    return family(f"it cannot be {doing}, {reason}", file=file, remedy=remedy)
