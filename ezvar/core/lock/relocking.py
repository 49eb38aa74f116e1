"""Carrying decisions over to a lock that was changed and locked again."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

import numpy as np

from ezvar.core.model import Document, Shot, hanging

Change = Literal["unchanged", "moved", "trimmed", "extended", "split", "new", "removed"]

_ALIKE = 0.93
_WORDS: dict[Change, str] = {
    "unchanged": "is as it was",
    "moved": "was moved",
    "trimmed": "was trimmed",
    "extended": "was extended",
    "split": "is a further part of it",
}


@dataclass(frozen=True)
class Carried:
    """What became of one shot: ``old`` and ``new`` are shot numbers from 1, ``None`` where there is none."""

    change: Change
    old: int | None
    new: int | None
    said: str


@dataclass(frozen=True)
class Match:
    """A shot of the old lock that shows what a new one does; the new one's first frame is its frame ``later``."""

    shot: str
    later: int


def carry(old: Document, new: Document, same: dict[str, Match]) -> tuple[Document, list[Carried]]:
    """The new lock with every decision of the old document that has a shot to go to.

    ``same`` maps shots of the new lock to those of the old one that show the
    same; `match_by_source` and `match_by_picture` make it. Framings keep
    their windows at the same pictures: a shot that begins later or earlier
    in its clip has its keyframes shifted. What has no shot any more is kept
    in the document's ``aside``, and listed.
    """
    masters = tuple(old.masters)
    doc = replace(hanging.with_shots_only(new, ()), masters=masters, project=old.project)
    listed: list[Carried] = []
    used: dict[str, int] = {}
    for number, shot in enumerate(new.shots, 1):
        match = same.get(shot.id)
        if match is None:
            listed.append(Carried("new", None, number, f"Shot {number} is new."))
            continue
        origin = old.shot(match.shot)
        place = old.place_of(origin.id) + 1
        used[origin.id] = used.get(origin.id, 0) + 1
        doc = hanging.carried(old, origin.id, shot.id, match.later, doc)
        change = _change(origin, shot, match.later, used[origin.id])
        words = _WORDS[change]
        listed.append(Carried(change, place, number, f"Shot {number}, earlier {place}, {words}."))
    gone = [s for s in old.shots if s.id not in used]
    for shot in gone:
        place = old.place_of(shot.id) + 1
        decided = [old.master(f.master).name for f in old.framings if f.shot == shot.id]
        kept = f" Its framings for {', '.join(decided)} are kept aside." if decided else ""
        listed.append(Carried("removed", place, None, f"Shot {place} of the old lock is no longer there.{kept}"))
    aside = tuple(f for f in old.framings if f.shot in {s.id for s in gone})
    return replace(doc, aside=(*old.aside, *aside)), listed


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


def _change(old: Shot, new: Shot, later: int, uses: int) -> Change:
    if uses > 1:
        return "split"
    if later < 0 or later + new.frames > old.frames:
        return "extended"
    if later > 0 or later + new.frames < old.frames:
        return "trimmed"
    return "unchanged" if old.start == new.start else "moved"
