"""Where what was laid out for the lock's shape stands in a master of another one."""

from __future__ import annotations

from dataclasses import dataclass

from ezvar.core.model import Rect

SAFE = 0.05
"""Of the frame's width and height, kept free at each side: the title-safe area of SMPTE ST 2046-1."""
_SAME = 0.005  # by which shapes may differ and are the same
_WHOLE = 0.95  # of the lock's frame, both ways: what is as large belongs to all of it
_CENTRED = 0.04  # of the frame, by which the margins of what stands in the middle may differ


@dataclass(frozen=True)
class Fit:
    """How pixels of the lock's frame become pixels of a master: times ``scale``, plus ``x`` and ``y``."""

    scale: float
    x: float
    y: float


def fit(content: Rect, lock: tuple[int, int], master: tuple[int, int]) -> Fit:
    """The first layout of something that takes up ``content`` of the lock's frame, as fractions of it.

    ``lock`` and ``master`` are sizes in pixels. In a master of the lock's shape
    it stands where it stood. In another one what fills the frame fills it
    again; anything else is as large as it was beside the shorter side, or as
    large as the safe area has room for, at the same side with the same
    relative margin, which is no less than the safe one.

    >>> fit(Rect(0.1, 0.8, 0.4, 0.1), (1920, 1080), (960, 540))
    Fit(scale=0.5, x=0.0, y=0.0)
    """
    by = master[0] / lock[0], master[1] / lock[1]
    if abs(by[0] / by[1] - 1) < _SAME:
        return Fit(by[0], 0.0, (master[1] - lock[1] * by[0]) / 2)
    if min(content.width, content.height) >= _WHOLE:
        scale = max(by)
        return Fit(scale, (master[0] - lock[0] * scale) / 2, (master[1] - lock[1] * scale) / 2)
    pixels = content.width * lock[0], content.height * lock[1]
    room = [(1 - 2 * SAFE) * side for side in master]
    scale = min(min(master) / min(lock), room[0] / pixels[0], room[1] / pixels[1])
    x, y = (
        _side(low, low + part, size * scale, side)
        for low, part, size, side in (
            (content.x, content.width, pixels[0], master[0]), (content.y, content.height, pixels[1], master[1])
        )
    )  # fmt: skip
    return Fit(scale, x - content.x * lock[0] * scale, y - content.y * lock[1] * scale)


def _side(low: float, high: float, size: float, side: int) -> float:
    """Where something of a ``size`` begins along a ``side`` (pixels), that lay from ``low`` to ``high`` (fractions)."""
    before, after = low, 1 - high
    if abs(before - after) <= _CENTRED:
        return (side - size) / 2
    margin = max(SAFE, min(before, after)) * side
    at = margin if before < after else side - margin - size
    return min(max(at, SAFE * side), (1 - SAFE) * side - size)
