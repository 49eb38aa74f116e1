"""The document: what is known and decided about a lock, as one immutable value."""

from . import edits
from .document import (
    EASES,
    Backdrop,
    Cut,
    Document,
    Ease,
    Exchanged,
    Framing,
    Keyframe,
    Lock,
    Master,
    Media,
    NamedRange,
    Pane,
    Placement,
    Reason,
    Rect,
    Shot,
    Source,
    Verdict,
)
from .history import History

__all__ = [
    "EASES",
    "Backdrop",
    "Cut",
    "Document",
    "Ease",
    "Exchanged",
    "Framing",
    "History",
    "Keyframe",
    "Lock",
    "Master",
    "Media",
    "NamedRange",
    "Pane",
    "Placement",
    "Reason",
    "Rect",
    "Shot",
    "Source",
    "Verdict",
    "edits",
]
