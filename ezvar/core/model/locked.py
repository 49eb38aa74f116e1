"""What was locked: the edit, the media it draws on, and what each shot shows of them.

All of it is read from a movie or a timeline file and never changed by framing.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from typing import Literal

from ezvar.core.timing import Exact, Rate, can_drop

from .checks import FARTHEST, LARGEST_SIDE, MOST_SHOTS, exactly, finite, frames

MediaKind = Literal["movie", "still", "sequence", "sound", "black"]
FrameRule = Literal["nearest", "blended"]

_MOST_TRACKS = 999
_FAR, _LARGEST_SCALE = 1000.0, 10_000.0  # pictures away, and times as large, that nobody means
_FAR_OFF = 1e7  # rectangles are in pixels, too
BLACK = "black"
"""The id of the media that gaps show."""


@dataclass(frozen=True, slots=True)
class Rect:
    """A rectangle as fractions of what it lies in: left, top, width, height."""

    x: float = 0.0
    y: float = 0.0
    width: float = 1.0
    height: float = 1.0

    def __post_init__(self) -> None:
        finite(x=self.x, y=self.y, width=self.width, height=self.height)
        if self.width <= 0 or self.height <= 0:
            raise ValueError("a rectangle has a width and a height")
        if max(abs(self.x), abs(self.y), self.width, self.height) > _FAR_OFF:
            raise ValueError("a rectangle lies near what it is a part of")


@dataclass(frozen=True)
class Media:
    """A movie, a still or a sequence of images that the lock draws on. Size is the picture's: upright, square pixels.
    The path of a sequence is that of its first image.

    ``start`` is the timecode of its first frame, in its own frames. ``content``
    is the fingerprint of its content; without one the media was never found,
    and size, rate and length are what the timeline lets one assume.
    """

    id: str
    path: str
    width: int
    height: int
    rate: Rate
    frames: int
    start: int = 0
    has_sound: bool = False
    content: str = ""
    kind: MediaKind = "movie"
    name: str = ""  # what the timeline calls it
    reel: str = ""  # the reel or tape that the timeline names
    turned: int = 0  # degrees counterclockwise, 0, 90, 180 or 270, by which its file is turned to stand upright

    def __post_init__(self) -> None:
        if not (1 <= self.width <= LARGEST_SIDE and 1 <= self.height <= LARGEST_SIDE):
            raise ValueError(f"a picture's sides lie between 1 and {LARGEST_SIDE} pixels")
        if self.turned not in (0, 90, 180, 270):
            raise ValueError("a picture is turned by quarters")
        if not 0 <= self.frames <= FARTHEST or not 0 <= self.start <= FARTHEST:
            raise ValueError("a media is at most a day long")

    @property
    def missing(self) -> bool:
        """Whether it was never found."""
        return not self.content and self.kind != "black"

    @cached_property
    def origin(self) -> Fraction:
        """The timecode of its first frame, in seconds."""
        return self.rate.seconds(self.start)


@dataclass(frozen=True)
class SoundClip:
    """A stretch of sound: lock frames ``start`` to ``end``, from ``source`` seconds after its media's first frame on.

    ``speed`` 2 plays twice as fast. ``track`` counts sound tracks from 1.
    """

    media: str
    start: int
    end: int
    source: Exact = Fraction(0)
    speed: Exact = Fraction(1)
    track: int = 1
    carried: str = ""  # what others say of its clip in the timeline's metadata, as the library's JSON

    def __post_init__(self) -> None:
        if not 0 <= self.start < self.end or not 1 <= self.track <= _MOST_TRACKS:
            raise ValueError("a stretch of sound lasts a frame or longer")
        exactly(source=self.source, speed=self.speed)


@dataclass(frozen=True)
class Note:
    """A marker or a note of the timeline, at lock frames ``start`` to ``end``."""

    text: str
    start: int
    end: int


@dataclass(frozen=True)
class Lock:
    """The locked edit. ``start`` is the timecode of frame 0, in frames.

    A flat movie is its own only media. ``file`` is the timeline that was read,
    empty for a flat movie. ``rule`` says which frame a media of another rate
    gives: the nearest, or two blended. ``left_out`` lists in sentences what
    the timeline says and Ezvar does not carry; ``carried`` is what others say
    of it in its metadata, as the library's JSON.
    """

    name: str
    rate: Rate
    frames: int
    width: int
    height: int
    start: int = 0
    drop: bool = False
    media: tuple[Media, ...] = ()
    file: str = ""
    rule: FrameRule = "nearest"
    sound: tuple[SoundClip, ...] = ()
    layers: tuple[Layer, ...] = ()
    notes: tuple[Note, ...] = ()
    left_out: tuple[str, ...] = ()
    carried: str = ""

    def __post_init__(self) -> None:
        if not (2 <= self.width <= LARGEST_SIDE and 2 <= self.height <= LARGEST_SIDE):
            raise ValueError(f"a lock's sides lie between 2 and {LARGEST_SIDE} pixels")
        if not 0 <= self.frames <= 24 * 3600 * self.rate.nominal:
            raise ValueError("a lock is at most a day long")
        if not 0 <= self.start <= FARTHEST:
            raise ValueError("a lock begins within a day")
        if self.drop and not can_drop(self.rate):
            raise ValueError(f"timecode drops no frames at {self.rate} a second")
        if max(len(self.sound), len(self.layers), len(self.notes), len(self.media)) > MOST_SHOTS:
            raise ValueError("a lock has no more than a million of anything")
        media = {m.id for m in self.media}
        if len(media) != len(self.media):
            raise ValueError("one media is there twice")
        if any(clip.media not in media for clip in self.sound):
            raise ValueError("a sound is of media that the lock does not list")
        if any(layer.source.media not in media | {""} for layer in self.layers):
            raise ValueError("a layer shows media that the lock does not list")

    @property
    def flat(self) -> bool:
        """Whether it is one finished movie."""
        return not self.file

    @property
    def content(self) -> str:
        """A name for what is locked: of a flat movie its content, else of what the timeline says."""
        if self.flat and self.media:
            return self.media[0].content
        said = f"{self.name} {self.rate} {self.frames} {self.start} {[(m.id, m.name, m.reel) for m in self.media]}"
        return hashlib.sha256(said.encode()).hexdigest()[:32]

    @property
    def has_sound(self) -> bool:
        known = {m.id: m for m in self.media}
        return any(known[c.media].has_sound for c in self.sounds if c.media in known)

    @property
    def sounds(self) -> tuple[SoundClip, ...]:
        """The sound of the edit; a flat movie's is its own."""
        if self.flat and self.media:
            return (SoundClip(self.media[0].id, 0, self.frames),)
        return self.sound


