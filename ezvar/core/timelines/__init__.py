"""Timeline files of all formats in one form, before any media is looked for. What others' libraries read of them is
read apart."""

from .edl import possible_rates, read_edl
from .files import SUFFIXES, opened_bundle, read_text
from .read_apart import Metadata, metadata_here, read_metadata_apart, read_timeline_apart, timeline_here
from .reading import LONGEST, MediaHint, Mix, Piece, Reading
from .values import WINDOW

__all__ = [
    "LONGEST",
    "SUFFIXES",
    "WINDOW",
    "MediaHint",
    "Metadata",
    "Mix",
    "Piece",
    "Reading",
    "metadata_here",
    "opened_bundle",
    "possible_rates",
    "read_edl",
    "read_metadata_apart",
    "read_text",
    "read_timeline_apart",
    "timeline_here",
]
