"""Bringing the values of older project files up to the present format, one step at a time.

Formats: 2 brought timelines (placements with keyframes, speeds, sound, notes,
titles) and passed-over cuts; 3 choices, stretches by hand, panes of other
shots, trims, arrangements, held versions, drawn subjects; 4 bent curves and
what was played; 5 the turning of files. What each of these added has the
value by itself that stands for how it was before. 6 brought ids of projects
and of their revisions, places of all named files beside the project, and how
wipes go; 7 black bars that are to be shown, and people cut in two as a reason for
doubt; 8 layers with all that the timeline says of them, in place of titles
with their times alone; 9 captions, how they look in each master, and overlay
zones; 10 the output list, and what became of its rows.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from fractions import Fraction
from typing import Any

SCHEMA = 11

Values = dict[str, Any]


def migrated(values: Values, version: int) -> Values:
    """The values of a project file of a version, from 1 on, as `SCHEMA` has them. Raises `KeyError` and the like where
    parts are missing."""
    for step in range(version, SCHEMA):
        values = _STEPS.get(step, _as_it_was)(values)
    return values


def _as_it_was(values: Values) -> Values:
    """A step that only added what has a value by itself."""
    return values


def _to_6(values: Values) -> Values:
    """A timeline's wipes, mixed like dissolves until then, get a straight edge; the project an id, the same whenever
    the old file is read."""
    doc = values["document"]
    if doc["lock"].get("file"):
        for shot in doc["shots"]:
            if (shot.get("cut") or {}).get("kind") == "wipe":
                shot["cut"]["wipe"] = {"pattern": 1}
    text = json.dumps([doc["lock"], [shot["id"] for shot in doc["shots"]]], sort_keys=True, default=str)
    doc["project"] = hashlib.sha256(text.encode(errors="surrogatepass")).hexdigest()[:8]
    return values


def _to_8(values: Values) -> Values:
    """Titles of a timeline become layers, at their media's own speed. What else the timeline says of them was not
    kept."""
    lock = values["document"]["lock"]
    rates = {media["id"]: media["rate"] for media in lock.get("media", ())}
    lock["layers"] = [
        {
            "name": title["name"], "start": title["start"], "end": title["end"], "track": title.get("track", 2),
            "source": {
                "media": title.get("media", ""), "start": title.get("source", "0"),
                "step": str(_fraction(rates.get(title.get("media", ""), lock["rate"])) / _fraction(lock["rate"])),
            },
        }
        for title in lock.pop("titles", ())
    ]  # fmt: skip
    return values


def _fraction(rate: Values) -> Fraction:
    return Fraction(rate["numerator"], rate["denominator"])


_STEPS: dict[int, Callable[[Values], Values]] = {5: _to_6, 7: _to_8}
