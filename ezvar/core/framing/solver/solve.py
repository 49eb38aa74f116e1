"""Choosing a window: by the plainest kind of path that serves."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ezvar.core.evidence import PEOPLE, Analysis, RegionKind, Subject
from ezvar.core.model import Choices, Decided, Document, Framing, Keyframe, Master, Pane, Reason, Rect, Shot
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timing import FrameRange

from ..doubt.doubts import reasons_for, together
from ..doubt.seen import Seen, left_out, shown_areas
from ..keeping.demands import Knots
from ..keeping.whom_to_follow import RIVAL, STILL_ENOUGH, Asked, asked, subjects_in
from ..paths.fitting import Keys, fewest_keys
from ..paths.gentle import gentle_keys
from ..paths.hand_stretches import fixed_at, keys_by_hand, keys_together, pieces
from ..paths.optimal import calm_path, fullest_place, still_place
from ..paths.pace import Pace, pace_of
from ..windows.bars import active_rect, without_bars
from ..windows.geometry import Size, fit_zoom, trimmed_size
from ..windows.limits import Room, room_of
from ..windows.path import pane_aspect, pane_picture_size, plain
from ..windows.place import Place
from .zooming import held_zoom

_KNOT = 0.16  # seconds from knot to knot
_MOST_KNOTS = 400
_PEAK = 1.25  # an eased move is quicker in its middle than on the whole
_EASED = 1.2  # times the pace, that its middle may be
_UNSEEN = 0.02  # of the picture, that a window would move on the whole, for which it rather rests
_GONE = "The middle: its media are not there."
_FLICKERS = 0.3  # what counts of something that goes no steady way
_LITTLE_MORE, _MUCH_MORE = 1.4, 2.4
"""Times what the middle holds, from which a place beside it is preferred, and wholly."""
_HARDLY = (0.06, 0.14)  # importance, times steadiness, from which what moves decides at all, and wholly
_MILD = 0.5  # how far towards most contrast, of the way from the middle
_SLOWEST = 0.02  # widths a second at which a path that may not move still joins two stretches by hand


@dataclass(frozen=True)
class _Problem:
    """All that a pane's path is solved from."""

    shot: Shot
    pane: Pane
    picture: Size
    aspect: float
    subjects: Sequence[Subject]
    asks: Asked
    knots: Knots
    room: Room
    zoom: float
    pace: Pace
    rate: float
    contrast: tuple[float, float] | None


