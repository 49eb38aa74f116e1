"""Where what was laid out for the lock's shape stands in a master of another one, and what stands beside what."""

from __future__ import annotations

from dataclasses import dataclass

from ezvar.core.model import Across, Anchoring, Down, Rect, Side

SAFE = 0.05
"""Of the frame's width and height, kept free at each side: the title-safe area of SMPTE ST 2046-1."""
_SAME = 0.005  # by which shapes may differ and are the same
_WHOLE = 0.95  # of the lock's frame, both ways: what is as large belongs to all of it
_CENTRED = 0.04  # of the frame, by which the margins of what stands in the middle may differ
_AT = {"left": 0.0, "centre": 0.5, "right": 1.0, "top": 0.0, "middle": 0.5, "foot": 1.0}
"""The part of the room that is left free before what stands there."""
_AS_IT_WAS = Anchoring("")


@dataclass(frozen=True)
class Fit:
    """How pixels of the lock's frame become pixels of a master: times ``scale``, plus ``x`` and ``y``."""

    scale: float
    x: float
    y: float


def same_shape(lock: tuple[int, int], master: tuple[int, int]) -> bool:
    """Whether frames of two sizes in pixels have one shape, but for a hair."""
    return abs(master[0] / lock[0] / (master[1] / lock[1]) - 1) < _SAME


def fit(
    content: Rect, lock: tuple[int, int], master: tuple[int, int], anchoring: Anchoring = _AS_IT_WAS,
    band: tuple[float, float] | None = None, other: Rect | None = None,
) -> Fit:  # fmt: skip
    """The first layout of something that takes up ``content`` of the lock's frame, as fractions of it.

    ``lock`` and ``master`` are sizes in pixels. In a master of the lock's shape
    it stands where it stood. In another one what fills the frame fills it
    again; anything else is as large as it was beside the shorter side, or as
    large as the safe area has room for, at the same side with the same
    relative margin, which is no less than the safe one, unless it is anchored
    elsewhere: to another side, in the middle of a free ``band``, fractions of
    the master's height, where that holds it, or beside the ``other`` item, in
    the master's pixels.

    >>> fit(Rect(0.1, 0.8, 0.4, 0.1), (1920, 1080), (960, 540))
    Fit(scale=0.5, x=0.0, y=0.0)
    """
    by = master[0] / lock[0], master[1] / lock[1]
    if same_shape(lock, master):
        return Fit(by[0], 0.0, (master[1] - lock[1] * by[0]) / 2)
    if min(content.width, content.height) >= _WHOLE:
        scale = max(by)
        return Fit(scale, (master[0] - lock[0] * scale) / 2, (master[1] - lock[1] * scale) / 2)
    pixels = content.width * lock[0], content.height * lock[1]
    room = [(1 - 2 * SAFE) * side for side in master]
    scale = min(min(master) / min(lock), room[0] / pixels[0], room[1] / pixels[1])
    size = pixels[0] * scale, pixels[1] * scale
    across, own_across = _of_lock(content.x, content.x + content.width)
    down, own_down = _of_lock(content.y, content.y + content.height)
    at = (across if anchoring.across is None else _AT[anchoring.across],
          down if anchoring.down is None else _AT[anchoring.down])  # fmt: skip
    if anchoring.beside is not None and other is not None:
        gap = (SAFE if anchoring.margin is None else anchoring.margin) * min(master)
        x, y = beside(anchoring.beside.side, gap, at, other, size, master)
    else:
        margins = (own_across, own_down) if anchoring.margin is None else (anchoring.margin, anchoring.margin)
        x, y = (begin(*each) for each in zip(at, margins, size, master, strict=True))
    if band is not None and size[1] <= (band[1] - band[0]) * master[1]:
        y = sum(band) / 2 * master[1] - size[1] / 2
    return Fit(scale, x - content.x * lock[0] * scale, y - content.y * lock[1] * scale)


def _of_lock(low: float, high: float) -> tuple[float, float]:
    """At which part of the room something stands that lies from ``low`` to ``high`` (fractions), with its margin."""
    before, after = low, 1 - high
    if abs(before - after) <= _CENTRED:
        return 0.5, before
    return (0.0, before) if before < after else (1.0, after)


def share_before(across: Across, down: Down) -> tuple[float, float]:
    """The part of the room across and down that is left free before what stands there, 0..1."""
    return _AT[across], _AT[down]


def begin(at: float, margin: float, size: float, side: int) -> float:
    """Where something of a ``size`` in pixels begins along a ``side``: ``at`` 0 so far from its beginning as the margin
    says, a part of the side and never less than the safe one, at 1 as far from its end, at 0.5 in the middle."""
    edge = max(SAFE, margin) * side
    return safe({0.0: edge, 0.5: (side - size) / 2, 1.0: side - edge - size}[at], size, side)


def safe(low: float, size: float, side: float) -> float:
    """Where something begins that is to begin at ``low``, so that it lies in the safe area along a side; in the middle
    where it is larger."""
    if size > (1 - 2 * SAFE) * side:
        return (side - size) / 2
    return min(max(low, SAFE * side), (1 - SAFE) * side - size)


def beside(
    side: Side, gap: float, at: tuple[float, float], other: Rect, size: tuple[float, float], frame: tuple[int, int]
) -> tuple[float, float]:
    """Where something of a size in pixels begins, ``gap`` pixels from a side of another item, aligned with it as ``at``
    says; at the opposite side where only there is room."""
    upright = side in ("above", "below")
    axis = 1 if upright else 0
    low, part = ((other.x, other.width), (other.y, other.height))[axis]
    before, after = low - gap - size[axis], low + part + gap
    ways = (before, after) if side in ("above", "left") else (after, before)
    fitting = (way for way in ways if SAFE * frame[axis] <= way <= (1 - SAFE) * frame[axis] - size[axis])
    along = safe(next(fitting, ways[0]), size[axis], frame[axis])
    if upright:
        return safe(other.x + at[0] * (other.width - size[0]), size[0], frame[0]), along
    return along, safe(other.y + at[1] * (other.height - size[1]), size[1], frame[1])
