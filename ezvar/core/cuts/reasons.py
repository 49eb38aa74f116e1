"""Why a change is doubtful, in a sentence that an editor can check by looking."""

from __future__ import annotations

import numpy as np

from .candidates import Candidate
from .signals import Signals, expected

_RETURN_WITHIN = 20  # frames
_LIVELY = 3.0  # levels of change to be expected where there is much movement
_ALIKE = 0.8  # correlation of pictures that look alike


def reason(signals: Signals, candidate: Candidate, accepted: bool) -> str:
    """The plainest reason why a candidate is doubtful; ``accepted`` says whether it was taken for a cut."""
    thumbs = signals.thumbs
    start, end = candidate.start, max(candidate.end, candidate.start + 1)
    before = thumbs[max(0, start - 4) : start].astype(np.float32)
    after = thumbs[end - 1 : end + 3].astype(np.float32)
    alike = _alike(before.mean(axis=0), after.mean(axis=0))
    if candidate.kind != "cut":
        if alike > _ALIKE:
            return "The pictures before and after it are alike; it may be a move or a change of light."
        return (
            "It is not clear where it begins and ends." if accepted else "The pictures may only move past each other."
        )
    step = float(np.abs(after[0] - before[-1]).mean())
    later = thumbs[start + 1 : start + _RETURN_WITHIN].astype(np.float32)
    if len(later) and float(np.abs(later - before[-1]).mean(axis=(1, 2)).min()) < 0.4 * step:
        return "Much of the picture before comes back soon after it."
    if expected(signals.change, start) > _LIVELY:
        return "There is much movement around it."
    if alike > _ALIKE:
        return "The pictures before and after it are alike."
    return "The change is small." if accepted else "Something changes here, but not all of the picture."


def _alike(a: np.ndarray, b: np.ndarray) -> float:
    """The correlation of two pictures, -1..1, whatever their brightness and contrast."""
    a, b = a - a.mean(), b - b.mean()
    return float((a * b).sum() / np.sqrt((a * a).sum() * (b * b).sum() + 1e-3))
