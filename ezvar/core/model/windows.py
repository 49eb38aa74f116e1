"""What a window does: keyframes, what was asked of it, and what shows where it reaches past the picture."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal, get_args

from ezvar.core.timing import FrameRange

from .checks import MOST_SHOTS, between, colours, finite, frames
from .locked import Rect

Ease = Literal["linear", "ease in", "ease out", "both", "hold"]
EASES: tuple[Ease, ...] = get_args(Ease)
LEAST_BEND = 0.1
_FAR, _TURNS, _HAIR = 1000.0, 100, 1e-3  # pictures away, and turns round, that nobody means; parts of a picture
LEAST_ZOOM = 1 / _FAR
"""Of any keyframe."""
LOOSEST, TIGHTEST = 0.02, 50.0
"""The least and the greatest zoom that can be asked for."""


@dataclass(frozen=True, slots=True)
class Backdrop:
    """What shows where a window reaches past the picture.

    "picture" is the picture itself, "media" the movie or image at the path
    ``media``; both cover the frame, enlarged by ``zoom`` (at least 1), blurred
    with a radius of ``blur`` widths of the frame, darkened by ``darken`` 0..1
    and tinted with ``colour`` by ``tint`` 0..1. ``strength`` 0..1 is how much
    of them shows above plain ``colour``, which is all that "colour" shows.
    ``shadow`` 0..1 is how dark the shadow is that the picture throws on it.
    """

    kind: Literal["picture", "colour", "media"] = "picture"
    colour: str = "#000000"
    blur: float = 0.03
    darken: float = 0.35
    zoom: float = 1.0
    tint: float = 0.0
    strength: float = 1.0
    shadow: float = 0.0
    media: str = ""

    def __post_init__(self) -> None:
        finite(blur=self.blur, zoom=self.zoom)
        colours(self.colour)
        shares = {"darken": self.darken, "tint": self.tint, "strength": self.strength, "shadow": self.shadow}
        between(*((f"a backdrop's {name}", value, 0, 1) for name, value in shares.items()))
        if not (0 <= self.blur <= 1 and 1 <= self.zoom <= 20):
            raise ValueError("a backdrop is blurred by at most its width and enlarged 1 to 20 times")
        if (self.kind == "media") != bool(self.media):
            raise ValueError("a backdrop names a movie or an image just when it shows one")


@dataclass(frozen=True, slots=True)
class Keyframe:
    """Where the window is at one frame of its shot, and how it goes on.

    ``frame`` counts from the shot's first frame and may lie outside the shot,
    after a cut was moved and for as long as a mix lasts. ``cx`` and ``cy`` are
    the window's centre as fractions of the picture, ``zoom`` 1 fills
    (DESIGN's word), ``angle`` is in degrees clockwise, ``ease`` is how it
    moves to the next keyframe. ``bend`` is how that curve was bent by hand,
    `LEAST_BEND` to 1 less that: 0.5 not at all, above it the window comes
    along sooner, below it later.
    """

    frame: int
    cx: float = 0.5
    cy: float = 0.5
    zoom: float = 1.0
    angle: float = 0.0
    ease: Ease = "both"
    bend: float = 0.5

    def __post_init__(self) -> None:
        finite(cx=self.cx, cy=self.cy, zoom=self.zoom, angle=self.angle, bend=self.bend)
        if self.zoom <= 0:
            raise ValueError("zoom is above 0")
        if (
            max(abs(self.cx), abs(self.cy)) > _FAR
            or not LEAST_ZOOM <= self.zoom <= _FAR
            or abs(self.angle) > _TURNS * 360
        ):
            raise ValueError("a window stands near the picture, and is neither a hair nor a country wide")
        frames(frame=self.frame)
        if not LEAST_BEND <= self.bend <= 1 - LEAST_BEND:
            raise ValueError(f"a curve is bent by {LEAST_BEND:g} to {1 - LEAST_BEND:g}")


@dataclass(frozen=True, slots=True)
class Sight:
    """One sight of a subject, by which it is known again: a frame of the shot, and its box as fractions of the
    picture."""

    frame: int
    box: Rect


@dataclass(frozen=True, slots=True)
class Turn:
    """Whom to follow from a frame of the shot on, until the next turn: one subject, or several at once."""

    frame: int
    subjects: tuple[Sight, ...]

    def __post_init__(self) -> None:
        if not self.subjects:
            raise ValueError("a turn names whom to follow")


@dataclass(frozen=True, slots=True)
class Choices:
    """What an editor has asked of the solver; by default nothing, so that it chooses by itself.

    ``follow`` are whom to follow, turn by turn. ``pace`` 0..1 takes the place
    of the master's. ``keep_text`` keeps blocks of text whole before anything
    else. ``place`` 0..1 is where across the window the subject should stand
    (0.5 the middle), ``headroom`` how far above the window's middle a face
    should stand, in heights of the window; ``None`` leaves it to the solver.
    ``look_room`` gives room in the direction in which a subject looks or goes.
    ``loosest`` and ``tightest`` bound the zoom; ``None`` keeps the master's
    starting one. ``move`` "gentle" lets the window move over a picture that
    does not, a still most of all. ``with_bars`` shows black bars that are part
    of the picture, which are trimmed otherwise.
    """

    follow: tuple[Turn, ...] = ()
    pace: float | None = None
    keep_text: bool = False
    place: float = 0.5
    headroom: float | None = None
    look_room: bool = True
    loosest: float | None = None
    tightest: float | None = None
    move: Literal["", "gentle"] = ""
    with_bars: bool = False

    def __post_init__(self) -> None:
        if self.pace is not None and not 0 <= self.pace <= 1:
            raise ValueError("pace lies between 0 and 1")
        if not 0 <= self.place <= 1 or not -0.5 <= (self.headroom or 0.0) <= 0.5:
            raise ValueError("a subject is placed within the window")
        bounds = [z for z in (self.loosest, self.tightest) if z is not None]
        if any(not LOOSEST <= z <= TIGHTEST for z in bounds) or bounds != sorted(bounds):
            raise ValueError(f"zooms lie between {LOOSEST:g} and {TIGHTEST:g}, the loosest below the tightest")
        frames = [t.frame for t in self.follow]
        if frames != sorted(set(frames)):
            raise ValueError("turns come in order, one a frame")

    def later(self, offset: int) -> Choices:
        """The same choices for a shot that begins ``offset`` frames later."""
        turns = tuple(
            Turn(t.frame - offset, tuple(replace(s, frame=s.frame - offset) for s in t.subjects)) for t in self.follow
        )
        return replace(self, follow=turns)


@dataclass(frozen=True, slots=True)
class Pane:
    """A rectangle of the master (as fractions of it) with its own window path.

    ``trim`` is the part of the picture that the window lies in, the whole
    where nothing is trimmed. ``by_hand`` are the stretches of the path, in
    frames of the shot, in order and apart, that an editor has set; the solver
    leaves them alone. ``choices`` are what was asked of it for the rest.
    ``shot`` is another shot that the pane shows from its first frame on, in
    place of its own.
    """

    keys: tuple[Keyframe, ...]
    rect: Rect = Rect()
    backdrop: Backdrop | None = None  # the master's where none is given
    trim: Rect = Rect()
    by_hand: tuple[FrameRange, ...] = ()
    choices: Choices = Choices()
    shot: str = ""

    def __post_init__(self) -> None:
        at_frames = [k.frame for k in self.keys]
        if not at_frames or at_frames != sorted(set(at_frames)):
            raise ValueError("a pane has keyframes in order, one a frame")
        at = None
        for stretch in self.by_hand:
            if not len(stretch) or (at is not None and stretch.start < at):
                raise ValueError("stretches by hand come in order and apart")
            at = stretch.end
        if max(len(self.keys), len(self.by_hand), len(self.choices.follow)) > MOST_SHOTS:
            raise ValueError("a pane has no more than a million of anything")
        t = self.trim
        if min(t.width, t.height, self.rect.width, self.rect.height) < _HAIR:
            raise ValueError("what is left of a trimmed picture is wider than a hair")
        if t.x < 0 or t.y < 0 or t.x + t.width > 1 + 1e-9 or t.y + t.height > 1 + 1e-9:
            raise ValueError("what is left of a trimmed picture lies inside it")

    def later(self, offset: int) -> Pane:
        """The same path for a shot that begins ``offset`` frames later: it stays where it is in time."""
        if not offset:
            return self
        return replace(
            self,
            keys=tuple(replace(k, frame=k.frame - offset) for k in self.keys),
            by_hand=tuple(FrameRange(s.start - offset, s.end - offset) for s in self.by_hand),
            choices=self.choices.later(offset),
        )


@dataclass(frozen=True, slots=True)
class Arrangement:
    """How several panes share a master's frame: their rectangles (fractions of it), in order, and what is between.

    ``gap`` and ``border`` are their widths as fractions of the frame's
    shorter side, ``colour`` is theirs.
    """

    name: str
    rects: tuple[Rect, ...]
    gap: float = 0.0
    border: float = 0.0
    colour: str = "#000000"

    def __post_init__(self) -> None:
        if not 2 <= len(self.rects) <= 9:
            raise ValueError("an arrangement has two to nine panes")
        if any(r.x < 0 or r.y < 0 or r.x + r.width > 1 + 1e-9 or r.y + r.height > 1 + 1e-9 for r in self.rects):
            raise ValueError("panes lie inside the frame")
        if not (0 <= self.gap <= 0.2 and 0 <= self.border <= 0.1):
            raise ValueError("gaps take at most a fifth of the frame, borders a tenth")
        Backdrop(kind="colour", colour=self.colour)
