"""Names of files: read by people, safe on any disk, told apart.

Paths are text as Python keeps it: bytes of a name that are no UTF-8 stand in
it as lone surrogates (PEP 383), so that the very file is found again.
"""

from __future__ import annotations

import os
import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

LONGEST = 255
"""Bytes that a name may have on nearly every disk."""
_UNREADABLE = re.compile("[\ud800-\udfff]")
_UNSAFE = re.compile(r'[\x00-\x1f/\\?*"<>|:]')


def readable(name: str | os.PathLike[str]) -> str:
    """A name or a path as people read it; bytes that are no UTF-8 are taken for Windows-1252.

    For showing only: the file is not found under it.

    >>> readable(os.fsdecode(b"caf\\xe9.mp4"))
    'café.mp4'
    """
    return _UNREADABLE.sub(lambda m: _guessed(ord(m.group())), os.fspath(name))


def _guessed(code: int) -> str:
    return bytes([code - 0xDC00]).decode("cp1252", "replace") if 0xDC80 <= code <= 0xDCFF else "\ufffd"


@dataclass(frozen=True)
class FileName:
    """A file's name, and whether more than signs that disks refuse were changed to come to it."""

    name: str
    shortened: bool = False
    numbered: bool = False

    def told(self, of: str) -> list[str]:
        """What is to be said of it, in sentences, before a file of something called ``of`` is written."""
        said = []
        if self.numbered:
            said.append(f"{of}: another one would have the same file name, so it is “{self.name}”.")
        if self.shortened:
            said.append(f"{of}: its file name is too long for the disk, so it is “{self.name}”.")
        return said


def file_names(texts: Iterable[str], suffix: str, most: int = LONGEST) -> list[FileName]:
    """A safe name for each of several files that stand in one folder, all different, in order.

    A shape 9:16 is written 9x16; what disks refuse becomes a dash. Names
    have at most ``most`` bytes with their ``suffix``. Those that a disk which
    does not tell capitals from small letters would take for one are numbered
    from the second on.

    >>> [n.name for n in file_names(["a 9:16", "a 9x16"], ".mp4")]
    ['a 9x16.mp4', 'a 9x16 (2).mp4']
    """
    taken: set[str] = set()
    names = []
    for text in texts:
        safe = _UNSAFE.sub("-", readable(text).replace(":", "x")).strip(". ") or "unnamed"
        stem, number = _cut(safe, most - len(suffix)), 1
        while _told_apart(stem) in taken:
            number += 1
            stem = _cut(safe, most - len(suffix) - len(f" ({number})")) + f" ({number})"
        taken.add(_told_apart(stem))
        names.append(FileName(stem + suffix, len(safe.encode()) + len(suffix) > most, number > 1))
    return names


def longest_name(folder: str | os.PathLike[str]) -> int:
    """Bytes that a name may have in a folder, there already or yet to be made."""
    place = Path(os.path.abspath(folder))
    there = next((p for p in (place, *place.parents) if p.is_dir()), Path("/"))
    try:
        return min(LONGEST, os.pathconf(there, "PC_NAME_MAX"))
    except OSError:
        return LONGEST  # a disk that does not say


def _cut(text: str, most: int) -> str:
    """The beginning of a text that has at most so many bytes, without half a sign."""
    return text.encode()[: max(1, most)].decode(errors="ignore").rstrip(". ")


def _told_apart(stem: str) -> str:
    return unicodedata.normalize("NFC", stem).casefold()
