"""Decoded pictures kept within a budget of bytes."""

from __future__ import annotations

import threading

from cachetools import LRUCache

from ezvar.core.media import Picture


class FrameCache:
    """Keeps the pictures used last. Safe across threads.

    ``budget`` is in bytes; a single picture larger than it is not kept.
    """

    def __init__(self, budget: int) -> None:
        self.budget = budget
        self._pictures: LRUCache[tuple[str, int], Picture] = LRUCache(budget, lambda picture: picture.nbytes)
        self._lock = threading.Lock()

    @property
    def used(self) -> int:
        """Bytes that are kept."""
        return int(self._pictures.currsize)

    def get(self, media: str, frame: int) -> Picture | None:
        with self._lock:
            return self._pictures.get((media, frame))

    def put(self, media: str, picture: Picture) -> None:
        key = (media, picture.index)
        with self._lock:
            if key not in self._pictures and picture.nbytes <= self.budget:
                self._pictures[key] = picture

    def __len__(self) -> int:
        return len(self._pictures)
