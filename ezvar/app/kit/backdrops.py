"""The backdrops that can be chosen by one key or from the card."""

from __future__ import annotations

from ezvar.core.model import Backdrop

BACKDROPS: tuple[tuple[str, Backdrop | None], ...] = (
    ("the master's", None),
    ("the picture, blurred", Backdrop(blur=0.04)),
    ("the picture, dark", Backdrop(darken=0.7, blur=0.06)),
    ("black", Backdrop(kind="colour")),
    ("white", Backdrop(kind="colour", colour="#ffffff")),
)
"""By name; ``None`` is the master's own."""
