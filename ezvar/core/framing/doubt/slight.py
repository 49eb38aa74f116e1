"""Slight doubts: where the evidence itself may be a little off, though all that was asked is kept.

None of them asks for a look by itself, nor do they add up: of several the
heaviest counts. They order what is left once the rest was looked at.
"""

from __future__ import annotations

import numpy as np

from ezvar.core.evidence import GROUPS, Subject, covered
from ezvar.core.model import ReasonName

from ..keeping.demands import keep_boxes
from ..keeping.whom_to_follow import RIVAL, SLIGHT
from .seen import Seen, larger, spare

_NOTHING, _HARDLY, _DOUBTED = 0.5, 0.35, 0.28
"""What it weighs that nothing was found, and that those whom a window keeps are hardly seen, where it shows hardly any
of the picture; and that nothing of them moves, nor has a face, and they may be something else."""
_CLEAR, _BEST = 0.38, 80
"""Confidence at this percentile of the sights from which somebody is seen clearly."""
_MUCH_HIDDEN = 0.4  # of the picture, from which it matters wholly that what a window keeps may be something else
_BARELY, _EASILY = 0.28, 0.07
"""What it weighs that what is kept touches the window's edge, and how far from it, in fractions of the picture, it
weighs nothing: boxes are found to a few hundredths."""
_NEAR = 0.05  # of the picture's width, that the face of somebody near has
_PART = 0.25  # what it weighs that no more than a part of what is kept fits
_PASSED = 0.27  # what it weighs that something which goes its way steadily is mostly outside
_STEADY, _LONG = 0.6, 0.35  # steadiness of such, and the share of its time
_THING = 0.25  # what it weighs that only a thing was found, where a window shows hardly any of the picture


def little_found(seen: Seen, hidden: float) -> float:
    """What it weighs that there is nothing to keep, or hardly anything, or that all of it was found by its looks alone,
    and not surely, where a window leaves out the part ``hidden`` of the picture."""
    group = seen.asks.group
    if not group:
        most = max((s.importance for s in seen.subjects), default=0.0)
        return _NOTHING * hidden * max(0.0, 1 - most / SLIGHT)
    if seen.asks.chosen or any(s.kind not in ("face", "moving", *GROUPS) for s in group):
        return 0.0
    surest = max(float(np.percentile(s.confidence, _BEST)) for s in group)
    slightly = surest < _CLEAR and all(s.kind in ("face", "person", "moving") for s in group)
    share = 1 - max(s.sureness for s in group)
    return max(_HARDLY * hidden if slightly else 0.0, _DOUBTED * share * _matters(hidden))


def slight(seen: Seen, areas: np.ndarray, hidden: float) -> tuple[ReasonName, float]:
    """The heaviest slight doubt about windows that show ``areas`` (frames, 4) and leave out the part ``hidden`` of the
    picture, and what it weighs; 0 where there is none."""
    group = seen.asks.group
    if seen.asks.chosen or not seen.subjects:
        return "close to the edge", 0.0
    weights: dict[ReasonName, float] = {
        "close to the edge": _BARELY * max(0.0, 1 - _nearest(seen, areas) / _EASILY),
        "does not fit": _PART if any(_is_larger(s, seen, areas) for s in group) else 0.0,
        "only a thing": _THING * _matters(hidden) if group and all(s.kind in GROUPS[1:] for s in group) else 0.0,
        "two subjects" if group else "subject leaves": _PASSED if _passed_over(seen, areas) else 0.0,
    }
    name = max(weights, key=lambda n: weights[n])
    return name, weights[name]


def _matters(hidden: float) -> float:
    return min(1.0, hidden / _MUCH_HIDDEN)


def _nearest(seen: Seen, areas: np.ndarray) -> float:
    """How near what is kept comes to an edge, in fractions of the picture: of people who are near, their heads, since
    shoulders may touch it; writing, whose place is sure, may as well."""
    group = [s for s in seen.asks.group if s.kind != "text"]
    if all(_is_near(s) for s in group):
        found = [spare(keep_boxes(s, seen.frames, "head"), areas)[s.there(seen.frames)] for s in group]
    else:
        found = [spare(seen.boxes, areas)[seen.wanted]]
    return max(0.0, min((float(each.min(initial=np.inf)) for each in found), default=np.inf))


def _is_near(one: Subject) -> bool:
    return one.kind == "face" and float(np.median(one.boxes[:, 2] - one.boxes[:, 0])) >= _NEAR


def _passed_over(seen: Seen, areas: np.ndarray) -> bool:
    """Whether something that goes its way steadily, and matters beside what is kept, is outside for much of its time,
    however short that is."""
    least = max(RIVAL * seen.subjects[0].importance, SLIGHT)
    others = [s for s in seen.subjects if s not in seen.asks.group and s.kind != "text"]
    steady = [s for s in others if s.importance >= least and s.steady >= _STEADY and s.there(seen.frames).any()]
    outside = [covered(s.at(seen.frames), areas)[s.there(seen.frames)] < 0.5 for s in steady]
    return any(float(each.mean()) > _LONG for each in outside)


def _is_larger(one: Subject, seen: Seen, areas: np.ndarray) -> bool:
    """Whether something that was found by its looks or by moving is mostly larger than its window."""
    there = one.there(seen.frames)
    if one.kind in ("face", "text") or not there.any():
        return False
    return float(np.mean(larger(one.at(seen.frames), areas).max(axis=1)[there] > 0)) > 0.5
