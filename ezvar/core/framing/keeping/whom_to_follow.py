"""Whom a window follows: as an editor has chosen, or by importance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ezvar.core.evidence import PEOPLE, Analysis, Subject
from ezvar.core.model import Choices, Document, Drawn, Rect, Shot, Sight

from ..paths.optimal import still_place
from ..windows.geometry import Size, Window
from ..windows.limits import Room
from ..windows.path import picture_size
from ..windows.place import Place
from .demands import TIERS, Demand, Knots, demand

RIVAL = 0.45
"""Importance beside the first subject's from which another matters as much."""
STILL_ENOUGH = 0.005
"""Share of the knots that a static window may miss."""
_SMALL = 0.2  # importance beside the first subject's from which another is kept too where that costs nothing
_DWELL = 1.5  # seconds for which another must be there before the window turns to it
_MOMENTS = 0.01  # share of the knots for which a still window may miss shoulders, or the room around a head
FITS = 0.9
"""Share of the knots at which what is kept of people must fit."""
_STEADY = 0.4  # steadiness from which a moving thing can be followed
_SAME = 0.1  # overlap (intersection over union) of two boxes from which a chosen subject is known again
_NEAR_MIDDLE = 0.35  # of the window, from its middle to a subject that it shows
_SEEN = 0.05  # importance beside the most important one's, from which a subject is worth an editor's eye
_AS_MUCH, _CROWD = (0.45, 0.65), 2
"""Importance beside the first subject's, from which one counts as somebody who matters as much, and wholly; and how
many of such, whom the window does not keep, make a crowd."""
_EQUAL = 0.85  # importance beside the first one's from which another of its kind may come first
_LARGE, _BESIDE = 0.5, 4.0
"""What the logarithm of a size, and a way of the whole picture's width from its middle, count beside the logarithm of
an importance."""
_ALONE = 1.0  # seconds for which a shot must show alone, where what is seen in mixes is left aside
SLIGHT = 0.05
"""Importance below which something decides nothing."""
_SLIGHT_MOVEMENT = 0.06  # the same for what is known by its movement only
_DRAWN = 10.0  # importance of what an editor has drawn


@dataclass(frozen=True)
class Asked:
    """Whom a window follows and what it is to keep of them.

    ``group`` are all who are followed at some time, ``chosen`` whether an
    editor said so, ``lost`` how many of the chosen were not found again.
    """

    group: tuple[Subject, ...]
    demand: Demand
    chosen: bool = False
    lost: int = 0


def subjects_in(doc: Document, shot: Shot, analysis: Analysis) -> tuple[Subject, ...]:
    """The subjects of a shot, the most important first: those that were drawn, and those that were found.

    Drawn ones are numbered after the found ones, so that numbers stay when one is drawn.
    """
    size = picture_size(doc, shot)
    found = analysis.subjects(*_unmixed(doc, shot), size.width / size.height)
    if doc.unwritten(shot.id):
        found = tuple(s for s in found if s.kind != "text")
    here = (d for d in doc.drawn if d.shot == shot.id)
    drawn = [_of_drawn(d, number, shot.start) for number, d in enumerate(here, len(found) + 1)]
    return (*reversed(drawn), *found)


def _unmixed(doc: Document, shot: Shot) -> tuple[int, int]:
    """The lock frames in which a shot shows alone; all of its own where that is hardly any."""
    following = doc.place_of(shot.id) + 1
    start = max(shot.start, shot.cut.end) if shot.cut else shot.start
    end = shot.end
    if following < len(doc.shots) and (cut := doc.shots[following].cut) is not None:
        end = min(end, cut.start)
    alone = end - start >= _ALONE * float(doc.lock.rate.fraction)
    return (start, end) if alone else (shot.start, shot.end)


@lru_cache(maxsize=256)
def _of_drawn(drawn: Drawn, number: int, start: int) -> Subject:
    """A drawn box as a subject; the same object each time, by which what was worked out of it is found again."""
    boxes = np.array([(b.x, b.y, b.x + b.width, b.y + b.height) for b in drawn.boxes])
    frames = np.array(drawn.frames) + start
    return Subject(number, "drawn", frames, boxes, np.ones(len(frames)), _DRAWN + number)


def worth_showing(place: Place, subjects: Sequence[Subject]) -> tuple[Subject, ...]:
    """Those of a shot's subjects that an editor may want to follow: the weighty, the drawn, and whom a pane follows."""
    sights = [s for p in place.framing.panes for turn in p.choices.follow for s in turn.subjects]
    followed = [known_again(s, place.shot, subjects) for s in sights]
    most = max((s.importance for s in subjects if s.kind != "drawn"), default=0.0)
    return tuple(s for s in subjects if s.kind == "drawn" or s.importance >= _SEEN * most or s in followed)


