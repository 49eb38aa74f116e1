"""People, animals, vehicles and things that are subjects, and which of them are one: a hand and what it holds, a rider
and what carries them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..regions import RegionKind
from ..subject import PEOPLE, TIMES, Subject
from .boxes import covered
from .drift import Drift
from .reaching import LIMBS, UPRIGHT, reaches_in
from .steadying import steadied
from .tracks import Track

_SURE = 0.5  # confidence from which what was found is nearly always there
_LIKELY = 0.38  # and from which it is if it moves as well
_DOUBTED, _CERTAIN = 0.36, 0.65
"""Confidence from which what rests counts at all, and wholly; what moves does at `_SURE`."""
_DOUBTED_THING = 0.42  # the same for things at rest, which textures are taken for now and then
_BEST = 80  # percentile of its sights' confidence that counts
_OFTEN = 0.65  # share of the looks from its first sight to its last, from which it counts wholly
_MOVES = 0.5  # of its own size, over which something must go to be moving
_OWN = {"person": 0.55, "animal": 0.8, "vehicle": 0.35, "sport": 0.35, "thing": 0.25}
"""What those that do not move count beside the same in movement: people with no face to them do by half, what stands
about hardly does."""
_OWN_LARGE, _SMALL, _FILLS = 0.7, 0.15, 0.4
"""What counts at rest of something so large that it is what the shot shows; sizes are the root of its area."""
_WIDE, _MUCH = 0.5, 0.25  # of the picture, and of its area, from which something fills it
_GROUND = 0.05  # the most that something counts that does
_MORE = 0.6  # how much more what goes its way counts
_HELD = 0.5  # share of the sights of both in which a person reaches a thing
_WHILE = 0.25  # share of a thing's sights in which the holder is seen as well
_REACHES = 0.25  # of a thing's size, beside it, at which a hand still holds it
_NEAR = 0.6  # of a held thing's size, around it, that is kept of the hand that holds it
_CARRIES = ("vehicle", "animal", "sport")
_WITHIN = 0.7  # of a box, that lies in another of which it is a part
_RIDES = 0.45  # part of a rider's box that lies over what carries them
_HEAD = (0.27, 0.7)  # of a figure's height and width: its head with what is around it
_FREE_END = 0.8  # of its height, the end of an arm that reaches in from the side
_CORE = 0.6  # of other things, the middle


@dataclass
class _Being:
    """A subject, while it is found out what it belongs to.

    ``arm`` says that it is only what reaches in from a side, -1 from the left, 1 from the right, 0 that it is not,
    ``held`` that a hand holds it.
    """

    subject: Subject
    arm: int
    held: bool


def things_of(
    found: Sequence[Track], held: Sequence[Track], looks: np.ndarray, drift: Drift, start: int, end: int, rate: float,
    shape: float,
) -> list[Subject]:  # fmt: skip
    """The subjects of tracks of people and things in frames ``start`` to ``end``, in no order.

    ``held`` are things that a hand holds, besides those ``found``, ``looks`` (looks,) the frames in which all was
    looked for. ``shape`` is the picture's width over its height.
    """
    each = [(t, t in held) for t in (*found, *held)]
    beings = [b for b in (_being(t, h, looks, drift, start, end, rate, shape) for t, h in each) if b is not None]
    return _carried(_held(_whole(beings)))


def _being(
    track: Track, held: bool, looks: np.ndarray, drift: Drift, start: int, end: int, rate: float, shape: float
) -> _Being | None:
    sure = float(np.percentile([r.confidence for r in track.regions], _BEST))
    moves = how_far(track, drift)
    if sure < (_LIKELY if moves > _MOVES or held else _SURE) or (len(track.frames) < 2 and end - start > 1.2 * rate):
        return None
    kind, arm = track.kind, reaches_in(track, shape)
    gap, reach = (round(t * rate) for t in TIMES[kind])
    frames, boxes, confidence = steadied(track, drift, gap, rate)
    made = Subject(
        0, kind, frames, boxes, confidence, 0.0, reach=reach, bridged=gap, core=core_of(kind, arm, boxes, shape)
    )
    present = float(made.there(np.arange(start, end)).mean())
    rest = min(1.0, moves / _MOVES)
    doubted = _DOUBTED if rest >= 1 or kind in LIMBS else _DOUBTED_THING
    certain = np.clip((sure - doubted) / (_CERTAIN - rest * (_CERTAIN - _SURE) - doubted), 0, 1)
    weights = [r.weight * r.confidence for r in track.regions]
    during = int(np.sum((looks >= track.frames[0]) & (looks <= track.frames[-1])))
    often = min(1.0, len(track.frames) / (_OFTEN * max(1, during)))
    pull = float(np.mean(weights)) / _SURE * present**0.5 * float(certain) * often
    size = float(np.sqrt(np.median((boxes[:, 2:] - boxes[:, :2]).prod(axis=1))))
    large = float(np.clip((size - _SMALL) / (_FILLS - _SMALL), 0, 1))
    pull *= (_OWN[kind] + large * max(0.0, _OWN_LARGE - _OWN[kind])) * (1 - rest) + livelier(moves) * rest
    if is_ground(made):
        pull = min(pull, _GROUND)
    goes = float(boxes[-1, [0, 2]].mean() - boxes[0, [0, 2]].mean())
    made = replace(made, importance=pull, look=float(np.clip(2 * goes, -1, 1)), still=rest < 1)
    return _Being(made, arm, held)


def is_ground(being: Subject) -> bool:
    """Whether something, nobody, fills the picture: a place that is taken for a thing, or a thing so near that it says
    little of where a window should be."""
    wide, high = np.median(being.boxes[:, 2:] - being.boxes[:, :2], axis=0)
    return being.kind not in PEOPLE and bool(wide >= _WIDE and wide * high >= _MUCH)


def livelier(moves: float) -> float:
    """How much more something counts that goes so far beside its own size: at most `_MORE` more."""
    return 1 + _MORE * min(1.0, moves)


def how_far(track: Track, drift: Drift) -> float:
    """How far it goes beside its own size, the camera's own movement taken out."""
    if len(track.frames) < 2:
        return 0.0
    boxes = track.boxes()
    size = float(np.median(np.sqrt((boxes[:, 2:] - boxes[:, :2]).prod(axis=1))))
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    camera = drift.of_all()
    gone, total = np.zeros(2), {}
    for n in sorted(camera):
        gone = gone + camera[n]
        total[n] = gone
    known = sorted(total)
    if known:
        moved = np.array([total[n] for n in known])
        middles = middles - np.stack([np.interp(track.frames, known, moved[:, k]) for k in (0, 1)], axis=1)
    span = np.percentile(middles, 90, axis=0) - np.percentile(middles, 10, axis=0)
    return float(np.hypot(*span) / max(size, 0.02))


