"""Images that are numbered in order and stand for a movie: `title.0001.png`, `title.0002.png` and so on."""

from __future__ import annotations

import os
import re
from pathlib import Path

_NUMBERED = re.compile(r"^(.*?)(\d+)(\.[A-Za-z0-9]+)$")
_MOST = 1_000_000


def image_of_sequence(first: str | os.PathLike[str], offset: int) -> Path:
    """The file of a sequence so many images after its first, whose number has as many digits at least.

    >>> image_of_sequence("/a/title.0098.png", 3).name
    'title.0101.png'
    """
    path = Path(first)
    match = _NUMBERED.match(path.name)
    if match is None:
        return path
    number = str(int(match[2]) + offset).zfill(len(match[2]))
    return path.with_name(f"{match[1]}{number}{match[3]}")


def numbers_of_sequence(first: str | os.PathLike[str]) -> tuple[str, str, str] | None:
    """What stands before the number in the name of a sequence's first image, its digits, and what stands after them;
    ``None`` where there is no number."""
    match = _NUMBERED.match(Path(first).name)
    return None if match is None else (match[1], match[2], match[3])


def length_of_sequence(first: str | os.PathLike[str]) -> int:
    """How many images there are from the first on without a gap; the first one counts in any case."""
    if _NUMBERED.match(Path(first).name) is None:
        return 1
    there = set(os.listdir(Path(first).parent))
    count = 1
    while count < _MOST and image_of_sequence(first, count).name in there:
        count += 1
    return count
