"""What an editor asks of the solver in one go: whom to follow, and how."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from ezvar.core.evidence import PEOPLE, Analysis, Subject
from ezvar.core.model import Framing, Shot, Turn

from ..keeping.whom_to_follow import known_again, sight_of, subjects_in
from ..solver.solve import solved_with
from ..windows.place import Place
from .panes import in_two_panes


def followed(place: Place, subjects: Sequence[Subject], frame: int) -> tuple[Subject, ...]:
    """Whom the pane was asked to follow at a frame of the shot; nobody where the solver chooses."""
    turns = [t for t in place.pane.choices.follow if t.frame <= frame]
    known = [known_again(s, place.shot, subjects) for s in turns[-1].subjects] if turns else []
    return tuple(dict.fromkeys(s for s in known if s is not None))


def follow(place: Place, numbers: Sequence[int], analysis: Analysis) -> Framing:
    """Follow subjects, by their numbers, all through the shot, solved; nothing is by hand any more.

    Raises `KeyError` for a number that no subject has.
    """
    shot = place.shot
    sights = tuple(sight_of(s, shot, _middle(shot)) for s in _numbered(place, numbers, analysis))
    return _turned(place, (Turn(0, sights),), analysis)


def follow_too(place: Place, number: int, frame: int, analysis: Analysis) -> Framing:
    """Follow another subject as well, in the turn at ``frame`` of the shot; one that is followed already is left out.

    The last one is never left out. Raises `KeyError` for a number that no
    subject has.
    """
    shot, turns = place.shot, _turns(place, analysis)
    (new,) = _numbered(place, [number], analysis)
    at = max((k for k, t in enumerate(turns) if t.frame <= frame), default=0)
    subjects = subjects_in(place.doc, shot, analysis)
    present = [s for s in turns[at].subjects if known_again(s, shot, subjects) is not new] if turns else []
    if turns and len(present) < len(turns[at].subjects):
        present = present or list(turns[at].subjects)
    else:
        present.append(sight_of(new, shot, _middle(shot)))
    turn = Turn(turns[at].frame if turns else 0, tuple(present))
    return _turned(place, (*turns[:at], turn, *turns[at + 1 :]), analysis)


def follow_from(place: Place, number: int, frame: int, analysis: Analysis) -> Framing:
    """Follow another subject from ``frame`` of the shot on, and until then whomever the window follows now.

    Turns after that frame stay. Raises `KeyError` for a number that no
    subject has.
    """
    (new,) = _numbered(place, [number], analysis)
    turn = Turn(max(0, frame), (sight_of(new, place.shot, place.shot.start + max(0, frame)),))
    kept = [t for t in _turns(place, analysis) if t.frame != turn.frame]
    if frame <= 0:
        kept = [t for t in kept if t.frame > 0]
    return _turned(place, tuple(sorted([*kept, turn], key=lambda t: t.frame)), analysis)


def keep_both(place: Place, analysis: Analysis, panes: bool = False) -> Framing:
    """Keep the two subjects that matter most, in one window or, with ``panes``, each in a pane of its own.

    Raises `KeyError` where there are no two.
    """
    pair = pair_of(subjects_in(place.doc, place.shot, analysis))
    if panes:
        return in_two_panes(place, pair, analysis)
    return follow(place.first, [s.number for s in pair], analysis)


def pair_of(subjects: Sequence[Subject]) -> tuple[Subject, Subject]:
    """The two subjects that "both" means: people before things. Raises `KeyError` where there are no two."""
    people = [s for s in subjects if s.kind in PEOPLE]
    chosen = people if len(people) > 1 else list(subjects)
    if len(chosen) < 2:
        raise KeyError("two subjects")
    return chosen[0], chosen[1]


def ask(place: Place, analysis: Analysis, /, **choices: Any) -> Framing:
    """Change what is asked of the solver in a pane, by the names of `Choices`, and solve again.

    Stretches by hand stay and the rest is solved to meet them; a path that is
    by hand altogether is given back to the solver. Raises `ValueError` for
    what cannot be asked.
    """
    old = place.pane
    whole = any(s.start <= 0 and s.end >= place.shot.frames for s in old.by_hand)
    new = replace(old, choices=replace(old.choices, **choices), by_hand=() if whole else old.by_hand)
    return solved_with(place.doc, place.with_pane(new), analysis)


def _turned(place: Place, turns: tuple[Turn, ...], analysis: Analysis) -> Framing:
    new = replace(place.pane, choices=replace(place.pane.choices, follow=turns), by_hand=())
    return solved_with(place.doc, place.with_pane(new), analysis)


def _turns(place: Place, analysis: Analysis) -> tuple[Turn, ...]:
    """The turns that were chosen, else one for the subject that the solver follows by itself."""
    choices = place.pane.choices
    if choices.follow:
        return choices.follow
    subjects = subjects_in(place.doc, place.shot, analysis)
    return (Turn(0, (sight_of(subjects[0], place.shot, _middle(place.shot)),)),) if subjects else ()


def _numbered(place: Place, numbers: Sequence[int], analysis: Analysis) -> list[Subject]:
    known = {s.number: s for s in subjects_in(place.doc, place.shot, analysis)}
    return [known[n] for n in numbers]


def _middle(shot: Shot) -> int:
    return (shot.start + shot.end) // 2
