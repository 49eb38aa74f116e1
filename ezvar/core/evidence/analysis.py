"""All that cuts and framings are decided from, of a lock that was looked through."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Protocol

import numpy as np
from cachetools import LRUCache

from ezvar.core.cuts import AROUND, Candidate, Signals, expected, weigh
from ezvar.core.store import Piece

from .finders.bars import BARS, active_picture
from .gather import Evidence
from .joining.subjects import subjects_of
from .looking import Seen
from .stills import contrast_centre
from .subject import Subject

_SHOTS = 400  # whose subjects are kept; those of others are joined again


class Parts(Protocol):
    """What was seen of a lock, given stretch by stretch: hours of it are not held in memory."""

    frames: int

    def signals(self, start: int, end: int) -> Signals:
        """The signals of lock frames ``start`` to ``end``."""
        ...

    def evidence(self, start: int, end: int) -> Evidence:
        """What was seen in lock frames ``start`` to ``end``."""
        ...


@dataclass(frozen=True, eq=False)
class Analysis:
    """What was seen of a lock: change signals of every frame, evidence of some.

    ``damaged`` (frames,) are the lock frames that could not be decoded, or are drawn on from such, ``bars`` (looks,) of
    `BARS` where black bars leave a picture. While the lock is still being read, ``known`` are the stretches of frames,
    in order, that were read: elsewhere nothing changes, and nothing is seen. ``None`` once all was read.
    """

    parts: Parts
    damaged: np.ndarray = field(default_factory=lambda: np.zeros(0, np.int32))
    bars: np.ndarray = field(default_factory=lambda: np.zeros(0, BARS))
    known: tuple[Piece, ...] | None = None

    @staticmethod
    def of(signals: Signals, evidence: Evidence) -> Analysis:
        """What was seen of a lock that is short enough to be held as a whole."""
        return Analysis(_Whole(signals, evidence), bars=evidence.bars)

    @staticmethod
    def of_stretches(seen: Sequence[Seen]) -> Analysis:
        """What was seen of stretches that follow one another from the first frame on."""
        arrays = [part.signals.arrays() for part in seen]
        signals = Signals(**{name: np.concatenate([a[name] for a in arrays]) for name in arrays[0]})
        evidence = Evidence.joined([part.evidence for part in seen])
        damaged = np.concatenate([part.damaged for part in seen])
        return Analysis(_Whole(signals, evidence), damaged, evidence.bars)

    @property
    def frames(self) -> int:
        """How many frames the lock has."""
        return self.parts.frames

    def knows(self, start: int, end: int) -> bool:
        """Whether lock frames ``start`` to ``end`` were read."""
        return self.known is None or any(a <= start and end <= b for a, b in self.known)

    @property
    def read(self) -> int:
        """How many frames were read."""
        return self.frames if self.known is None else sum(b - a for a, b in self.known)

    @property
    def signals(self) -> Signals:
        """The signals of all frames, which are gathered for it."""
        return self.parts.signals(0, self.frames)

    @property
    def evidence(self) -> Evidence:
        """All that was seen, which is gathered for it."""
        return self.parts.evidence(0, self.frames)

    def changes(self, start: int, end: int) -> tuple[np.ndarray, np.ndarray]:
        """How far lock frames ``start`` to ``end`` differ from the ones before, and how far that was to be expected."""
        first = max(0, start - AROUND - 1)
        change = self.parts.signals(first, min(self.frames, end + AROUND)).change
        usual = [expected(change, n - first) for n in range(start, end)]
        return change[start - first : end - first], np.array(usual)

    @cached_property
    def candidates(self) -> tuple[Candidate, ...]:
        """Places that may be cuts; weighed on the first asking, which takes its time on a long movie."""
        return weigh(self.signals)

    @cached_property
    def _joined(self) -> LRUCache[tuple[int, int, float], tuple[Subject, ...]]:
        return LRUCache(_SHOTS)

    def subjects(self, start: int, end: int, shape: float) -> tuple[Subject, ...]:
        """The subjects of lock frames ``start`` to ``end`` of pictures of a shape (width over height), as
        `subjects_of`; kept, since drags and masters ask for the same again."""
        asked = start, end, round(shape, 4)
        found = self._joined.get(asked)
        if found is None:
            found = self._joined[asked] = subjects_of(self.parts.evidence(start, end), *asked)
        return found

    def active(self, start: int, end: int) -> tuple[float, float, float, float] | None:
        """The picture that black bars leave in lock frames ``start`` to ``end``, as `active_picture`."""
        first, last = np.searchsorted(self.bars["frame"], (start, end))
        return active_picture(self.bars[first:last])

    def stills(self, start: int, end: int) -> np.ndarray:
        """The stills of lock frames ``start`` to ``end``, (stills,) of `STILL`; a very short stretch may have none."""
        return self.parts.evidence(start, end).stills

    def contrast(self, start: int, end: int) -> tuple[float, float] | None:
        """Where most contrast is in lock frames ``start`` to ``end``, as `contrast_centre`."""
        return contrast_centre(self.stills(start, end))


class _Whole:
    """Parts that are held."""

    def __init__(self, signals: Signals, evidence: Evidence) -> None:
        self._signals, self._evidence = signals, evidence
        self.frames = len(signals.change)

    def signals(self, start: int, end: int) -> Signals:
        return Signals(**{name: values[start:end] for name, values in self._signals.arrays().items()})

    def evidence(self, start: int, end: int) -> Evidence:
        return self._evidence.within(start, end)
