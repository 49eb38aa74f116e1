"""The stages of the work, in its order: a folder each, and one registration."""

from typing import Any

from ezvar.core.model import Document

from .cuts import CUTS
from .framing import FRAMING
from .lock import LOCK
from .output import OUTPUT
from .review import REVIEW
from .stage import Page, Rows, Stage
from .text import TEXT

STAGES: tuple[Stage[Any], ...] = (LOCK, CUTS, FRAMING, TEXT, REVIEW, OUTPUT)


def first_stage(doc: Document) -> Stage[Any]:
    """Where the work on a document that was just opened goes on."""
    return FRAMING if doc.framings else LOCK


__all__ = ["FRAMING", "STAGES", "Page", "Rows", "Stage", "first_stage"]
