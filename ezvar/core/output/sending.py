"""Sending a finished movie to its receiver: another program, that keeps to docs/RECEIVING.md."""

from __future__ import annotations

import hashlib
import json
import os
import sys
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ezvar.core.errors import InputError, OutputError, from_os
from ezvar.core.model import Document, Finished, Sent, SentState
from ezvar.core.names import readable
from ezvar.core.programs import SILENT_FOR, Program, command_named
from ezvar.core.progress import CancelToken, Progress, portion, silent
from ezvar.core.way_in import open_regular

from .segments import file_stamp

RECEIVER = "EZVAR_RECEIVER"
"""The environment variable that names a receiver: a command, written as for a shell."""
_SIMULATED: tuple[str, ...] = (sys.executable, "-m", "ezvar.receiver")
_BLOCK = 256 * 1024


class _Said(BaseModel):
    """One line of a receiver."""

    model_config = ConfigDict(extra="ignore")
    have: int | None = Field(default=None, ge=0)
    taken: int | None = Field(default=None, ge=0)
    refused: str = Field(default="", max_length=500)
    accepted: bool = False


def send(
    doc: Document, finished: Finished, progress: Progress = silent, cancel: CancelToken | None = None
) -> Sent:  # fmt: skip
    """Send a row's movie to its receiver, going on where an earlier sending broke off. Long.

    Raises `InputError` where the receiver cannot be begun or the row has none,
    and `OutputError` where the file cannot be read; `Cancelled` leaves with
    the receiver what it has.
    """
    row, path, token = finished.row, Path(finished.made.file), cancel or CancelToken()
    if row.receiver is None:
        raise InputError("it has no receiver", remedy="Choose one on its card")
    if path.is_dir():
        raise InputError("images are not sent", file=path, remedy="Make it as a movie")
    if path.exists() and file_stamp(path) != finished.made.stamp:
        raise OutputError("it is not as it was made any more", file=path, remedy="Make it again")
    size, digest = _known(path, portion(progress, 0, 0.1), token)
    master, rate = doc.master(row.master), doc.lock.rate
    offer = {
        "version": 1, "receiver": row.receiver.name, "name": readable(path.name), "size": size, "digest": digest,
        "master": {
            "name": master.name, "width": master.width, "height": master.height,
            "rate": f"{rate.numerator}/{rate.denominator}", "frames": len(row.range),
        },
    }  # fmt: skip
    progress = portion(progress, 0.1, 1)
    with Program(command_named(RECEIVER, _SIMULATED), "the receiver", token) as receiver:
        said = _Sending(receiver, path, size, progress)
        state, why = said.done(json.dumps(offer).encode() + b"\n")
    now = datetime.now(UTC).isoformat(timespec="seconds")
    return Sent(row.receiver.name, state, now, why, said.there / size, finished.made.stamp)


def _known(path: Path, progress: Progress, token: CancelToken) -> tuple[int, str]:
    """The size and the digest of a file."""
    found, size = hashlib.sha256(), 0
    with open_regular(path, OutputError, "a movie") as file:
        whole = max(1, os.fstat(file.fileno()).st_size)
        while block := file.read(_BLOCK):
            token.check()
            found.update(block)
            size += len(block)
            progress(min(1.0, size / whole), "Looking it through")
    if not size:
        raise OutputError("it is empty", file=path, remedy="Make it again")
    return size, found.hexdigest()


class _Sending:
    """A file on its way to a receiver, which has what is ``there``."""

    def __init__(self, receiver: Program, path: Path, size: int, progress: Progress) -> None:
        self._receiver, self._path, self._size = receiver, path, size
        self._progress = progress
        self.there = 0
        self._ended: tuple[SentState, str] | None = None

    def done(self, offer: bytes) -> tuple[SentState, str]:
        """How it ended, and why."""
        try:
            self._receiver.tell(offer)
            self._hear(self._receiver.line())
            if self._ended is None:
                self._send()
            while self._ended is None:
                self._hear(self._receiver.line())
        except TimeoutError:
            return "broken off", f"it was silent for {SILENT_FOR:g} s"
        return self._ended

    def _send(self) -> None:
        """Send what it does not have."""
        with open_regular(self._path, OutputError, "a movie") as file:
            file.seek(self.there)
            while self._ended is None and (block := self._read(file)) and self._receiver.tell(block):
                for line in self._receiver.lines_there():
                    self._hear(line)
        self._receiver.told_all()

    def _read(self, file: IO[bytes]) -> bytes:
        try:
            return file.read(_BLOCK)
        except OSError as error:
            raise from_os(error, "read", self._path, OutputError) from error

    def _hear(self, line: bytes | None) -> None:
        if line is None:
            self._ended = "broken off", "it ended before it had said whether it takes it"
            return
        try:
            said = _Said.model_validate_json(line)
        except ValidationError:
            self._ended = "broken off", "it answered what cannot be read"
            return
        there = said.have if said.have is not None else said.taken
        if there is not None:
            self.there = min(self._size, there)
            self._progress(self.there / self._size, "Sending")
        if said.refused:
            self._ended = "refused", said.refused
        elif said.accepted:
            self.there = self._size
            self._ended = "accepted", ""
