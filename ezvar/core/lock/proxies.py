"""The proxy of a lock, by the strips that it shows."""

from __future__ import annotations

from ezvar.core.model import Document
from ezvar.core.store import Cache
from ezvar.core.viewing import Proxy

from .strips import runs


def proxy_of(doc: Document, cache: Cache) -> Proxy:
    """The proxy of a document's lock, whether it is there or still to be made."""
    return Proxy(cache.folder, runs(doc))
