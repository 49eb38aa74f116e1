"""Files of pieces of something long: each is named by what it is of, where the piece starts, and where it ends."""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from pathlib import Path

Piece = tuple[int, int]
"""Where a piece starts, and where it ends."""


def piece_name(name: str, start: int, end: int) -> str:
    """What the piece from ``start`` to ``end`` of ``name`` is called.

    >>> piece_name("look-5c", -20, 300)
    'look-5c_-20_300'
    """
    return f"{name}_{start}_{end}"


def pieces_in(folder: str | os.PathLike[str], suffix: str) -> dict[str, list[Piece]]:
    """The pieces that a folder has, by what they are of, in order. None where it cannot be read."""
    found: dict[str, list[Piece]] = {}
    try:
        names = [Path(e.name) for e in os.scandir(folder) if e.name.endswith(suffix)]
    except OSError:
        return {}
    for path in names:
        name, _, rest = path.stem.partition("_")
        start, _, end = rest.partition("_")
        if start.lstrip("-").isdecimal() and end.lstrip("-").isdecimal():
            found.setdefault(name, []).append((int(start), int(end)))
    return {name: sorted(pieces) for name, pieces in found.items()}


def gaps(start: int, end: int, pieces: Iterable[Piece]) -> list[Piece]:
    """What of ``start`` to ``end`` no piece covers.

    >>> gaps(0, 100, [(-5, 10), (40, 60), (50, 70)])
    [(10, 40), (70, 100)]
    """
    found, at = [], start
    for first, last in sorted(pieces):
        if first > at:
            found.append((at, min(first, end)))
        at = max(at, last)
        if at >= end:
            break
    if at < end:
        found.append((at, end))
    return [(a, b) for a, b in found if a < b]


def joined_up(pieces: Iterable[Piece]) -> list[Piece]:
    """Pieces as those that they make together where they touch.

    >>> joined_up([(5, 8), (0, 3), (3, 5), (10, 12)])
    [(0, 8), (10, 12)]
    """
    found: list[Piece] = []
    for start, end in sorted(pieces):
        if found and start <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], end)
        else:
            found.append((start, end))
    return found


def covering(start: int, end: int, pieces: Sequence[Piece]) -> list[Piece]:
    """Those pieces that have something of ``start`` to ``end``."""
    return [piece for piece in pieces if piece[0] < end and piece[1] > start]
