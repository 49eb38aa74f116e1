"""What would put a doubtful framing right: offers that can be applied as they are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ezvar.core.evidence import PEOPLE, Analysis, Subject
from ezvar.core.model import Choices, Framing, Pane, Turn
from ezvar.core.timing import timecode

from ..keeping.whom_to_follow import known_again, sight_of, subjects_in
from ..paths.hand_stretches import marked
from ..solver.solve import solved_with
from ..windows.geometry import pixel_zoom
from ..windows.limits import room_of
from ..windows.path import key_at
from ..windows.place import Place
from .moves import put_by_hand, resting
from .panes import in_two_panes

Kind = Literal["follow", "panes", "whole", "text", "while text", "pace", "hold", "pixels", "tighter", "looser"]
_QUICKER = 0.15
_TIGHTER = 1.2  # zoom
_LOOSER = 0.87  # of the present zoom
_OTHERS = 2  # subjects that are offered beside the present ones
_RAMP, _BESIDE = 0.4, 0.015  # seconds in which a window loosens, and room around what it then holds, of the picture
_HELPED_BY_ALL = (
    "two subjects", "face cut", "person cut", "text cut", "subject leaves", "nothing found", "does not fit",
    "only a thing",
)  # fmt: skip
_MATTERS = 0.25  # importance beside the first's from which another subject is offered


@dataclass(frozen=True)
class Remedy:
    """An offer: what it does in a few words, and what it needs to be applied.

    ``subjects`` are numbers of the shot's subjects, ``frame`` a frame of the shot.
    """

    kind: Kind
    title: str
    subjects: tuple[int, ...] = ()
    frame: int = 0


def remedies(place: Place, analysis: Analysis) -> list[Remedy]:
    """What could be done in a pane about the doubts of a framing, the likeliest first; where there are none,
    only what gives a window room to move that has none."""
    subjects = subjects_in(place.doc, place.shot, analysis)
    reasons = [r.name for r in sorted(place.framing.reasons, key=lambda r: -r.weight)]
    found: list[Remedy] = []
    for name in reasons:
        if name in ("two subjects", "face cut", "person cut", "subject leaves"):
            found += _others(place, subjects)
        if name == "shoulders cut":
            found.append(Remedy("looser", "A little looser, with the shoulders"))
        if name == "text cut":
            found.append(Remedy("while text", "Looser for the writing"))
            found.append(Remedy("text", "Keep the text whole"))
        if name == "at the speed limit":
            found.append(Remedy("pace", "A quicker pace in this shot"))
        if name == "subject leaves":
            found += _hold(place, subjects)
        if name == "enlarged" and _tighter_than_pixels(place):
            found.append(Remedy("pixels", "No tighter than one pixel for one"))
        if name in _HELPED_BY_ALL:
            found.append(Remedy("whole", "The whole picture on its backdrop"))
    if not found and _holds_all(place):
        found.append(Remedy("tighter", "A tighter window, which can move"))
    return list(dict.fromkeys(found))


def apply_remedy(place: Place, remedy: Remedy, analysis: Analysis) -> Framing:
    """The framing with an offer taken in a pane. Raises `KeyError` for a subject that is no longer there."""
    shot, pane = place.shot, place.pane
    by_number = {s.number: s for s in subjects_in(place.doc, shot, analysis)}
    chosen = [by_number[n] for n in remedy.subjects]
    match remedy.kind:
        case "panes":
            return in_two_panes(place, chosen, analysis)
        case "whole":
            return put_by_hand(place, resting(pane, place.master, place.size), analysis)
        case "while text":
            return put_by_hand(place, _looser_for_text(place, list(by_number.values())), analysis)
        case "hold":
            key = replace(key_at(pane, remedy.frame), ease="both")
            keys = (*(k for k in pane.keys if k.frame < remedy.frame), key)
            held = marked(replace(pane, keys=keys), remedy.frame, max(remedy.frame, shot.frames - 1))
            return put_by_hand(place, held, analysis)
    asked = replace(pane, choices=_asked(place, remedy, chosen), by_hand=())
    return solved_with(place.doc, place.with_pane(asked), analysis)


def _looser_for_text(place: Place, subjects: Sequence[Subject]) -> Pane:
    """The pane with a window that holds the writing of a shot whole, beside whom it follows where both fit, for as long
    as the writing shows; it loosens before and goes back after."""
    shot, pane = place.shot, place.pane
    frames = np.arange(shot.start, shot.end)
    text = [s for s in subjects if s.kind == "text"]
    shows = np.any([s.there(frames) for s in text], axis=0) if text else np.zeros(len(frames), bool)
    if not shows.any():
        return pane
    first, last = int(shows.argmax()), len(shows) - 1 - int(shows[::-1].argmax())
    ramp = max(1, round(_RAMP * float(place.doc.lock.rate.fraction)))
    boxes = np.concatenate([s.at(frames)[s.there(frames)] for s in text])
    whom = _followed(place, subjects) or next((s for s in subjects if s.kind != "text"), None)
    if whom is not None and (both := shows & whom.there(frames)).any():
        boxes = np.concatenate([boxes, whom.at(frames)[both]])
    low = np.maximum(boxes[:, :2].min(axis=0) - _BESIDE, 0)
    high = np.minimum(boxes[:, 2:].max(axis=0) + _BESIDE, 1)
    fills = np.array(room_of(place.size, place.aspect, 1.0, pane.trim).extent)
    zoom = min(key_at(pane, first).zoom, float((fills / (high - low)).min()))
    limits = np.array(room_of(place.size, place.aspect, zoom, pane.trim).limits)
    centre = np.clip((low + high) / 2, limits[:, 0], limits[:, 1])
    looser = replace(key_at(pane, first), cx=float(centre[0]), cy=float(centre[1]), zoom=zoom, ease="both")
    begins, ends = max(0, first - ramp), min(shot.frames - 1, last + ramp)
    keys = [replace(looser, frame=first), replace(looser, frame=max(first, last))]
    if first > 0:
        keys = [replace(key_at(pane, begins), ease="both"), *keys]
    if last < shot.frames - 1:
        keys = [*keys, replace(key_at(pane, ends), ease="both")]
    around = [k for k in pane.keys if k.frame < begins], [k for k in pane.keys if k.frame > ends]
    by_frame = {k.frame: k for k in (*around[0], *keys, *around[1])}
    return marked(replace(pane, keys=tuple(by_frame[n] for n in sorted(by_frame))), begins, ends)


def _asked(place: Place, remedy: Remedy, chosen: Sequence[Subject]) -> Choices:
    """What an offer that is solved asks of the solver."""
    pane, shot = place.pane, place.shot
    choices = pane.choices
    match remedy.kind:
        case "follow":
            middle = (shot.start + shot.end) // 2
            return replace(choices, follow=(Turn(0, tuple(sight_of(s, shot, middle) for s in chosen)),))
        case "text":
            return replace(choices, keep_text=True, follow=())
        case "pace":
            now = place.master.pace if choices.pace is None else choices.pace
            return replace(choices, pace=min(1.0, now + _QUICKER))
        case "pixels":
            most = _most_pixels(place)
            return replace(choices, loosest=min(most, choices.loosest or most), tightest=most)
        case "tighter":
            return replace(choices, loosest=_TIGHTER, tightest=_TIGHTER)
    zoom = pane.keys[0].zoom * _LOOSER
    return replace(choices, loosest=zoom, tightest=zoom)


def _others(place: Place, subjects: Sequence[Subject]) -> list[Remedy]:
    """Following somebody else, both, or both in panes of their own."""
    if not subjects:
        return []
    first = _followed(place, subjects) or subjects[0]
    found = []
    rest = [s for s in subjects if s is not first and s.importance > _MATTERS * first.importance]
    for other in rest[:_OTHERS]:
        pair = tuple(sorted((first.number, other.number)))
        found.append(Remedy("follow", f"Follow {other.number}", (other.number,)))
        found.append(Remedy("follow", f"Follow {pair[0]} and {pair[1]}", pair))
        if len(place.framing.panes) == 1 and {first.kind, other.kind} <= set(PEOPLE):
            found.append(Remedy("panes", f"{pair[0]} and {pair[1]}, in two panes", pair))
    return found


def _followed(place: Place, subjects: Sequence[Subject]) -> Subject | None:
    turns = place.pane.choices.follow
    return known_again(turns[0].subjects[0], place.shot, subjects) if turns else None


def _hold(place: Place, subjects: Sequence[Subject]) -> list[Remedy]:
    """Resting from the moment on at which the followed subject was last there, if it leaves for good."""
    doc, shot = place.doc, place.shot
    subject = _followed(place, subjects) or (subjects[0] if subjects else None)
    if subject is None or len(place.pane.keys) < 2:
        return []
    frames = np.arange(shot.start, shot.end)
    size = place.size
    boxes, there = subject.at(frames), subject.there(frames)
    kept = []
    for n, box, seen in zip(frames, boxes, there, strict=True):
        w = place.window(int(n) - shot.start)
        kept.append(bool(seen) and w.left <= box[0] * size.width and box[2] * size.width <= w.left + w.width)
    if not any(kept) or kept[-1]:
        return []
    last = max(k for k, value in enumerate(kept) if value)
    at = timecode(doc.lock.start + shot.start + last, doc.lock.rate, doc.lock.drop)
    return [Remedy("hold", f"Hold after {at}", frame=last)]


def _holds_all(place: Place) -> bool:
    """Whether the window holds all there is, so that no solving can change it."""
    pane = place.pane
    return len(pane.keys) == 1 and not room_of(place.size, place.aspect, pane.keys[0].zoom, pane.trim).free


def _tighter_than_pixels(place: Place) -> bool:
    most = _most_pixels(place)
    return any(k.zoom > most * 1.01 for k in place.pane.keys) and most >= 1


def _most_pixels(place: Place) -> float:
    """The zoom at which one pixel of the picture is one of the master's."""
    return pixel_zoom(place.size, place.aspect, place.master.height * place.pane.rect.height)