@dataclass(frozen=True, slots=True)
class Source:
    """What a shot or a layer shows.

    ``start`` is the media frame that the shot's first frame shows, not always
    whole; ``step`` is how many media frames each lock frame goes on: the speed
    times the media's rate over the lock's. 0 is a freeze frame, below 0 runs
    backwards.
    """

    media: str
    start: Exact
    step: Exact = Fraction(1)

    def __post_init__(self) -> None:
        for name, value in (("start", self.start), ("step", self.step)):
            if not isinstance(value, Fraction):
                object.__setattr__(self, name, Fraction(value))
        exactly(start=self.start, step=self.step)

    def at(self, offset: int) -> Fraction:
        """The media frame that is shown ``offset`` lock frames after the shot's first.

        >>> Source("m", Fraction(10), Fraction(1, 2)).at(3)
        Fraction(23, 2)
        """
        return self.start + self.step * offset

    def later(self, offset: int) -> Source:
        """The source of a shot that begins ``offset`` lock frames later in the same clip."""
        return replace(self, start=self.at(offset)) if offset and self.step else self


def _placed(x: float, y: float, scale: float) -> None:
    finite(x=x, y=y, scale=scale)
    if not 1 / _LARGEST_SCALE <= scale <= _LARGEST_SCALE:
        raise ValueError("a scale is above 0")
    if max(abs(x), abs(y)) > _FAR:
        raise ValueError("a picture stands near the frame")


@dataclass(frozen=True, slots=True)
class PlacementKey:
    """A placement's values at a frame of its shot; between keys they go evenly."""

    frame: int
    x: float = 0.0
    y: float = 0.0
    scale: float = 1.0

    def __post_init__(self) -> None:
        _placed(self.x, self.y, self.scale)


