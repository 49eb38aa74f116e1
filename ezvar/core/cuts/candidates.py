"""Places where a cut may be, each with the figures that the decision is made from.

What is said of a place is relative to what is to be expected around it: the
same change is a cut in a quiet talk and nothing in a whip pan. Figures are
logarithms and ratios, so that dark and bright, still and lively shots are
judged alike.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from .signals import Signals

Kind = Literal["cut", "dissolve", "fade", "wipe"]

HARD_COLOUR = (24, float(np.log(0.2)))
"""Which figure of a hard cut is the change of colour, and its value in a grey film."""
_AROUND = 8  # frames to either side that say what is to be expected
_QUIET = 0.8  # levels of change that noise makes in a still picture at this size


@dataclass(frozen=True)
class Candidate:
    """A place looked at: ``start`` and ``end`` as of `Cut`, and its figures in the order of the model."""

    kind: Kind
    start: int
    end: int
    figures: np.ndarray


def hard_candidates(signals: Signals) -> list[Candidate]:
    """All frames whose change stands out."""
    looked_at = np.nonzero(signals.lasting.max(axis=1) > 0)[0]
    return [Candidate("cut", int(n), int(n), _hard_figures(signals, int(n))) for n in looked_at]


def expected(change: np.ndarray, n: int) -> float:
    """The change to be expected at ``n`` from the livelier of its two sides, without ``n`` itself.

    A high percentile rather than the greatest, so that cuts a few frames
    apart do not hide each other.
    """
    sides = (change[max(1, n - _AROUND) : n], change[n + 1 : n + 1 + _AROUND])
    return max((float(np.percentile(side, 65)) for side in sides if side.size), default=0.0)


def _hard_figures(signals: Signals, n: int) -> np.ndarray:
    thumbs, length = signals.thumbs, len(signals.change)
    figures: list[float] = []
    for which, quiet in ((0, _QUIET), (1, 2.5 * _QUIET)):
        change = signals.change[:, which]
        here, lasting, returns = (float(a[n, which]) for a in (signals.change, signals.lasting, signals.returns))
        usual = expected(change, n)
        beside = max((float(change[k]) for k in (n - 1, n + 1) if 0 < k < length), default=0.0)
        near = max((float(change[k]) for k in (n - 3, n - 2, n + 2, n + 3) if 0 < k < length), default=0.0)
        far = max(
            float(np.median(side)) if side.size else 0.0
            for side in (change[max(1, n - 20) : n], change[n + 1 : n + 21])
        )
        figures += [
            np.log(here + 0.3), np.log(usual + 0.2), here / (here + quiet),
            *(np.log(v / (quiet + usual) + 0.05) for v in (here, lasting, returns)),
            *(np.log(here / (quiet + v) + 0.05) for v in (beside, near, far)),
            lasting / (here + 0.3), returns / (here + 0.3),
        ]  # fmt: skip
    a, b = (thumbs[k].astype(np.float32) for k in (n - 1, n))
    before, after = thumbs[max(0, n - 4) : n].astype(np.float32).mean(0), thumbs[n : n + 4].astype(np.float32).mean(0)
    colour = float(np.abs(signals.colour[n].astype(np.float32) - signals.colour[n - 1]).mean())
    level, raw, flat = abs(float(a.mean() - b.mean())), float(np.abs(a - b).mean()), min(float(a.std()), float(b.std()))
    figures += [
        alike(a, b), alike(before, after), np.log(colour + 0.2), np.log(level + 0.5), np.log(flat + 0.5),
        np.log(max(a.mean(), b.mean()) + 3), np.log(raw + 0.3), level / (raw + 0.3),
        np.log(float(signals.change[n, 0]) / (flat + 1) + 0.02),
        float(signals.change[n, 1] / (signals.change[n, 0] * 3 + 1)),
    ]  # fmt: skip
    return np.array(figures, np.float64)


def alike(a: np.ndarray, b: np.ndarray) -> float:
    """The correlation of two pictures, -1..1, whatever their brightness and contrast."""
    a, b = a - a.mean(), b - b.mean()
    return float((a * b).sum() / np.sqrt((a * a).sum() * (b * b).sum() + 1e-3))
