"""Places where a cut may be, each with the figures that the decision is made from.

What is said of a place is relative to what is to be expected around it: the
same change is a cut in a quiet talk and nothing in a whip pan. Figures are
logarithms and ratios, so that dark and bright, still and lively shots are
judged alike.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from .signals import THUMB, Signals

Kind = Literal["cut", "dissolve", "fade", "wipe"]

_AROUND = 8  # frames to either side that say what is to be expected
_QUIET = 0.8  # levels of change that noise makes in a still picture at this size
_LENGTHS = (6, 8, 11, 15, 20, 26, 34)  # of mixes looked for, in frames
_LEAST_CHANGE = 3.0  # levels between the pictures before and after a mix
_LEAST_SCORE = 0.22


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


# Mixes


def mix_candidates(signals: Signals) -> list[Candidate]:
    """Stretches along which one picture becomes another in even steps."""
    length = len(signals.thumbs)
    if length < _LENGTHS[0] + 4:
        return []
    smooth = np.stack([cv2.GaussianBlur(t, (3, 3), 0.7) for t in signals.thumbs.astype(np.float32)])
    flat = smooth.reshape(length, -1)
    step = np.zeros(length, np.float32)
    step[1:] = np.abs(np.diff(flat, axis=0)).mean(1)
    found = {}
    for start, frames, score in _stretches(flat, step):
        first, last = _fitted(flat, start, frames)
        if (first, last) not in found:
            found[first, last] = Candidate(*_mix_figures(signals, flat, step, first, last, score))
    return list(found.values())


def _stretches(flat: np.ndarray, step: np.ndarray) -> list[tuple[int, int, float]]:
    """Starts, lengths and scores of stretches that lead straight from one picture to another.

    Straight: the steps along it add up to little more than the difference of
    its ends, and none of them makes up much of it.
    """
    length = len(flat)
    gone = np.concatenate([[0.0], np.cumsum(step)])
    best, pick = np.zeros(length), np.zeros((length, 2), int)
    for frames in _LENGTHS:
        if length < frames + 3:
            continue
        starts = np.arange(1, length - frames)
        apart = np.abs(flat[starts + frames] - flat[starts - 1]).mean(1)
        way = gone[starts + frames + 1] - gone[starts]
        windows = np.lib.stride_tricks.sliding_window_view(step[1:], frames + 1)[: len(starts)]
        largest = windows.max(1) / (way + 1e-3)
        score = apart / (way + 0.5) * np.clip(1.6 - largest * frames * 0.35, 0, 1) * np.clip(apart / 8, 0, 1)
        score *= (0.8 + 0.2 * np.log(frames) / 3.5) * (apart >= _LEAST_CHANGE)
        middle = starts + frames // 2
        better = score > best[middle]
        best[middle[better]] = score[better]
        pick[middle[better]] = np.stack([starts[better], np.full(better.sum(), frames)], axis=1)
    found = []
    while best.size and (score := float(best.max())) >= _LEAST_SCORE:
        k = int(best.argmax())
        start, frames = int(pick[k, 0]), int(pick[k, 1])
        found.append((start, frames, score))
        best[max(0, k - frames // 2 - 3) : k + frames // 2 + 3] = 0
    return found


def _fitted(flat: np.ndarray, start: int, frames: int) -> tuple[int, int]:
    """First frame of a mix and the one after it, from a straight line through how far it has come."""
    length = len(flat)
    for _ in range(2):
        end = start + frames
        before, after = flat[max(0, start - 3) : start].mean(0), flat[end : end + 3].mean(0)
        way = after - before
        low, high = max(0, start - frames // 2 - 3), min(length, end + frames // 2 + 3)
        come = ((flat[low:high] - before) @ way) / (float(way @ way) + 1e-3)
        middle = (start + end) // 2 - low
        inside = [i for i in np.nonzero((come > 0.15) & (come < 0.85))[0] if abs(i - middle) <= frames * 0.75 + 2]
        if len(inside) < 2:
            break
        slope, zero = np.polyfit(np.array(inside) + low, come[inside], 1)
        if slope <= 1e-3:
            break
        first, last = (
            max(1, int(np.ceil(-zero / slope - 0.01))),
            min(length - 1, int(np.floor((1 - zero) / slope + 0.01))),
        )
        if not 3 <= last - first <= 2.2 * frames + 4:
            break
        start, frames = first, last - first
    return start, start + frames


def _mix_figures(
    signals: Signals, flat: np.ndarray, step: np.ndarray, start: int, end: int, score: float
) -> tuple[Kind, int, int, np.ndarray]:
    length, frames = len(flat), end - start
    before, after, inside = flat[start - 1], flat[min(length - 1, end)], flat[start:end]
    way = after - before
    square, apart = float(way @ way) + 1e-3, float(np.abs(way).mean())
    come = ((inside - before) @ way) / square
    even = (np.arange(frames) + 1) / (frames + 1)
    uneven = float(np.sqrt(np.mean((come - even) ** 2)))
    aside = float(np.mean(((inside - before - come[:, None] * way) ** 2).sum(1)) / square)
    # In a wipe each place shows either one picture or the other.
    either = float(np.mean(np.minimum(np.abs(inside - before), np.abs(inside - after))) / (apart / 2 + 0.3))
    steps = step[start : end + 1]
    way_length = float(steps.sum())
    out = np.concatenate([step[max(1, start - 12) : start], step[end + 1 : end + 13]])
    usual, lively = (float(np.percentile(out, q)) if out.size else 0.0 for q in (50, 85))
    deep = min(
        float(flat[max(0, start - 4) : start].std(1).mean()),
        float(flat[end : end + 4].std(1).mean() if end < length else flat[-1].std()),
    )
    emptiest = float(inside.std(1).min()) / (deep + 1)
    hardest = float(signals.change[start : end + 1, 0].max())
    colour = float(np.abs(signals.colour[start - 1].astype(np.float32) - signals.colour[min(length - 1, end)]).mean())
    single = np.abs(np.diff(flat[max(0, start - 2) : end + 3], axis=0))
    held = ((flat[max(0, start - 6) : start] - before) @ way / square, (flat[end : end + 6] - after) @ way / square)
    drift = [float(np.abs(h).max()) if h.size else 0.0 for h in held]
    middle = float(np.median(steps))
    shape = (THUMB[1], THUMB[0])
    figures = [
        score, np.log(apart + 1), apart / (way_length + 0.5), float(steps.max()) / (way_length + 1e-3) * frames, uneven,
        min(2.0, aside), min(2.0, either), emptiest, alike(before, after),
        _alike_shifted(before.reshape(shape), after.reshape(shape)),
        np.log((middle + 0.2) / (usual + 0.2)), np.log((middle + 0.2) / (lively + 0.2)), np.log(frames),
        np.log(hardest + 0.3), hardest / (apart + 1), np.log(colour + 0.3),
        np.log(float((single.max(1) / (single.mean(1) + 0.2)).mean()) + 1), np.log(deep + 1),
        min(1.5, max(drift)), min(1.5, sum(drift)),
    ]  # fmt: skip
    kind: Kind = "fade" if emptiest < 0.35 else "wipe" if either < 0.45 and either < 2.2 * aside + 0.2 else "dissolve"
    return kind, start, end, np.array(figures, np.float64)


def _alike_shifted(a: np.ndarray, b: np.ndarray) -> float:
    """How alike two pictures are once one is shifted by a few samples, as a camera's move would."""
    rows, columns = a.shape
    best = -1.0
    for dy in (-2, -1, 0, 1, 2):
        for dx in (-5, -3, -2, -1, 0, 1, 2, 3, 5):
            x = a[max(0, dy) : rows + min(0, dy), max(0, dx) : columns + min(0, dx)]
            y = b[max(0, -dy) : rows + min(0, -dy), max(0, -dx) : columns + min(0, -dx)]
            best = max(best, alike(x, y))
    return best
