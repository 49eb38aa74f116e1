"""People whom the finder sees slightly, look after look: from behind, in the dark, blurred, half in the background.

One such sight says little. But where a shot shows nothing surer, somebody
upright who is seen in one place in most of its looks is there nearly always.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..gather import Evidence
from ..subject import TIMES, Subject
from .drift import Drift
from .steadying import steadied
from .things import core_of
from .tracks import Track, tracks_of_people

_SIGHT, _BEST = 0.25, 80
"""Confidence at this percentile of the sights from which somebody is there."""
_MOSTLY = 0.6  # share of a shot's looks in which they are seen
_UPRIGHT = (1.25, 5.0)  # times as high as wide
_MOST = 4  # more of them are a pattern: gables, windows, trunks
_TALL = 0.15  # of the picture's height
_DECIDES, _SURELY = 0.06, 0.5  # importance, and sureness, of what is surer, from which slight sights add nothing


def glimpsed(
    evidence: Evidence, found: Sequence[Subject], drift: Drift, start: int, end: int, shape: float
) -> list[Subject]:
    """People who were seen slightly in frames ``start`` to ``end``; none where something surer was ``found``.

    ``shape`` is the picture's width over its height.
    """
    if any(s.importance >= _DECIDES and s.sureness >= _SURELY for s in found):
        return []
    looks = len(evidence.seen("person", start, end))
    people = [t for t in tracks_of_people(evidence, start, end, drift) if len(t.frames) >= max(2, _MOSTLY * looks)]
    if len(people) > _MOST:
        return []
    return [_person(t, drift, start, end, evidence.rate, shape) for t in people if _is_somebody(t, shape)]


def _is_somebody(track: Track, shape: float) -> bool:
    boxes = track.boxes()
    wide, high = (float(v) for v in np.median(boxes[:, 2:] - boxes[:, :2], axis=0))
    upright = _UPRIGHT[0] <= high / max(wide * shape, 1e-6) <= _UPRIGHT[1]
    return upright and high >= _TALL and _sure(track) >= _SIGHT


def _sure(track: Track) -> float:
    return float(np.percentile([r.confidence for r in track.regions], _BEST))


def _person(track: Track, drift: Drift, start: int, end: int, rate: float, shape: float) -> Subject:
    gap, reach = (round(t * rate) for t in TIMES["person"])
    frames, boxes, confidence = steadied(track, drift, gap, rate)
    core = core_of("person", 0, boxes, shape)
    made = Subject(0, "person", frames, boxes, confidence, 0.0, reach=reach, bridged=gap, core=core, still=True)
    present = float(made.there(np.arange(start, end)).mean())
    size = float(np.sqrt(np.median((boxes[:, 2:] - boxes[:, :2]).prod(axis=1))))
    return replace(made, importance=_sure(track) * size * present**0.5)