def core_of(kind: RegionKind, arm: int, boxes: np.ndarray, shape: float) -> np.ndarray:
    """The least that shows something, of each of its boxes (n, 4): a figure's head, the free end of an arm, the middle
    of others. ``arm`` is -1 or 1 for what only reaches in from the left or the right, else 0."""
    wide, high = boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1]
    core = boxes.copy()
    middle = (boxes[:, 0] + boxes[:, 2]) / 2
    if not arm and kind != "person":
        return np.concatenate([
            (boxes[:, :2] + boxes[:, 2:]) / 2 - _CORE / 2 * (boxes[:, 2:] - boxes[:, :2]),
            (boxes[:, :2] + boxes[:, 2:]) / 2 + _CORE / 2 * (boxes[:, 2:] - boxes[:, :2]),
        ], axis=1)  # fmt: skip
    if not arm and float(np.median(high / np.maximum(wide * shape, 1e-6))) >= UPRIGHT:
        core[:, 0], core[:, 2] = middle - _HEAD[1] / 2 * wide, middle + _HEAD[1] / 2 * wide
        core[:, 3] = boxes[:, 1] + _HEAD[0] * high
        return core
    end = np.minimum(wide, _FREE_END * high / shape)
    core[:, 0] = boxes[:, 0] if arm > 0 else boxes[:, 2] - end if arm < 0 else middle - end / 2
    core[:, 2] = core[:, 0] + end
    return core


