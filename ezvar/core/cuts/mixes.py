"""Places where one shot may go over into the next: dissolves, fades and wipes.

A mix leads straight from one picture to another: the steps along it add up
to little more than the difference of its ends, and none makes up much of it.
A fade passes through a picture with nothing in it.
"""

from __future__ import annotations

from collections.abc import Iterator

import cv2
import numpy as np

from .candidates import Candidate, Kind, alike
from .signals import THUMB, Signals

MIX_COLOUR = (14, float(np.log(0.3)))
"""Which figure of a mix is the change of colour, and its value in a grey film."""
_LENGTHS = (6, 9, 13, 18, 25, 34)  # of mixes looked for, in frames
_LEAST_CHANGE = 3.0  # levels between the pictures before and after a mix
_LEAST_SCORE = 0.25
_GOES_ON = 0.35  # of the usual step inside a mix: steps as large in its direction still belong to it
_LONGEST = 60
_CHUNK, _MARGIN = 3000, 80  # frames looked through at a time, and their overlap


def mix_candidates(signals: Signals) -> list[Candidate]:
    """All stretches that may be mixes, several for one place, so that the best fitting can be taken."""
    found: dict[tuple[int, int], Candidate] = {}
    for offset in range(0, len(signals.thumbs), _CHUNK):
        first = max(0, offset - _MARGIN)
        thumbs = signals.thumbs[first : offset + _CHUNK + _MARGIN]
        if len(thumbs) < _LENGTHS[0] + 4:
            continue
        smooth = np.stack([cv2.GaussianBlur(t, (3, 3), 0.7) for t in thumbs.astype(np.float32)])
        flat = smooth.reshape(len(smooth), -1)
        step = np.zeros(len(flat), np.float32)
        step[1:] = np.abs(np.diff(flat, axis=0)).mean(1)
        spans = {_fitted(flat, *_grown(flat, start, end)) for start, end in _stretches(flat, step)}
        for start, end in spans | set(_fades(flat)):
            where = (first + start, first + end)
            if 1 <= start < end < len(flat) and offset <= where[0] < offset + _CHUNK and where not in found:
                found[where] = _mix_figures(signals, flat, step, start, end, first)
    return list(found.values())


