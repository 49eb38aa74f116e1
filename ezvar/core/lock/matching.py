"""Which shots of a lock show what a shot of its earlier version does."""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import numpy as np

from ezvar.core import edits
from ezvar.core.edits import Match
from ezvar.core.model import Document, Shot

_ALIKE = 0.93
_PICKS = 7  # pictures of a shot that are compared
_OUTSIDE = 0.03  # what a shot loses by lying wholly outside the one that it is compared with
_EQUAL = 0.004  # likenesses that are about equally good
_SHORTEST = 2  # frames of a shot that is cut off another


def match_by_source(old: Document, new: Document) -> dict[str, Match]:
    """Shots of a new timeline that show the same stretch of the same media as one of the old."""
    names = _names(old, new)
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


def cut_as_before(old: Document, new: Document) -> Document:
    """The new lock with its shots cut where those of the old one are, within the same stretches of the same media.

    So a clip of a finished movie, which the new edit cuts from, is the shots that were found in that movie.
    """
    names = _names(old, new)
    inside = [b for a, b in pairwise(old.shots) if a.source.later(a.frames) == b.source]
    for shot in new.shots:
        for before in inside:
            first = _first_in(before, shot) if names[before.source.media] == names[shot.source.media] else None
            if first is None or before.cut is None or not _SHORTEST <= first <= shot.frames - _SHORTEST:
                continue
            start = shot.start + first + before.cut.start - before.start
            cut = replace(before.cut, start=start, end=start + before.cut.end - before.cut.start)
            new = edits.add_cut(new, shot.start + first, cut)
    return new


def _first_in(before: Shot, shot: Shot) -> int | None:
    """The frame of a shot that shows what an earlier one begins with; ``None`` where that lies between two frames."""
    if before.source.step == 0 or before.source.step != shot.source.step:
        return None
    first = (before.source.start - shot.source.start) / shot.source.step
    return int(first) if first.denominator == 1 else None


def _names(old: Document, new: Document) -> dict[str, str]:
    """What each media is known by in both."""
    return {m.id: (m.content or m.path or m.name) for m in (*old.lock.media, *new.lock.media)}


def match_by_picture(
    old: Document, new: Document, before: np.ndarray, after: np.ndarray, wanted: Container[str] | None = None
) -> dict[str, Match]:
    """Shots of a new lock, all or those ``wanted``, that show what a shot of the old one shows.

    ``before`` and ``after`` are the small pictures of all frames, (frames,
    rows, columns). Shots are compared by a few of their pictures, at equal
    places from their first; of several old ones that are about equally like
    it, the one is taken that stands nearest and was taken least.
    """
    numbered = [(number, shot) for number, shot in enumerate(new.shots) if wanted is None or shot.id in wanted]
    found: dict[str, Match] = {}
    taken: dict[str, int] = {}
    for (number, shot), candidates in zip(
        numbered, _perhaps([s for _, s in numbered], old, before, after), strict=True
    ):
        best, match = (0.0, 0), None
        for place in candidates:
            candidate = old.shots[place]
            likeness, later = _like(shot, candidate, before, after)
            score = (round(likeness, 2), -abs(place - number) - 3 * taken.get(candidate.id, 0))
            if score > best:
                best, match = score, Match(candidate.id, later)
        if match is not None and best[0] >= _ALIKE:
            found[shot.id] = match
            taken[match.shot] = taken.get(match.shot, 0) + 1
    return found


def _perhaps(shots: Sequence[Shot], old: Document, before: np.ndarray, after: np.ndarray) -> list[list[int]]:
    """For each shot the places of those old ones of which some picture is like one of its own."""
    if not shots:
        return []
    picks = [[shot.start + k for k in _picks(shot.frames)] for shot in shots]
    owners = np.repeat(np.arange(len(shots)), [len(p) for p in picks])
    mine = _normal(after[np.concatenate(picks)])
    found: list[list[int]] = [[] for _ in shots]
    for place, shot in enumerate(old.shots):
        most = (mine @ _normal(before[shot.start : shot.end]).T).max(axis=1)
        for owner in np.unique(owners[most >= _ALIKE - 0.01]):
            found[owner].append(place)
    return found


def _picks(frames: int) -> list[int]:
    """The frames of a shot that are compared."""
    return sorted({round(k * (frames - 1) / (_PICKS - 1)) for k in range(_PICKS)})


def _like(new: Shot, old: Shot, before: np.ndarray, after: np.ndarray) -> tuple[float, int]:
    """The best likeness of a new shot's pictures to those of an old one, and the old frame of its first.

    Of offsets that are about equally good, as in a still shot, the least is taken.
    """
    picks = np.array(_picks(new.frames))
    likeness = _normal(after[new.start + picks]) @ _normal(before[old.start : old.end]).T  # (picks, frames of old)
    offsets = np.array(sorted(range(-new.frames + 1, old.frames), key=abs))
    at = offsets[:, None] + picks
    inside = (at >= 0) & (at < old.frames)
    values = likeness[np.arange(len(picks)), np.clip(at, 0, old.frames - 1)]
    count = inside.sum(axis=1)
    mean = np.where(inside, values, 0).sum(axis=1) / np.maximum(count, 1) - _OUTSIDE / len(picks) * (len(picks) - count)
    mean[count == 0] = 0
    best = int(np.argmax(mean >= mean.max() - _EQUAL))
    return float(mean[best]), int(offsets[best])


def _normal(pictures: np.ndarray) -> np.ndarray:
    flat = pictures.reshape(len(pictures), -1).astype(np.float32)
    flat = flat - flat.mean(1, keepdims=True)
    return np.asarray(flat / (np.linalg.norm(flat, axis=1, keepdims=True) + 1e-3))


def _shift(old: Shot, new: Shot) -> int:
    """How many frames later in its clip the new shot begins; keyframes move back by it."""
    if old.source.media != new.source.media or old.source.step != new.source.step or not new.source.step:
        return 0
    return round((new.source.start - old.source.start) / new.source.step)
