"""Timecode, both ways.

Drop-frame counting is OpenTimelineIO's. Counting without drops is plain
division, since opentime admits the trade's rates only and a lock may have any.
"""

from __future__ import annotations

import re

from opentimelineio import opentime

from .rates import Rate

_DROP = (Rate(30000, 1001), Rate(60000, 1001))
_PATTERN = re.compile(r"^\s*(\d{1,4}):([0-5]?\d):([0-5]?\d)([:;.,])(\d{1,3})\s*$")


def can_drop(rate: Rate) -> bool:
    """Whether drop-frame timecode exists at this rate (29.97 and 59.94)."""
    return rate in _DROP


def timecode(frame: int, rate: Rate, drop: bool = False) -> str:
    """The timecode of a frame counted from 00:00:00:00.

    Drop-frame timecode has a semicolon before its frames. Raises `ValueError`
    for a negative frame and for drop-frame at a rate that has none. Hours go
    on past 24.

    >>> timecode(1800, Rate(30000, 1001), drop=True)
    '00:01:00;02'
    >>> timecode(90_000, Rate(25))
    '01:00:00:00'
    """
    if frame < 0:
        raise ValueError("timecode counts from 0")
    if drop:
        if not can_drop(rate):
            raise ValueError(f"there is no drop-frame timecode at {rate} frames a second")
        # One day at a time, since opentime's drop-frame count ends at 24 hours.
        day = _frames_a_day(rate)
        text = opentime.RationalTime(frame % day, float(rate.fraction)).to_timecode(float(rate.fraction), True)
        return f"{int(text[:2]) + 24 * (frame // day):02d}{text[2:]}" if frame >= day else str(text)
    seconds, frames = divmod(frame, rate.nominal)
    digits = max(2, len(str(rate.nominal - 1)))
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}:{frames:0{digits}d}"


def frame_of(text: str, rate: Rate) -> int:
    """The frame that a timecode names, counted from 00:00:00:00.

    A semicolon (or comma) before the frames means drop-frame. Raises
    `ValueError` for text that is not a timecode at this rate, also for the
    labels that drop-frame leaves out.

    >>> frame_of("00:01:00;02", Rate(30000, 1001))
    1800
    """
    match = _PATTERN.match(text)
    if not match:
        raise ValueError(f"“{text}” is not a timecode")
    hours, minutes, seconds, frames = (int(match[i]) for i in (1, 2, 3, 5))
    if frames >= rate.nominal:
        raise ValueError(f"“{text}” has more frames than {rate} a second allow")
    drop = match[4] in ";,"
    count = ((hours * 60 + minutes) * 60 + seconds) * rate.nominal + frames
    if not drop:
        return count
    if not can_drop(rate):
        raise ValueError(f"“{text}” is drop-frame, which {rate} frames a second do not have")
    dropped = rate.nominal // 15
    if seconds == 0 and frames < dropped and minutes % 10:
        raise ValueError(f"“{text}” is a label that drop-frame timecode leaves out")
    whole_minutes = hours * 60 + minutes
    return count - dropped * (whole_minutes - whole_minutes // 10)


def _frames_a_day(rate: Rate) -> int:
    return 24 * (3600 * rate.nominal - 54 * (rate.nominal // 15))
