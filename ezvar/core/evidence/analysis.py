"""All that cuts and framings are decided from, of a lock that was looked through."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ezvar.core.cuts import Candidate, Signals, weigh
from ezvar.core.store import Piece

from .finders.bars import active_picture
from .gather import Evidence
from .joining.subjects import subjects_of
from .stills import contrast_centre
from .subject import Subject


@dataclass(frozen=True, eq=False)
class Analysis:
    """What was seen of a movie: change signals of every frame, evidence of some.

    ``damaged`` (frames,) are the lock frames that could not be decoded, or are drawn on from such. While the movie is
    still being read, ``known`` are the stretches of frames, in order, that were read: elsewhere nothing changes, and
    nothing is seen. ``None`` once all was read.
    """

    signals: Signals
    evidence: Evidence
    damaged: np.ndarray = field(default_factory=lambda: np.zeros(0, np.int32))
    known: tuple[Piece, ...] | None = None

    def knows(self, start: int, end: int) -> bool:
        """Whether lock frames ``start`` to ``end`` were read."""
        return self.known is None or any(a <= start and end <= b for a, b in self.known)

    @property
    def read(self) -> int:
        """How many frames were read."""
        return len(self.signals.change) if self.known is None else sum(b - a for a, b in self.known)

    @cached_property
    def candidates(self) -> tuple[Candidate, ...]:
        """Places that may be cuts; weighed on the first asking, which takes its time on a long movie."""
        return weigh(self.signals)

    @cached_property
    def _joined(self) -> dict[tuple[int, int, float], tuple[Subject, ...]]:
        return {}

    def subjects(self, start: int, end: int, shape: float) -> tuple[Subject, ...]:
        """The subjects of lock frames ``start`` to ``end`` of pictures of a shape (width over height), as
        `subjects_of`; joined once, since drags and masters ask for the same again."""
        asked = start, end, round(shape, 4)
        if asked not in self._joined:
            self._joined[asked] = subjects_of(self.evidence, *asked)
        return self._joined[asked]

    def active(self, start: int, end: int) -> tuple[float, float, float, float] | None:
        """The picture that black bars leave in lock frames ``start`` to ``end``, as `active_picture`."""
        bars = self.evidence.bars
        return active_picture(bars[np.searchsorted(bars["frame"], start) : np.searchsorted(bars["frame"], end)])

    def contrast(self, start: int, end: int) -> tuple[float, float] | None:
        """Where most contrast is in lock frames ``start`` to ``end``, as `contrast_centre`."""
        return contrast_centre(self.evidence.stills_of(start, end))
