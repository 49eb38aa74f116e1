"""Rows of the output list: movies to be made, with what is known of their making."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from ezvar.core.timing import FrameRange

from .presets import CaptionsGo, Preset, SoundCoding
from .receiving import Receiving

PATTERN = "{lock} {master} {range}"
Exists = Literal["replace", "number", "leave"]


@dataclass(frozen=True, slots=True)
class Heard:
    """What is heard in a row: the lock's ``tracks`` of these numbers, mixed, or each ``apart`` as a track of the movie.

    Where none is named it is what the lock is heard with by itself: all of a timeline, the first of a movie; all where
    they are apart. Or it is a sound ``file`` of its own, that begins with the row's first frame.
    """

    tracks: tuple[int, ...] = ()
    apart: bool = False
    file: str = ""

    def __post_init__(self) -> None:
        if any(number < 1 for number in self.tracks):
            raise ValueError("tracks are counted from 1")


@dataclass(frozen=True, slots=True)
class Row:
    """One movie to be made: lock frames ``start`` to ``end`` of a master, by a preset.

    ``label`` is the name of the range, empty for the whole. The file's name follows ``pattern``, in Python's brace
    format; an empty ``folder`` is the one beside the project. ``exists`` says what
    becomes of a file that is there already, ``receiver`` who is to take it.
    """

    id: str
    master: str
    start: int
    end: int
    label: str = ""
    preset: Preset = field(default_factory=lambda: Preset("delivery, H.264"))
    pattern: str = PATTERN
    folder: str = ""
    exists: Exists = "replace"
    receiver: Receiving | None = None
    heard: Heard = Heard()

    def __post_init__(self) -> None:
        if not 0 <= self.start < self.end:
            raise ValueError("a row has at least one frame")

    @property
    def range(self) -> FrameRange:
        return FrameRange(self.start, self.end)


@dataclass(frozen=True, slots=True)
class Listed:
    """A row as the document keeps it: only how it differs from what it would be by itself.

    ``label`` names a range of the master, empty for the whole. ``start`` and
    ``end`` are lock frames, ``None`` for those of the range. A ``preset``,
    ``captions`` or ``sound`` that are ``None`` are those of the default
    preset, or of the preset.
    """

    id: str
    master: str
    label: str = ""
    start: int | None = None
    end: int | None = None
    preset: Preset | None = None
    captions: CaptionsGo | None = None
    sound: SoundCoding | None = None
    pattern: str = PATTERN
    folder: str = ""
    exists: Exists = "replace"
    receiver: Receiving | None = None
    heard: Heard = Heard()

    def __post_init__(self) -> None:
        if (self.start is None) != (self.end is None):
            raise ValueError("a row has both ends of its range, or neither")
        if self.start is not None and self.end is not None and not 0 <= self.start < self.end:
            raise ValueError("a row has at least one frame")


def listed_id(master: str, label: str = "") -> str:
    """The id of the row that a master, or a named range of it, has by itself."""
    return f"{master} {label}".strip()
