"""The data classes of the document. All are immutable and say their units.

Nothing is computed here beyond looking things up: where a window lies is
`ezvar.core.framing`'s, how values change is `edits`'.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, get_args

from ezvar.core.timing import FrameRange

from .locked import Lock, Media, Placement, Rect, Source, finite

Ease = Literal["linear", "ease in", "ease out", "both", "hold"]
EASES: tuple[Ease, ...] = get_args(Ease)
CutKind = Literal["cut", "dissolve", "fade", "wipe"]
Uses = Literal["what the edit showed", "the full source"]
Decided = Literal["solved", "by hand", "from a set-up", "from review"]
Verdict = Literal["open", "agreed", "change"]
ReasonName = Literal[
    "face cut",
    "text cut",
    "subject leaves",
    "two subjects",
    "at the speed limit",
    "enlarged",
    "nothing found",
    "cut uncertain",
]

LARGEST_SIDE = 16_384


@dataclass(frozen=True)
class Cut:
    """The change of shot that begins a shot.

    ``start`` and ``end`` are lock frames: of a hard cut both are the first
    frame of the incoming shot, of a mix its first frame and the one after it.
    The incoming shot begins at ``frame``, of a mix its middle.
    ``strength`` is 0..1, ``doubt`` 0..100. ``settled`` once an editor has
    looked.
    """

    kind: CutKind
    start: int
    end: int
    strength: float = 1.0
    doubt: float = 0.0
    why: str = ""
    settled: bool = False

    def __post_init__(self) -> None:
        finite(strength=self.strength, doubt=self.doubt)

    @property
    def frame(self) -> int:
        """The first frame of the incoming shot."""
        return (self.start + self.end) // 2


@dataclass(frozen=True)
class Shot:
    """A stretch of the lock between two cuts: lock frames, ``end`` excluded."""

    id: str
    start: int
    end: int
    source: Source
    placement: Placement = Placement()
    uses: Uses = "what the edit showed"
    cut: Cut | None = None

    def __post_init__(self) -> None:
        if self.end <= self.start:
            raise ValueError("a shot has at least one frame")

    @property
    def frames(self) -> int:
        return self.end - self.start

    @property
    def range(self) -> FrameRange:
        return FrameRange(self.start, self.end)


@dataclass(frozen=True)
class Backdrop:
    """What shows where a window reaches past the picture.

    "picture" is the picture itself, enlarged and blurred; ``blur`` is the
    blur's radius as a fraction of the master's width, ``darken`` 0..1.
    """

    kind: Literal["picture", "colour"] = "picture"
    colour: str = "#000000"
    blur: float = 0.03
    darken: float = 0.35

    def __post_init__(self) -> None:
        finite(blur=self.blur, darken=self.darken)
        digits = self.colour[1:]
        if len(digits) != 6 or self.colour[0] != "#" or any(c not in "0123456789abcdefABCDEF" for c in digits):
            raise ValueError("a colour is written #rrggbb")


@dataclass(frozen=True)
class NamedRange:
    """A part of the lock that is delivered by itself: lock frames, ``end`` excluded."""

    name: str
    start: int
    end: int
    limit_seconds: float | None = None


@dataclass(frozen=True)
class Master:
    """One finished movie in one shape; width and height in pixels, both even."""

    id: str
    name: str
    width: int
    height: int
    start: Literal["fill", "whole"] = "fill"
    backdrop: Backdrop = Backdrop()
    ranges: tuple[NamedRange, ...] = ()

    def __post_init__(self) -> None:
        for side in (self.width, self.height):
            if not 16 <= side <= LARGEST_SIDE:
                raise ValueError(f"a master's sides lie between 16 and {LARGEST_SIDE} pixels")
            if side % 2:
                raise ValueError("a master's width and height must be even")


@dataclass(frozen=True)
class Keyframe:
    """Where the window is at one frame of its shot, and how it goes on.

    ``frame`` counts from the shot's first frame and may lie outside the shot
    after a cut was moved. ``cx`` and ``cy`` are the window's centre as
    fractions of the picture, ``zoom`` 1 fills (DESIGN's word), ``angle`` is
    in degrees clockwise, ``ease`` is how it moves to the next keyframe.
    """

    frame: int
    cx: float = 0.5
    cy: float = 0.5
    zoom: float = 1.0
    angle: float = 0.0
    ease: Ease = "both"

    def __post_init__(self) -> None:
        finite(cx=self.cx, cy=self.cy, zoom=self.zoom, angle=self.angle)
        if self.zoom <= 0:
            raise ValueError("zoom is above 0")


@dataclass(frozen=True)
class Pane:
    """A rectangle of the master (as fractions of it) with its own window path."""

    keys: tuple[Keyframe, ...]
    rect: Rect = Rect()
    backdrop: Backdrop | None = None  # the master's where none is given

    def __post_init__(self) -> None:
        frames = [k.frame for k in self.keys]
        if not frames or frames != sorted(set(frames)):
            raise ValueError("a pane has keyframes in order, one a frame")


@dataclass(frozen=True)
class Reason:
    """One reason for doubt: its name and weight 0..1."""

    name: ReasonName
    weight: float

    def __post_init__(self) -> None:
        if not 0 <= self.weight <= 1:
            raise ValueError("a reason weighs between 0 and 1")


@dataclass(frozen=True)
class Framing:
    """How one shot sits in one master, and how that was decided."""

    shot: str
    master: str
    panes: tuple[Pane, ...]
    decided: Decided = "solved"
    why: str = ""
    reasons: tuple[Reason, ...] = ()
    verdict: Verdict = "open"

    def __post_init__(self) -> None:
        if not self.panes:
            raise ValueError("a framing has at least one pane")


@dataclass(frozen=True)
class Exchanged:
    """The decision on one framing that both sides of a handoff last had, by its digest."""

    shot: str
    master: str
    digest: str


@dataclass(frozen=True)
class Document:
    """Everything known and decided. Shots fill the lock without gaps, in order."""

    lock: Lock
    shots: tuple[Shot, ...] = ()
    masters: tuple[Master, ...] = ()
    framings: tuple[Framing, ...] = ()
    exchanged: tuple[Exchanged, ...] = field(default=())
    aside: tuple[Framing, ...] = ()  # decisions on shots that a changed lock no longer has
    passed: tuple[Cut, ...] = ()  # changes taken for no cuts that still deserve a look

    def __post_init__(self) -> None:
        at = 0
        for shot in self.shots:
            if shot.start != at:
                raise ValueError(f"shot {shot.id} starts at frame {shot.start}, not at {at}")
            at = shot.end
        if self.shots and at != self.lock.frames:
            raise ValueError(f"the shots end at frame {at}, the lock at {self.lock.frames}")
        for what, ids in (
            ("shot", [s.id for s in self.shots]),
            ("master", [m.id for m in self.masters]),
            ("framing", [(f.shot, f.master) for f in self.framings]),
        ):
            if len(set(ids)) != len(ids):
                raise ValueError(f"one {what} is there twice")
        media = {m.id for m in self.lock.media}
        masters = {m.id for m in self.masters}
        if any(s.source.media not in media for s in self.shots):
            raise ValueError("a shot shows media that the lock does not list")
        known = self._shot_places
        if any(f.shot not in known or f.master not in masters for f in self.framings):
            raise ValueError("a framing belongs to no shot or no master")

    @cached_property
    def _shot_places(self) -> dict[str, int]:
        return {shot.id: k for k, shot in enumerate(self.shots)}

    @cached_property
    def _media(self) -> dict[str, Media]:
        return {m.id: m for m in self.lock.media}

    @cached_property
    def _framings(self) -> dict[tuple[str, str], Framing]:
        return {(f.shot, f.master): f for f in self.framings}

    def shot(self, shot: str) -> Shot:
        """The shot with this id; `KeyError` when there is none."""
        return self.shots[self._shot_places[shot]]

    def place_of(self, shot: str) -> int:
        """The place of a shot in the order, from 0."""
        return self._shot_places[shot]

    def shot_at(self, frame: int) -> Shot:
        """The shot that owns a lock frame; frames outside give the nearest."""
        low, high = 0, len(self.shots) - 1
        while low < high:
            middle = (low + high + 1) // 2
            if self.shots[middle].start <= frame:
                low = middle
            else:
                high = middle - 1
        return self.shots[low]

    def master(self, master: str) -> Master:
        """The master with this id; `KeyError` when there is none."""
        for candidate in self.masters:
            if candidate.id == master:
                return candidate
        raise KeyError(master)

    def media_of(self, shot: Shot) -> Media:
        """The media that a shot shows."""
        return self._media[shot.source.media]

    def framing(self, shot: str, master: str) -> Framing | None:
        """How a shot sits in a master, once decided."""
        return self._framings.get((shot, master))
