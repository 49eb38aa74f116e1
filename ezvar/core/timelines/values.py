"""What single values of a timeline say: times, rates, sizes, wipes, placements, tapes."""

from __future__ import annotations

import re
from collections.abc import Iterator
from fractions import Fraction
from functools import lru_cache
from typing import Any

import opentimelineio as otio

from ezvar.core.errors import TimelineError
from ezvar.core.model import Placement, PlacementKey, Rect, Wipe
from ezvar.core.timing import Rate

from .files import plain

NAMESPACE = "ezvar"
WINDOW = "window"
"""The name of the effects in which a handoff says windows, and of what they say."""
_PATTERN = re.compile(r"\bW(\d{3})\b|\bwipe\D{0,3}(\d{1,3})\b", re.IGNORECASE)


def stated_wipe(transition: otio.schema.Transition) -> Wipe:
    """How a transition states its wipe: in our own metadata, by a number in its name; else a straight edge."""
    own = plain(transition.metadata.get(NAMESPACE))
    stated = own.get("wipe") if isinstance(own, dict) else None
    if isinstance(stated, dict):
        try:
            return Wipe(int(stated["pattern"]), bool(stated.get("backwards")), float(stated.get("soft", 0)))
        except (KeyError, TypeError, ValueError, OverflowError):
            return Wipe()  # of no sense: a straight edge
    number = _PATTERN.search(f"{transition.name} {transition.transition_type}")
    return Wipe(int(number[1] or number[2])) if number else Wipe()


def exact_seconds(time: otio.opentime.RationalTime) -> Fraction:
    """A time in exact seconds, at the exact rate that its rounded one stands for."""
    if not 0 < time.rate <= 1_000_000:
        raise ValueError("its rate makes no sense")
    near = round(time.value)  # raises for what is not finite
    rate = _exact_rate(time.rate)
    if abs(time.value - near) < 1e-4:
        return Fraction(near * rate.denominator, rate.numerator)
    return Fraction(time.value).limit_denominator(10**9) / rate


@lru_cache(256)
def _exact_rate(rate: float) -> Fraction:
    return Rate.parse(rate).fraction if 1 <= rate <= 1000 else Fraction(rate).limit_denominator(1001)


def rate_of(timeline: otio.schema.Timeline, name: str) -> Rate:
    """The rate that a timeline states, else the one that most of its picture clips have."""
    begins = timeline.global_start_time
    found = [begins.rate] if begins is not None and begins.rate > 1 else []
    if not found:
        ranges = [c.source_range for t in timeline.video_tracks() for c in t.find_clips() if c.source_range]
        rates = [r.duration.rate for r in ranges if 1 <= r.duration.rate <= 1000]
        found = [max(set(rates), key=rates.count)] if rates else []
    if not found or not 1 <= found[0] <= 1000:
        raise TimelineError("it states no rate that makes sense", file=name, remedy="Name its rate, such as 25")
    return Rate.parse(found[0])


def stated_size(timeline: otio.schema.Timeline) -> tuple[int, int] | None:
    """The size of frame, in pixels, that our own metadata states."""
    told = plain(timeline.metadata.get(NAMESPACE))
    size = told.get("frame") if isinstance(told, dict) else None
    if isinstance(size, list) and len(size) == 2 and all(isinstance(s, int) and 16 <= s <= 16_384 for s in size):
        return size[0], size[1]
    return None


def parse_placement(said: dict[str, Any]) -> Placement:
    """A placement of our own metadata. Raises `KeyError`, `TypeError` or `ValueError` for what makes no sense."""
    crop = Rect(*(float(v) for v in said["crop"])) if "crop" in said else Rect()
    keys = tuple(
        PlacementKey(int(k["frame"]), float(k.get("x", 0)), float(k.get("y", 0)), float(k.get("scale", 1)))
        for k in said.get("keys", ())
    )
    return Placement(float(said.get("x", 0)), float(said.get("y", 0)), float(said.get("scale", 1)), crop, keys)


def stated_reel(told: Any) -> str:
    """The reel or tape named anywhere in metadata, under the names that list formats use for it."""
    for name, value in _walk(told):
        if name.lower() in ("reel", "tape", "tape name", "tapeid", "reel name") and isinstance(value, str):
            return value
    return ""


def _walk(told: Any, depth: int = 0) -> Iterator[tuple[str, Any]]:
    if isinstance(told, dict) and depth < 6:
        for name, value in told.items():
            yield name, value
            yield from _walk(value, depth + 1)
