"""Choosing a window: who is followed, and by the plainest kind of path that serves."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from ezvar.core.evidence import Analysis, Subject
from ezvar.core.model import Document, Ease, Framing, Keyframe, Master, Pane, Shot

from .demands import TIERS, Demand, demand, window_share
from .doubts import RIVAL, Seen, reasons_for
from .fitting import fewest_keys
from .geometry import Size, clamped, fit_zoom, window
from .optimal import calm_path, fullest_place, still_place
from .pace import MIDDLE, Pace, pace_of
from .path import picture_size

_KNOT = 5  # frames from knot to knot
_MOST_KNOTS = 400
_SMALL = 0.2  # importance beside the first subject's from which another is kept too where that costs nothing
_DWELL = 1.5  # seconds for which another must be there before the window turns to it
_STILL_ENOUGH = 0.005  # share of the knots that a static window may miss
_MOMENTS = 0.03  # share of the knots for which a still window may miss shoulders, or the room around a head
_FITS = 0.9  # share of the knots at which what is kept of people must fit
_NOTHING_MOVES = 1e-4
_STEADY = 0.4  # steadiness from which a moving thing can be followed


@dataclass(frozen=True)
class _Frame:
    """The window of a framing as a size: its width and height, and the least and greatest centres, as fractions."""

    share: tuple[float, float]
    limits: tuple[tuple[float, float], tuple[float, float]]

    @property
    def free(self) -> tuple[bool, bool]:
        """Whether it can move across and down."""
        across, down = (high - low > _NOTHING_MOVES for low, high in self.limits)
        return across, down


def solve(
    doc: Document, master: Master, analysis: Analysis, shots: Iterable[Shot], pace: float = MIDDLE
) -> list[Framing]:
    """The best framing of each shot, with the reason for it and its doubt."""
    return [solve_shot(doc, shot, master, analysis.subjects(shot.start, shot.end), pace) for shot in shots]


def solve_shot(doc: Document, shot: Shot, master: Master, subjects: Sequence[Subject], pace: float = MIDDLE) -> Framing:
    """The best framing of a shot whose subjects are known."""
    size, aspect = picture_size(doc, shot), master.width / master.height
    zoom = 1.0 if master.start == "fill" else fit_zoom(size, aspect)
    frame = _frame(size, aspect, zoom)
    frames = _knots(shot)
    rate = float(doc.lock.rate.fraction)
    group, asked = _asked(subjects, frames, frame, rate)
    keys, why = _path(asked, frames, frame, pace_of(pace), rate, group, subjects, zoom)
    made = tuple(
        Keyframe(n - shot.start, round(float(c[0]), 5), round(float(c[1]), 5), zoom, ease=ease) for n, c, ease in keys
    )
    pane = Pane(made)
    seen = Seen(subjects, group, frames, asked)
    reasons = reasons_for(pane, size, master, shot, seen, pace_of(pace).speed / rate)
    return Framing(shot.id, master.id, (pane,), why=why, reasons=reasons)


def judged_by(doc: Document, shot: Shot, master: Master, subjects: Sequence[Subject]) -> Seen:
    """What a framing of a shot, however it was made, is judged by."""
    size, aspect = picture_size(doc, shot), master.width / master.height
    frame, frames = _frame(size, aspect, 1.0), _knots(shot)
    group, asked = _asked(subjects, frames, frame, float(doc.lock.rate.fraction))
    return Seen(subjects, group, frames, asked)


def _frame(size: Size, aspect: float, zoom: float) -> _Frame:
    ends = [clamped(window(size, aspect, at, at, zoom), size) for at in (0.0, 1.0)]
    share = window_share((ends[0].width, ends[0].height), size)
    across, down = ((ends[0].cx, ends[1].cx), (ends[0].cy, ends[1].cy))
    return _Frame(
        share,
        (
            (min(across) / size.width, max(across) / size.width),
            (min(down) / size.height, max(down) / size.height),
        ),
    )


def _knots(shot: Shot) -> np.ndarray:
    """Lock frames of a shot, a few apart, with its first and last."""
    count = max(2, min(_MOST_KNOTS, 1 + -(-(shot.frames - 1) // _KNOT)))
    return np.unique(np.round(np.linspace(shot.start, shot.end - 1, count)).astype(int))


def _asked(
    subjects: Sequence[Subject], frames: np.ndarray, frame: _Frame, rate: float
) -> tuple[tuple[Subject, ...], Demand]:
    """Who is followed, and what of them is to be kept.

    People are kept with their shoulders where these fit, else their heads,
    else their faces; and with less than fits where a still window can keep
    that much all through and would miss the rest for moments only.
    """
    group, others = _chosen(subjects, frames, frame)
    tiers = [_with_turns(demand(group, frames, frame.share, tier), others, frames, frame, rate, tier) for tier in TIERS]
    fitting = [asked for asked in tiers if _share(asked.fits, asked) >= _FITS] or tiers[-1:]
    most = fitting[0]
    missed = _missed_by_still(most, frame)
    if missed <= _MOMENTS:
        still = [asked for asked in fitting if _missed_by_still(asked, frame) <= _STILL_ENOUGH]
        return group, still[0] if still else most
    return group, most


def _share(flags: np.ndarray, asked: Demand) -> float:
    """The share of the knots that ask something at which a flag is up; 1 where none does."""
    asks = asked.weight > 0
    return float(flags[asks].mean()) if asks.any() else 1.0


def _missed_by_still(asked: Demand, frame: _Frame) -> float:
    """The share of the knots that the best still window misses."""
    return max(
        (
            still_place(
                asked.low[:, axis], asked.high[:, axis], asked.wanted[:, axis], asked.weight, frame.limits[axis]
            )[1]
            for axis in (0, 1)
            if frame.free[axis]
        ),
        default=0.0,
    )


def _chosen(
    subjects: Sequence[Subject], frames: np.ndarray, frame: _Frame
) -> tuple[tuple[Subject, ...], tuple[Subject, ...]]:
    """Who is kept all through, and who else matters.

    The most important subject, and with it all that fit into the same window
    whenever they are there, the important ones first.
    """
    holdable = [s for s in subjects if _can_be_held(s, frames, frame)]
    if not holdable or holdable[0].importance < RIVAL * subjects[0].importance:
        return (), ()
    first = holdable[0]
    group = [first]
    for other in holdable[1:]:
        if other.importance < _SMALL * first.importance or (other.kind == "moving" and first.kind == "face"):
            continue
        together = demand([*group, other], frames, frame.share, "head")
        if together.fits[together.weight > 0].all():
            group.append(other)
    others = tuple(s for s in holdable if s not in group and s.importance >= RIVAL * first.importance)
    return tuple(group), others


def _can_be_held(subject: Subject, frames: np.ndarray, frame: _Frame) -> bool:
    """Whether following a subject makes sense: a face always, other things where they fit and go a steady way."""
    if subject.kind in ("face", "drawn"):
        return True
    alone = demand([subject], frames, frame.share)
    there = alone.weight > 0
    return bool(there.any() and alone.fits[there].mean() > 0.5 and subject.steady > _STEADY)


def _with_turns(
    asked: Demand, others: Sequence[Subject], frames: np.ndarray, frame: _Frame, rate: float, tier: str
) -> Demand:
    """What is asked, with another's turn where nobody of the group is there for long enough."""
    for other in others:
        there = other.there(frames) & (asked.weight == 0)
        turn = _long_runs(there, frames, _DWELL * float(rate))
        if turn.any():
            its = demand([other], frames, frame.share, tier)
            asked = Demand(
                np.where(turn[:, None], its.low, asked.low), np.where(turn[:, None], its.high, asked.high),
                np.where(turn[:, None], its.wanted, asked.wanted), np.where(turn, its.weight, asked.weight),
                np.where(turn, its.fits, asked.fits),
            )  # fmt: skip
    return asked


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


