"""What was seen of strips, piece by piece: kept in the cache, and read from there when it is wanted."""

from __future__ import annotations

import threading
from collections.abc import Iterable

import numpy as np
from cachetools import LRUCache

from ezvar.core.errors import ProjectError
from ezvar.core.store import Cache, Piece, piece_name

from .keeping import from_arrays, to_arrays
from .looking import Seen

_AT_HAND = 16 * 1024**2  # bytes of pieces that were read last


class Shelf:
    """Pieces of strips that were looked at, for a lock of ``rate`` frames a second. Safe across threads.

    What the disk has no room for, and what is not to be kept, is held.
    """

    def __init__(self, cache: Cache, rate: float) -> None:
        self.rate = rate
        self._cache, self._lock = cache, threading.Lock()
        self._names: dict[str, str] = {}
        self._facts: dict[tuple[str, Piece], tuple[np.ndarray, np.ndarray]] = {}
        self._held: dict[tuple[str, Piece], Seen] = {}
        self._at_hand: LRUCache[tuple[str, Piece], Seen] = LRUCache(_AT_HAND, lambda seen: seen.nbytes)

    def take_up(self, strip: str, name: str, pieces: Iterable[Piece]) -> None:
        """Have those pieces of a strip that the cache knows by a name, as far as they are sound."""
        with self._lock:
            self._names[strip] = name
        for piece in pieces:
            if (seen := self._read(strip, piece)) is not None:
                self._note(strip, piece, seen)

    def put(self, strip: str, name: str, seen: Seen) -> None:
        """Have what was just seen, and keep it in the cache under a name; but not what was not there to be seen."""
        piece = seen.start, seen.end
        with self._lock:
            self._names[strip] = name
        kept = not seen.gone and self._cache.put_arrays(piece_name(name, *piece), to_arrays(seen))
        if not kept:
            with self._lock:
                self._held[strip, piece] = seen
        self._note(strip, piece, seen)

    def pieces(self, strip: str) -> tuple[Piece, ...]:
        """The pieces of a strip that there are."""
        with self._lock:
            return tuple(sorted(piece for known, piece in self._facts if known == strip))

    def facts(self, strip: str, piece: Piece) -> tuple[np.ndarray, np.ndarray]:
        """The damaged pictures of a piece, and where black bars leave a picture."""
        return self._facts[strip, piece]

    def seen(self, strip: str, piece: Piece) -> Seen:
        """What was seen of a piece. Raises `ProjectError` where somebody has emptied the cache meanwhile."""
        with self._lock:
            found = self._held.get((strip, piece)) or self._at_hand.get((strip, piece))
        if found is None:
            found = self._read(strip, piece)
            if found is None:
                raise ProjectError(
                    "what was seen in the lock is no longer in the cache", file=self._cache.folder,
                    remedy="Open the project again",
                )  # fmt: skip
            self._note(strip, piece, found)
        return found

    def _read(self, strip: str, piece: Piece) -> Seen | None:
        return from_arrays(self._cache.arrays(piece_name(self._names[strip], *piece)), *piece, self.rate)

    def _note(self, strip: str, piece: Piece, seen: Seen) -> None:
        with self._lock:
            self._facts[strip, piece] = seen.damaged.copy(), seen.evidence.bars.copy()
            self._at_hand[strip, piece] = seen
