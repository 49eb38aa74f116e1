"""Titles and graphics that are made here, how whole designs of them look, and where single items stand in a master."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from ezvar.core.timing import FrameRange

from ..checks import between, colours, finite
from ..locked import Layer, Rect
from .captions import FAMILY, Across, Down

TitleKind = Literal["title", "lower third", "label", "end card"]
Movement = Literal["none", "fade", "rise", "slide", "open"]
Side = Literal["above", "below", "left", "right"]
_MOST_LINES, _LONGEST = 4, 400


@dataclass(frozen=True, slots=True)
class TitleDesign:
    """How a title looks, for any shape.

    ``size`` is that of the first line's type as a part of the frame's shorter
    side, ``second`` that of the others beside it. ``across`` and ``down`` name
    the side that it is anchored to, ``margin`` the way from there as a part of
    the frame's width and height; it is at most ``width`` of the frame wide,
    and wrapped where it would be wider. ``ground`` is the bar's colour,
    ``ground_opacity`` 0 has none; ``stripe`` a stripe's at its side, empty
    for none. ``angle`` in degrees, clockwise. ``icon`` is an image's path that
    stands before the text. It comes and goes by a movement over so many frames.
    ``band``: in the free band above or below the picture, where there is one.
    """

    family: str = FAMILY
    font: str = ""
    font_content: str = ""
    size: float = 0.06
    second: float = 0.62
    bold: bool = True
    colour: str = "#ffffff"
    second_colour: str = "#e9e6de"
    ground: str = "#1d2b36"
    ground_opacity: float = 0.85
    stripe: str = "#d8913a"
    shadow: float = 0.0
    angle: float = 0.0
    across: Across = "left"
    down: Down = "foot"
    margin: float = 0.07
    width: float = 0.8
    padding: float = 0.4
    icon: str = ""
    comes: Movement = "fade"
    goes: Movement = "fade"
    frames: int = 10
    band: bool = False

    def __post_init__(self) -> None:
        finite(angle=self.angle)
        between(
            ("the size", self.size, 0.01, 0.4),
            ("the second line's size", self.second, 0.2, 2),
            ("the ground's opacity", self.ground_opacity, 0, 1),
            ("the shadow", self.shadow, 0, 1),
            ("the margin", self.margin, 0, 0.45),
            ("the width", self.width, 0.1, 1),
            ("the padding", self.padding, 0, 2),
            ("the movement's length", self.frames, 0, 250),
        )
        colours(self.colour, self.second_colour, self.ground, *([self.stripe] if self.stripe else ()))


DESIGNS: dict[TitleKind, TitleDesign] = {
    "title": TitleDesign(
        size=0.11, second=0.45, ground_opacity=0.0, stripe="", shadow=0.6, across="centre", down="middle", width=0.9,
        comes="rise",
    ),
    "lower third": TitleDesign(down="foot", margin=0.08, comes="slide", goes="fade"),
    "label": TitleDesign(size=0.045, across="right", down="top", width=0.6, stripe="", padding=0.5),
    "end card": TitleDesign(
        size=0.085, second=0.55, ground_opacity=1.0, stripe="", across="centre", down="middle", width=0.8, padding=1.0,
    ),
}  # fmt: skip
"""What each kind begins with."""


@dataclass(frozen=True, slots=True)
class Beside:
    """That a title stands at a ``side`` of another ``item``, a title by its id or a layer of the lock by its
    `layer_key`, wherever that stands in a master; the design's margin is the way between them, of the frame's shorter
    side."""

    item: str
    side: Side = "above"


@dataclass(frozen=True, slots=True)
class Anchoring:
    """To what a layer of the lock, with its group, is anchored in masters of other shapes than the lock's.

    ``item`` is the `layer_key` of the group's first layer. ``across`` and
    ``down`` name the side, ``margin`` the way from there as a part of the
    frame's width and height; what is not said is as in the lock. ``band``: in
    the free band above or below the picture, where there is one. ``beside``
    another item, the margin is the way between them, of the shorter side.
    """

    item: str
    across: Across | None = None
    down: Down | None = None
    margin: float | None = None
    band: bool = False
    beside: Beside | None = None

    def __post_init__(self) -> None:
        if self.margin is not None:
            between(("the margin", self.margin, 0, 0.45))
        if self.beside is not None and self.beside.item == self.item:
            raise ValueError("a layer cannot stand beside itself")

    @property
    def nothing(self) -> bool:
        """Whether it says nothing."""
        return self == Anchoring(self.item)


@dataclass(frozen=True, slots=True)
class Title:
    """A title over lock frames ``start`` to ``end``: its lines, the first the largest, in a design."""

    id: str
    kind: TitleKind
    start: int
    end: int
    lines: tuple[str, ...]
    design: TitleDesign = TitleDesign()
    name: str = ""
    cover: Rect | None = None  # of the shot's picture, that a bar in its own colours hides meanwhile
    beside: Beside | None = None

    def __post_init__(self) -> None:
        if self.end <= self.start:
            raise ValueError("a title lasts at least one frame")
        if not 1 <= len(self.lines) <= _MOST_LINES or not self.lines[0].strip():
            raise ValueError(f"a title has one to {_MOST_LINES} lines, and letters in the first")
        if sum(map(len, self.lines)) > _LONGEST:
            raise ValueError(f"a title has at most {_LONGEST} letters")
        if self.beside is not None and self.beside.item == self.id:
            raise ValueError("a title cannot stand beside itself")

    @property
    def range(self) -> FrameRange:
        return FrameRange(self.start, self.end)

    @property
    def called(self) -> str:
        """Its name, or else its first line."""
        return self.name or self.lines[0]

    def come(self, frame: int) -> tuple[Movement, float]:
        """By which movement it is on its way at a lock frame it is on at, and how far it has come, 0..1."""
        length = min(self.design.frames, (self.end - self.start) // 2)
        if length and self.design.comes != "none" and frame - self.start < length:
            return self.design.comes, (frame - self.start + 1) / (length + 1)
        if length and self.design.goes != "none" and self.end - frame <= length:
            return self.design.goes, (self.end - frame) / (length + 1)
        return "none", 1.0


@dataclass(frozen=True, slots=True)
class TitleLane:
    """What holds for all titles that are made here, as for a caption track: whether they are ``shown``, and ``locked``
    against changes."""

    shown: bool = True
    locked: bool = False


def title_rows(titles: Iterable[Title]) -> dict[str, int]:
    """In which row, from 0, each title is listed along the time, by its id: as few rows as let no two that are on at
    once share one."""
    ends: list[int] = []
    rows: dict[str, int] = {}
    for title in sorted(titles, key=lambda t: t.start):
        row = next((k for k, end in enumerate(ends) if end <= title.start), len(ends))
        ends[row : row + 1] = [title.end]
        rows[title.id] = row
    return rows


@dataclass(frozen=True, slots=True)
class Placed:
    """Where an item, a title or a layer of the lock by its `layer_key`, stands in a master beside its first layout.

    ``x`` and ``y`` are parts of the frame's width and height by which it is
    moved, ``scale`` how much larger it is.
    """

    item: str
    master: str
    x: float = 0.0
    y: float = 0.0
    scale: float = 1.0
    hidden: bool = False

    def __post_init__(self) -> None:
        finite(x=self.x, y=self.y, scale=self.scale)
        if not (abs(self.x) <= 1 and abs(self.y) <= 1 and 0.1 <= self.scale <= 10):
            raise ValueError("an item is moved by a frame at most, and at most ten times as large")

    @property
    def nothing(self) -> bool:
        """Whether it says nothing."""
        return self == Placed(self.item, self.master)


def layer_key(layer: Layer) -> str:
    """By which a layer of the lock is known."""
    return f"layer {layer.track} {layer.start} {layer.name}"
