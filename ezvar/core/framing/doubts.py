"""How much a framing deserves a look, and why.

Doubt = 100·(1 − ∏(1 − weight)) over named reasons.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import prod

import numpy as np

from ezvar.core.evidence import RegionKind, Subject
from ezvar.core.model import Master, Pane, Reason, ReasonName, Shot

from .demands import Demand
from .geometry import Size, Window
from .path import pane_window

NEEDS_A_LOOK = 40
"""Framings from this doubt on need a look."""

_SENTENCES = {
    "face cut": "A face is cut by the window's edge.",
    "text cut": "Text is cut by the window's edge.",
    "subject leaves": "The subject, or much of what moves, is outside the window for a while.",
    "two subjects": "There is a second face that the window cannot keep.",
    "at the speed limit": "The window moves as fast as its pace allows.",
    "enlarged": "The picture is enlarged beyond 150 %.",
    "nothing found": "No face was found and little moves; the window stays near the middle.",
    "cut uncertain": "The cut that begins this shot is uncertain.",
}


def doubt(reasons: Iterable[Reason]) -> int:
    """The doubt, 0..100, that reasons add up to.

    >>> doubt([Reason("face cut", 0.5), Reason("enlarged", 0.5)])
    75
    """
    return round(100 * (1 - prod(1 - r.weight for r in reasons)))


def sentences(reasons: Iterable[Reason]) -> list[str]:
    """Each reason in a plain sentence, the heaviest first."""
    return [_SENTENCES[r.name] for r in sorted(reasons, key=lambda r: -r.weight)]


def enlargement(window: Window, surface_height: float) -> float:
    """How far picture pixels are enlarged on a surface of this height that shows the window; 1 = not at all."""
    return surface_height / window.height


@dataclass(frozen=True)
class Seen:
    """What a framing is judged by: a shot's ``subjects``, the ``group`` that is followed, and what was ``asked`` at
    the lock frames ``frames``."""

    subjects: Sequence[Subject]
    group: Sequence[Subject]
    frames: np.ndarray
    asked: Demand


def reasons_for(
    pane: Pane, size: Size, master: Master, shot: Shot, seen: Seen, fastest: float | None = None
) -> tuple[Reason, ...]:
    """The reasons for doubt about a pane's path through a shot.

    ``fastest`` is how far its pace lets it move a frame, in fractions of the
    picture.
    """
    windows = [pane_window(pane, master, size, int(n) - shot.start) for n in seen.frames]
    areas = np.array([
        (w.left / size.width, w.top / size.height, (w.left + w.width) / size.width, (w.top + w.height) / size.height)
        for w in windows
    ])  # fmt: skip
    found: list[Reason] = []

    def note(name: ReasonName, weight: float) -> None:
        if weight >= 0.02:
            found.append(Reason(name, round(min(1.0, weight), 3)))

    if not seen.subjects:
        note("nothing found", 0.5 * (1 - float((areas[0, 2] - areas[0, 0]) * (areas[0, 3] - areas[0, 1]))))
    else:
        first = seen.subjects[0].importance
        parts = {s.number: _part_inside(s, seen.frames, areas) for s in seen.subjects}
        cuts: tuple[tuple[RegionKind, ReasonName], ...] = (("face", "face cut"), ("text", "text cut"))
        for kind, name in cuts:
            cut = [np.mean((p > 0.05) & (p < 0.97)) for s in seen.subjects if s.kind == kind
                   and s.importance > 0.3 * first for p in (parts[s.number],)]  # fmt: skip
            note(name, _weighed(float(max(cut, default=0.0)), 0.4, 0.6))
        if seen.group:
            note("subject leaves", _weighed(_left_alone(seen, areas), 0.45, 0.5))
        else:
            note("subject leaves", _UNSTEADY * _missed(seen.subjects, parts))
        rivals = [s for s in seen.subjects if s not in seen.group and s.importance > RIVAL * first
                  and s.kind != "moving"]  # fmt: skip
        lost = max((float(np.mean(parts[s.number] < 0.05)) for s in rivals), default=0.0)
        note("two subjects", _weighed(lost, 0.3, 0.3))
        if fastest:
            note("at the speed limit", _weighed(_at_the_limit(windows, seen.frames, size, fastest), 0.1, 0.5))
    most = max(enlargement(w, master.height * pane.rect.height) for w in windows)
    note("enlarged", 0.25 * (most - 1.5))
    if shot.cut is not None and shot.cut.doubt >= 30 and not shot.cut.settled:
        note("cut uncertain", shot.cut.doubt / 250)
    return tuple(found)


RIVAL = 0.45
"""Importance beside the first subject's from which another matters as much."""
_NEVER = 0.004  # share of a shot that counts as none of it


def _weighed(share: float, from_: float, slope: float) -> float:
    """What a share of the shot weighs: nothing at all, or ``from_`` and more the larger it is."""
    return 0.0 if share <= _NEVER else min(0.95, from_ + slope * share)


_UNSTEADY = 0.7  # what it weighs when all that moves, but goes no way that could be followed, is outside


def _missed(subjects: Sequence[Subject], parts: dict[int, np.ndarray]) -> float:
    """The share of all that was seen, by importance, that is outside the window."""
    outside = [s.importance * float(np.mean(1 - parts[s.number])) for s in subjects]
    return sum(outside) / sum(s.importance for s in subjects)


def _part_inside(subject: Subject, frames: np.ndarray, areas: np.ndarray) -> np.ndarray:
    """The part of a subject's box inside each area (frames,); 1 where it is not there."""
    boxes = subject.at(frames)
    sides = np.clip(np.minimum(boxes[:, 2:], areas[:, 2:]) - np.maximum(boxes[:, :2], areas[:, :2]), 0, None)
    whole = np.maximum(boxes[:, 2:] - boxes[:, :2], 1e-6)
    part = (sides / whole).prod(axis=1)
    return np.where(subject.there(frames), part, 1.0)


def _left_alone(seen: Seen, areas: np.ndarray) -> float:
    """The share of the frames that ask something at which the window does not hold it."""
    asks = seen.asked.weight > 0
    if not asks.any():
        return 0.0
    centre = (areas[:, :2] + areas[:, 2:]) / 2
    low, high = np.minimum(seen.asked.low, seen.asked.high), np.maximum(seen.asked.low, seen.asked.high)
    off = ((centre < low - _OFF) | (centre > high + _OFF)).any(axis=1)
    return float(off[asks].mean())


_OFF = 0.004  # of the picture


def _at_the_limit(windows: Sequence[Window], frames: np.ndarray, size: Size, fastest: float) -> float:
    """The share of a shot in which the window moves about as fast as it may."""
    centres = np.array([(w.cx / size.width, w.cy / size.height) for w in windows])
    speed = np.abs(np.diff(centres, axis=0)).max(axis=1) / np.diff(frames)
    return float(np.mean(speed > 0.6 * fastest)) if len(speed) else 0.0
