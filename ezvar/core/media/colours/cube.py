"""Colour tables: what R'G'B' becomes, on an even lattice, read from `.cube` files."""

from __future__ import annotations

import hashlib
import os
import threading
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from cachetools import LRUCache

from ezvar.core.errors import MediaError
from ezvar.core.way_in import decoded, read_bytes

from .tags import ColourTags

CUBE_SUFFIX = ".cube"
_SIDES = {"LUT_3D_SIZE": (2, 129), "LUT_1D_SIZE": (2, 65536)}
_REMEDY = "Export it again as a .cube file"


@dataclass(frozen=True, eq=False)
class ColourTable:
    """What colours become: ``values`` float32 (blue, green, red, 3) of a lattice, or (n, 3) of three curves, at even
    steps from ``low`` to ``high``, three numbers each. Values and colours are R'G'B' with 0 black and 1 white.

    What lies between is interpolated, what lies outside is what its edge is. ``tags`` are the colours' afterwards
    where the table says; else they stay.
    """

    values: np.ndarray
    low: tuple[float, float, float] = (0.0, 0.0, 0.0)
    high: tuple[float, float, float] = (1.0, 1.0, 1.0)
    tags: ColourTags | None = None

    @property
    def of_curves(self) -> bool:
        """Whether each of red, green and blue goes by itself."""
        return self.values.ndim == 2

    @cached_property
    def name(self) -> str:
        """A name by content: tables of one name do the same."""
        said = repr((self.low, self.high, self.tags, self.values.shape)).encode()
        return hashlib.sha256(said + np.ascontiguousarray(self.values).tobytes()).hexdigest()[:32]

    @cached_property
    def text(self) -> str:
        """As a `.cube` file, with nothing in it but the table."""
        kind = "LUT_1D_SIZE" if self.of_curves else "LUT_3D_SIZE"
        domain = "".join(
            f"{what} {' '.join(f'{v:.9g}' for v in ends)}\n"
            for what, ends in (("DOMAIN_MIN", self.low), ("DOMAIN_MAX", self.high))
        )
        rows = self.values.reshape(-1, 3)
        return f"{kind} {len(self.values)}\n{domain}" + "".join(f"{r:.7f} {g:.7f} {b:.7f}\n" for r, g, b in rows)


def read_cube(path: str | os.PathLike[str]) -> ColourTable:
    """A colour table from a `.cube` file, of three dimensions or one.

    Raises `MediaError`, with the line, for what is no such table.
    """
    data = read_bytes(path, MediaError, "a colour table")
    text = decoded(data, ("utf-8-sig", "latin-1")) or ""
    side = 0
    cubic = True
    ends = {"DOMAIN_MIN": (0.0, 0.0, 0.0), "DOMAIN_MAX": (1.0, 1.0, 1.0)}
    numbers: list[str] = []
    first = 0
    for number, line in enumerate(text.splitlines(), 1):
        words = line.split("#", 1)[0].split()
        if not words or words[0] == "TITLE":
            continue
        if words[0] in _SIDES:
            side, cubic = _side(words, path, number), words[0] == "LUT_3D_SIZE"
        elif words[0] in ends:
            ends[words[0]] = _three(words[1:], path, number)
        elif words[0][0].isalpha() and words[0][:3].lower() not in ("nan", "inf"):
            continue  # a word of some program's own
        elif len(words) != 3:
            raise _wrong("a colour has three numbers", path, number)
        else:
            first = first or number
            numbers += words
    wanted = side**3 if cubic else side
    if not side:
        raise _wrong("it is no colour table: no size is stated", path)
    if len(numbers) != 3 * wanted:
        raise _wrong(f"it has {len(numbers) // 3} colours instead of {wanted}", path)
    try:
        with np.errstate(over="ignore"):  # what is beyond is not finite, and told below
            values = np.array(numbers, dtype=np.float32)
    except ValueError as error:
        raise _wrong("a colour is no number", path, first) from error
    low, high = ends["DOMAIN_MIN"], ends["DOMAIN_MAX"]
    if not np.isfinite(values).all() or any(b <= a for a, b in zip(low, high, strict=True)):
        raise _wrong("its numbers make no table", path)
    return ColourTable(values.reshape((side, side, side, 3) if cubic else (side, 3)), low, high)


def known_cube(path: str | os.PathLike[str]) -> ColourTable:
    """As `read_cube`; the last few are kept for as long as their files' sizes and dates stay."""
    try:
        state = os.stat(path)
    except (OSError, ValueError):
        return read_cube(path)  # which says what is wrong
    key = str(path), state.st_size, state.st_mtime_ns
    with _KEPT_LOCK:
        if (kept := _KEPT.get(key)) is not None:
            return kept
    table = read_cube(path)
    with _KEPT_LOCK:
        _KEPT[key] = table
    return table


_KEPT: LRUCache[tuple[str, int, int], ColourTable] = LRUCache(maxsize=8)
_KEPT_LOCK = threading.Lock()


def _side(words: list[str], path: str | os.PathLike[str], line: int) -> int:
    least, most = _SIDES[words[0]]
    if len(words) != 2 or not words[1].isascii() or not words[1].isdigit() or not least <= int(words[1][:9]) <= most:
        raise _wrong(f"its size lies between {least} and {most}", path, line)
    return int(words[1])


def _three(words: list[str], path: str | os.PathLike[str], line: int) -> tuple[float, float, float]:
    try:
        red, green, blue = (float(word) for word in words)
    except ValueError as error:
        raise _wrong("a limit has three numbers", path, line) from error
    if not np.isfinite((red, green, blue)).all():
        raise _wrong("a limit has three numbers", path, line)
    return red, green, blue


def _wrong(what: str, path: str | os.PathLike[str], line: int = 0) -> MediaError:
    return MediaError(what, file=path, place=f"line {line}" if line else None, remedy=_REMEDY)
