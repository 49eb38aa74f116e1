"""Finding where one shot ends and the next begins."""

from .detector import find_cuts, judge
from .signals import Signals, measure

__all__ = ["Signals", "find_cuts", "judge", "measure"]
