"""Captions: timed text over the picture, how a track of them looks in a master, and where single ones differ.

Times are whole milliseconds from the lock's first frame, since caption files
count so and come back unchanged; `frames` says which frames that is.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property
from itertools import groupby
from typing import Literal

from ezvar.core.timing import FrameRange, Rate

from ..checks import between, colours, finite

Across = Literal["left", "centre", "right"]
Down = Literal["top", "middle", "foot"]
Ground = Literal["none", "lines", "block"]

TO_WRITE = "…"
"""Stands where words are still to be written."""
FAMILY = "Atkinson Hyperlegible Next"
"""The family of type that captions begin with; it is shipped."""
LONGEST = 2000
"""Letters that a caption has at most."""


@dataclass(frozen=True, slots=True)
class Span:
    """Letters of a caption in one way of writing; a line break is a line feed in ``text``."""

    text: str
    italic: bool = False
    bold: bool = False
    underline: bool = False

    @property
    def plain(self) -> bool:
        return not (self.italic or self.bold or self.underline)


def joined(spans: Iterable[Span]) -> tuple[Span, ...]:
    """Spans with neighbours of one way of writing in one, and none that is empty.

    >>> [span.text for span in joined((Span("a"), Span(""), Span("b"), Span("c", italic=True)))]
    ['ab', 'c']
    """
    groups = groupby((span for span in spans if span.text), lambda span: (span.italic, span.bold, span.underline))
    return tuple(Span("".join(span.text for span in group), *style) for style, group in groups)


@dataclass(frozen=True, slots=True)
class Spot:
    """A place of a caption's own: a point, in fractions of the frame, and which side of the text lies there."""

    x: float = 0.5
    y: float = 0.9
    across: Across = "centre"
    down: Down = "foot"

    def __post_init__(self) -> None:
        finite(x=self.x, y=self.y)
        if not (0 <= self.x <= 1 and 0 <= self.y <= 1):
            raise ValueError("a caption stands inside the frame")


@dataclass(frozen=True)
class Caption:
    """One caption: on screen from ``start`` to ``end``, in milliseconds of the lock.

    ``unsure`` are words that a transcription was not sure of, by their places
    among the caption's words, from 0.
    """

    id: str
    start: int
    end: int
    spans: tuple[Span, ...]
    spot: Spot | None = None
    unsure: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if self.end <= self.start:
            raise ValueError("a caption ends after it begins")
        if not self.text.strip():
            raise ValueError("a caption has letters")
        if len(self.text) > LONGEST:
            raise ValueError(f"a caption has at most {LONGEST} letters")

    @cached_property
    def text(self) -> str:
        """Its letters alone."""
        return "".join(span.text for span in self.spans)

    @property
    def words(self) -> str:
        """Its letters in one line."""
        return " ".join(self.text.split())

    @property
    def length(self) -> int:
        """How long it stands, in milliseconds."""
        return self.end - self.start

    def frames(self, rate: Rate) -> FrameRange:
        """The lock frames that it is on: those nearest to its times, and at least one.

        >>> Caption("c", 83, 1000, (Span("Now"),)).frames(Rate(24000, 1001))
        FrameRange(start=2, end=24)
        """
        first = nearest_frame(self.start, rate)
        return FrameRange(first, max(first + 1, nearest_frame(self.end, rate)))


def nearest_frame(time: int, rate: Rate) -> int:
    """The frame whose beginning is nearest to a time in milliseconds."""
    return (2 * time * rate.numerator + 1000 * rate.denominator) // (2000 * rate.denominator)


def time_of(frame: int, rate: Rate) -> int:
    """When a frame begins, in milliseconds; `nearest_frame` gives it back.

    >>> nearest_frame(time_of(2, Rate(24000, 1001)), Rate(24000, 1001))
    2
    """
    return round(1000 * rate.seconds(frame))


@dataclass(frozen=True, slots=True)
class CaptionStyle:
    """How a track's captions look in one master.

    ``size`` is that of the type, as a part of the frame's shorter side;
    ``outline``, ``padding`` and ``letter_spacing`` are parts of the size,
    ``line_spacing`` how many sizes lie from line to line; ``shadow`` and
    ``ground_opacity`` 0..1. ``margin`` is the way from the side ``down`` of
    the frame, as a part of its height, ``side_margin`` from left and right, as
    a part of its width. ``font`` is a font file's path with ``font_content``,
    its digest, empty where the family is shipped. ``band``: in the middle of
    the free band above or below the picture, where that is shown whole.
    """

    family: str = FAMILY
    font: str = ""
    font_content: str = ""
    size: float = 0.05
    bold: bool = True
    colour: str = "#ffffff"
    outline: float = 0.0
    outline_colour: str = "#000000"
    shadow: float = 0.0
    ground: Ground = "lines"
    ground_colour: str = "#14201e"
    ground_opacity: float = 0.8
    padding: float = 0.22
    letter_spacing: float = 0.0
    line_spacing: float = 1.3
    across: Across = "centre"
    down: Down = "foot"
    margin: float = 0.1
    side_margin: float = 0.06
    lines: int = 2
    band: bool = False

    def __post_init__(self) -> None:
        between(
            ("the size", self.size, 0.01, 0.3),
            ("the outline", self.outline, 0, 0.4),
            ("the shadow", self.shadow, 0, 1),
            ("the ground's opacity", self.ground_opacity, 0, 1),
            ("the padding", self.padding, 0, 1),
            ("letter spacing", self.letter_spacing, -0.1, 1),
            ("line spacing", self.line_spacing, 0.8, 3),
            ("the margin", self.margin, 0, 0.9),
            ("the margin at the sides", self.side_margin, 0, 0.4),
            ("the number of lines", self.lines, 1, 3),
        )
        colours(self.colour, self.outline_colour, self.ground_colour)


