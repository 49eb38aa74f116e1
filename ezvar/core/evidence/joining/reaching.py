"""Arms that reach in from a side, and what their hands hold, told apart by where they end.

What a finder takes either for changes from look to look: a cup is a thing now,
a person or a vehicle then, and so is the arm with it. But what reaches in is
cut off by the picture's side, and what it holds is not.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..regions import Region
from .boxes import shared
from .drift import Drift
from .tracks import Track, joined_beings

LIMBS = ("person", "animal")
"""What a hand or an arm is taken for."""
UPRIGHT = 1.25
"""Times as high as wide, from which a figure stands."""
_EDGE = 0.015  # of the picture, from its edge, where something is cut off by it
_NEARLY = 0.1  # of its width, by which a single sight of an arm may end before the side
_WIDEST = 0.8  # of the picture: what fills it more than that is what the shot shows
_MOSTLY = 0.5  # share of the sights of an arm that reach in, and of what it holds that lie in its reach
_HOLDS = 0.3  # share of the looks at an arm in which something else is seen as well
_SURER = 8  # power of confidence by which sights of one thing count
_REACHED, _WITHIN = 0.3, 0.5
"""Of the smaller of two, that lies in the other: of an arm and what it may hold, and of two sights that are one."""


def reaches_in(track: Track, shape: float) -> int:
    """Whether what was found only reaches in from a side, as an arm does: it ends there, and is not upright.

    -1 from the left, 1 from the right, 0 for what does not. ``shape`` is the picture's width over its height.
    """
    boxes = track.boxes()
    wide, high = (float(v) for v in np.median(boxes[:, 2:] - boxes[:, :2], axis=0))
    if track.kind not in LIMBS or high >= UPRIGHT * wide * shape or wide >= _WIDEST:
        return 0
    for side in (1, -1):
        if float(np.mean([_ends_at(r, side) and not _ends_at(r, -side) for r in track.regions])) > _MOSTLY:
            return side
    return 0


def held_apart(found: Sequence[Track], drift: Drift, rate: float, shape: float) -> tuple[list[Track], list[Track]]:
    """Tracks, of which those of arms and of what lies in their reach are joined anew: what ends at the side with what
    ends there, the rest as things. Of each arm's things, the one that is seen most is held: these are the second list.
    """
    others, held = list(found), []
    for arm in found:
        side = reaches_in(arm, shape)
        if not side or arm not in others:
            continue
        family = [arm, *(t for t in others if t is not arm and _lies_in_reach(t, arm))]
        sights = sorted(((n, r) for t in family for n, r in zip(t.frames, t.regions, strict=True)), key=lambda s: s[0])
        ending = [(n, replace(r, kind=arm.kind)) for n, r in sights if _ends_at(r, side, _NEARLY)]
        free = [(n, replace(r, kind="thing")) for n, r in sights if not _ends_at(r, side, _NEARLY)]
        looks = {n for n, _ in ending}
        if len(looks & {n for n, _ in free}) < _HOLDS * len(looks):
            continue
        things = joined_beings(_looks(free), rate, drift)
        most = max(things, key=lambda t: sum(r.confidence for r in t.regions), default=None)
        if most is None:
            continue
        others = [t for t in others if t not in family]
        others += [*joined_beings(_looks(ending), rate, drift), *(t for t in things if t is not most)]
        held.append(most)
    return others, held


def _looks(sights: Sequence[tuple[int, Region]]) -> list[tuple[int, list[Region]]]:
    """Sights by look, those that lie for the most part in each other as one."""
    by_frame: dict[int, list[Region]] = {}
    for n, region in sights:
        by_frame.setdefault(n, []).append(region)
    return [(n, _fused(regions)) for n, regions in by_frame.items()]


def _ends_at(region: Region, side: int, nearly: float = 0.0) -> bool:
    """Whether a region ends at a side, or by ``nearly`` of its own width."""
    away = 1 - region.x - region.width if side > 0 else region.x
    return away < max(_EDGE, nearly * region.width)


def _boxes(regions: Sequence[Region]) -> np.ndarray:
    return Track([0] * len(regions), list(regions)).boxes()


def _fused(seen: Sequence[Region]) -> list[Region]:
    """Regions, of which those that lie for the most part in each other are one: their mean, the surer ones by far the
    more, so that a hair does not decide between two (Solovyev, Wang and Gabruseva, "Weighted boxes fusion", 2021)."""
    groups: list[list[Region]] = []
    for region in sorted(seen, key=lambda r: -r.confidence):
        group = next((g for g in groups if shared(_boxes([region]), _boxes(g[:1]))[0] >= _WITHIN), None)
        if group is None:
            groups.append([region])
        else:
            group.append(region)
    return [_mean(group) for group in groups]


def _mean(group: Sequence[Region]) -> Region:
    weights = [region.confidence**_SURER for region in group]
    left, top, right, foot = (float(v) for v in np.average(_boxes(group), axis=0, weights=weights))
    return replace(group[0], x=left, y=top, width=right - left, height=foot - top)


def _lies_in_reach(track: Track, arm: Track) -> bool:
    """Whether a track and an arm cover each other in most of the track's sights."""
    boxes = np.stack([np.interp(track.frames, arm.frames, side) for side in arm.boxes().T], axis=1)
    return float(np.mean(shared(track.boxes(), boxes) >= _REACHED)) >= _MOSTLY
