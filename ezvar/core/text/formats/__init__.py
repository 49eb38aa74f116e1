"""Caption files: read cue by cue with what is wrong told by its line, and written."""

from .cues import Cues, LeftOut
from .encodings import ENCODINGS
from .read import FORMATS, MOST, captions_here, in_lock, read_captions, tell_format
from .write import SUFFIXES, CaptionFormat, captions_text

__all__ = [
    "ENCODINGS",
    "FORMATS",
    "MOST",
    "SUFFIXES",
    "CaptionFormat",
    "Cues",
    "LeftOut",
    "captions_here",
    "captions_text",
    "in_lock",
    "read_captions",
    "tell_format",
]
