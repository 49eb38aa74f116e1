"""Pasted text as captions over a stretch of time, by its length and where the sound pauses."""

from __future__ import annotations

import numpy as np

from ezvar.core.model import Caption, CaptionLimits, Span, new_id

from .chunks import chunks

_NEAR = 700  # milliseconds around where a caption would end by its length, in which a pause is looked for
_AWAY = 0.25  # how much a place at the end of that counts as louder than one in the middle
_BASE = 6  # letters' worth of time that every caption has besides its own


def spread_text(
    text: str, start: int, end: int, limits: CaptionLimits, loud: np.ndarray | None = None, length: int = 0
) -> tuple[Caption, ...]:
    """A text as captions from ``start`` to ``end``, in milliseconds.

    Each stands as long as its letters are many beside the others'; where one
    ends and the next begins moves to the quietest place near by. ``loud``
    (n,), 0..1, is how loud the sound is along ``length`` milliseconds. Raises
    `ValueError` for no text, and for a stretch too short for it.
    """
    parts = chunks(text, 2 * limits.letters_a_line)
    if not parts:
        raise ValueError("there is no text")
    if end - start < 100 * len(parts):
        raise ValueError("the stretch is too short for so much text")
    weights = np.array([len(part) + _BASE for part in parts], float)
    edges = start + np.concatenate([[0.0], np.cumsum(weights) / weights.sum()]) * (end - start)
    cuts = [start, *(_quietest(float(at), loud, length) for at in edges[1:-1]), end]
    made: list[Caption] = []
    for k, part in enumerate(parts):
        first = max(cuts[k], made[-1].end if made else start)
        last = max(first + 40, min(cuts[k + 1], first + limits.longest))
        made.append(Caption(new_id(), first, last, (Span(part),)))
    return tuple(made)


def _quietest(at: float, loud: np.ndarray | None, length: int) -> int:
    if loud is None or not len(loud) or length <= 0:
        return round(at)
    times = (np.arange(len(loud)) + 0.5) / len(loud) * length
    near = np.abs(times - at) <= _NEAR
    if not near.any():
        return round(at)
    level = loud[near] + _AWAY * np.abs(times[near] - at) / _NEAR
    return round(float(times[near][int(np.argmin(level))]))
