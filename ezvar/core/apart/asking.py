"""A runner that does tasks apart: in a program of our own, with limits on memory, time and files.

What libraries without memory safety read of files from outside is read there: where they fall down, stall or grow, that
program ends, and whoever asked is told in one sentence. It is begun anew, never forked, for this one has threads, and
kept warm from one task to the next.
"""

from __future__ import annotations

import atexit
import json
import os
import select
import struct
import subprocess
import sys
import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass

from ezvar.core import errors
from ezvar.core.errors import EzvarError
from ezvar.core.progress import CancelToken

from .task import Plain, Task

PROGRAM = ("-m", "ezvar.apart")
HEAD = struct.Struct(">QQ")
"""How long an answer is: its JSON, then what it has of samples, in bytes."""
ALLOWED, EACH_MB = 20.0, 1.0
"""Seconds that a task may take, and as many more for each megabyte of the file that it reads."""
_LONGEST = 3 * 1024**3  # bytes of an answer
_LOOK = 0.05  # seconds between looks at what else is wanted
_MOST = 2  # that run at once


@dataclass(frozen=True)
class Answer:
    """What a task came to: plain values, and samples or other bytes, one after the other."""

    told: Plain
    data: memoryview


class _Gone(Exception):
    """The program has ended in the middle of a task."""


class _Reader:
    """One program that does tasks, one after the other."""

    def __init__(self, kinds: Sequence[str] = ()) -> None:
        self.process = subprocess.Popen(
            [sys.executable, *PROGRAM, *kinds], bufsize=0, stdin=subprocess.PIPE, stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )  # fmt: skip
        assert self.process.stdin is not None
        assert self.process.stdout is not None
        self._to, self._from = self.process.stdin, self.process.stdout
        self.asked = False
        """Whether it has done a task before."""

    def ask(self, task: Task, seconds: float, token: CancelToken) -> Answer:
        """Have a task done. Raises `_Gone` where the program ends, `TimeoutError` where it takes longer."""
        inputs = [os.path.abspath(each) for each in task.inputs]  # it stands where this program once stood
        asked = json.dumps([task.kind, inputs, task.parameters, seconds]).encode()
        try:
            self._to.write(len(asked).to_bytes(8, "big") + asked)
        except BrokenPipeError:
            raise _Gone from None
        until = time.monotonic() + seconds
        told, samples = HEAD.unpack(self._take(HEAD.size, until, token))
        if told + samples > _LONGEST:
            raise _Gone
        values = json.loads(bytes(self._take(told, until, token)))
        return Answer(values, self._take(samples, until, token))

    def _take(self, count: int, until: float, token: CancelToken) -> memoryview:
        taken, at = memoryview(bytearray(count)), 0
        while at < count:
            token.check()
            if time.monotonic() > until:
                raise TimeoutError
            if select.select([self._from], [], [], _LOOK)[0]:
                got = os.readv(self._from.fileno(), [taken[at:]])
                if not got:
                    raise _Gone
                at += got
        return taken

    def end(self) -> None:
        """Let it go."""
        self.process.kill()
        self.process.wait()
        self._to.close()
        self._from.close()


class _Readers:
    """The programs that there are; each serves one thread at a time."""

    def __init__(self) -> None:
        self._idle: list[_Reader] = []
        self._room = threading.BoundedSemaphore(_MOST)
        self._guard = threading.Lock()

    def take(self, kinds: Sequence[str] = ()) -> _Reader:
        """One that is free, begun where there is none; to be given back."""
        self._room.acquire()
        with self._guard:
            while self._idle:
                reader = self._idle.pop()
                if reader.process.poll() is None:
                    return reader
                reader.end()
        try:
            return _Reader(kinds)
        except BaseException:
            self._room.release()
            raise

    def give(self, reader: _Reader, usable: bool) -> None:
        if usable:
            with self._guard:
                self._idle.append(reader)
        else:
            reader.end()
        self._room.release()

    def end(self) -> None:
        """Let those go that wait for work."""
        with self._guard:
            idle, self._idle = self._idle, []
        for reader in idle:
            reader.end()


_READERS = _Readers()
atexit.register(_READERS.end)


def end_idle() -> None:
    """Let the programs go that wait for work; the next task begins another."""
    _READERS.end()


def warm(*kinds: str) -> None:
    """Begin a program ahead of the first task, with what tasks of these kinds need, so that it waits less; returns at
    once."""
    _READERS.give(_READERS.take(kinds), True)


def run_apart(task: Task, family: type[EzvarError], token: CancelToken | None = None) -> Answer:
    """What a task that reads a file, its first input, comes to, done apart.

    Raises the error that the task raises, and one of ``family`` where the
    program falls, grows or takes too long over it.
    """
    file, token = task.inputs[0], token or CancelToken()
    try:
        answer = _asked(task, _seconds(file), token)
    except _Gone:
        raise family("what reads such files fell over it, it is damaged", file=file, remedy="Export it again") from None
    except TimeoutError:
        raise family("reading it takes far too long", file=file, remedy="Export it again") from None
    _raise_what_it_says(answer.told, file, family)
    return answer


def _asked(task: Task, seconds: float, token: CancelToken) -> Answer:
    """The answer to a task; where a program that did others before has ended, of a new one."""
    reader, usable = _READERS.take(), False
    try:
        answer = reader.ask(task, seconds, token)
        usable = True
        return answer
    except _Gone:
        if not reader.asked:
            raise
    finally:
        reader.asked = True
        _READERS.give(reader, usable)
    return _asked(task, seconds, token)


def _seconds(file: str) -> float:
    try:
        return ALLOWED + EACH_MB * os.stat(file).st_size / 1e6
    except (OSError, ValueError):
        return ALLOWED


def _raise_what_it_says(told: Plain, file: str, family: type[EzvarError]) -> None:
    if not isinstance(told, dict) or "error" not in told:
        return
    match told["error"]:
        case [str(name), str(what), place, remedy, str(named)]:
            said = {"place": place if isinstance(place, str) else None}
            raise _family(name, family)(
                what, file=named or None, remedy=remedy if isinstance(remedy, str) else None, **said
            )
    raise family("what reads such files could not read it", file=file, remedy="Export it again")


def _family(name: str, usual: type[EzvarError]) -> type[EzvarError]:
    known: Sequence[type[EzvarError]] = (
        errors.MediaError, errors.TimelineError, errors.ProjectError, errors.OutputError, errors.InputError
    )  # fmt: skip
    return next((each for each in known if each.__name__ == name), usual)
