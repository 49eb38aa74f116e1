"""Time expressions of TTML (W3C "Timed Text Markup Language 2", 12.3) as milliseconds."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction

_CLOCK = re.compile(r"(\d{1,4}):(\d\d):(\d\d)(?:\.(\d+)|:(\d{1,3})(?:\.(\d+))?)?")
_OFFSET = re.compile(r"(\d+(?:\.\d+)?)(h|ms|m|s|f|t)")
_UNITS = {"h": Fraction(3600), "m": Fraction(60), "s": Fraction(1), "ms": Fraction(1, 1000)}


@dataclass(frozen=True)
class Clock:
    """How a document counts: frames and ticks a second."""

    frame_rate: Fraction = Fraction(30)
    tick_rate: Fraction = Fraction(1)
    sub_frames: int = 1

    def seconds(self, text: str) -> Fraction:
        """The time that an expression says. Raises `ValueError` for what is none.

        >>> Clock(Fraction(25)).seconds("00:00:01:05")
        Fraction(6, 5)
        """
        if match := _CLOCK.fullmatch(text.strip()):
            hours, minutes, seconds = (int(match[k]) for k in (1, 2, 3))
            whole = Fraction(hours * 3600 + minutes * 60 + seconds)
            if match[4]:
                return whole + Fraction(int(match[4]), 10 ** len(match[4]))
            frames = Fraction(int(match[5] or 0)) + Fraction(int(match[6] or 0), self.sub_frames)
            return whole + frames / self.frame_rate
        if match := _OFFSET.fullmatch(text.strip()):
            value, unit = Fraction(match[1]), match[2]
            if unit in _UNITS:
                return value * _UNITS[unit]
            return value / (self.frame_rate if unit == "f" else self.tick_rate)
        raise ValueError(f"“{text[:40]}” is no time")


def clock_of(frame_rate: str, multiplier: str, tick_rate: str, sub_frames: str) -> Clock:
    """The clock that a document's parameters state; what cannot be read has its usual value."""
    rate = _number(frame_rate)
    parts = multiplier.split()
    if len(parts) == 2 and all(p.isdigit() and int(p) for p in parts):
        by = Fraction(int(parts[0]), int(parts[1]))
    else:
        by = Fraction(1)
    sub = int(sub_frames) if sub_frames.isdigit() and int(sub_frames) else 1
    frames = (rate or Fraction(30)) * by
    ticks = _number(tick_rate) or (frames * sub if rate else Fraction(1))
    return Clock(frames, ticks, sub)


def _number(text: str) -> Fraction | None:
    return Fraction(int(text)) if text.isdigit() and int(text) else None