def sight_of(subject: Subject, shot: Shot, frame: int) -> Sight:
    """What a choice notes of a subject: its box where it was seen nearest to a lock frame."""
    k = int(np.argmin(abs(subject.frames - frame)))
    left, top, right, foot = (float(v) for v in subject.boxes[k])
    return Sight(int(subject.frames[k]) - shot.start, Rect(left, top, max(right - left, 1e-4), max(foot - top, 1e-4)))


def known_again(sight: Sight, shot: Shot, subjects: Sequence[Subject]) -> Subject | None:
    """The subject that a choice means: the one that overlaps most with what was noted; ``None`` where none does."""
    frame = np.array([sight.frame + shot.start])
    noted = np.array([sight.box.x, sight.box.y, sight.box.x + sight.box.width, sight.box.y + sight.box.height])
    found = [(_overlap(noted, s.at(frame)[0]), -k) for k, s in enumerate(subjects)]
    best = max(found, default=(0.0, 0))
    return subjects[-best[1]] if best[0] > _SAME else None


def subject_shown(window: Window, picture: Size, subjects: Sequence[Subject], frame: int) -> Subject | None:
    """The subject that stands nearest to a window's middle at a lock frame; ``None`` where none is near it."""
    at = np.array([frame])
    found = []
    for k, s in enumerate(subjects):
        middle = s.at(at)[0].reshape(2, 2).mean(axis=0) * (picture.width, picture.height)
        off = np.abs(middle - (window.cx, window.cy)) / (window.width, window.height)
        if s.there(at)[0] and off.max() < _NEAR_MIDDLE:
            found.append((float(off.max()), k))
    return subjects[min(found)[1]] if found else None


def _overlap(a: np.ndarray, b: np.ndarray) -> float:
    sides = np.clip(np.minimum(a[2:], b[2:]) - np.maximum(a[:2], b[:2]), 0, None)
    both = float(sides.prod())
    return both / max(float((a[2:] - a[:2]).prod() + (b[2:] - b[:2]).prod()) - both, 1e-9)


def asked(
    subjects: Sequence[Subject], knots: Knots, room: Room, rate: float, shot: Shot, choices: Choices = Choices()
) -> Asked:
    """Who is followed, and what of them is to be kept.

    People are kept whole where that costs no movement, else with their shoulders where these fit, else their heads,
    else their faces; and with less than fits where a still window can keep
    that much all through and would miss the rest for moments only. ``rate``
    is in frames a second.
    """
    turns, lost = _turns(choices, subjects, shot)
    if turns:
        group = tuple(dict.fromkeys(s for _, turn in turns for s in turn))
        tiers = [_in_turn(turns, knots, room, tier, choices) for tier in TIERS]
    else:
        group, others = _by_importance(subjects, knots, room, choices.keep_text)
        tiers = [
            _with_turns(demand(group, knots, room.extent, tier, choices), others, knots, room, rate, tier, choices)
            for tier in TIERS
        ]
    return Asked(group, _as_much_as_serves(tiers, room), bool(turns), lost)


def _turns(
    choices: Choices, subjects: Sequence[Subject], shot: Shot
) -> tuple[list[tuple[int, tuple[Subject, ...]]], int]:
    """The turns that were chosen, by lock frame, with the subjects that are known again, and how many are not."""
    turns, lost = [], 0
    for turn in choices.follow:
        known = [known_again(s, shot, subjects) for s in turn.subjects]
        group = tuple(dict.fromkeys(s for s in known if s is not None))
        lost += sum(s is None for s in known)
        if group:
            turns.append((turn.frame + shot.start, group))
    return turns, lost


def _in_turn(
    turns: Sequence[tuple[int, tuple[Subject, ...]]], knots: Knots, room: Room, tier: str, choices: Choices
) -> Demand:
    made = demand(turns[0][1], knots, room.extent, tier, choices)
    for frame, group in turns[1:]:
        made = made.where(knots.frames >= frame, demand(group, knots, room.extent, tier, choices))
    return made


def _as_much_as_serves(tiers: Sequence[Demand], room: Room) -> Demand:
    fitting = [d for d in tiers if d.share(d.fits) >= FITS] or list(tiers[-1:])
    if fitting[0] is tiers[0] and len(fitting) > 1 and missed_by_still(fitting[0], room) > STILL_ENOUGH:
        whole, *fitting = fitting
        if missed_by_still(fitting[0], room) > STILL_ENOUGH:
            fitting[0] = fitting[0].towards(whole.wanted)
    most = fitting[0]
    if missed_by_still(most, room) <= _MOMENTS:
        still = [d for d in fitting if missed_by_still(d, room) <= STILL_ENOUGH]
        return still[0] if still else most
    return most


