"""The decision: which changes are cuts, of what kind, and how sure that is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from ezvar.core.media import MovieReader
from ezvar.core.model import CUT_NEEDS_A_LOOK, Cut
from ezvar.core.progress import CancelToken, Progress, silent

from .candidates import Candidate, hard_candidates, mix_candidates
from .network import Levels, judged_frames, weights
from .reasons import reason
from .signals import Signals, measure

_REACH = 0.85  # how far the sensitivity moves the decision, of the way there is
_ONE_MIX, _MAYBE_ONE = 8, 40  # frames between two mixes up to which they may be one, and the doubt that they are
_APART = 2  # frames between two changes at the least


@dataclass(frozen=True)
class Judged:
    """Cuts in order, and changes that were passed over but deserve a look."""

    cuts: tuple[Cut, ...]
    passed: tuple[Cut, ...]


def find_cuts(reader: MovieReader, progress: Progress = silent, cancel: CancelToken | None = None) -> list[Cut]:
    """The cuts of a movie, in order. Decodes it once from end to end."""
    return list(judge(measure(reader.frames(), reader.facts.frames, progress, cancel)).cuts)


def weigh(signals: Signals) -> tuple[Candidate, ...]:
    """All places that may be cuts, weighed. The long part of the decision, whatever the sensitivity."""
    said = judged_frames(signals)
    return (*hard_candidates(said), *mix_candidates(said))


def judge(
    signals: Signals,
    sensitivity: float = 0.0,
    start: int = 0,
    end: int | None = None,
    candidates: Sequence[Candidate] | None = None,
) -> Judged:
    """Decide which changes are cuts.

    ``sensitivity`` goes from -1, only what is plain, to 1, also what is
    faint. Only changes from frame ``start`` to ``end`` are judged.
    ``candidates`` are those of `weigh`, where they are there already.
    """
    last = len(signals.thumbs) if end is None else end
    levels = weights().levels
    known = weigh(signals) if candidates is None else candidates
    weighed = [(c, levels["cut" if c.kind == "cut" else "mix"]) for c in known]
    found: dict[bool, list[Cut]] = {True: [], False: []}
    taken: list[tuple[int, int]] = []
    for candidate, level in sorted(weighed, key=lambda c: -c[0].score / c[1].accept):
        threshold = _threshold(level.accept, sensitivity)
        if not start <= candidate.start < last or candidate.score < min(level.perhaps, threshold):
            continue
        low, high = candidate.start, max(candidate.end, candidate.start + 1)
        if any(a < high + _APART and low - _APART < b for a, b in taken):
            continue
        taken.append((low, high))
        found[candidate.score >= threshold].append(_cut(signals, candidate, threshold, level))
    cuts, passed = (sorted(found[accepted], key=lambda c: c.start) for accepted in (True, False))
    return Judged(tuple(_close_ones_doubted(cuts)), tuple(passed))


def _close_ones_doubted(cuts: Sequence[Cut]) -> list[Cut]:
    """Cuts in order; of two mixes that follow each other at once it is doubtful whether they are not one."""
    found = list(cuts)
    for k, (a, b) in enumerate(pairwise(cuts)):
        if "cut" not in (a.kind, b.kind) and b.start - a.end <= _ONE_MIX:
            for n in (k, k + 1):
                why = found[n].why or "Another mix is so close to it that both may be one."
                found[n] = replace(found[n], doubt=max(found[n].doubt, _MAYBE_ONE), why=why)
    return found


def _threshold(accept: float, sensitivity: float) -> float:
    """The score from which a candidate is taken for a cut, at a sensitivity."""
    if sensitivity >= 0:
        return accept * (1 - _REACH * sensitivity)
    return accept - (1 - accept) * _REACH * sensitivity


def _cut(signals: Signals, candidate: Candidate, threshold: float, level: Levels) -> Cut:
    """A candidate as a cut with its doubt: below 30 from ``level.sure`` on, above it from there down."""
    score, accepted = candidate.score, candidate.score >= threshold
    if accepted and score >= level.sure:
        doubt = 0.97 * CUT_NEEDS_A_LOOK * (1 - score) / max(1e-6, 1 - level.sure)
    elif accepted:
        doubt = CUT_NEEDS_A_LOOK + 60 * (level.sure - score) / max(1e-6, level.sure)
    else:
        doubt = CUT_NEEDS_A_LOOK + 60 * score / max(1e-6, threshold)
    figure = round(min(99.0, doubt))
    why = reason(signals, candidate, accepted) if figure >= CUT_NEEDS_A_LOOK else ""
    return Cut(candidate.kind, candidate.start, candidate.end, round(min(1.0, score), 3), figure, why)