def _path(
    asked: Demand,
    frames: np.ndarray,
    frame: _Frame,
    pace: Pace,
    rate: float,
    group: Sequence[Subject],
    subjects: Sequence[Subject],
    zoom: float,
) -> tuple[list[tuple[int, np.ndarray, Ease]], str]:
    """The keyframes, and in a sentence why they are so."""
    free = [axis for axis in (0, 1) if frame.free[axis]]
    centre = np.full((len(frames), 2), 0.5)
    if zoom < 1:
        return [(int(frames[0]), centre[0], "both")], "The whole picture on a backdrop."
    if not group:
        return _where_most_is(subjects, frames, frame)
    missed = 0.0
    for axis in free:
        at, share = still_place(
            asked.low[:, axis], asked.high[:, axis], asked.wanted[:, axis], asked.weight, frame.limits[axis]
        )
        centre[:, axis], missed = at, max(missed, share)
    what = _names(group)
    if not free:
        return [(int(frames[0]), centre[0], "both")], "The window already holds all there is."
    if missed <= _STILL_ENOUGH or pace.speed == 0:
        return [(int(frames[0]), centre[0], "both")], f"A static window that keeps {what}."
    step = pace.speed / rate * float(np.diff(frames).min()) / 1.6  # eased moves are quicker in their middle
    for axis in free:
        centre[:, axis] = calm_path(
            asked.low[:, axis], asked.high[:, axis], asked.wanted[:, axis], asked.weight, frame.limits[axis], step,
            pace.calm,
        )  # fmt: skip
    keys = fewest_keys(frames, centre, asked.low, asked.high, (pace.speed / rate, pace.speed / rate))
    moves = max(1, len(keys) - 1)
    return keys, f"{'One move' if moves == 1 else f'{moves} moves'} to keep {what}; no static window does."


def _where_most_is(
    subjects: Sequence[Subject], frames: np.ndarray, frame: _Frame
) -> tuple[list[tuple[int, np.ndarray, Ease]], str]:
    """A window that rests where what cannot be followed mostly is."""
    if not subjects:
        middle = np.array([0.5, 0.5])
        return [(int(frames[0]), middle, "both")], "A static window in the middle: nothing was found to follow."
    if subjects[0].kind == "text":
        subjects = [s for s in subjects if s.kind == "text" and s.importance >= RIVAL * subjects[0].importance]
    weights = np.concatenate([s.importance * s.there(frames) for s in subjects])
    boxes = np.concatenate([s.at(frames) for s in subjects])
    at = np.array([
        fullest_place(boxes[:, axis], boxes[:, axis + 2], weights, frame.share[axis], frame.limits[axis])
        for axis in (0, 1)
    ])  # fmt: skip
    what = "on the text, which does not fit" if subjects[0].kind == "text" else "where most moves"
    return [(int(frames[0]), at, "both")], f"A static window {what}."


def _names(group: Sequence[Subject]) -> str:
    kinds = [s.kind for s in group]
    faces = kinds.count("face")
    named = ["the face" if faces == 1 else f"{faces} faces"] if faces else []
    if "text" in kinds:
        named.append("the text")
    if "moving" in kinds:
        named.append("what moves")
    if "drawn" in kinds:
        named.insert(0, "the subject that was drawn")
    return " and ".join(named)
