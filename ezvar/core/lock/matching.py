"""Which shots of a lock show what a shot of its earlier version does."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from ezvar.core.edits import Match
from ezvar.core.model import Document, Shot

_ALIKE = 0.93


def match_by_source(old: Document, new: Document) -> dict[str, Match]:
    """Shots of a new timeline that show the same stretch of the same media as one of the old."""
    names = {m.id: (m.content or m.path or m.name) for m in (*old.lock.media, *new.lock.media)}
    by_media: dict[str, list[Shot]] = {}
    for shot in old.shots:
        by_media.setdefault(names[shot.source.media], []).append(shot)
    found: dict[str, Match] = {}
    for number, shot in enumerate(new.shots):
        candidates = by_media.get(names[shot.source.media], [])
        scored = [(_overlap(shot, c), -abs(old.place_of(c.id) - number), c.id) for c in candidates]
        best = max(scored, default=(0.0, 0, ""))
        if best[0] > 0:
            found[shot.id] = Match(best[2], _shift(old.shot(best[2]), shot))
    return found


def _overlap(a: Shot, b: Shot) -> float:
    """How many lock frames of two shots show the same media frames."""
    if a.source.step != b.source.step:
        return 0.0
    if a.source.step == 0:
        return float(min(a.frames, b.frames)) if a.source.start == b.source.start else 0.0
    begins = (b.source.start - a.source.start) / a.source.step  # of b, counted in a's frames
    return float(max(Fraction(0), min(Fraction(a.frames), begins + b.frames) - max(Fraction(0), begins)))


def match_by_picture(old: Document, new: Document, before: np.ndarray, after: np.ndarray) -> dict[str, Match]:
    """Shots of a new flat lock that show what a shot of the old one shows.

    ``before`` and ``after`` are the small pictures of all frames, (frames,
    rows, columns). Shots are compared by their pictures at equal places from
    their first, their last and their middle frames.
    """
    found: dict[str, Match] = {}
    taken: dict[str, int] = {}
    for number, shot in enumerate(new.shots):
        best, match = (0.0, 0), None
        for place, candidate in enumerate(old.shots):
            likeness, later = _like(shot, candidate, before, after)
            score = (round(likeness, 2), -abs(place - number) - 3 * taken.get(candidate.id, 0))
            if score > best:
                best, match = score, Match(candidate.id, later)
        if match is not None and best[0] >= _ALIKE:
            found[shot.id] = match
            taken[match.shot] = taken.get(match.shot, 0) + 1
    return found


def _like(new: Shot, old: Shot, before: np.ndarray, after: np.ndarray) -> tuple[float, int]:
    """The best likeness of a new shot's pictures to those of an old one, and the old frame of its first.

    Of offsets that are about equally good, as in a still shot, the least is taken.
    """
    a = after[new.start : new.end]
    b = before[old.start : old.end]
    picks = sorted({0, len(a) // 2, len(a) - 1})
    x = _normal(a[picks])
    y = _normal(b)
    likeness = x @ y.T  # (picks, frames of old)
    best, at = 0.0, 0
    for offset in sorted(range(-len(a) + 1, len(b)), key=abs):
        inside = [(k, p + offset) for k, p in enumerate(picks) if 0 <= p + offset < len(b)]
        if inside:
            value = float(np.mean([likeness[k, n] for k, n in inside])) - 0.01 * (len(picks) - len(inside))
            if value > best + 0.004:
                best, at = value, offset
    return best, at


def _normal(pictures: np.ndarray) -> np.ndarray:
    flat = pictures.reshape(len(pictures), -1).astype(np.float32)
    flat = flat - flat.mean(1, keepdims=True)
    return np.asarray(flat / (np.linalg.norm(flat, axis=1, keepdims=True) + 1e-3))


def _shift(old: Shot, new: Shot) -> int:
    """How many frames later in its clip the new shot begins; keyframes move back by it."""
    if old.source.media != new.source.media or old.source.step != new.source.step or not new.source.step:
        return 0
    return round((new.source.start - old.source.start) / new.source.step)
