"""How long the pictures of MOV and MP4 files wait between being decoded and being shown, from the file's own table.

The library that reads movies tells the decoding times of all pictures, and
how long one waits only once it is read. The table is the composition time to
sample box, ISO/IEC 14496-12, 8.6.1.3. Nothing but it, and the heads of the
boxes on the way to it, is read.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import IO

import numpy as np

from ezvar.core.errors import MediaError
from ezvar.core.way_in import open_regular

_TO_TABLES = (b"mdia", b"minf", b"stbl")
_ENTRY = np.dtype([("count", ">u4"), ("wait", ">i4")])  # what writers of version 0 put below zero is meant so, too


def waits_of(path: str | os.PathLike[str], track: int, samples: int) -> np.ndarray | None:
    """How long each of the ``samples`` of a track waits, int64 (samples,), in ticks of the track.

    Zeros where the file has no such table, which says that none waits.
    ``None`` where the track is not found, or the table is not whole or tells of another number of samples.
    """
    with open_regular(path, MediaError, "a movie") as file:
        whole = file.seek(0, os.SEEK_END)
        for _, first, end in _boxes(file, 0, whole, b"moov"):
            for _, begin, stop in _boxes(file, first, end, b"trak"):
                if _number(file, begin, stop) == track:
                    return _table(file, begin, stop, samples)
    return None


def _boxes(file: IO[bytes], start: int, end: int, kind: bytes) -> Iterator[tuple[bytes, int, int]]:
    """The boxes of a kind between two places of a file, each with the places where its content begins and ends."""
    while start + 8 <= end:
        file.seek(start)
        head = file.read(16)
        size, content = int.from_bytes(head[:4], "big"), start + 8
        if size == 1:
            size, content = int.from_bytes(head[8:], "big"), start + 16
        stop = end if size == 0 else start + size
        if not content <= stop <= end:
            return
        if head[4:8] == kind:
            yield kind, content, stop
        start = stop


def _number(file: IO[bytes], start: int, end: int) -> int | None:
    """The number of a track."""
    for _, first, _ in _boxes(file, start, end, b"tkhd"):
        file.seek(first)
        head = file.read(24)
        at = 20 if head[:1] == b"\1" else 12
        return int.from_bytes(head[at : at + 4], "big")
    return None


def _table(file: IO[bytes], start: int, end: int, samples: int) -> np.ndarray | None:
    for kind in _TO_TABLES:
        inner = next(_boxes(file, start, end, kind), None)
        if inner is None:
            return None
        _, start, end = inner
    found = next(_boxes(file, start, end, b"ctts"), None)
    if found is None:
        return np.zeros(samples, np.int64)
    file.seek(found[1] + 4)
    entries = int.from_bytes(file.read(4), "big")
    if entries > min(samples, (found[2] - found[1] - 8) // _ENTRY.itemsize):
        return None
    told = np.frombuffer(file.read(entries * _ENTRY.itemsize), _ENTRY)
    counts = told["count"].astype(np.int64)
    if len(told) != entries or counts.sum() != samples:
        return None
    return np.repeat(told["wait"].astype(np.int64), counts)
