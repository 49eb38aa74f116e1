"""The decision: which changes are cuts, of what kind, and how sure that is."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ezvar.core.media import MovieReader
from ezvar.core.model import Cut
from ezvar.core.progress import CancelToken, Progress, silent

from .candidates import Candidate, hard_candidates
from .mixes import mix_candidates
from .model import Logistic, models
from .signals import Signals, measure

_NEEDS_A_LOOK = 30
_REACH = 0.85  # how far the sensitivity moves the decision, of the way there is
_EMPTY, _EMPTY_FOR = 4.0, 12  # levels of contrast in an empty picture, and frames that it may last in a fade
_APART = 3  # frames between two hard cuts at the least


@dataclass(frozen=True)
class Judged:
    """Cuts in order, and changes that were passed over but deserve a look."""

    cuts: tuple[Cut, ...]
    passed: tuple[Cut, ...]


def find_cuts(reader: MovieReader, progress: Progress = silent, cancel: CancelToken | None = None) -> list[Cut]:
    """The cuts of a movie, in order. Decodes it once from end to end."""
    return list(judge(measure(reader.frames(), reader.facts.frames, progress, cancel)).cuts)


def judge(signals: Signals, sensitivity: float = 0.0, start: int = 0, end: int | None = None) -> Judged:
    """Decide which changes are cuts.

    ``sensitivity`` goes from -1, only what is plain, to 1, also what is
    faint. Only changes from frame ``start`` to ``end`` are judged.
    """
    last = len(signals.change) if end is None else end
    hard = _weighed(hard_candidates(signals), models()["cut"])
    mixes = _weighed(mix_candidates(signals), models()["mix"])
    cuts: list[Cut] = []
    passed: list[Cut] = []
    taken: list[tuple[int, int]] = []
    both = [(c, p, m) for weighed, m in ((hard, models()["cut"]), (mixes, models()["mix"])) for c, p in weighed]
    for candidate, probability, model in sorted(both, key=lambda c: -c[1]):
        threshold = _threshold(model, sensitivity)
        if not start <= candidate.start < last or probability < min(model.perhaps, threshold):
            continue
        low, high = candidate.start - _APART, max(candidate.end, candidate.start + 1) + _APART
        if any(a < high and low < b for a, b in taken):
            continue
        taken.append((candidate.start, max(candidate.end, candidate.start + 1)))
        (cuts if probability >= threshold else passed).append(_cut(candidate, probability, threshold, model))
    cuts, passed = (sorted(found, key=lambda c: c.start) for found in (cuts, passed))
    return Judged(tuple(_with_fades(cuts, signals)), tuple(passed))


def _with_fades(cuts: list[Cut], signals: Signals) -> list[Cut]:
    """Two mixes with nothing but an empty picture between them are one fade."""
    joined: list[Cut] = []
    for cut in cuts:
        before = joined[-1] if joined else None
        if before is not None and "cut" not in (before.kind, cut.kind) and 0 <= cut.start - before.end <= _EMPTY_FOR:
            between = signals.thumbs[before.end - 1 : cut.start + 1]
            if float(between.std(axis=(1, 2)).min()) < _EMPTY:
                doubt = max(before.doubt, cut.doubt)
                strength = min(before.strength, cut.strength)
                joined[-1] = Cut("fade", before.start, cut.end, strength, doubt, before.why or cut.why)
                continue
        joined.append(cut)
    return joined


def _threshold(model: Logistic, sensitivity: float) -> float:
    """The probability from which a candidate is taken for a cut, at a sensitivity."""
    if sensitivity >= 0:
        return model.accept * (1 - _REACH * sensitivity)
    return model.accept - (1 - model.accept) * _REACH * sensitivity


def _weighed(candidates: list[Candidate], model: Logistic) -> list[tuple[Candidate, float]]:
    if not candidates:
        return []
    probabilities = model.probability(np.stack([c.figures for c in candidates]))
    return list(zip(candidates, (float(p) for p in probabilities), strict=True))


def _cut(candidate: Candidate, probability: float, threshold: float, model: Logistic) -> Cut:
    accepted = probability >= threshold
    if accepted and probability >= model.sure:
        doubt = _NEEDS_A_LOOK * (1 - probability) / max(1e-6, 1 - model.sure) * 0.97
    elif accepted:
        doubt = _NEEDS_A_LOOK + 60 * (model.sure - probability) / max(1e-6, model.sure)
    else:
        doubt = _NEEDS_A_LOOK + 60 * probability / max(1e-6, threshold)
    cut = Cut(candidate.kind, candidate.start, candidate.end, round(probability, 3), round(min(99.0, doubt)))
    return replace(cut, why=_why(candidate, accepted)) if doubt >= _NEEDS_A_LOOK else cut


def _why(candidate: Candidate, accepted: bool) -> str:
    """The plainest reason why a change is doubtful, in a sentence."""
    f = candidate.figures
    if candidate.kind == "cut":
        lasting, returns, usual, same = f[9], f[10], f[1], f[22]
        if returns < 0.5 <= lasting:
            return "Much of the picture before comes back soon after it."
        if lasting < 0.5:
            return "What was there before is back within four frames, as after a flash."
        if usual > 1.2:
            return "There is much movement around it."
        if same > 0.8:
            return "The pictures before and after it are alike."
        return "The change is small." if accepted else "Something changes here, but not all of the picture."
    if f[8] > 0.75:
        return "The pictures before and after it are alike; it may be a move or a change of light."
    if f[17] > 0.3:
        return "It is not clear where it begins and ends."
    return "The pictures do not go over into each other evenly."
