"""Rows of the output list: movies to be made, with what is known of their making."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from ezvar.core.timing import FrameRange

from .presets import Preset

PATTERN = "{lock} {master} {range}"
Exists = Literal["replace", "number", "leave"]


@dataclass(frozen=True, slots=True)
class Row:
    """One movie to be made: lock frames ``start`` to ``end`` of a master, by a preset.

    ``label`` is the name of the range, empty for the whole. The file's name follows ``pattern``, in Python's brace
    format; an empty ``folder`` is the one beside the project. ``exists`` says what
    becomes of a file that is there already.
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
    """What was made of a row: the ``file``, with a ``stamp`` that tells it from a changed one, the ``parts`` that it
    consists of, and the name of the ``sound`` in it."""

    file: str
    stamp: str
    parts: tuple[MadePart, ...]
    sound: str = ""
