"""What a timeline file says, in one form for all formats, before any media is looked for."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal

from ezvar.core.model import Note, Placement, Wipe
from ezvar.core.timing import Rate

LONGEST = 24 * 3600 * 120
"""The most frames that a lock may have."""


@dataclass(frozen=True)
class MediaHint:
    """How a timeline names a media. ``start`` and ``length`` are its stated range, in seconds."""

    key: str
    path: str = ""  # as it stands in the file: a path or an address
    name: str = ""
    reel: str = ""
    rate: Rate | None = None
    start: Fraction | None = None
    length: Fraction | None = None
    size: tuple[int, int] | None = None
    sequence: bool = False  # of images, of which ``path`` is the first


@dataclass(frozen=True)
class Piece:
    """A clip in lock frames ``start`` to ``end``.

    ``source`` is the time in the media's own count (its timecode, in seconds)
    that the first frame shows, ``speed`` 0 a freeze frame. ``key`` names the
    media; empty is black. Of clips of upper tracks, ``opacity``, and over how
    many frames they come and go.
    """

    start: int
    end: int
    key: str = ""
    source: Fraction = Fraction(0)
    speed: Fraction = Fraction(1)
    name: str = ""
    placement: Placement = Placement()
    track: int = 1
    opacity: float = 1.0
    comes: int = 0
    goes: int = 0
    comes_by: Wipe | None = None
    goes_by: Wipe | None = None
    carried: str = ""


@dataclass(frozen=True)
class Mix:
    """A dissolve, fade or wipe over lock frames ``start`` to ``end``, around the join at ``join``."""

    kind: Literal["dissolve", "wipe"]
    join: int
    start: int
    end: int
    wipe: Wipe | None = None
    carried: str = ""


@dataclass
class Reading:
    """Everything that was read of a timeline. ``left_out`` says in sentences what is not carried."""

    name: str
    rate: Rate
    start: int = 0
    drop: bool = False
    size: tuple[int, int] | None = None
    pieces: list[Piece] = field(default_factory=list)
    upper: list[Piece] = field(default_factory=list)
    mixes: list[Mix] = field(default_factory=list)
    sounds: list[Piece] = field(default_factory=list)
    notes: list[Note] = field(default_factory=list)
    media: dict[str, MediaHint] = field(default_factory=dict)
    left_out: list[str] = field(default_factory=list)
    carried: str = ""
