"""The files that a document names."""

from __future__ import annotations

from collections.abc import Iterable

from .document import Document
from .framings import Framing


def media_named(doc: Document) -> set[str]:
    """The paths of all media that a document draws on: the lock's, and backdrops of masters and panes."""
    own = {m.path for m in doc.lock.media if m.path and m.content}
    own |= {doc.textless.path} if doc.textless else set()
    return own | backdrops_of(doc)


def backdrops_of(doc: Document) -> set[str]:
    """The paths of the movies and images that masters and panes have as their backdrops."""
    return {m.backdrop.media for m in doc.masters if m.backdrop.media} | backdrops_named(doc.framings)


def backdrops_named(framings: Iterable[Framing]) -> set[str]:
    """The paths of the movies and images that panes have as their own backdrops."""
    panes = (pane for framing in framings for pane in framing.panes)
    return {p.backdrop.media for p in panes if p.backdrop is not None and p.backdrop.media}
