"""What would put a doubtful framing right: offers that can be applied as they are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ezvar.core.evidence import Analysis, Subject
from ezvar.core.model import Choices, Document, Framing, Master, Shot, Turn
from ezvar.core.timing import timecode

from ..keeping.whom_to_follow import known_again, sight_of, subjects_in
from ..paths.hand_stretches import marked
from ..solver.solve import solved_with
from ..windows.geometry import pixel_zoom
from ..windows.limits import room_of
from ..windows.path import framed, key_at, pane_aspect, pane_picture_size, pane_window
from .moves import put_by_hand, resting
from .panes import in_two_panes

Kind = Literal["follow", "panes", "whole", "text", "pace", "hold", "pixels", "tighter", "looser"]
_QUICKER = 0.15
_TIGHTER = 1.2  # zoom
_LOOSER = 0.87  # of the present zoom
_OTHERS = 2  # subjects that are offered beside the present ones
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


def remedies(doc: Document, shot: Shot, master: Master, analysis: Analysis) -> list[Remedy]:
    """What could be done about the doubts of a framing, the likeliest first; where there are none,
    only what gives a window room to move that has none."""
    framing, subjects = framed(doc, shot, master), subjects_in(doc, shot, analysis)
    reasons = [r.name for r in sorted(framing.reasons, key=lambda r: -r.weight)]
    found: list[Remedy] = []
    for name in reasons:
        if name in ("two subjects", "face cut", "subject leaves"):
            found += _others(framing, shot, subjects)
        if name == "shoulders cut":
            found.append(Remedy("looser", "A little looser, with the shoulders"))
        if name == "text cut":
            found.append(Remedy("text", "Keep the text whole"))
        if name == "at the speed limit":
            found.append(Remedy("pace", "A quicker pace in this shot"))
        if name == "subject leaves":
            found += _hold(doc, shot, master, framing, subjects)
        if name == "enlarged" and _tighter_than_pixels(doc, shot, master, framing):
            found.append(Remedy("pixels", "No tighter than one pixel for one"))
        if name in ("two subjects", "face cut", "text cut", "subject leaves", "nothing found"):
            found.append(Remedy("whole", "The whole picture on its backdrop"))
    if not found and _holds_all(doc, shot, master, framing):
        found.append(Remedy("tighter", "A tighter window, which can move"))
    return list(dict.fromkeys(found))


def apply_remedy(doc: Document, shot: Shot, master: Master, remedy: Remedy, analysis: Analysis) -> Document:
    """The document with an offer taken. Raises `KeyError` for a subject that is no longer there."""
    framing, subjects = framed(doc, shot, master), subjects_in(doc, shot, analysis)
    by_number = {s.number: s for s in subjects}
    chosen = [by_number[n] for n in remedy.subjects]
    pane = framing.panes[0]
    middle = (shot.start + shot.end) // 2
    match remedy.kind:
        case "follow":
            turn = Turn(0, tuple(sight_of(s, shot, middle) for s in chosen))
            return _asked(doc, framing, replace(pane.choices, follow=(turn,)), analysis)
        case "panes":
            return in_two_panes(doc, shot, master, chosen, analysis)
        case "whole":
            whole = resting(pane, master, pane_picture_size(doc, shot, pane))
            return put_by_hand(doc, shot, master, whole, analysis)
        case "text":
            return _asked(doc, framing, replace(pane.choices, keep_text=True, follow=()), analysis)
        case "pace":
            pace = min(1.0, (master.pace if pane.choices.pace is None else pane.choices.pace) + _QUICKER)
            return _asked(doc, framing, replace(pane.choices, pace=pace), analysis)
        case "pixels":
            size = pane_picture_size(doc, shot, pane)
            most = pixel_zoom(size, pane_aspect(pane, master), master.height * pane.rect.height)
            choices = replace(pane.choices, loosest=min(most, pane.choices.loosest or most), tightest=most)
            return _asked(doc, framing, choices, analysis)
        case "tighter":
            choices = replace(pane.choices, loosest=_TIGHTER, tightest=_TIGHTER)
            return _asked(doc, framing, choices, analysis)
        case "looser":
            zoom = pane.keys[0].zoom * _LOOSER
            return _asked(doc, framing, replace(pane.choices, loosest=zoom, tightest=zoom), analysis)
        case "hold":
            key = replace(key_at(pane, remedy.frame), ease="both")
            keys = (*(k for k in pane.keys if k.frame < remedy.frame), key)
            held = marked(replace(pane, keys=keys), remedy.frame, max(remedy.frame, shot.frames - 1))
            return put_by_hand(doc, shot, master, held, analysis)


def _asked(doc: Document, framing: Framing, choices: Choices, analysis: Analysis) -> Document:
    pane = replace(framing.panes[0], choices=choices, by_hand=())
    return solved_with(doc, replace(framing, panes=(pane, *framing.panes[1:])), analysis)


def _others(framing: Framing, shot: Shot, subjects: Sequence[Subject]) -> list[Remedy]:
    """Following somebody else, both, or both in panes of their own."""
    if not subjects:
        return []
    first = _followed(framing, shot, subjects) or subjects[0]
    found = []
    rest = [s for s in subjects if s is not first and s.importance > _MATTERS * first.importance]
    for other in rest[:_OTHERS]:
        pair = tuple(sorted((first.number, other.number)))
        found.append(Remedy("follow", f"Follow {other.number}", (other.number,)))
        found.append(Remedy("follow", f"Follow {pair[0]} and {pair[1]}", pair))
        if len(framing.panes) == 1 and {first.kind, other.kind} <= {"face", "figure", "drawn"}:
            found.append(Remedy("panes", f"{pair[0]} and {pair[1]}, in two panes", pair))
    return found


def _followed(framing: Framing, shot: Shot, subjects: Sequence[Subject]) -> Subject | None:
    turns = framing.panes[0].choices.follow
    return known_again(turns[0].subjects[0], shot, subjects) if turns else None


def _hold(doc: Document, shot: Shot, master: Master, framing: Framing, subjects: Sequence[Subject]) -> list[Remedy]:
    """Resting from the moment on at which the followed subject was last there, if it leaves for good."""
    subject = _followed(framing, shot, subjects) or (subjects[0] if subjects else None)
    if subject is None or len(framing.panes[0].keys) < 2:
        return []
    frames = np.arange(shot.start, shot.end)
    size = pane_picture_size(doc, shot, framing.panes[0])
    boxes, there = subject.at(frames), subject.there(frames)
    kept = []
    for n, box, seen in zip(frames, boxes, there, strict=True):
        w = pane_window(framing.panes[0], master, size, int(n) - shot.start)
        kept.append(bool(seen) and w.left <= box[0] * size.width and box[2] * size.width <= w.left + w.width)
    if not any(kept) or kept[-1]:
        return []
    last = max(k for k, value in enumerate(kept) if value)
    at = timecode(doc.lock.start + shot.start + last, doc.lock.rate, doc.lock.drop)
    return [Remedy("hold", f"Hold after {at}", frame=last)]


def _holds_all(doc: Document, shot: Shot, master: Master, framing: Framing) -> bool:
    """Whether the window holds all there is, so that no solving can change it."""
    pane = framing.panes[0]
    key, size = pane.keys[0], pane_picture_size(doc, shot, pane)
    return len(pane.keys) == 1 and not room_of(size, pane_aspect(pane, master), key.zoom, pane.trim).free


def _tighter_than_pixels(doc: Document, shot: Shot, master: Master, framing: Framing) -> bool:
    pane = framing.panes[0]
    size = pane_picture_size(doc, shot, pane)
    most = pixel_zoom(size, pane_aspect(pane, master), master.height * pane.rect.height)
    return any(k.zoom > most * 1.01 for k in pane.keys) and most >= 1
