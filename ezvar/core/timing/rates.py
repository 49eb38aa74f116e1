"""Frame rates as exact fractions."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from math import floor

from .exact import exact


@dataclass(frozen=True)
class Rate:
    """Frames per second as an exact fraction in lowest terms.

    >>> Rate.parse("29.97")
    Rate(numerator=30000, denominator=1001)
    >>> str(Rate(24000, 1001))
    '23.976'
    """

    numerator: int
    denominator: int = 1

    def __post_init__(self) -> None:
        if self.numerator <= 0 or self.denominator <= 0:
            raise ValueError("a rate is a positive fraction")
        if self.numerator > 1000 * self.denominator:
            raise ValueError("a rate is at most 1000 frames a second")
        lowest = Fraction(self.numerator, self.denominator)
        object.__setattr__(self, "numerator", lowest.numerator)
        object.__setattr__(self, "denominator", lowest.denominator)

    @classmethod
    def parse(cls, text: str | float | Fraction) -> Rate:
        """A rate from "25", "29.97", "30000/1001" or a number.

        Values within 0.005 of a known rate mean that rate, as 23.98 does; raises
        `ValueError` for what is not a rate.
        """
        try:
            value = exact(str(text)) if not isinstance(text, Fraction) else text
        except ValueError as error:
            raise ValueError(f"“{text}” is not a frame rate") from error
        if value <= 0:
            raise ValueError(f"“{text}” is not a frame rate")
        for rate in RATES:
            if abs(rate.fraction - value) < Fraction(1, 200):
                return rate
        value = value.limit_denominator(1001)
        return cls(value.numerator, value.denominator)

    @cached_property
    def fraction(self) -> Fraction:
        return Fraction(self.numerator, self.denominator)

    @property
    def nominal(self) -> int:
        """Frames counted in one second of timecode: 30 for 29.97."""
        return -(-self.numerator // self.denominator)

    def seconds(self, frames: int) -> Fraction:
        """The exact time that ``frames`` frames take."""
        return Fraction(frames * self.denominator, self.numerator)

    def frame_at(self, seconds: Fraction | float) -> int:
        """The frame that is on screen at ``seconds``."""
        return floor(Fraction(seconds) * self.fraction)

    def __str__(self) -> str:
        if self.denominator == 1:
            return str(self.numerator)
        return f"{float(self.fraction):.3f}".rstrip("0").rstrip(".")


RATES = (
    Rate(24000, 1001),
    Rate(24),
    Rate(25),
    Rate(30000, 1001),
    Rate(30),
    Rate(48),
    Rate(50),
    Rate(60000, 1001),
    Rate(60),
)
"""The rates of the trade."""
