"""What values of the document have to be, to be any at all."""

from __future__ import annotations

import math
import re

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


def colours(*values: str) -> None:
    """Raise `ValueError` for what is no colour, written as #rrggbb."""
    if not all(_COLOUR.fullmatch(value) for value in values):
        raise ValueError("a colour is written as #rrggbb")
