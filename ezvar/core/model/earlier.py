"""Which frames of a lock were which of one before it that it has replaced."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

MOST_EARLIER = 4
"""Locks before the present one whose frames are remembered."""


@dataclass(frozen=True, slots=True)
class Stretch:
    """So many frames that begin at ``was`` in one lock and at ``now`` in another."""

    was: int
    now: int
    frames: int


@dataclass(frozen=True)
class EarlierLock:
    """A lock that was replaced: its identity and length, and where its frames are in the present one."""

    identity: str
    frames: int
    stretches: tuple[Stretch, ...]

    def onward(self, further: Iterable[Stretch]) -> EarlierLock:
        """The same lock, when the present one is replaced by another."""
        return replace(self, stretches=tuple(_through(self.stretches, tuple(further))))


def _through(first: Iterable[Stretch], then: tuple[Stretch, ...]) -> Iterator[Stretch]:
    """What two ways from lock to lock, one after the other, come to."""
    ordered = sorted(then, key=lambda s: s.was)
    for each in first:
        for other in ordered:
            if other.was >= each.now + each.frames:
                break
            start, end = max(each.now, other.was), min(each.now + each.frames, other.was + other.frames)
            if start < end:
                yield Stretch(each.was + start - each.now, other.now + start - other.was, end - start)
