"""Finding where one shot ends and the next begins."""

from .candidates import Candidate
from .decision import Judged, find_cuts, judge, weigh
from .signals import AROUND, COLOUR, THUMB, Meter, Signals, change_at, expected, measure, thinned

__all__ = [
    "AROUND",
    "COLOUR",
    "THUMB",
    "Candidate",
    "Judged",
    "Meter",
    "Signals",
    "change_at",
    "expected",
    "find_cuts",
    "judge",
    "measure",
    "thinned",
    "weigh",
]
