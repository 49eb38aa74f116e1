"""Other programs that are told something and answer line by line. They are never trusted: what they say is bounded, and
they are ended where they hang."""

from __future__ import annotations

import io
import os
import queue
import select
import shlex
import subprocess
from collections.abc import Sequence
from contextlib import suppress
from types import TracebackType

from .errors import InputError
from .progress import CancelToken
from .threads import begin

SILENT_FOR = 60.0
"""Seconds without a word, after which a program is given up."""
_LINE, _LOOK = 65_536, 0.1  # bytes; seconds between looks at what else is wanted


def command_named(variable: str, usual: Sequence[str]) -> tuple[str, ...]:
    """The command that an environment variable names, written as for a shell; the ``usual`` one where it names none.

    Raises `InputError` for one that cannot be taken apart.
    """
    try:
        return tuple(shlex.split(os.environ.get(variable, ""))) or tuple(usual)
    except ValueError as error:
        raise InputError(f"{variable} is no command: {error}", remedy="Write it as for a shell") from error


class Program:
    """A program under way, called ``what`` in sentences; it ends with the context.

    Raises `InputError` where it cannot be begun.
    """

    def __init__(self, command: Sequence[str], what: str, token: CancelToken) -> None:
        self._token = token
        try:
            self._program = subprocess.Popen(
                list(command), bufsize=0, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
            )
        except OSError as error:
            raise InputError(
                f"{what} cannot be begun: {error.strerror or error}", remedy="Choose another one"
            ) from error
        assert self._program.stdin is not None
        assert self._program.stdout is not None
        self._out, self._answers = self._program.stdin, io.BufferedReader(self._program.stdout)  # type: ignore[type-var]
        os.set_blocking(self._out.fileno(), False)  # one that takes nothing more is not waited for
        self._lines: queue.Queue[bytes | None] = queue.Queue()
        self._listening = begin(what, self._listen)

    def _listen(self) -> None:
        while line := self._answers.readline(_LINE):
            self._lines.put(line)
        self._lines.put(None)

    def __enter__(self) -> Program:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._program.kill()
        self._program.wait()
        self._listening.join()
        self._answers.close()
        with suppress(BrokenPipeError):
            self._out.close()

    def tell(self, data: bytes) -> bool:
        """Tell it something; whether it still listens: what it says counts, and if that is nothing, `line` tells.

        Raises `TimeoutError` where it takes nothing of it for too long.
        """
        left, waited = memoryview(data), 0.0
        while left:
            self._token.check()
            if not select.select([], [self._out], [], _LOOK)[1]:
                waited += _LOOK
                if waited >= SILENT_FOR:
                    raise TimeoutError
                continue
            try:
                left = left[os.write(self._out.fileno(), left) :]
            except BrokenPipeError:
                return False
            waited = 0.0
        return True

    def told_all(self) -> None:
        """Nothing more is told."""
        with suppress(BrokenPipeError):
            self._out.close()

    def line(self) -> bytes | None:
        """The next line that it says, waiting for it; ``None`` once it has ended. Raises `TimeoutError` where it is
        silent for too long."""
        waited = 0.0
        while waited < SILENT_FOR:
            self._token.check()
            try:
                return self._lines.get(timeout=_LOOK)
            except queue.Empty:
                waited += _LOOK
        raise TimeoutError

    def lines_there(self) -> list[bytes]:
        """The lines that it has said already and that nobody has asked for."""
        found: list[bytes] = []
        while not self._lines.empty():
            line = self._lines.get()
            if line is None:
                self._lines.put(None)  # its end is still to be told
                break
            found.append(line)
        return found