def _whole(beings: Sequence[_Being]) -> list[_Being]:
    """Beings without those that are parts of another of their kind: a top half, an arm of its own."""
    made: list[_Being] = []
    for being in sorted(beings, key=lambda b: -b.subject.importance):
        if not any(_is_part(being.subject, other.subject) for other in made):
            made.append(being)
    return made


def _is_part(part: Subject, whole: Subject) -> bool:
    if part.kind != whole.kind:
        return False
    there = whole.there(part.frames)
    if there.mean() < _HELD:
        return False
    inside = covered(part.boxes[there], whole.at(part.frames[there]))
    return float(np.mean(inside >= _WITHIN)) >= _HELD


def _both(one: Subject, other: Subject) -> float:
    """The importance of two that are one."""
    return max(one.importance, other.importance) + 0.5 * min(one.importance, other.importance)


def _held(beings: Sequence[_Being]) -> list[_Being]:
    """Things, with the hands that hold them: such a person is the thing's surroundings, and no subject besides."""
    made = list(beings)
    things = (b for b in beings if b.subject.kind in ("thing", "sport"))
    for thing in sorted(things, key=lambda b: (not b.held, -b.subject.importance)):
        holders = [b for b in made if b.subject.kind in LIMBS and _holds(b.subject, thing.subject)]
        if not holders:
            continue
        holder = max(holders, key=lambda b: b.subject.importance)
        held = thing.subject
        hand = holder.subject.at(held.frames)
        room = _NEAR * (held.boxes[:, 2:] - held.boxes[:, :2])
        near = np.concatenate([
            np.maximum(np.minimum(hand[:, :2], held.boxes[:, :2]), held.boxes[:, :2] - room),
            np.minimum(np.maximum(hand[:, 2:], held.boxes[:, 2:]), held.boxes[:, 2:] + room),
        ], axis=1)  # fmt: skip
        # Where the hand is not seen for a while, it holds on as before and after.
        there = holder.subject.there(held.frames)
        beyond = (near - held.boxes)[there]
        around = held.boxes + np.stack([np.interp(held.frames, held.frames[there], b) for b in beyond.T], axis=1)
        whole = replace(held, around=around, importance=_both(held, holder.subject))
        made[made.index(thing)] = replace(thing, subject=whole)
        if holder.arm:
            made.remove(holder)
    return made


def _holds(person: Subject, thing: Subject) -> bool:
    there = person.there(thing.frames)
    boxes = person.at(thing.frames)
    middle = (thing.boxes[:, :2] + thing.boxes[:, 2:]) / 2
    room = _REACHES * (thing.boxes[:, 2:] - thing.boxes[:, :2])
    inside = ((middle >= boxes[:, :2] - room) & (middle <= boxes[:, 2:] + room)).all(axis=1)
    return bool(there.mean() >= _WHILE and inside[there].mean() >= _HELD)


def _carried(beings: Sequence[_Being]) -> list[Subject]:
    """Riders, with what carries them around them."""
    made = [b.subject for b in beings]
    for rider in [s for s in made if s.kind == "person"]:
        for carrier in [s for s in made if s.kind in _CARRIES]:
            if not _rides(rider, carrier):
                continue
            boxes = carrier.at(rider.frames)
            there = carrier.there(rider.frames)[:, None]
            around = np.concatenate([np.minimum(rider.boxes[:, :2], boxes[:, :2]),
                                     np.maximum(rider.boxes[:, 2:], boxes[:, 2:])], axis=1)  # fmt: skip
            one = replace(rider, around=np.where(there, around, rider.boxes), importance=_both(rider, carrier))
            made = [one if s is rider else s for s in made if s is not carrier]
            break
    return made


def _rides(rider: Subject, carrier: Subject) -> bool:
    there = carrier.there(rider.frames)
    if there.mean() < _HELD:
        return False
    boxes = carrier.at(rider.frames)
    part = covered(rider.boxes, boxes)
    middles = [(b[:, 0] + b[:, 2]) / 2 for b in (boxes, rider.boxes)]
    together = float(np.std(middles[0] - middles[1])) < 0.3 * float(np.median(boxes[:, 2] - boxes[:, 0])) + 0.01
    above = float(np.mean(rider.boxes[:, 1] <= boxes[:, 1] + 0.02)) > _HELD
    return bool(together and above and part[there].mean() >= _RIDES)
