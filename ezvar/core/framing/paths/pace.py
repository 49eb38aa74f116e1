"""Pace: how fast a window may move and how readily, from one number.

Pace 0 never moves, 0.25 hardly ever does, 0.5 is the middle, 1 follows
closely.
"""

from __future__ import annotations

from dataclasses import dataclass

MIDDLE = 0.5
_WORDS = (
    (0.01, "never moves"),
    (0.3, "hardly ever moves"),
    (0.45, "moves seldom"),
    (0.6, "moves when it must"),
    (0.8, "follows"),
    (1.01, "follows closely"),
)


@dataclass(frozen=True)
class Pace:
    """``speed`` is the most a window moves, in picture widths (heights, up and down) a second.

    ``calm`` weighs rest against keeping the subject in the middle: the higher, the calmer.
    """

    speed: float
    calm: float


def pace_of(value: float) -> Pace:
    """The pace that a number 0..1 stands for. Raises `ValueError` outside.

    >>> pace_of(0.5).speed
    0.3
    """
    if not 0 <= value <= 1:
        raise ValueError("pace lies between 0 and 1")
    if value == 0:
        return Pace(0.0, float("inf"))
    return Pace(round(0.3 * 16 ** (value - 0.5), 6), 16 ** (0.5 - value))


def words(value: float) -> str:
    """A pace in words.

    >>> words(0.5)
    'moves when it must'
    """
    return next(text for limit, text in _WORDS if value < limit)
