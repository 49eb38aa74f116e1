"""Which zoom a path holds: the master's, unless an editor or what must be kept asks for another."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ezvar.core.evidence import Subject
from ezvar.core.model import Choices, Rect, Shot

from ..keeping.demands import Knots
from ..keeping.whom_to_follow import FITS, RIVAL, Asked, asked
from ..windows.geometry import Size, fit_zoom, trimmed_size
from ..windows.limits import Room, room_of

_FILLED = 0.8  # of the window that a subject with its surroundings takes, where the zoom may tighten
_SURE_TEXT, _LINE = 0.93, 0.3  # confidence, and height as a part of the picture's, of text worth a backdrop
_MOSTLY = 90  # percentile of the sizes that a subject has in the shot


def held_zoom(
    subjects: Sequence[Subject], knots: Knots, picture: Size, aspect: float, start: float, trim: Rect, rate: float,
    shot: Shot, choices: Choices,
) -> float:  # fmt: skip
    """The zoom that a pane's path holds in a shot, at ``start`` where nothing asks for another.

    It tightens until the subject with its surroundings takes most of the
    window, as far as ``choices.tightest`` allows; it loosens until what is
    followed fits, as far as ``choices.loosest`` allows. Where no limit is
    given, it still loosens for several who were chosen together, and for text
    that matters most and fits no filling window.
    """
    loosest, tightest = choices.loosest, choices.tightest
    held = start if loosest is None else max(start, loosest)
    held = held if tightest is None else min(held, tightest)

    def at(zoom: float, who: Sequence[Subject]) -> tuple[Room, Asked]:
        room = room_of(picture, aspect, zoom, trim)
        return room, asked(who, knots, room, rate, shot, choices)

    room, asks = at(held, subjects)
    if loosest is not None and loosest < held:
        least = loosest
    elif loosest is None and _asks_to_loosen(asks, subjects, choices):
        least = fit_zoom(trimmed_size(picture, trim), aspect)
    else:
        least = held
    if least < held:
        # Whom a looser window could keep is worth loosening for, but not all who would then fit as well.
        wide, wider = at(least, subjects if asks.chosen else _weighty(subjects))
        serving = _serving_zoom(wider, wide, least, 1.0)
        if wider.group and (wider.demand.share(wider.demand.fits) >= FITS or not asks.group or asks.chosen):
            return float(np.clip(serving, least, held))
        return held
    if tightest is not None and tightest > held and asks.group:
        return float(np.clip(_serving_zoom(asks, room, held, _FILLED), held, tightest))
    return held


def _weighty(subjects: Sequence[Subject]) -> list[Subject]:
    return [s for s in subjects if s.kind == "text" or s.importance >= RIVAL * subjects[0].importance]


def _asks_to_loosen(asks: Asked, subjects: Sequence[Subject], choices: Choices) -> bool:
    several = any(len(turn.subjects) > 1 for turn in choices.follow)
    text = choices.keep_text and any(s.kind == "text" for s in asks.group)
    if (several or text) and asks.demand.share(asks.demand.fits) < FITS:
        return True
    return bool(not asks.group and subjects and subjects[0].kind == "text" and _is_text_alone(subjects))


def _is_text_alone(subjects: Sequence[Subject]) -> bool:
    """Whether sure lines of text are all that matters in a shot: a title card."""
    first = subjects[0]
    line = float(np.median(first.boxes[:, 3] - first.boxes[:, 1])) <= _LINE
    sure = float(np.median(first.confidence)) >= _SURE_TEXT
    return (
        sure
        and line
        and all(s.kind in ("text", "moving", "work") for s in subjects if s.importance > RIVAL * first.importance)
    )


def _serving_zoom(asks: Asked, room: Room, zoom: float, part: float) -> float:
    """The zoom at which what is asked takes ``part`` of the window, seen from the room that another zoom gives."""
    some = asks.demand.weight > 0
    if not some.any():
        return zoom
    sizes = (asks.demand.boxes[:, 2:] - asks.demand.boxes[:, :2])[some]
    largest = np.percentile(sizes, _MOSTLY, axis=0)
    return float(zoom * part * (np.array(room.extent) / np.maximum(largest, 1e-6)).min())