def _stretches(flat: np.ndarray, step: np.ndarray) -> Iterator[tuple[int, int]]:
    """Stretches that lead straight from one picture to another, the best ones of each length."""
    length = len(flat)
    gone = np.concatenate([[0.0], np.cumsum(step)])
    for frames in _LENGTHS:
        if length < frames + 3:
            continue
        starts = np.arange(1, length - frames)
        apart = np.abs(flat[starts + frames] - flat[starts - 1]).mean(1)
        way = gone[starts + frames + 1] - gone[starts]
        windows = np.lib.stride_tricks.sliding_window_view(step[1:], frames + 1)[: len(starts)]
        largest = windows.max(1) / (way + 1e-3)
        score = apart / (way + 0.5) * np.clip(1.6 - largest * frames * 0.35, 0, 1) * np.clip(apart / 8, 0, 1)
        score[apart < _LEAST_CHANGE] = 0
        while score.size and float(score.max()) >= _LEAST_SCORE:
            k = int(score.argmax())
            yield int(starts[k]), int(starts[k]) + frames
            score[max(0, k - frames // 2 - 2) : k + frames // 2 + 3] = 0


def _grown(flat: np.ndarray, start: int, end: int) -> tuple[int, int]:
    """A stretch with the frames beside it that go on in its direction as fast as it does."""
    way = flat[end] - flat[start - 1]
    way = way / (np.linalg.norm(way) + 1e-3)
    usual = float(np.median(np.diff(flat[start - 1 : end + 1] @ way)))
    low, high = start, end
    while low > 1 and end - low < _LONGEST and float((flat[low - 1] - flat[low - 2]) @ way) > _GOES_ON * usual:
        low -= 1
    while (
        high < len(flat) - 1 and high - low < _LONGEST and float((flat[high + 1] - flat[high]) @ way) > _GOES_ON * usual
    ):
        high += 1
    return low, high


def _fitted(flat: np.ndarray, start: int, end: int) -> tuple[int, int]:
    """First frame of a mix and the one after it, from a straight line through how far it has come."""
    length = len(flat)
    for _ in range(2):
        frames = end - start
        before, after = flat[max(0, start - 3) : start].mean(0), flat[end : end + 3].mean(0)
        way = after - before
        low, high = max(0, start - frames // 2 - 3), min(length, end + frames // 2 + 3)
        come = ((flat[low:high] - before) @ way) / (float(way @ way) + 1e-3)
        middle = (start + end) // 2 - low
        inside = [i for i in np.nonzero((come > 0.12) & (come < 0.88))[0] if abs(i - middle) <= frames * 0.75 + 2]
        if len(inside) < 2:
            break
        slope, zero = np.polyfit(np.array(inside) + low, come[inside], 1)
        if slope <= 1e-3:
            break
        first, last = (
            round(-zero / slope) + 1,
            round((1 - zero) / slope),
        )  # none of it the frame before, all of it at the end
        first, last = max(1, first), min(length - 1, last)
        if not 3 <= last - first <= min(_LONGEST, 2 * frames + 4):
            break
        start, end = first, last
    return start, end


def _fades(flat: np.ndarray) -> Iterator[tuple[int, int]]:
    """Stretches in which the picture empties and fills again, by how much there is in it."""
    depth = flat.std(1)
    length = len(depth)

    def fills(k: int, step: int) -> bool:
        beyond = k + step
        return 1 <= beyond < length and bool(depth[beyond] > 1.005 * depth[k] + 0.02)

    k = 1
    while k < length - 1:
        sides = float(depth[max(0, k - 24) : k + 1].max()), float(depth[k : k + 25].max())
        if depth[k] > 0.35 * min(sides) or depth[k] > depth[max(0, k - 12) : k + 13].min():
            k += 1
            continue
        start = end = k
        while k - start < _LONGEST and fills(start, -1):
            start -= 1
        while end - k < _LONGEST and fills(end, 1):
            end += 1
        first, last = _empties(depth, k, start), _empties(depth, k, end)
        if last - first >= 5:
            yield max(1, first + 1), min(length - 1, last)
        k = max(k + 1, end)


def _empties(depth: np.ndarray, low: int, end: int) -> int:
    """Where a picture that is empty at ``low`` is full again on the side of ``end``, from the straight part between."""
    side = np.arange(low, end, 1 if end > low else -1)
    full = (
        float(np.median(depth[min(end, low) : max(end, low) + 1][:: 1 if end < low else -1][:3])) if side.size else 0.0
    )
    between = [k for k in side if 0.12 * full < depth[k] < 0.85 * full]
    if len(between) < 2:
        return end
    slope, zero = np.polyfit(between, depth[between], 1)
    if abs(slope) < 1e-3 or (slope > 0) != (end > low):
        return end
    reached = (full - zero) / slope
    return int(np.clip(round(reached), min(low, end), max(low, end)))


def _mix_figures(signals: Signals, flat: np.ndarray, step: np.ndarray, start: int, end: int, offset: int) -> Candidate:
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
        float(flat[min(end, length - 1) : end + 4].std(1).mean()),
    )
    emptiest = float(inside.std(1).min()) / (deep + 1)
    hardest = float(signals.change[offset + start : offset + end + 1, 0].max())
    colour = float(
        np.abs(
            signals.colour[offset + start - 1].astype(np.float32) - signals.colour[offset + min(length - 1, end)]
        ).mean()
    )
    single = np.abs(np.diff(flat[max(0, start - 2) : end + 3], axis=0))
    held = ((flat[max(0, start - 6) : start] - before) @ way / square, (flat[end : end + 6] - after) @ way / square)
    drift = [float(np.abs(h).max()) if h.size else 0.0 for h in held]
    middle = float(np.median(steps))
    shape = (THUMB[1], THUMB[0])
    figures = [
        np.log(apart + 1), apart / (way_length + 0.5), float(steps.max()) / (way_length + 1e-3) * frames, uneven,
        min(2.0, aside), min(2.0, either), emptiest, alike(before, after),
        _alike_shifted(before.reshape(shape), after.reshape(shape)),
        np.log((middle + 0.2) / (usual + 0.2)), np.log((middle + 0.2) / (lively + 0.2)), np.log(frames),
        np.log(hardest + 0.3), hardest / (apart + 1), np.log(colour + 0.3),
        np.log(float((single.max(1) / (single.mean(1) + 0.2)).mean()) + 1), np.log(deep + 1),
        min(1.5, max(drift)), min(1.5, sum(drift)),
    ]  # fmt: skip
    kind: Kind = "fade" if emptiest < 0.35 else "wipe" if either < 0.45 and either < 2.2 * aside + 0.2 else "dissolve"
    return Candidate(kind, offset + start, offset + end, np.array(figures, np.float64))


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
