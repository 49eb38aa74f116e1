"""What reviewers say, and what both sides of a handoff have."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ezvar.core.model import Document, Exchanged, Verdict

from .framings import framing_of, set_framings


def set_verdict(doc: Document, shot: str, master: str, verdict: Verdict) -> Document:
    """Say what a reviewer says of a framing."""
    return set_framings(doc, [replace(framing_of(doc, shot, master), verdict=verdict)])


def set_exchanged(doc: Document, exchanged: Iterable[Exchanged]) -> Document:
    """Note the decisions that both sides of a handoff now have."""
    known = {(e.shot, e.master): e for e in doc.exchanged}
    known.update({(e.shot, e.master): e for e in exchanged})
    return replace(doc, exchanged=tuple(known.values()))
