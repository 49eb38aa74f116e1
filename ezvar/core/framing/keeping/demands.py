"""What a window must keep, knot by knot: corridors for its centre, made from subjects."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ezvar.core.evidence import Subject
from ezvar.core.model import Choices

TIERS = ("whole", "shoulders", "head", "face")
"""How much of a subject is kept: as much as fits, the most first. Of people without a face, and of things, the last two
are the least that shows them."""
_SIDES = {"shoulders": 0.85, "head": 0.3, "face": -0.04}  # widths of a face to each side; its box is a little wide
_ABOVE = {"shoulders": 0.55, "head": 0.5, "face": 0.0}  # heights of a face above it
_BELOW = {"shoulders": 0.75, "head": 0.15, "face": 0.0}
_ROOM = 0.012  # of the picture, around everything, for what the finders leave uncertain
_LOOK = 0.06  # of the window's width, given in the direction a subject looks or goes
_HEADROOM = 0.14  # of the window's height, by which a face stands above the middle
_SHRINKING = ("person", "animal", "vehicle", "sport", "thing", "work", "moving")
"""Kinds of which as much is kept as fits, moment by moment; of faces, text and what was drawn it is the same all
through."""
_SHOWS = 0.86  # of the window, that what is larger than it takes
_PLACED = 6.0  # times that a place which was asked for pulls more than the usual one


@dataclass(frozen=True)
class Knots:
    """The lock frames at which a path is solved, (knots,), and the shot's first and last frame among them.

    Frames before and after are those of mixes, in which the shot still shows.
    """

    frames: np.ndarray
    first: int
    last: int

    @property
    def known(self) -> np.ndarray:
        """For each knot the nearest frame of the shot itself, (knots,)."""
        return np.asarray(np.clip(self.frames, self.first, self.last))

    @property
    def own(self) -> np.ndarray:
        """Which knots lie in the shot itself, (knots,) bool."""
        return np.asarray((self.frames >= self.first) & (self.frames <= self.last))

    def there(self, subject: Subject) -> np.ndarray:
        """At which knots a subject is taken to be there, (knots,) bool; in a mix if it was at the shot's end."""
        return np.asarray(subject.there(self.known))


@dataclass(frozen=True)
class Demand:
    """What a group of subjects asks of a window along both directions, at knots.

    ``boxes`` (knots, 4) is what is to be kept: left, top, right, foot as
    fractions of the picture. ``low``, ``high`` and ``wanted`` are (knots, 2):
    the corridor for the window's centre and where it would best be.
    ``weight`` (knots,) is how much ``wanted`` pulls, 0 where nobody is there.
    ``fits`` (knots,) says whether all that is asked fits at once.
    """

    boxes: np.ndarray
    low: np.ndarray
    high: np.ndarray
    wanted: np.ndarray
    weight: np.ndarray
    fits: np.ndarray

    def where(self, flags: np.ndarray, other: Demand) -> Demand:
        """This demand, with another in its place at flagged knots."""
        one = flags[:, None]
        return Demand(
            np.where(one, other.boxes, self.boxes), np.where(one, other.low, self.low),
            np.where(one, other.high, self.high), np.where(one, other.wanted, self.wanted),
            np.where(flags, other.weight, self.weight), np.where(flags, other.fits, self.fits),
        )  # fmt: skip

    def towards(self, wanted: np.ndarray) -> Demand:
        """This demand, with the window wanted as near to places (knots, 2) as it allows."""
        return replace(self, wanted=np.clip(wanted, self.low, np.maximum(self.low, self.high)))

    def share(self, flags: np.ndarray) -> float:
        """The share of the knots that ask something at which a flag is up; 1 where none does."""
        asks = self.weight > 0
        return float(flags[asks].mean()) if asks.any() else 1.0