@dataclass(frozen=True, slots=True)
class CaptionLimits:
    """What captions of a track should keep to. Lengths in milliseconds, the gap in frames."""

    letters_a_second: float = 20.0
    shortest: int = 833
    longest: int = 7000
    gap: int = 2
    letters_a_line: int = 42

    def __post_init__(self) -> None:
        if not (self.letters_a_second > 0 and 0 <= self.shortest <= self.longest and self.gap >= 0):
            raise ValueError("limits of captions are above 0, the shortest length below the longest")


@dataclass(frozen=True)
class CaptionTrack:
    """Captions of one language or purpose, in order of time. ``source`` and ``encoding`` say where they came from."""

    id: str
    name: str
    captions: tuple[Caption, ...] = ()
    language: str = ""
    source: str = ""
    encoding: str = ""
    limits: CaptionLimits = CaptionLimits()
    shown: bool = True
    locked: bool = False

    def __post_init__(self) -> None:
        if any(b.start < a.start for a, b in zip(self.captions, self.captions[1:], strict=False)):
            raise ValueError("captions come in order of time")
        if len({c.id for c in self.captions}) != len(self.captions):
            raise ValueError("one caption is there twice")

    @cached_property
    def _places(self) -> dict[str, int]:
        return {c.id: k for k, c in enumerate(self.captions)}

    @cached_property
    def _times(self) -> tuple[list[int], list[int]]:
        """When captions begin, and the latest end of all up to each."""
        latest, so_far = [], 0
        for caption in self.captions:
            so_far = max(so_far, caption.end)
            latest.append(so_far)
        return [c.start for c in self.captions], latest

    @cached_property
    def levels(self) -> dict[str, int]:
        """Of captions that are on while earlier ones still are, on which level above those they stand; 0 is not
        listed."""
        found: dict[str, int] = {}
        on: list[tuple[int, int]] = []  # ends and levels of those that may still be on
        for caption in self.captions:
            on = [(end, level) for end, level in on if end > caption.start]
            taken = {level for _, level in on}
            level = next(k for k in range(len(on) + 1) if k not in taken)
            if level:
                found[caption.id] = level
            on.append((caption.end, level))
        return found

    def at(self, frame: int, rate: Rate) -> tuple[Caption, ...]:
        """The captions that are on at a lock frame, in order of time."""
        starts, latest = self._times
        around = time_of(1, rate) + 1
        now = time_of(frame, rate)
        k, found = bisect_right(starts, now + around) - 1, []
        while k >= 0 and latest[k] >= now - around:
            if frame in self.captions[k].frames(rate):
                found.append(self.captions[k])
            k -= 1
        return tuple(reversed(found))

    def caption(self, caption: str) -> Caption:
        """The caption with this id; `KeyError` when there is none."""
        return self.captions[self._places[caption]]

    def place_of(self, caption: str) -> int:
        """The place of a caption in the order, from 0."""
        return self._places[caption]

    def __contains__(self, caption: str) -> bool:
        return caption in self._places


@dataclass(frozen=True, slots=True)
class TrackStyle:
    """The style of a track in a master."""

    track: str
    master: str
    style: CaptionStyle


@dataclass(frozen=True, slots=True)
class Differing:
    """How one caption differs from its track in one master.

    ``spans`` is other text, in which line breaks hold; ``size`` a part of the
    style's, ``lines`` how many are allowed (0: as the style says), ``spot`` its
    own place, ``raised`` how much higher than the style says it stands, as a
    part of the frame's height. ``right`` names the problems that an editor
    has looked at and let stand. ``hidden`` where it is not shown.
    """

    caption: str
    master: str
    spans: tuple[Span, ...] = field(default=())
    size: float = 1.0
    lines: int = 0
    spot: Spot | None = None
    raised: float = 0.0
    hidden: bool = False
    right: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not (0.2 <= self.size <= 2 and 0 <= self.lines <= 3 and -1 <= self.raised <= 1):
            raise ValueError("a caption is at most twice its style's size, on at most three lines")

    @property
    def nothing(self) -> bool:
        """Whether it says nothing."""
        return self == Differing(self.caption, self.master)
