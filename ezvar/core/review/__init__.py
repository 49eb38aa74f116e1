"""Decisions out as open timeline files, and back in."""

from .handoff import timeline_of, write_handoff
from .merge import Taken, merge, take
from .returned import Returned, read_timeline

__all__ = ["Returned", "Taken", "merge", "read_timeline", "take", "timeline_of", "write_handoff"]
