"""Finding where one shot ends and the next begins."""

from .candidates import expected
from .detector import Judged, find_cuts, judge
from .signals import PAIR_EVERY, Meter, Signals, measure

__all__ = ["PAIR_EVERY", "Judged", "Meter", "Signals", "expected", "find_cuts", "judge", "measure"]
