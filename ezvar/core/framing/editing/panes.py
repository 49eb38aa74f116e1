"""Several panes in one frame: arrangements, and framings that use them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ezvar.core.evidence import PEOPLE, Analysis, Subject
from ezvar.core.model import Arrangement, Choices, Framing, Keyframe, Master, Pane, Rect, Shot, Turn
from ezvar.core.store import NamedList

from ..keeping.whom_to_follow import known_again, sight_of, subjects_in
from ..solver.solve import solved_with
from ..windows.path import framed
from ..windows.place import Place
from .moves import trimmed

ARRANGEMENTS = (
    Arrangement("one above the other", (Rect(0, 0, 1, 0.5), Rect(0, 0.5, 1, 0.5)), gap=0.01),
    Arrangement("side by side", (Rect(0, 0, 0.5, 1), Rect(0.5, 0, 0.5, 1)), gap=0.01),
    Arrangement("a large one above a small one", (Rect(0, 0, 1, 0.64), Rect(0, 0.64, 1, 0.36)), gap=0.01),
    Arrangement("three in a column", tuple(Rect(0, k / 3, 1, 1 / 3) for k in range(3)), gap=0.01),
)
"""The arrangements that are there from the beginning."""
ARRANGEMENTS_KEPT = NamedList(
    Arrangement, "ezvar arrangements", "arrangements", "arrangements of panes", "arrangements.json"
)
"""The arrangements that users keep and exchange."""
_EDGE = 1e-6


def rects_of(arrangement: Arrangement, master: Master) -> tuple[Rect, ...]:
    """The panes' rectangles in a master's frame, with half the gap taken off each side that has a neighbour."""
    short = min(master.width, master.height)
    half = (arrangement.gap * short / 2 / master.width, arrangement.gap * short / 2 / master.height)
    made = []
    for r in arrangement.rects:
        left = r.x + (half[0] if r.x > _EDGE else 0)
        top = r.y + (half[1] if r.y > _EDGE else 0)
        right = r.x + r.width - (half[0] if r.x + r.width < 1 - _EDGE else 0)
        foot = r.y + r.height - (half[1] if r.y + r.height < 1 - _EDGE else 0)
        made.append(Rect(left, top, right - left, foot - top))
    return tuple(made)


def panes_following(place: Place, arrangement: Arrangement, subjects: Sequence[Subject], analysis: Analysis) -> Framing:
    """A shot in several panes, each following one of ``subjects`` in turn, solved; panes beyond them choose themselves.

    An agreed framing that is changed is open again.
    """
    old = place.framing
    panes = []
    for k, rect in enumerate(rects_of(arrangement, place.master)):
        pane = old.panes[k] if k < len(old.panes) else Pane((Keyframe(0),), backdrop=old.panes[0].backdrop)
        choices = replace(pane.choices, follow=_turn(subjects[k], place.shot)) if k < len(subjects) else pane.choices
        panes.append(replace(pane, rect=rect, by_hand=(), choices=choices))
    return solved_with(place.doc, replace(old, panes=tuple(panes), arrangement=arrangement, sound=-1), analysis)


def arranged(place: Place, arrangement: Arrangement, analysis: Analysis) -> Framing:
    """A shot in the panes of an arrangement, solved: those that are there keep what they show and whom they follow,
    further ones follow whom nobody follows yet, people before things.

    Where there was one pane that chose by itself, the panes follow the shot's
    subjects from left to right.
    """
    old, shot = place.framing, place.shot
    subjects = subjects_in(place.doc, shot, analysis)
    people = [s for s in subjects if s.kind in PEOPLE]
    wanted = [*people, *(s for s in subjects if s.kind not in (*PEOPLE, "text"))]
    count = len(arrangement.rects)
    if len(old.panes) == 1 and not old.panes[0].choices.follow:
        return panes_following(place, arrangement, sorted(wanted[:count], key=_across), analysis)
    taken = [known_again(s, shot, subjects) for p in old.panes for t in p.choices.follow for s in t.subjects]
    free = iter([s for s in wanted if s not in taken])
    panes = []
    for k, rect in enumerate(rects_of(arrangement, place.master)):
        if k < len(old.panes):
            panes.append(replace(old.panes[k], rect=rect))
            continue
        new = next(free, None)
        choices = Choices(follow=_turn(new, shot)) if new else Choices()
        panes.append(Pane((Keyframe(0),), rect=rect, backdrop=old.panes[0].backdrop, choices=choices))
    sound = old.sound if old.sound < count else -1
    return solved_with(place.doc, replace(old, panes=tuple(panes), arrangement=arrangement, sound=sound), analysis)


def _check(framing: Framing, number: int) -> None:
    if number >= len(framing.panes):
        raise ValueError(f"there is no pane {number + 1}")


def _across(subject: Subject) -> float:
    return float(np.mean(subject.boxes[:, [0, 2]]))


def swapped(place: Place, a: int, b: int, analysis: Analysis) -> Framing:
    """Two panes in each other's place, with all they show and whom they follow, solved to the new shapes.

    Raises `ValueError` where there are not so many.
    """
    old = place.framing
    _check(old, max(a, b))
    panes = list(old.panes)
    panes[a], panes[b] = replace(old.panes[b], rect=old.panes[a].rect), replace(old.panes[a], rect=old.panes[b].rect)
    sound = {a: b, b: a}.get(old.sound, old.sound)
    return solved_with(place.doc, replace(old, panes=tuple(panes), sound=sound), analysis)


def heard(place: Place, number: int) -> Framing:
    """Let a pane's shot give the sound; -1 is the lock's. Raises `ValueError` for a pane that is not there."""
    return replace(place.framing, sound=number, verdict="open")


def trim_to(place: Place, trim: Rect, analysis: Analysis) -> Framing:
    """Let a pane show ``trim`` (fractions) of the picture only, solved where it is not by hand."""
    pane = trimmed(place.pane, place.master, place.size, trim)
    return solved_with(place.doc, place.with_pane(pane), analysis)


def _turn(subject: Subject, shot: Shot) -> tuple[Turn, ...]:
    return (Turn(0, (sight_of(subject, shot, (shot.start + shot.end) // 2),)),)


def in_two_panes(place: Place, pair: Sequence[Subject], analysis: Analysis) -> Framing:
    """Two subjects in two panes: one above the other in a tall frame, else side by side; the left one comes first."""
    first, second = sorted(pair, key=_across)
    arrangement = ARRANGEMENTS[0 if place.master.width <= place.master.height else 1]
    return panes_following(place, arrangement, (first, second), analysis)


def in_one_pane(place: Place, analysis: Analysis) -> Framing:
    """Back to one pane that fills the frame, its choices forgotten, solved."""
    old = place.framing
    pane = replace(old.panes[0], rect=Rect(), by_hand=(), choices=Choices(), shot="")
    return solved_with(place.doc, replace(old, panes=(pane,), arrangement=None, sound=-1), analysis)


def shows(place: Place, other: str, analysis: Analysis) -> Framing:
    """Let a pane show another shot, from its first frame on, with that shot's own window; ``""`` shows its own again.

    Raises `KeyError` for a shot that is not there, `ValueError` for a pane.
    """
    doc = place.doc
    _check(place.framing, place.number)
    pane = replace(place.pane, shot="", by_hand=(), choices=replace(place.pane.choices, follow=()))
    if other:
        there = framed(doc, doc.shot(other), place.master)
        alone = replace(there, panes=(pane,), arrangement=None, sound=-1, held=())
        pane = replace(pane, shot=other, keys=solved_with(doc, alone, analysis).panes[0].keys)
    return solved_with(doc, place.with_pane(pane), analysis)
