"""The proxy of a lock, and the stretches that it, and what is seen, are kept in."""

from __future__ import annotations

from ezvar.core.model import Document
from ezvar.core.store import Cache
from ezvar.core.viewing import Proxy

from .pictures import lock_content

STRETCH = 300
"""Frames of a stretch: each begins at a multiple of it. Few, so that the first is known soon."""


def stretches(frames: int) -> list[tuple[int, int]]:
    """The stretches of so many frames: first frame, and the one after the last.

    >>> stretches(700)
    [(0, 300), (300, 600), (600, 700)]
    """
    return [(start, min(frames, start + STRETCH)) for start in range(0, frames, STRETCH)]


def proxy_of(doc: Document, cache: Cache) -> Proxy:
    """The proxy of a document's lock, whether it is there or still to be made."""
    bounds = [start for start, _ in stretches(doc.lock.frames)]
    return Proxy(cache.folder, lock_content(doc), [*bounds, doc.lock.frames])
