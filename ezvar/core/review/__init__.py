"""Decisions out as open timeline files, and back in."""

from .cuts_handoff import CUTS_KINDS, CutsKind, write_cuts
from .edl_text import edl_text
from .handoff import handoff_renamed, timeline_of, write_handoff
from .merge import Taken, merge, merge_projects, take
from .returned import Returned, read_timeline

__all__ = [
    "CUTS_KINDS",
    "CutsKind",
    "Returned",
    "Taken",
    "edl_text",
    "handoff_renamed",
    "merge",
    "merge_projects",
    "read_timeline",
    "take",
    "timeline_of",
    "write_cuts",
    "write_handoff",
]
