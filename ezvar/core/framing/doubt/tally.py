"""How many framings ask for a look, and what reviewers say of all: counted on from change to change."""

from __future__ import annotations

from itertools import compress
from operator import is_not

from ezvar.core.model import Framing

from .doubts import NEEDS_A_LOOK


class Tally:
    """Counts the framings of a document. `count` looks only at those that have changed since it was called last."""

    def __init__(self) -> None:
        self._framings: tuple[Framing, ...] = ()
        self._waiting: set[int] = set()
        self._changes: set[int] = set()
        self._agreed: set[int] = set()
        self._listed: tuple[Framing, ...] | None = None

    def count(self, framings: tuple[Framing, ...]) -> Tally:
        """This tally, of these framings."""
        if framings is self._framings:
            return self
        before, self._framings, self._listed = self._framings, framings, None
        if len(before) != len(framings):
            self._waiting, self._changes, self._agreed = set(), set(), set()
            changed = iter(range(len(framings)))
        else:
            changed = compress(range(len(framings)), map(is_not, before, framings))
        for place in changed:
            framing = framings[place]
            for places, holds in (
                (self._waiting, framing.doubt >= NEEDS_A_LOOK and framing.verdict != "agreed"),
                (self._changes, framing.verdict == "change"),
                (self._agreed, framing.verdict == "agreed"),
            ):
                places.add(place) if holds else places.discard(place)
        return self

    @property
    def waiting(self) -> tuple[Framing, ...]:
        """The framings that need a look and are not agreed, in their order."""
        if self._listed is None:
            self._listed = tuple(self._framings[k] for k in sorted(self._waiting))
        return self._listed

    @property
    def changes(self) -> int:
        """How many a reviewer wants changed."""
        return len(self._changes)

    @property
    def all_agreed(self) -> bool:
        """Whether there are framings, and all are agreed."""
        return len(self._agreed) == len(self._framings) > 0
