"""The other side of `apart`: does the tasks that it is asked for, within limits, and answers with plain values."""

from __future__ import annotations

import gc
import json
import os
import resource
from collections.abc import Callable, Sequence
from typing import Any, BinaryIO

from ezvar.core.errors import EzvarError

from .asking import HEAD
from .task import Plain, Task

Done = tuple[Plain, Sequence[Any]]
"""What a task came to: plain values, and buffers of samples."""

_ROOM = 6 * 1024**3  # bytes of addresses beyond those of the program itself
_OPEN = 64  # files
_WARM = 1024**3  # bytes; where a task has left more than that taken, the program ends, and another is begun


def serve(do: Callable[[Task], Done]) -> None:
    """Do tasks until nobody asks any more.

    What libraries write on standard output goes nowhere. Nothing is written
    to disk: files may not grow.
    """
    questions, answers = os.fdopen(os.dup(0), "rb"), os.fdopen(os.dup(1), "wb")
    nowhere = os.open(os.devnull, os.O_RDWR)
    for stream in (0, 1, 2):
        os.dup2(nowhere, stream)
    _limit()
    gc.disable()  # a program that ends before it has grown too much needs none
    while (head := questions.read(8)) and len(head) == 8:
        kind, inputs, parameters, seconds = json.loads(questions.read(int.from_bytes(head, "big")))
        _allow_time(seconds)
        text, buffers = _done(do, Task(kind, tuple(inputs), tuple((n, v) for n, v in parameters)))
        _answer(answers, text, buffers)
        if _taken() > _WARM:
            return


def _limit() -> None:
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    resource.setrlimit(resource.RLIMIT_NOFILE, (_OPEN, _OPEN))
    room = _statm(0) + _ROOM
    resource.setrlimit(resource.RLIMIT_AS, (room, room))


def _allow_time(seconds: float) -> None:
    """End the program where a task takes longer and nobody is left who would."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    hard = resource.getrlimit(resource.RLIMIT_CPU)[1]
    resource.setrlimit(resource.RLIMIT_CPU, (int(used.ru_utime + used.ru_stime + seconds) + 2, hard))


def _statm(place: int) -> int:
    with open("/proc/self/statm") as file:
        return int(file.read().split()[place]) * resource.getpagesize()


def _taken() -> int:
    return _statm(1)


def _done(do: Callable[[Task], Done], task: Task) -> tuple[bytes, Sequence[Any]]:
    """What a task comes to, as JSON, and its buffers."""
    try:
        told, buffers = do(task)
        return json.dumps(told, default=str).encode(), buffers
    except EzvarError as error:
        file = os.fspath(error.file) if error.file is not None else ""
        said: Plain = {"error": [type(error).__name__, error.what, error.place, error.remedy, file]}
    except Exception:  # whatever a library runs into over a damaged file
        said = {"error": None}
    return json.dumps(said).encode(), ()


def _answer(answers: BinaryIO, text: bytes, buffers: Sequence[Any]) -> None:
    views = [memoryview(buffer).cast("B") for buffer in buffers]
    answers.write(HEAD.pack(len(text), sum(len(view) for view in views)))
    answers.write(text)
    for view in views:
        answers.write(view)
    answers.flush()