def missed_by_still(asks: Demand, room: Room) -> float:
    """The share of the knots that the best still window misses."""
    return max(
        (
            still_place(asks.low[:, axis], asks.high[:, axis], asks.wanted[:, axis], asks.weight, room.limits[axis])[1]
            for axis in room.free
        ),
        default=0.0,
    )


def _by_importance(
    subjects: Sequence[Subject], knots: Knots, room: Room, keep_text: bool
) -> tuple[tuple[Subject, ...], tuple[Subject, ...]]:
    """Who is kept all through, and who else matters.

    The most important subject, and with it all that fit into the same window
    whenever they are there, the important ones first. Where text is to be
    kept, it comes before anybody, whether it fits or not.
    """
    text = [s for s in subjects if s.kind == "text"] if keep_text else []
    text = [s for s in text if s.importance >= RIVAL * text[0].importance]
    holdable = [*text, *(s for s in subjects if s not in text and _can_be_held(s, knots, room))]
    if not holdable or (not text and holdable[0].importance < _AS_MUCH[1] * subjects[0].importance):
        return (), ()
    first = holdable[0] if text else _first_of_equals(holdable)
    holdable = [*text, first, *(s for s in holdable if s is not first and s not in text)]
    group = text or [first]
    for other in holdable[len(group) :]:
        least = _SMALL if other.kind in (*PEOPLE, "text") else RIVAL
        slight = other.importance * other.sureness < least * first.importance
        if slight or (other.kind == "moving" and first.kind != "moving"):
            continue
        together = demand([*group, other], knots, room.extent, "head")
        if together.fits[together.weight > 0].all():
            group.append(other)
    elsewhere = [s for s in subjects if s.kind == "moving" and s not in holdable] if first.kind == "moving" else []
    if not text and first.kind != "drawn" and _is_crowd(group, [*holdable, *elsewhere]):
        return (), ()
    others = tuple(s for s in holdable if s not in group and s.importance >= RIVAL * first.importance)
    return tuple(group), others


def _first_of_equals(subjects: Sequence[Subject]) -> Subject:
    """The most important subject; of those of its kind that matter nearly as much rather the nearer to the picture's
    middle, since where somebody stands is what is seen most surely."""
    first = subjects[0]
    equals = [s for s in subjects if s.kind == first.kind and s.importance >= _EQUAL * first.importance]

    def counts(one: Subject) -> float:
        size = float(np.median((one.boxes[:, 2:] - one.boxes[:, :2]).prod(axis=1)))
        beside = abs(float(np.median(one.boxes[:, [0, 2]].mean(axis=1))) - 0.5)
        return float(np.log(max(one.importance, 1e-9)) + _LARGE * np.log(max(size, 1e-9))) - _BESIDE * beside

    return max(equals, key=counts)


def _is_crowd(group: Sequence[Subject], subjects: Sequence[Subject]) -> bool:
    """Whether so many matter as much that following one of them, of whom no window keeps all, would be by chance; of
    what is known to move only, one other is enough."""
    low, high = _AS_MUCH
    alike = {s: float(np.clip((s.importance / group[0].importance - low) / (high - low), 0, 1)) for s in subjects}
    outside = sum(much for s, much in alike.items() if s not in group)
    if group[0].kind == "moving" and outside >= 1:
        return True
    return outside >= _CROWD or (outside >= 1 and sum(alike.values()) > _CROWD + 2)


def _can_be_held(subject: Subject, knots: Knots, room: Room) -> bool:
    """Whether following a subject makes sense: a face always, other things where the least that shows them fits, they
    go a steady way, and there is enough of them to be worth it."""
    if subject.kind in ("face", "drawn"):
        return True
    if subject.importance < (_SLIGHT_MOVEMENT if subject.kind == "moving" else SLIGHT):
        return False
    alone = demand([subject], knots, room.extent, "head")
    there = alone.weight > 0
    return bool(there.any() and alone.fits[there].mean() >= FITS and subject.steady > _STEADY)


def _with_turns(
    asks: Demand, others: Sequence[Subject], knots: Knots, room: Room, rate: float, tier: str, choices: Choices
) -> Demand:
    """What is asked, with another's turn where nobody of the group is there for long enough."""
    for other in others:
        turn = _long_runs(knots.there(other) & (asks.weight == 0), knots.frames, _DWELL * rate)
        if turn.any():
            asks = asks.where(turn, demand([other], knots, room.extent, tier, choices))
    return asks


def _long_runs(flags: np.ndarray, frames: np.ndarray, least: float) -> np.ndarray:
    """Only those runs of True that last at least so many frames."""
    kept = np.zeros_like(flags)
    start = None
    for k, flag in enumerate([*flags, False]):
        if flag and start is None:
            start = k
        elif not flag and start is not None:
            if frames[k - 1] - frames[start] >= least:
                kept[start:k] = True
            start = None
    return kept
