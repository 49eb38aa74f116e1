"""Rows of the output list: movies to be made, with what is known of their making."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from ezvar.core.timing import FrameRange

from .presets import Preset

PATTERN = "{lock} {master} {range}"
Exists = Literal["replace", "number", "leave"]
RowState = Literal["waits", "stopped", "failed", "made"]


@dataclass(frozen=True, slots=True)
class Row:
    """One movie to be made: lock frames ``start`` to ``end`` of a master, by a preset.

    ``label`` is the name of the range, empty for the whole. ``tracks`` are
    the sound tracks that are heard, all where none is named; ``apart`` keeps
    each as a track of its own. ``sound_file`` is heard in place of the
    lock's sound. The file's name follows ``pattern``, in Python's brace
    format; an empty ``folder`` is the one beside the project. ``exists`` says what
    becomes of a file that is there already.
    """

    id: str
    master: str
    start: int
    end: int
    label: str = ""
    preset: Preset = field(default_factory=lambda: Preset("delivery, H.264"))
    tracks: tuple[int, ...] = ()
    apart: bool = False
    sound_file: str = ""
    pattern: str = PATTERN
    folder: str = ""
    exists: Exists = "replace"

    def __post_init__(self) -> None:
        if not 0 <= self.start < self.end:
            raise ValueError("a row has at least one frame")

    @property
    def range(self) -> FrameRange:
        return FrameRange(self.start, self.end)


@dataclass(frozen=True, slots=True)
class MadePart:
    """A part of a file that was made: lock frames, and the name of what it shows."""

    start: int
    end: int
    name: str


@dataclass(frozen=True)
class Making:
    """How far a row has come.

    ``revision`` names the document that it was put in with. ``file`` is what
    was made of it, ``stamp`` tells that file from a changed one; ``parts`` are
    what it consists of, ``sound`` names what is heard in it. ``said`` is what
    went wrong; ``report`` what the check found, as JSON.
    """

    row: str
    state: RowState = "waits"
    revision: str = ""
    file: str = ""
    stamp: str = ""
    parts: tuple[MadePart, ...] = ()
    sound: str = ""
    said: tuple[str, ...] = ()
    report: str = ""
    when: str = ""
