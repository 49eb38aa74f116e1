"""Keyframes moved, copied and eased by hand, several at once."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from ezvar.core import edits
from ezvar.core.model import Ease, Keyframe, Master, Pane

from ..paths.hand_stretches import marked
from ..windows.geometry import Size
from ..windows.path import bend_through
from .moves import placed


def moved_keys(
    pane: Pane, master: Master, picture: Size, frames: Collection[int], by: int, dx: float = 0.0, dy: float = 0.0
) -> tuple[Pane, int]:
    """The keyframes at some frames of the shot moved in time and place, and by how many frames they went.

    ``dx`` and ``dy`` are fractions of the picture. Those that move never pass
    or meet one that stays: they stop beside it. The path from the keyframe
    before the first to the one after the last is the editor's from now on.
    """
    moving = [k for k in pane.keys if k.frame in frames]
    if not moving:
        return pane, 0
    by = _room(pane, moving, by)
    new = [placed(replace(k, frame=k.frame + by, cx=k.cx + dx, cy=k.cy + dy), pane, master, picture) for k in moving]
    kept = [k for k in pane.keys if k.frame not in frames]
    keys = tuple(sorted([*kept, *new], key=lambda k: k.frame))
    return _marked_around(replace(pane, keys=keys), moving[0].frame, moving[-1].frame, by), by


def _room(pane: Pane, moving: Sequence[Keyframe], by: int) -> int:
    """How far the moving keyframes can go without meeting one that stays."""
    low, high = -(10**9), 10**9
    going = {k.frame for k in moving}
    for k, key in enumerate(pane.keys):
        if key.frame not in going:
            continue
        if k and pane.keys[k - 1].frame not in going:
            low = max(low, pane.keys[k - 1].frame + 1 - key.frame)
        if k + 1 < len(pane.keys) and pane.keys[k + 1].frame not in going:
            high = min(high, pane.keys[k + 1].frame - 1 - key.frame)
    return min(max(by, low), high)


def copied_keys(pane: Pane, master: Master, picture: Size, keys: Sequence[Keyframe], at: int) -> Pane:
    """Copies of keyframes put down with the first of them at frame ``at``; others among them give way."""
    if not keys:
        return pane
    offset = at - keys[0].frame
    new = [placed(replace(k, frame=k.frame + offset), pane, master, picture) for k in keys]
    kept = [k for k in pane.keys if not new[0].frame <= k.frame <= new[-1].frame]
    whole = replace(pane, keys=tuple(sorted([*kept, *new], key=lambda k: k.frame)))
    return _marked_around(whole, new[0].frame, new[-1].frame, 0)


def eased_keys(pane: Pane, frames: Collection[int], ease: Ease) -> Pane:
    """The curves that leave the keyframes at some frames set to an ease, unbent."""
    keys = tuple(replace(k, ease=ease, bend=0.5) if k.frame in frames else k for k in pane.keys)
    changed = [k.frame for k in pane.keys if k.frame in frames]
    return _marked_around(replace(pane, keys=keys), changed[0], changed[-1], 0) if changed else pane


def bent(pane: Pane, frame: int, wanted: float) -> Pane:
    """The curve that passes a frame of the shot bent so that its move has come ``wanted`` (0..1) of its way there.

    Nothing changes before the first keyframe, after the last, and on a curve
    that holds.
    """
    for a, b in zip(pane.keys, pane.keys[1:], strict=False):
        if a.frame < frame < b.frame and a.ease != "hold":
            bend = bend_through((frame - a.frame) / (b.frame - a.frame), wanted, a.ease)
            return marked(edits.set_keyframe(pane, replace(a, bend=bend)), a.frame, b.frame)
    return pane


def way_come(pane: Pane, frame: int, cx: float, cy: float) -> float:
    """How far along the straight way of the move that passes a frame a centre (fractions of the picture) lies, 0..1."""
    for a, b in zip(pane.keys, pane.keys[1:], strict=False):
        if a.frame < frame < b.frame:
            way = (b.cx - a.cx, b.cy - a.cy)
            length = way[0] ** 2 + way[1] ** 2
            if length == 0:
                return 0.5
            return min(max(((cx - a.cx) * way[0] + (cy - a.cy) * way[1]) / length, 0.0), 1.0)
    return 0.5


def _marked_around(pane: Pane, first: int, last: int, by: int) -> Pane:
    """Noted as by hand from the keyframe before to the one after all that was touched, before and after it moved."""
    first, last = min(first, first + by), max(last, last + by)
    before = max((k.frame for k in pane.keys if k.frame < first), default=first)
    after = min((k.frame for k in pane.keys if k.frame > last), default=last)
    return marked(pane, before, after)


def snapped(frame: int, marks: Collection[int], reach: int) -> int:
    """A frame, or the nearest mark within ``reach`` frames of it.

    >>> snapped(103, (0, 100, 250), 5)
    100
    """
    near = min(marks, key=lambda m: abs(m - frame), default=frame)
    return near if abs(near - frame) <= reach else frame
