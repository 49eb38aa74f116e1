"""Stretches of a path that an editor has set: what they hold fixed, and the solved rest joined to them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ezvar.core.model import Keyframe, Pane
from ezvar.core.timing import FrameRange

from ..windows.path import key_at
from .fitting import fewest_keys

_SAME = 0.002
_SAMPLES = 4  # frames


@dataclass(frozen=True)
class Piece:
    """A stretch between those by hand: which knots lie in it, and where the path is that it has to meet.

    ``before`` and ``after`` are keyframes by hand, ``None`` at the ends of the shot.
    """

    knots: np.ndarray  # (knots,) bool
    before: Keyframe | None
    after: Keyframe | None


def whole_stretches(pane: Pane) -> tuple[FrameRange, ...]:
    """The stretches by hand, widened to the keyframes that shape their ends, so that they stay exactly as they are."""
    frames = [k.frame for k in pane.keys]
    found: list[FrameRange] = []
    for stretch in pane.by_hand:
        first, last = stretch.start, stretch.end - 1
        if frames[0] < first < frames[-1]:
            first = max(f for f in frames if f <= first)
        if frames[0] < last < frames[-1]:
            last = min(f for f in frames if f >= last)
        if found and first <= found[-1].end:
            found[-1] = FrameRange(found[-1].start, max(found[-1].end, last + 1))
        else:
            found.append(FrameRange(first, last + 1))
    return tuple(found)


def marked(pane: Pane, first: int, last: int) -> Pane:
    """A pane whose path from frame ``first`` to ``last``, both included, is noted as set by hand."""
    spans = sorted([*pane.by_hand, FrameRange(first, last + 1)])
    joined: list[FrameRange] = []
    for span in spans:
        if joined and span.start <= joined[-1].end:
            joined[-1] = FrameRange(joined[-1].start, max(joined[-1].end, span.end))
        else:
            joined.append(span)
    return replace(pane, by_hand=tuple(joined))


def keys_by_hand(pane: Pane) -> list[Keyframe]:
    """The keyframes of the stretches by hand, with one at each of their ends."""
    keys: dict[int, Keyframe] = {}
    for stretch in whole_stretches(pane):
        inside = [k for k in pane.keys if k.frame in stretch]
        for k in (key_at(pane, stretch.start), key_at(pane, stretch.end - 1), *inside):
            keys[k.frame] = k
    return [keys[f] for f in sorted(keys)]


def fixed_at(pane: Pane, frames: np.ndarray) -> np.ndarray:
    """The centre (n, 2) that stretches by hand set at frames (n,) of the shot, not a number elsewhere.

    A stretch between two frames sets the one nearest to it.
    """
    values = np.full((len(frames), 2), np.nan)
    for stretch in whole_stretches(pane):
        inside = (frames >= stretch.start) & (frames < stretch.end)
        if not inside.any():
            inside[np.argmin(abs(frames - stretch.start))] = True
        for k in np.flatnonzero(inside):
            key = key_at(pane, int(np.clip(frames[k], stretch.start, stretch.end - 1)))
            values[k] = key.cx, key.cy
    return values


def pieces(pane: Pane, frames: np.ndarray) -> list[Piece]:
    """The stretches that are left to the solver, in order."""
    found = []
    stretches = whole_stretches(pane)
    for k in range(len(stretches) + 1):
        before = stretches[k - 1] if k else None
        after = stretches[k] if k < len(stretches) else None
        knots = np.ones(len(frames), bool)
        if before is not None:
            knots &= frames >= before.end
        if after is not None:
            knots &= frames < after.start
        if knots.any():
            found.append(Piece(
                knots, None if before is None else key_at(pane, before.end - 1),
                None if after is None else key_at(pane, after.start),
            ))  # fmt: skip
    return found


def excerpt(pane: Pane, first: int, last: int) -> list[Keyframe]:
    """Keyframes for the part of a path from frame ``first`` to ``last``, both included.

    Where these are no keyframes themselves, the part is fitted anew, within
    `_SAME` of the picture of what it was.
    """
    frames = [k.frame for k in pane.keys]
    inside = [k for k in pane.keys if first <= k.frame <= last]
    if all(f in frames or not frames[0] < f < frames[-1] for f in (first, last)):
        return inside or [key_at(pane, first)]
    at = np.unique([first, *range(first, last + 1, _SAMPLES), *(k.frame for k in inside), last])
    path = np.array([(k.cx, k.cy) for k in (key_at(pane, int(n)) for n in at)])
    if len(at) == 1:
        return [key_at(pane, first)]
    fitted = fewest_keys(at, path, path - _SAME, path + _SAME, (np.inf, np.inf))
    return [replace(key_at(pane, n), ease=ease, bend=0.5) for n, _, ease in fitted]


def keys_together(by_hand: Sequence[Keyframe], solved: Sequence[Keyframe]) -> tuple[Keyframe, ...]:
    """Keyframes by hand and solved ones in one path.

    Where both have one, the one by hand stays; it goes on to the next solved
    one with the ease that was solved for it.
    """
    keys = {k.frame: k for k in solved}
    ends = {a.frame for a, b in zip(by_hand, [*by_hand[1:], None], strict=True)
            if b is None or any(a.frame < f < b.frame for f in keys)}  # fmt: skip
    for key in by_hand:
        meets = keys.get(key.frame)
        keys[key.frame] = (
            replace(key, ease=meets.ease, bend=meets.bend) if meets is not None and key.frame in ends else key
        )
    return tuple(keys[f] for f in sorted(keys))
