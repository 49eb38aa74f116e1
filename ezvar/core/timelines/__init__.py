"""Timeline files of all formats in one form, before any media is looked for. What others' libraries read of them is
read apart."""

from .bundled import Member, bundle_here, bundle_members, member_bytes
from .edl import possible_rates, read_edl
from .files import SUFFIXES, read_text
from .read_apart import Metadata, metadata_here, read_metadata_apart, read_timeline_apart, timeline_here
from .reading import LONGEST, MediaHint, Mix, Piece, Reading
from .values import WINDOW

__all__ = [
    "LONGEST",
    "SUFFIXES",
    "WINDOW",
    "MediaHint",
    "Member",
    "Metadata",
    "Mix",
    "Piece",
    "Reading",
    "bundle_here",
    "bundle_members",
    "member_bytes",
    "metadata_here",
    "possible_rates",
    "read_edl",
    "read_metadata_apart",
    "read_text",
    "read_timeline_apart",
    "timeline_here",
]
