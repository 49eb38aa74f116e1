"""Rates as exact fractions, ranges of frames, timecode."""

from .ranges import FrameRange
from .rates import RATES, Rate
from .timecode import can_drop, frame_of, timecode

__all__ = ["RATES", "FrameRange", "Rate", "can_drop", "frame_of", "timecode"]
