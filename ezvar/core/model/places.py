"""The places of a document where a cut is, or may be."""

from __future__ import annotations

from dataclasses import dataclass

from .document import Cut, Document

CUT_NEEDS_A_LOOK = 30
"""Cuts from this doubt on need a look."""


@dataclass(frozen=True)
class CutPlace:
    """A cut that begins a shot, or a change that was passed over (``shot`` is ``None``)."""

    frame: int
    cut: Cut
    shot: str | None = None

    @property
    def waits(self) -> bool:
        """Whether it needs a look."""
        return self.cut.doubt >= CUT_NEEDS_A_LOOK and not self.cut.settled


def cut_places(doc: Document) -> tuple[CutPlace, ...]:
    """All cuts and passed-over changes, in order."""
    cuts = [CutPlace(s.start, s.cut or Cut("cut", s.start, s.start, settled=True), s.id) for s in doc.shots[1:]]
    return tuple(sorted((*cuts, *(CutPlace(c.frame, c) for c in doc.passed)), key=lambda p: p.frame))
