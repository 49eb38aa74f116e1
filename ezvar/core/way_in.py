"""The one way in: whatever is read from outside is a regular file of a stated size at most, read once and bounded.

Nothing here says what a file means; readers of formats begin with what these
functions give them.
"""

from __future__ import annotations

import errno
import math
import os
import stat
from collections.abc import Sequence
from typing import IO, Any

import numpy as np
from pydantic_core import from_json

from .errors import EzvarError, from_os

DEEPEST = 400
"""Levels of brackets in JSON; readers written in C run out of stack far beyond."""
_MOST = 2**63
_MB = 1024**2
LARGEST = {
    "a project": 512 * _MB, "a journal": 512 * _MB, "a list of movies": 512 * _MB, "who has a project open": 4096,
    "a timeline": 256 * _MB, "an edit decision list": 16 * _MB, "decisions": 256 * _MB, "a table": 256 * _MB,
    "captions": 32 * _MB, "a font": 64 * _MB, "a still": 512 * _MB, "a colour table": 128 * _MB, "a list": 4 * _MB,
    "the mark of a folder": 4096, "a bundle": _MOST, "a movie": _MOST,
}  # fmt: skip
"""How many bytes a file of each kind may hold; bundles and movies, which are read in place, any number."""


def open_regular(path: str | os.PathLike[str], family: type[EzvarError], what: str) -> IO[bytes]:
    """A regular file, opened for reading bytes; ``what`` it is to be is one of `LARGEST`.

    Raises an error of ``family`` where it cannot be opened, is a folder, pipe,
    socket or device, or holds too many bytes for what it is.
    """
    try:
        handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)  # a pipe without a writer would wait
    except (OSError, ValueError) as error:
        raise _refused(error, path, family) from error
    facts = os.fstat(handle)
    if not stat.S_ISREG(facts.st_mode) or facts.st_size > LARGEST[what]:
        os.close(handle)
        if stat.S_ISDIR(facts.st_mode):
            raise from_os(OSError(errno.EISDIR, ""), "opened", path, family)
        if not stat.S_ISREG(facts.st_mode):
            raise family("it is a device or a pipe, no file", file=path, remedy="Choose another file")
        raise family(f"it is far too large for {what}", file=path, remedy="Choose another file")
    return open(handle, "rb")


def read_bytes(path: str | os.PathLike[str], family: type[EzvarError], what: str) -> bytes:
    """What a file holds, read once. Raises as `open_regular`."""
    with open_regular(path, family, what) as file:
        try:
            return file.read(LARGEST[what])
        except OSError as error:
            raise from_os(error, "read", path, family) from error


def check_regular(path: str | os.PathLike[str], family: type[EzvarError]) -> os.stat_result:
    """The facts of a regular file of any size, for readers that open it themselves. Raises as `open_regular`."""
    with open_regular(path, family, "a movie") as file:
        return os.fstat(file.fileno())


def decoded(data: bytes, encodings: Sequence[str]) -> str | None:
    """Text in the first of the encodings that fits; ``None`` where none does."""
    for encoding in encodings:
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            continue  # the next may fit
    return None


def parse_json(data: bytes) -> Any:
    """Plain values from JSON in UTF-8.

    Raises `ValueError`, with the line where it can be told, for what is none,
    is nested more than `DEEPEST` deep, or holds numbers that are not finite
    or beyond 64 bits.
    """
    check_depth(data)
    values = from_json(data)
    if _may_be_beyond(data):
        check_numbers(values)
    return values


def check_depth(data: bytes) -> None:
    """Raise `ValueError` for brackets nested too deeply; those inside text count too, which errs on the safe side."""
    values = np.frombuffer(data, np.uint8)
    brackets = values[(values == 0x5B) | (values == 0x5D) | (values == 0x7B) | (values == 0x7D)]
    step = np.where((brackets == 0x5B) | (brackets == 0x7B), 1, -1)
    if np.cumsum(step).max(initial=0) > DEEPEST:
        raise ValueError("it is nested too deeply")


def _may_be_beyond(data: bytes) -> bool:
    """Whether there is a number of nineteen digits, or with an exponent of three: a quick look, values being many."""
    signs = np.frombuffer(data + b" " * 32, np.uint8)
    digit = (signs >= 0x30) & (signs <= 0x39)
    two = digit[:-1] & digit[1:]
    four = two[:-2] & two[2:]
    eight = four[:-4] & four[4:]
    sixteen = eight[:-8] & eight[8:]
    three = two[:-1] & digit[2:]
    exponent, plus, n = (signs == 0x45) | (signs == 0x65), signs == 0x2B, len(signs) - 4
    large = exponent[:n] & (three[1 : n + 1] | (plus[1 : n + 1] & three[2 : n + 2]))
    places = (sixteen[:-3] & sixteen[3:], large)  # nineteen: sixteen from a place on, and from three places on
    return any(_in_number(data, int(at)) for found in places for at in np.flatnonzero(found))


def _in_number(data: bytes, at: int) -> bool:
    """Whether a place in JSON may lie in a number rather than in text, by what stands before it."""
    while at > 0 and data[at - 1] in b"0123456789.+-eE":
        at -= 1
    return at == 0 or data[at - 1] in b"[:,{ \t\r\n"


def check_numbers(values: Any) -> None:
    """Raise `ValueError` for numbers that are not finite or beyond 64 bits."""
    if isinstance(values, dict):
        for value in values.values():
            check_numbers(value)
    elif isinstance(values, list):
        for value in values:
            check_numbers(value)
    elif isinstance(values, int) and not -_MOST <= values < _MOST:
        raise ValueError("a number is beyond 64 bits")
    elif isinstance(values, float) and not math.isfinite(values):
        raise ValueError("a number is not finite")


def _refused(error: OSError | ValueError, path: str | os.PathLike[str], family: type[EzvarError]) -> EzvarError:
    if isinstance(error, OSError):
        return from_os(error, "opened", path, family)
    return family("its name holds a sign that no file has", remedy="Choose another file")
