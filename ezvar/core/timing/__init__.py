"""Rates as exact fractions, ranges of frames, timecode."""

from .exact import Exact, exact
from .moments import moment_now, said_here
from .ranges import FrameRange
from .rates import RATES, Rate
from .timecode import can_drop, frame_of, timecode

__all__ = [
    "RATES",
    "Exact",
    "FrameRange",
    "Rate",
    "can_drop",
    "exact",
    "frame_of",
    "moment_now",
    "said_here",
    "timecode",
]
