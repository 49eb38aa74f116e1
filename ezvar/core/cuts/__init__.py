"""Finding where one shot ends and the next begins."""

from .candidates import Candidate
from .decision import Judged, find_cuts, judge, weigh
from .signals import Meter, Signals, expected, measure, thinned

__all__ = [
    "Candidate",
    "Judged",
    "Meter",
    "Signals",
    "expected",
    "find_cuts",
    "judge",
    "measure",
    "thinned",
    "weigh",
]