def keep_boxes(subject: Subject, frames: np.ndarray, tier: str = "shoulders") -> np.ndarray:
    """What of a subject is to be kept at frames: left, top, right, foot (frames, 4), fractions of the picture."""
    if subject.kind == "face":
        boxes = subject.at(frames).copy()
        wide, tall = boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1]
        near = "shoulders" if tier == "whole" else tier
        boxes[:, 0] -= _SIDES[near] * wide
        boxes[:, 2] += _SIDES[near] * wide
        boxes[:, 1] -= _ABOVE[near] * tall
        boxes[:, 3] += _BELOW[near] * tall
        if tier == "whole" and subject.around is not None:
            around = subject.around_at(frames)
            boxes[:, :2], boxes[:, 2:] = (
                np.minimum(boxes[:, :2], around[:, :2]),
                np.maximum(boxes[:, 2:], around[:, 2:]),
            )
    elif tier == "whole":
        boxes = subject.around_at(frames).copy()
    else:
        boxes = (subject.at(frames) if tier == "shoulders" else subject.core_at(frames)).copy()
    if tier != "face" and subject.kind != "work":  # the box of work is an outline already
        boxes += np.array([-_ROOM, -_ROOM, _ROOM, _ROOM])
    return np.asarray(np.clip(boxes, 0.0, 1.0))


def demand(
    group: Sequence[Subject], knots: Knots, extent: tuple[float, float], tier: str = "shoulders",
    choices: Choices = Choices(),
) -> Demand:  # fmt: skip
    """What a group asks of a window of an ``extent``, in fractions of the picture: whoever of it is there is kept."""
    count = len(knots.frames)
    low, high = np.full((count, 2), -np.inf), np.full((count, 2), np.inf)
    wanted, weight = np.full((count, 2), 0.5), np.zeros(count)
    left, right = np.full((count, 2), np.inf), np.full((count, 2), -np.inf)
    lean = np.zeros((count, 2))
    placed = choices.place != 0.5 or choices.headroom is not None
    for subject in group:
        there = knots.there(subject)
        boxes = keep_boxes(subject, knots.frames, tier)[there]
        if subject.kind in _SHRINKING:
            boxes = _shrunk(boxes, subject.core_at(knots.frames)[there], extent)
        left[there] = np.minimum(left[there], boxes[:, :2])
        right[there] = np.maximum(right[there], boxes[:, 2:])
        weight[there] = _PLACED if placed else 1.0
        if len(group) == 1:
            lean[there] = _lean(subject, extent, choices, tier in ("whole", "shoulders"))
    some = weight > 0
    half = np.array(extent) / 2
    low[some], high[some] = right[some] - half, left[some] + half
    best = (left[some] + right[some]) / 2 + lean[some]
    if tier in ("head", "face") and len(group) > 1:
        best = _with_shoulders(group[0], knots, half, best, some)
    wanted[some] = np.clip(best, low[some], np.maximum(low[some], high[some]))
    fits = np.asarray((low <= high + 1e-9).all(axis=1))
    return Demand(np.concatenate([left, right], axis=1), low, high, wanted, weight, fits)


def _shrunk(boxes: np.ndarray, cores: np.ndarray, extent: tuple[float, float]) -> np.ndarray:
    """Boxes (n, 4), those that are larger than a window of an ``extent`` as much of them as shows well, around the
    least that shows it."""
    most = _SHOWS * np.array(extent)
    over = boxes[:, 2:] - boxes[:, :2] > most
    middle = np.clip((cores[:, :2] + cores[:, 2:]) / 2, boxes[:, :2] + most / 2, boxes[:, 2:] - most / 2)
    return np.concatenate([np.where(over, middle - most / 2, boxes[:, :2]),
                           np.where(over, middle + most / 2, boxes[:, 2:])], axis=1)  # fmt: skip


def _with_shoulders(first: Subject, knots: Knots, half: np.ndarray, best: np.ndarray, some: np.ndarray) -> np.ndarray:
    """Wanted places (of the knots in ``some``), moved to where at least the first of a group shows with shoulders."""
    whole = keep_boxes(first, knots.frames)[some]
    near, far = whole[:, 2:] - half, whole[:, :2] + half
    can = knots.there(first)[some][:, None] & (near <= far)
    return np.where(can, np.clip(best, near, np.maximum(near, far)), best)


def _lean(subject: Subject, extent: tuple[float, float], choices: Choices, whole: bool) -> tuple[float, float]:
    """How far beside a subject's middle the window's is wanted, fractions of the picture; ``whole`` says that all of it
    fits, so that there is room to look into."""
    across = (0.5 - choices.place) * extent[0]
    if whole and choices.look_room and choices.place == 0.5:
        across += _LOOK * extent[0] * subject.look
    usual = _HEADROOM if subject.kind == "face" else 0.0
    return across, (usual if choices.headroom is None else choices.headroom) * extent[1]
