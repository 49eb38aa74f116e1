"""Exact numbers as text, bounded: a few letters can name a number that fills the memory."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Any

from pydantic import BeforeValidator

_DIGITS, _POWER = 40, 40


def exact(text: str) -> Fraction:
    """A number from "25", "-2.5", "30000/1001" or "1e-3".

    Raises `ValueError` for what is none, for more than 40 signs, and for
    powers of ten beyond 40.

    >>> exact("30000/1001")
    Fraction(30000, 1001)
    >>> exact("1e99999999")
    Traceback (most recent call last):
    ValueError: “1e99999999” is no number that can be used
    """
    said = text.strip()
    power = said.lower().rpartition("e")[2] if "e" in said.lower() else "0"
    try:
        if len(said) > _DIGITS or abs(int(power)) > _POWER:
            raise ValueError
        return Fraction(said)
    except (ValueError, ZeroDivisionError) as error:
        raise ValueError(f"“{said[:_DIGITS]}” is no number that can be used") from error


def _read(value: Any) -> Any:
    return exact(value) if isinstance(value, str) else value


Exact = Annotated[Fraction, BeforeValidator(_read)]
"""A fraction that is read from files by `exact`."""
