"""Places where a shot may begin: single frames, and stretches that may be mixes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ezvar.core.model import CutKind

from .network import OUTPUTS

_FAINTEST = 0.002  # of a cut's probability
_LEVELS = (0.15, 0.3, 0.5, 0.7, 0.85)  # of lying inside a mix, at which stretches are taken
_REACH = 6  # frames in which a stretch's ends are looked for
_LEAN = 0.02  # of probability that an end must gain for each frame it moves
_SHORTEST = 5  # frames of a mix; what goes over faster is a hard cut or none
_BESIDE = 2  # frames to either side in which a cut must stand out
_CUT, _INSIDE, _BEGINS, _ENDS, _DISSOLVE, _FADE, _WIPE = range(len(OUTPUTS))
_MIXES: tuple[CutKind, ...] = ("dissolve", "fade", "wipe")


@dataclass(frozen=True)
class Candidate:
    """A place looked at: ``start`` and ``end`` as of `Cut`, and how much speaks for it, 0..1."""

    kind: CutKind
    start: int
    end: int
    score: float


def hard_candidates(said: np.ndarray) -> list[Candidate]:
    """Frames that are more likely the first of a shot than those beside them; ``said`` is of `judged_frames`."""
    chance = said[:, _CUT]
    beside = np.pad(chance, _BESIDE)
    greatest = np.lib.stride_tricks.sliding_window_view(beside, 2 * _BESIDE + 1).max(axis=1)
    frames = np.nonzero((chance >= greatest) & (chance > _FAINTEST))[0]
    return [Candidate("cut", int(n), int(n), float(chance[n])) for n in frames if n > 0]


def mix_candidates(said: np.ndarray) -> list[Candidate]:
    """Stretches whose frames seem to lie in a mix, several for one place, so that the best can be taken."""
    spans = {span for low, high in _stretches(said[:, _INSIDE]) for span in ((low, high), _ended(said, low, high))}
    return [_mix(said, start, end) for start, end in sorted(spans) if end - start >= _SHORTEST]


def _stretches(inside: np.ndarray) -> Iterator[tuple[int, int]]:
    for level in _LEVELS:
        turns = np.nonzero(np.diff(np.concatenate([[False], inside > level, [False]]).astype(np.int8)))[0]
        for low, high in turns.reshape(-1, 2):
            if low > 0 and high < len(inside):
                yield int(low), int(high)


def _ended(said: np.ndarray, low: int, high: int) -> tuple[int, int]:
    """A stretch with its ends where a mix most likely begins and ends."""
    last = len(said) - 1

    def best(near: int, what: int) -> int:
        around = range(max(1, near - _REACH), min(last, near + _REACH) + 1)
        return max(around, key=lambda k: float(said[k, what]) - _LEAN * abs(k - near))

    return best(low, _BEGINS), best(high, _ENDS)


def _mix(said: np.ndarray, start: int, end: int) -> Candidate:
    inside = said[start:end, _INSIDE]
    beside = np.concatenate([said[max(0, start - 6) : max(0, start - 1), _INSIDE], said[end + 1 : end + 7, _INSIDE]])
    outside = float(beside.mean()) if beside.size else 0.0
    edges = (
        float(said[max(0, start - 1) : start + 2, _BEGINS].max()) + float(said[end - 1 : end + 2, _ENDS].max())
    ) / 2
    score = 0.6 * float(inside.mean()) + 0.25 * edges + 0.15 * (1 - outside)
    kind = _MIXES[int(said[start:end, _DISSOLVE:].mean(axis=0).argmax())]
    return Candidate(kind, start, end, score * min(1.0, 1.2 * float(inside.max())))
