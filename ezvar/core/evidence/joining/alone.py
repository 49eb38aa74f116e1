"""What moves alone: for a while nearly all that moves in a shot is one large thing, which comes in from a side.

Joined look by look to what moved there before, leaves in the wind, it would
count for as little as they do; and the finder of things may see it once, or
not at all where a movie is coded badly.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..regions import Region
from .tracks import Track

_NEARLY_ALL, _MOST = 0.93, 0.8
"""Of all that moves, that it is; and in the first and the last look, when it is half in the picture."""
_SURELY = 0.9  # confidence
_LARGE, _WIDEST = 0.06, 0.65
"""Area in the look in which it is largest, and width, of the picture: what spreads farther is a landscape, or the
camera."""
_EDGE = 0.025  # of the picture, from its edge, where something that comes in is first seen
_GOES_ON = 0.25  # overlap (intersection over union) from one look to the next
_MISSED = 2  # looks from one in which it moves alone to the next
_SWIFT = 0.5  # of the larger one's width, beside it, at which what goes swiftly is seen next
_LEVEL = 0.5  # of the lower one's height, that both have in common there
_LOOKS, _SECONDS = 3, 0.25
_SELDOM = 0.4  # of a shot's looks, up to which it is for a while


def moves_alone(looks: Sequence[tuple[int, list[Region]]], rate: float) -> list[Track]:
    """What moves alone for a while, of the looks for movement of a shot (frames, and what moves, the strongest first)
    at ``rate`` frames a second; nothing where that is so most of the time."""
    runs: list[Track] = []
    last = -1
    for k, (frame, regions) in enumerate(looks):
        if not regions or not _moves_most(regions[0]):
            continue
        if last < 0 or k - last > _MISSED or not _goes_on(runs[-1].regions[-1], regions[0]):
            runs.append(Track())
        runs[-1].frames.append(frame)
        runs[-1].regions.append(regions[0])
        last = k
    found = [run for run in map(_nearly_all, runs) if _lasts(run, rate) and _is_large(run)]
    return found if sum(len(run.frames) for run in found) <= _SELDOM * len(looks) else []


def without(alone: Sequence[Track], looks: Sequence[tuple[int, list[Region]]]) -> list[tuple[int, list[Region]]]:
    """Looks for movement, without what moves alone."""
    taken = {frame for track in alone for frame in track.frames}
    return [(frame, regions[1:] if frame in taken else regions) for frame, regions in looks]


def _moves_most(region: Region) -> bool:
    return region.width <= _WIDEST and region.strength >= _MOST and region.confidence >= _SURELY


def _is_large(run: Track) -> bool:
    return max(region.width * region.height for region in run.regions) >= _LARGE


def _goes_on(one: Region, other: Region) -> bool:
    """Whether two that move alone in looks that follow each other are one, however swiftly it goes to the side."""
    apart = abs(one.cx - other.cx) - (one.width + other.width) / 2
    level = min(one.y + one.height, other.y + other.height) - max(one.y, other.y)
    swift = apart <= _SWIFT * max(one.width, other.width) and level >= _LEVEL * min(one.height, other.height)
    return one.overlap(other) >= _GOES_ON or swift


def _nearly_all(run: Track) -> Track:
    """The part of a run in which nearly all moves with it, with the look after that, and the one before if it comes in
    there; nothing where it comes in nowhere."""
    whole = [k for k, region in enumerate(run.regions) if region.strength >= _NEARLY_ALL]
    first = next((k for w in whole for k in (w - 1, w) if k >= 0 and _at_edge(run.regions[k])), None)
    part = slice(0) if first is None else slice(first, whole[-1] + 2)
    return Track(run.frames[part], run.regions[part])


def _at_edge(region: Region) -> bool:
    sides = (region.x, region.y, 1 - region.x - region.width, 1 - region.y - region.height)
    return min(sides) <= _EDGE


def _lasts(run: Track, rate: float) -> bool:
    return len(run.frames) >= _LOOKS and run.frames[-1] - run.frames[0] >= _SECONDS * rate
