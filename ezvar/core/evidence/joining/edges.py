"""A thing without contrast in its middle, which the finder of movement sees now as one and now as its two edges."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from ..regions import Region

_BESIDE = 2  # looks before and after, in which it is seen whole
_SAME = 0.7  # overlap (intersection over union) of both edges together with it there
_SLANTS = 0.15  # of the height of an edge, by which the other may stand higher or lower
_LARGEST = 4  # regions of a look that are tried


def whole_again(looks: Sequence[tuple[int, list[Region]]]) -> list[tuple[int, list[Region]]]:
    """Looks for movement (frames, and what moves, the strongest first), in which two regions are one that together are
    what shortly before or after is one."""
    made = []
    for k, (frame, regions) in enumerate(looks):
        beside = [r for _, others in looks[max(0, k - _BESIDE) : k + _BESIDE + 1] for r in others]
        made.append((frame, _joined(regions, [r for r in beside if r not in regions])))
    return made


def _joined(regions: Sequence[Region], beside: Sequence[Region]) -> list[Region]:
    left = list(regions)
    for one, other in itertools.combinations(regions[:_LARGEST], 2):
        if one in left and other in left and _level(one, other):
            both = _together(one, other)
            alone = max((max(r.overlap(one), r.overlap(other)) for r in beside), default=0.0)
            if max((r.overlap(both) for r in beside), default=0.0) >= max(_SAME, alone):
                left = [both, *(r for r in left if r not in (one, other))]
    return sorted(left, key=lambda r: -r.strength)


def _level(one: Region, other: Region) -> bool:
    """Whether two regions are equally high, at the same height, and apart: leaves and crowds seldom are."""
    most = _SLANTS * max(one.height, other.height)
    level = abs(one.y - other.y) <= most and abs(one.y + one.height - other.y - other.height) <= most
    return level and (one.x + one.width <= other.x or other.x + other.width <= one.x)


def _together(one: Region, other: Region) -> Region:
    x, y = min(one.x, other.x), min(one.y, other.y)
    right, foot = max(one.x + one.width, other.x + other.width), max(one.y + one.height, other.y + other.height)
    sure, strong = max(one.confidence, other.confidence), one.strength + other.strength
    return Region("moving", x, y, right - x, foot - y, sure, strong)