def solve(
    doc: Document, master: Master, analysis: Analysis, shots: Sequence[Shot], progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> list[Framing]:  # fmt: skip
    """The best framing of each shot, with the reason for it and its doubt. What was chosen and set by hand stays.

    Shots whose media are missing, and were when they were looked through, keep
    theirs or get the master's plain start: there is nothing to solve from.
    """
    gone = {m.id for m in doc.lock.media if m.missing and m.kind != "black"}
    framings = []
    for k, shot in enumerate(shots):
        if cancel is not None:
            cancel.check()
        progress(k / len(shots), f"Framing the shots for {master.name}")
        subjects, contrast = subjects_in(doc, shot, analysis), analysis.contrast(shot.start, shot.end)
        if shot.source.media in gone and not subjects and contrast is None:
            framings.append(doc.framing(shot.id, master.id) or replace(plain(doc, shot, master), why=_GONE))
            continue
        before = Place(doc, shot, master).framing
        framing = without_bars(before, active_rect(shot, analysis))
        here = doc if framing == before else doc.with_framings([framing])
        framings.append(solve_shot(Place(here, shot, master), subjects, contrast))
    return framings


def solve_shot(place: Place, subjects: Sequence[Subject], contrast: tuple[float, float] | None = None) -> Framing:
    """The best framing of a shot whose subjects are known, all panes of it.

    ``contrast`` is where most contrast is, as fractions of the picture; where
    nothing else is found, it pulls a little. Keeps each pane's place, choices and stretches by hand, the alternatives
    that are held, and the verdict. Panes that show another shot keep their
    windows: they are solved in that shot.
    """
    old = place.framing
    problems = [_problem(place, pane, subjects, contrast) for pane in old.panes]
    panes, whys = [], []
    for p, pane in zip(problems, old.panes, strict=True):
        keys, why = (pane.keys, "Shows another shot.") if pane.shot else _path(p)
        panes.append(replace(pane, keys=keys))
        whys.append(why)
    reasons = _reasons(place, panes, problems)
    why = whys[0] if len(whys) == 1 else " ".join(f"Pane {k}: {why}" for k, why in enumerate(whys, 1))
    decided: Decided = "by hand" if any(p.by_hand for p in panes) else "solved"
    return replace(old, panes=tuple(panes), decided=decided, why=why, reasons=reasons)


def solved_with(doc: Document, framing: Framing, analysis: Analysis) -> Framing:
    """A framing, in place of the document's own, solved as it now asks, and open again."""
    asked = doc.with_framings([replace(framing, verdict="open")])
    (solved,) = solve(asked, doc.master(framing.master), analysis, [doc.shot(framing.shot)])
    return solved


def judged(place: Place, panes: Sequence[Pane], subjects: Sequence[Subject]) -> tuple[Reason, ...]:
    """The reasons for doubt about panes in the place of its own, however they were made."""
    return _reasons(place, panes, [_problem(place, p, subjects) for p in panes])


def not_kept(place: Place, subjects: Sequence[Subject]) -> tuple[FrameRange, ...]:
    """The stretches, in frames of the shot, in which a pane's window does not hold what it was asked to keep."""
    seen = _seen(_problem(place, place.pane, subjects), subjects)
    frames = seen.frames - place.shot.start
    off: np.ndarray = left_out(seen, shown_areas([place.window(int(n)) for n in frames], place.size))
    found: list[FrameRange] = []
    for k in (int(k) for k in np.flatnonzero(off)):
        first, last = frames[max(0, k - 1)], frames[min(k + 1, len(frames) - 1)]
        start, end = int(first + frames[k] + 1) // 2, int(frames[k] + last) // 2 + 1
        if found and start <= found[-1].end:
            found[-1] = FrameRange(found[-1].start, end)
        else:
            found.append(FrameRange(start, end))
    return tuple(found)


def _reasons(place: Place, panes: Sequence[Pane], problems: Sequence[_Problem]) -> tuple[Reason, ...]:
    found = []
    for k, (pane, p) in enumerate(zip(panes, problems, strict=True)):
        if pane.shot:
            continue
        elsewhere = [s for j, other in enumerate(problems) if j != k for s in other.asks.group]
        subjects = [s for s in p.subjects if s not in elsewhere or s in p.asks.group]
        found.append(reasons_for(place, pane, _seen(p, subjects)))
    return together(found)


def _seen(p: _Problem, subjects: Sequence[Subject]) -> Seen:
    own = p.knots.own
    return Seen(subjects, p.asks, p.knots.frames[own], own, _EASED * p.pace.speed / p.rate)


def _problem(
    place: Place, pane: Pane, subjects: Sequence[Subject], contrast: tuple[float, float] | None = None
) -> _Problem:
    doc, shot, master = place.doc, place.shot, place.master
    picture, aspect = pane_picture_size(doc, shot, pane), pane_aspect(pane, master)
    rate, choices = float(doc.lock.rate.fraction), pane.choices
    part = trimmed_size(picture, pane.trim)
    start = 1.0 if master.start == "fill" else fit_zoom(part, aspect)
    stretch = _with_mixes(doc, shot)
    knots, zoom, room, asks = _held(tuple(subjects), shot, stretch, picture, aspect, start, pane.trim, rate, choices)
    pace = pace_of(master.pace if choices.pace is None else choices.pace)
    return _Problem(shot, pane, picture, aspect, subjects, asks, knots, room, zoom, pace, rate, contrast)


@lru_cache(maxsize=16)
def _held(
    subjects: tuple[Subject, ...], shot: Shot, stretch: tuple[int, int], picture: Size, aspect: float, start: float,
    trim: Rect, rate: float, choices: Choices,
) -> tuple[Knots, float, Room, Asked]:  # fmt: skip
    """The zoom that is held and what is asked at it: the same for every place of a window that is being dragged."""
    knots = _knots(shot, *stretch, max(1, round(_KNOT * rate)))
    zoom = held_zoom(subjects, knots, picture, aspect, start, trim, rate, shot, choices)
    room = room_of(picture, aspect, zoom, trim)
    return knots, zoom, room, asked(subjects, knots, room, rate, shot, choices)


def _with_mixes(doc: Document, shot: Shot) -> tuple[int, int]:
    """The lock frames of a shot and of the mixes at its ends."""
    following = doc.place_of(shot.id) + 1
    start = min(shot.start, shot.cut.start) if shot.cut else shot.start
    end = shot.end
    if following < len(doc.shots) and (cut := doc.shots[following].cut) is not None:
        end = max(end, cut.end)
    return start, end


def _knots(shot: Shot, start: int, end: int, apart: int) -> Knots:
    """Lock frames of a stretch, ``apart`` from each other, with its first and last."""
    count = max(2, min(_MOST_KNOTS, 1 + -(-(end - 1 - start) // apart)))
    frames = np.unique(np.round(np.linspace(start, end - 1, count)).astype(int))
    return Knots(frames, shot.start, shot.end - 1)


def _path(p: _Problem) -> tuple[tuple[Keyframe, ...], str]:
    """The keyframes, and in a sentence why they are so."""
    if p.pane.by_hand and not pieces(p.pane, p.knots.frames - p.shot.start):
        return p.pane.keys, "Set by hand."
    if p.pane.by_hand:
        keys = keys_together(keys_by_hand(p.pane), [k for piece in _around(p) for k in piece])
        return keys, "Partly set by hand; the rest is solved to meet it."
    if p.pane.choices.move:
        seconds = p.shot.frames / p.rate
        return gentle_keys(
            p.pane,
            p.aspect,
            p.picture,
            seconds,
            p.shot.frames,
            p.asks.group if p.asks.chosen else p.subjects,
            p.contrast,
            p.zoom,
        )
    if not p.asks.group:
        return _rests(p, *_where_most_is(p))
    centre, missed = _still(p)
    what = _names(p.asks.group)
    if p.zoom < 1 and not p.room.free:
        return _rests(p, centre, f"The whole picture on its backdrop, to keep {what}.")
    if not p.room.free:
        return _rests(p, centre, "The window already holds all there is; trim the picture or tighten it to change it.")
    looser = ", looser than filling, on its backdrop," if p.zoom < 1 else ""
    if missed <= STILL_ENOUGH or p.pace.speed == 0:
        return _rests(p, centre, f"A static window{looser} that keeps {what}.")
    path = _calm(p, np.full((len(p.knots.frames), 2), np.nan))
    if np.ptp(path, axis=0).max() < _UNSEEN:
        return _rests(p, np.median(path, axis=0), f"A static window{looser} that keeps {what} nearly always.")
    low, high = p.asks.demand.low, p.asks.demand.high
    fastest = _EASED * p.pace.speed / p.rate
    found = _keyframes(p, fewest_keys(p.knots.frames, path, low, high, (fastest, fastest), p.room.limits))
    moves = max(1, len(found) - 1)
    said = f"{'One move' if moves == 1 else f'{moves} moves'}{looser} to keep {what}; no static window does."
    return tuple(found), said


def _still(p: _Problem) -> tuple[np.ndarray, float]:
    """The best centre that never moves, and the share of the knots that it does not keep."""
    centre, missed = np.array([sum(limits) / 2 for limits in p.room.limits]), 0.0
    asks = p.asks.demand
    for axis in p.room.free:
        at, share = still_place(
            asks.low[:, axis], asks.high[:, axis], asks.wanted[:, axis], asks.weight, p.room.limits[axis]
        )
        centre[axis], missed = at, max(missed, share)
    return centre, missed


def _calm(p: _Problem, fixed: np.ndarray) -> np.ndarray:
    """The calmest path (knots, 2) that keeps what is asked and goes through what is ``fixed``."""
    frames, asks = p.knots.frames, p.asks.demand
    speed = p.pace.speed if np.isnan(fixed).all() else max(p.pace.speed, _SLOWEST)
    step = speed / p.rate * np.diff(frames) / _PEAK
    path = np.empty((len(frames), 2))
    for axis in (0, 1):
        path[:, axis] = sum(p.room.limits[axis]) / 2
        if axis in p.room.free or not np.isnan(fixed).all():
            path[:, axis] = calm_path(
                asks.low[:, axis], asks.high[:, axis], asks.wanted[:, axis], asks.weight, p.room.limits[axis], step,
                min(p.pace.calm, 1e3), fixed[:, axis],
            )  # fmt: skip
    return path


def _around(p: _Problem) -> Iterable[list[Keyframe]]:
    """Keyframes for each stretch that is not by hand, from where the one before ends to where the next begins."""
    frames, asks = p.knots.frames - p.shot.start, p.asks.demand
    path = _calm(p, fixed_at(p.pane, frames))
    wide = np.full((1, 2), np.inf)
    for piece in pieces(p.pane, frames):
        ends = [[np.array([k.frame]), np.array([[k.cx, k.cy]])] if k else [np.zeros(0, int), np.zeros((0, 2))]
                for k in (piece.before, piece.after)]  # fmt: skip
        at = np.concatenate([ends[0][0], frames[piece.knots], ends[1][0]])
        along = np.concatenate([ends[0][1], path[piece.knots], ends[1][1]])
        low, high = (
            np.concatenate([sign * wide[: len(ends[0][0])], v[piece.knots], sign * wide[: len(ends[1][0])]])
            for sign, v in ((-1, asks.low), (1, asks.high))
        )
        fastest = _EASED * max(p.pace.speed, _SLOWEST) / p.rate
        yield _keyframes(p, fewest_keys(at, along, low, high, (fastest, fastest)), 0)


def _keyframes(p: _Problem, keys: Keys, start: int | None = None) -> list[Keyframe]:
    first = p.shot.start if start is None else start
    return [Keyframe(n - first, round(float(c[0]), 5), round(float(c[1]), 5), p.zoom, ease=ease) for n, c, ease in keys]


def _rests(p: _Problem, centre: np.ndarray, why: str) -> tuple[tuple[Keyframe, ...], str]:
    return (Keyframe(0, round(float(centre[0]), 5), round(float(centre[1]), 5), p.zoom),), why


def _where_most_is(p: _Problem) -> tuple[np.ndarray, str]:
    """A window that rests where what cannot be followed mostly is."""
    middle = np.array([sum(limits) / 2 for limits in p.room.limits])
    subjects, frames = p.subjects, p.knots.known
    if p.zoom < 1 and not p.room.free:
        return middle, "The whole picture on its backdrop."
    towards = middle
    if p.contrast is not None and p.room.free:
        towards = np.clip(middle + _MILD * (np.array(p.contrast) - middle), *np.array(p.room.limits).T)
    if not subjects and p.contrast is not None and p.room.free:
        return towards, "A static window, a little towards most contrast: nothing else was found."
    if not subjects:
        return middle, "A static window in the middle: nothing was found to follow."
    if not p.room.free:
        return middle, "The window already holds all there is; trim the picture or tighten it to change it."
    if subjects[0].kind == "text":
        subjects = [s for s in subjects if s.kind == "text" and s.importance >= RIVAL * subjects[0].importance]
    weights = np.concatenate([s.importance * s.there(frames) * (_FLICKERS + s.steady) for s in subjects])
    boxes = np.concatenate([s.at(frames) for s in subjects])
    at, more = np.array([
        fullest_place(boxes[:, axis], boxes[:, axis + 2], weights, p.room.extent[axis], p.room.limits[axis])
        for axis in (0, 1)
    ]).T  # fmt: skip
    if subjects[0].kind == "text":
        return at, "A static window on the text, which does not fit."
    # Where no place holds much more than the middle does, what is found decides nothing.
    sure = np.clip((more - _LITTLE_MORE) / (_MUCH_MORE - _LITTLE_MORE), 0, 1)
    decides = float(np.clip((weights.max() - _HARDLY[0]) / (_HARDLY[1] - _HARDLY[0]), 0, 1))
    if not decides and p.contrast is not None:
        return towards, "A static window, a little towards most contrast: what else was found is too slight."
    sure *= decides
    middle = towards + decides * (middle - towards)
    if not sure.any():
        return middle, "A static window in the middle: what was found is all over the picture."
    people = sum(s.kind in PEOPLE for s in subjects) > 1
    return middle + sure * (at - middle), f"A static window where {'most people are' if people else 'most moves'}."


_CALLED: dict[RegionKind, tuple[str, str]] = {
    "person": ("person", "people"), "animal": ("animal", "animals"), "vehicle": ("vehicle", "vehicles"),
    "sport": ("sports gear", "pieces of sports gear"), "thing": ("thing", "things"),
}  # fmt: skip


def _names(group: Sequence[Subject]) -> str:
    kinds = [s.kind for s in group]
    faces, drawn = kinds.count("face"), kinds.count("drawn")
    named = ["the subject that was drawn" if drawn == 1 else f"the {drawn} that were drawn"] if drawn else []
    named += ["the face" if faces == 1 else f"{faces} faces"] if faces else []
    if "text" in kinds:
        named.append("the text")
    for kind, (one, several) in _CALLED.items():
        if count := kinds.count(kind):
            named.append(f"the {one}" if count == 1 else f"{count} {several}")
    if "work" in kinds:
        named.append("the work in hand")
    if "moving" in kinds:
        named.append("what moves")
    return " and ".join(named)
