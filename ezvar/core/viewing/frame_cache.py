"""Decoded pictures kept within a budget of bytes."""

from __future__ import annotations

import threading
from collections import OrderedDict

from ezvar.core.media import Picture


class FrameCache:
    """Keeps the pictures used last. Safe across threads.

    ``budget`` is in bytes; a single picture larger than it is not kept.
    """

    def __init__(self, budget: int) -> None:
        self.budget = budget
        self.used = 0
        self._pictures: OrderedDict[tuple[str, int], Picture] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, media: str, frame: int) -> Picture | None:
        with self._lock:
            picture = self._pictures.get((media, frame))
            if picture is not None:
                self._pictures.move_to_end((media, frame))
            return picture

    def put(self, media: str, picture: Picture) -> None:
        key = (media, picture.index)
        with self._lock:
            if key in self._pictures or picture.nbytes > self.budget:
                return
            self._pictures[key] = picture
            self.used += picture.nbytes
            while self.used > self.budget:
                _, old = self._pictures.popitem(last=False)
                self.used -= old.nbytes

    def __len__(self) -> int:
        return len(self._pictures)
