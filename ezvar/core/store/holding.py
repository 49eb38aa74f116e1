"""Who has a project open: said in a small file beside it, so that a second one is told, on other machines too.

The file names the machine, the process and since when; it is written anew
every half minute. One whose process is no more, or that nobody has renewed
for a while, counts for nothing and goes with the next who opens the project.
It keeps nobody from saving: `saving` compares revisions for that.
"""

from __future__ import annotations

import json
import os
import secrets
import socket
import time
from contextlib import suppress
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path

from ezvar.core.errors import EzvarError, ProjectError
from ezvar.core.threads import Worker
from ezvar.core.way_in import parse_json, read_bytes

from .files import write_atomically

_RENEWED, _GONE = 30.0, 150.0  # seconds until a hold is said again, and without that until nobody has it any more


@dataclass(frozen=True)
class Holder:
    """Who has a project open; ``since`` in UTC."""

    machine: str
    process: int
    since: str
    token: str = ""

    def __str__(self) -> str:
        when = datetime.fromisoformat(self.since).astimezone()
        return f"process {self.process} on {self.machine}, since {when:%Y-%m-%d %H:%M}"


class Hold:
    """A project that is open here until it is released; a thread says so. On a disk that cannot be written nothing is
    said of it."""

    def __init__(self, path: str | os.PathLike[str]) -> None:
        self.path = Path(path)
        now = datetime.now(UTC).isoformat(timespec="seconds")
        self._holder = Holder(socket.gethostname(), os.getpid(), now, secrets.token_hex(8))
        self._file = _beside(path)
        self._worker = Worker("hold", self._say)
        self._worker.wake()

    def _say(self) -> float:
        text = json.dumps(asdict(self._holder)).encode()
        with suppress(EzvarError):  # a disk that can only be read: nobody else can save on it either
            write_atomically(self._file, lambda file: file.write(text))
        return _RENEWED

    def release(self) -> None:
        """It is open here no more."""
        self._worker.close()
        found = _read(self._file)
        if found is not None and found.token == self._holder.token:
            self._file.unlink(missing_ok=True)


def holder_of(path: str | os.PathLike[str]) -> Holder | None:
    """Who else has a project open; ``None`` where nobody has, or only this very process."""
    file = _beside(path)
    found = _read(file)
    if found is None:
        return None
    try:
        quiet = time.time() - file.stat().st_mtime
    except OSError:
        return None  # it was released just now
    here = found.machine == socket.gethostname()
    if here and (found.process == os.getpid() or not os.path.exists(f"/proc/{found.process}")):
        return None
    return found if here or quiet < _GONE else None


def _beside(path: str | os.PathLike[str]) -> Path:
    real = Path(os.path.realpath(path))
    return real.with_name(f".{real.name[:200]}.open")


def _read(file: Path) -> Holder | None:
    try:
        values = parse_json(read_bytes(file, ProjectError, "who has a project open"))
        machine, since, token = (str(values[name])[:100] for name in ("machine", "since", "token"))
        holder = Holder(machine, int(values["process"]), since, token)
        str(holder)
    except (EzvarError, ArithmeticError, ValueError, KeyError, TypeError):
        return None  # there is none, or it says nothing
    return holder