@dataclass(frozen=True, slots=True)
class Placement:
    """Where and how large the edit showed the picture in the lock's frame.

    ``x`` and ``y`` are the shift of the picture's centre from the middle as
    fractions of the lock's width and height, ``scale`` 1 means fitted into
    the lock's frame, ``crop`` is the part of the picture that was kept. The
    default shows the whole picture fitted; a flat lock has no other. Where
    there are ``keys``, they say position and scale frame by frame.
    """

    x: float = 0.0
    y: float = 0.0
    scale: float = 1.0
    crop: Rect = Rect()
    keys: tuple[PlacementKey, ...] = ()

    def __post_init__(self) -> None:
        _placed(self.x, self.y, self.scale)
        frames = [k.frame for k in self.keys]
        if frames != sorted(set(frames)):
            raise ValueError("a placement has keyframes in order, one a frame")

    def at(self, frame: int) -> PlacementKey:
        """Position and scale at a frame of the shot; outside the keys the nearest holds."""
        keys = self.keys or (PlacementKey(0, self.x, self.y, self.scale),)
        after = next((k for k, key in enumerate(keys) if key.frame > frame), len(keys))
        if after in (0, len(keys)):
            return replace(keys[max(0, after - 1)], frame=frame)
        a, b = keys[after - 1], keys[after]
        t = (frame - a.frame) / (b.frame - a.frame)
        return PlacementKey(frame, a.x + (b.x - a.x) * t, a.y + (b.y - a.y) * t, a.scale + (b.scale - a.scale) * t)

    def later(self, offset: int) -> Placement:
        """The same placement for a shot that begins ``offset`` frames later."""
        if not self.keys or not offset:
            return self
        return replace(self, keys=tuple(replace(k, frame=k.frame - offset) for k in self.keys))


WIPES = frozenset({1, 2, 3, 4, 5, 6, 21, 22, 41, 42, 101, 102, 119, 201})
"""The patterns of wipes that are drawn; all others are drawn as 1."""


@dataclass(frozen=True, slots=True)
class Wipe:
    """How a wipe goes over the frame.

    ``pattern`` is its number in SMPTE ST 258 and SMIL 2.0 (1 is a straight
    edge from left to right), ``backwards`` lets it run the other way, ``soft``
    0..1 is how wide its edge is, as a part of the way it goes.
    """

    pattern: int = 1
    backwards: bool = False
    soft: float = 0.0

    def __post_init__(self) -> None:
        if not 0 <= self.soft <= 1:
            raise ValueError("a wipe's edge is soft between 0 and 1")


@dataclass(frozen=True)
class Layer:
    """A clip of an upper picture track, over the edit's picture in lock frames ``start`` to ``end``: a title or a
    graphic.

    Its source's media is empty where the timeline names none. ``placement`` is
    where it stands in the lock's frame, as a shot's; ``opacity`` 0..1 how much
    of it is seen at most. It comes in over its first ``comes`` frames and goes
    over its last ``goes``, mixed, or by the wipes ``comes_by`` and ``goes_by``.
    """

    name: str
    start: int
    end: int
    source: Source
    track: int = 2
    placement: Placement = Placement()
    opacity: float = 1.0
    comes: int = 0
    goes: int = 0
    comes_by: Wipe | None = None
    goes_by: Wipe | None = None
    carried: str = ""  # what others say of its clip, as the lock's

    def __post_init__(self) -> None:
        frames(start=self.start, end=self.end)
        if self.end <= self.start or not 0 <= self.opacity <= 1 or min(self.comes, self.goes) < 0:
            raise ValueError("a layer lasts a frame or longer and is seen by 0 to 1")

    def seen(self, frame: int) -> float:
        """How much of it is seen at a lock frame, 0..1.

        >>> from fractions import Fraction
        >>> layer = Layer("title", 10, 20, Source("m", Fraction(0)), comes=3)
        >>> [layer.seen(n) for n in (9, 10, 12, 13, 19, 20)]
        [0.0, 0.25, 0.75, 1.0, 1.0, 0.0]
        """
        if not self.start <= frame < self.end:
            return 0.0
        come, left = self._come(frame)
        return self.opacity * min(come if self.comes_by is None else 1.0, left if self.goes_by is None else 1.0)

    def wiped(self, frame: int) -> list[tuple[Wipe, float, bool]]:
        """The wipes that are under way at a lock frame that it is on at, with how far, 0..1, they have come, and
        whether they take it away."""
        come, left = self._come(frame)
        found = [(self.comes_by, come, False)] if come < 1 else []
        found += [(self.goes_by, 1 - left, True)] if left < 1 else []
        return [(wipe, share, away) for wipe, share, away in found if wipe is not None]

    def _come(self, frame: int) -> tuple[float, float]:
        """How much of it has come, and how much has not gone, 0..1."""
        come, left = (frame - self.start + 1) / (self.comes + 1), (self.end - frame) / (self.goes + 1)
        return min(1.0, come), min(1.0, left)
