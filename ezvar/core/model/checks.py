"""What values of the document have to be, to be any at all."""

from __future__ import annotations

import math
import re
from fractions import Fraction

FARTHEST = 24 * 3600 * 1000
"""Frames that anything may lie from the lock's beginning or its own: a day at the highest rate."""
LARGEST_SIDE = 16_384
"""Pixels of a side of a picture, and of a master."""
MOST_PANES, MOST_MASTERS, MOST_SHOTS = 9, 64, 1_000_000
_COLOUR = re.compile(r"#[0-9a-fA-F]{6}")


def finite(**values: float) -> None:
    """Raise `ValueError` for a value that is no finite number."""
    if math.isfinite(sum(values.values())):
        return
    for name, value in values.items():
        if not math.isfinite(value):
            raise ValueError(f"{name} must be a finite number")


def between(*checks: tuple[str, float, float, float]) -> None:
    """Raise `ValueError` for a value out of its range, each given as name, value, least and most."""
    for name, value, low, high in checks:
        if not low <= value <= high:
            raise ValueError(f"{name} lies between {low} and {high}")


def frames(**values: int) -> None:
    """Raise `ValueError` for a place in time that is farther away than anything can be."""
    for name, value in values.items():
        if not -FARTHEST <= value <= FARTHEST:
            raise ValueError(f"{name} lies more than a day away")


def exactly(**values: Fraction) -> None:
    """Raise `ValueError` for exact numbers that are out of all proportion, or finer than anything is measured."""
    for name, value in values.items():
        if abs(value) > 2**40 or value.denominator > 2**63:
            raise ValueError(f"{name} is out of all proportion")


def colours(*values: str) -> None:
    """Raise `ValueError` for what is no colour, written as #rrggbb."""
    if not all(_COLOUR.fullmatch(value) for value in values):
        raise ValueError("a colour is written as #rrggbb")
