"""How shots sit in masters, how that was decided, and what was decided before."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from math import prod
from typing import Literal

from .checks import MOST_PANES
from .locked import Rect
from .windows import Arrangement, Pane

Decided = Literal["solved", "by hand", "from a set-up", "from review"]
Verdict = Literal["open", "agreed", "change"]
ReasonName = Literal[
    "face cut",
    "shoulders cut",
    "person cut",
    "text cut",
    "subject leaves",
    "two subjects",
    "at the speed limit",
    "enlarged",
    "nothing found",
    "close to the edge",
    "does not fit",
    "only a thing",
    "cut uncertain",
]

MOST_HELD = 3
"""Alternatives of a framing that can be held."""


@dataclass(frozen=True, slots=True)
class Reason:
    """One reason for doubt: its name and weight 0..1."""

    name: ReasonName
    weight: float

    def __post_init__(self) -> None:
        if not 0 <= self.weight <= 1:
            raise ValueError("a reason weighs between 0 and 1")


def doubt(reasons: Iterable[Reason]) -> int:
    """The doubt, 0..100, that reasons add up to: 100·(1 − ∏(1 − weight)).

    >>> doubt([Reason("face cut", 0.5), Reason("enlarged", 0.5)])
    75
    """
    return round(100 * (1 - prod(1 - r.weight for r in reasons)))


@dataclass(frozen=True, slots=True)
class Held:
    """A framing that is held beside the present one, to be compared with it."""

    panes: tuple[Pane, ...]
    arrangement: Arrangement | None = None
    decided: Decided = "solved"
    why: str = ""
    reasons: tuple[Reason, ...] = ()


@dataclass(frozen=True)
class Framing:
    """How one shot sits in one master, and how that was decided.

    ``arrangement`` is how several panes share the frame, ``sound`` the pane
    (from 0) whose shot gives the sound, -1 the lock. ``held`` are up to
    `MOST_HELD` alternatives.
    """

    shot: str
    master: str
    panes: tuple[Pane, ...]
    decided: Decided = "solved"
    why: str = ""
    reasons: tuple[Reason, ...] = ()
    verdict: Verdict = "open"
    arrangement: Arrangement | None = None
    sound: int = -1
    held: tuple[Held, ...] = ()

    def __post_init__(self) -> None:
        if not 1 <= len(self.panes) <= MOST_PANES:
            raise ValueError(f"a framing has at least one pane, and at most {MOST_PANES}")
        if self.arrangement is not None and len(self.arrangement.rects) != len(self.panes):
            raise ValueError("an arrangement has a place for each pane")
        if not -1 <= self.sound < len(self.panes):
            raise ValueError("sound comes from one of the panes or from the lock")
        if len(self.held) > MOST_HELD:
            raise ValueError(f"at most {MOST_HELD} alternatives are held")

    @cached_property
    def doubt(self) -> int:
        """The doubt, 0..100, that its reasons add up to, whatever the verdict."""
        return doubt(self.reasons)

    def later(self, offset: int) -> Framing:
        """The same framing for a shot that begins ``offset`` frames later: its paths stay where they are in time."""
        if not offset:
            return self
        held = tuple(replace(h, panes=tuple(p.later(offset) for p in h.panes)) for h in self.held)
        return replace(self, panes=tuple(p.later(offset) for p in self.panes), held=held)


@dataclass(frozen=True, slots=True)
class Drawn:
    """A subject that an editor has drawn on one frame of a shot and that was tracked from there.

    ``drawn`` is that frame, ``frames`` the frames of the shot at which it was
    found, in order, ``boxes`` its places there as fractions of the picture.
    ``before`` and ``after`` say in a sentence why its way begins and ends
    where it does, empty where the shot does.
    """

    id: str
    shot: str
    drawn: int
    frames: tuple[int, ...]
    boxes: tuple[Rect, ...]
    before: str = ""
    after: str = ""

    def __post_init__(self) -> None:
        if not self.frames or len(self.frames) != len(self.boxes):
            raise ValueError("a drawn subject has a box on each of its frames")
        if list(self.frames) != sorted(set(self.frames)) or self.drawn not in self.frames:
            raise ValueError("a drawn subject's frames come in order, with the one it was drawn on")

    def later(self, offset: int) -> Drawn:
        """The same subject for a shot that begins ``offset`` frames later."""
        return replace(self, drawn=self.drawn - offset, frames=tuple(n - offset for n in self.frames))


@dataclass(frozen=True, slots=True)
class Exchanged:
    """The decision on one framing that both sides of a handoff last had, by its digest."""

    shot: str
    master: str
    digest: str


@dataclass(frozen=True, slots=True)
class Played:
    """That a framing was played as it looked then, by a digest of what it shows."""

    shot: str
    master: str
    look: str


@dataclass(frozen=True, slots=True)
class Past:
    """What a framing was before somebody changed it: ``who``, when (``moment`` in UTC, ISO 8601, to the second), and
    by which step, as it is called."""

    framing: Framing
    moment: str
    who: str
    step: str
