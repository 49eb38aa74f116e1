"""Decisions out to the team as open files, and back in."""

from .back.comparing import STATES, Compared, State, compare, halfway, overlap, returned_of, seen_from_ours
from .back.merge import Side, Taken, exchanged_with, merge, merge_all, merge_projects, read_return, take
from .back.returned import Returned, read_timeline
from .handoff import PARTS, READ_ME, USUAL, Asked, Movies, Part, Planned, planned_handoff, write_handoff
from .out.cuts_handoff import CUTS_KINDS, CutsKind, write_cuts
from .out.decisions import WINDOW_COLUMNS, decisions_schema, window_rows
from .out.edl_text import edl_texts
from .out.timeline import timeline_of
from .shared import Incoming, Offered, SharedFolder, came_in, digests_of, offered, share
from .shown.movies import THUMB, thumb_sheets
from .shown.stills import small_scale

__all__ = [
    "CUTS_KINDS",
    "PARTS",
    "READ_ME",
    "STATES",
    "THUMB",
    "USUAL",
    "WINDOW_COLUMNS",
    "Asked",
    "Compared",
    "CutsKind",
    "Incoming",
    "Movies",
    "Offered",
    "Part",
    "Planned",
    "Returned",
    "SharedFolder",
    "Side",
    "State",
    "Taken",
    "came_in",
    "compare",
    "decisions_schema",
    "digests_of",
    "edl_texts",
    "exchanged_with",
    "halfway",
    "merge",
    "merge_all",
    "merge_projects",
    "offered",
    "overlap",
    "planned_handoff",
    "read_return",
    "read_timeline",
    "returned_of",
    "seen_from_ours",
    "share",
    "small_scale",
    "take",
    "thumb_sheets",
    "timeline_of",
    "window_rows",
    "write_cuts",
    "write_handoff",
]
