"""Memory for what is only kept so as not to be made again: one budget for all of it."""

from __future__ import annotations

import ctypes
import os
import threading
from collections.abc import Hashable
from contextlib import suppress
from typing import Any, Generic, TypeVar

from cachetools import LRUCache

V = TypeVar("V")

_PART, _MOST = 10, 1024**3  # of the machine's memory, and bytes at the most


def usual_budget() -> int:
    """A tenth of the machine's memory, at most a gigabyte; in bytes."""
    return min(_MOST, os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // _PART)


_TRIM_THRESHOLD, _MMAP_THRESHOLD, _ARENA_MAX = -1, -3, -8  # parameters of mallopt(3), from malloc.h
_TIDY, _AT_WORK = 256 * 1024, 4 * 1024**2
"""Bytes from which on an array is mapped by itself, and is the system's again once it is let go."""
_ARENAS = 4


def keep_tidy() -> None:
    """Have the C library keep no more for itself than it must, for a program that stays open for days.

    Pictures come and go on many threads; with its usual settings what they leave behind grows by hundreds of megabytes.
    It costs a twentieth of the speed at which movies are looked through.
    """
    _set_up(_TIDY)


def keep_level(spare: int | None = None) -> None:
    """As `keep_tidy`, for a program that does nothing but work: the planes of a picture in HD stay at hand from one
    picture to the next, which would otherwise cost 4 ms of 18 in drawing one; and what is taken does not grow.

    So many ``spare`` bytes stay at the end of each arena; as many as the library likes, if it is not said.
    """
    _set_up(_AT_WORK, spare)


def _set_up(mapped: int, spare: int | None = None) -> None:
    """Have arrays of so many bytes mapped by themselves, and up to ``spare`` bytes kept at the end of each arena."""
    with suppress(AttributeError):  # another C library than glibc
        library = ctypes.CDLL(None)
        library.mallopt(_MMAP_THRESHOLD, mapped)
        library.mallopt(_ARENA_MAX, _ARENAS)
        if spare is not None:
            library.mallopt(_TRIM_THRESHOLD, spare)


def give_back() -> None:
    """Let the system have the memory that was set free; the C library holds on to it otherwise. Takes milliseconds."""
    with suppress(AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


class Memory:
    """Rooms that share ``budget`` bytes: whatever was used longest ago goes first. Safe across threads."""

    def __init__(self, budget: int | None = None) -> None:
        self.budget = usual_budget() if budget is None else budget
        self._lock = threading.Lock()
        self._kept: LRUCache[tuple[int, Hashable], tuple[Any, int]] = LRUCache(self.budget, lambda each: each[1])
        self._rooms = 0

    @property
    def used(self) -> int:
        """Bytes that are kept, without what was set aside."""
        with self._lock:
            return int(self._kept.currsize)

    def set_aside(self, parts: int) -> int:
        """Take one of so many parts of the budget for somebody who keeps its bounds himself; in bytes."""
        with self._lock:
            taken = self.budget // parts
            self._kept = LRUCache(self._kept.maxsize - taken, self._kept.getsizeof)
        return taken

    def room(self) -> Room[Any]:
        """Another room."""
        with self._lock:
            self._rooms += 1
            return Room(self, self._rooms)

    def get(self, room: int, key: Hashable) -> Any:
        with self._lock:
            found = self._kept.get((room, key))
        return None if found is None else found[0]

    def put(self, room: int, key: Hashable, value: Any, size: int) -> None:
        with self._lock:
            if size <= self._kept.maxsize:
                self._kept[room, key] = value, size

    def clear(self, room: int) -> None:
        with self._lock:
            for key in [key for key in self._kept if key[0] == room]:
                del self._kept[key]


class Room(Generic[V]):
    """What one keeps in a `Memory`, by keys of its own."""

    def __init__(self, memory: Memory, number: int) -> None:
        self._memory, self._number = memory, number

    def get(self, key: Hashable) -> V | None:
        """What is kept under a key; ``None`` where it was not, or had to go."""
        found: V | None = self._memory.get(self._number, key)
        return found

    def put(self, key: Hashable, value: V, size: int) -> None:
        """Keep something of ``size`` bytes; what is larger than the whole budget is not kept."""
        self._memory.put(self._number, key, value, size)

    def clear(self) -> None:
        """Let go of all."""
        self._memory.clear(self._number)
