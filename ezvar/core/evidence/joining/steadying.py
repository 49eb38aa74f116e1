"""Where a thing most likely was all along: single sights say where it is, roughly, movement how it goes from one to the
next.

The middle is the least-squares path (tridiagonal normal equations) between
what the sights say and how far the picture moved in its box from look to
look; sights far off the path count less (iteratively reweighted after Huber,
"Robust Estimation of a Location Parameter", 1964). Where the box is too small
to read its movement, it goes on evenly instead.
"""

from __future__ import annotations

import numpy as np

from .drift import Drift
from .tracks import Track

_ROUGH, _LEAST = 0.13, 0.004  # of its size and of the picture: how far a sight is off, where it is sure
_SLIPS, _STILL = 0.3, 0.002  # of the way it goes, and of the picture: how far its movement is off
_TRUSTED, _GAINS = 0.05, (0.8, 2.0)
"""Spread of its way, in pictures, from which it tells how far movement in its box is off; and how far that may be."""
_EVEN = 0.004  # of the picture, by which its speed may change from look to look
_OFF = 1.5  # of what a sight may be off, from which it counts less
_ROUNDS = 4
_SIZES = 0.5  # seconds over which sizes are levelled


def steadied(track: Track, drift: Drift, gap: int, rate: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Frames (n,), boxes (n, 4) and confidence (n,) of a track: its sights and the looks for movement between them.

    Sights more than ``gap`` frames apart are not joined.
    """
    boxes, sure = track.boxes(), np.array([r.confidence for r in track.regions])
    frames = np.array(track.frames)
    parts = np.split(np.arange(len(frames)), np.flatnonzero(np.diff(frames) > gap) + 1)
    made = [_one(frames[p], boxes[p], sure[p], drift, rate) for p in parts]
    return tuple(np.concatenate([m[k] for m in made]) for k in range(3))  # type: ignore[return-value]


def _one(
    frames: np.ndarray, boxes: np.ndarray, sure: np.ndarray, drift: Drift, rate: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    if len(frames) < 2:
        return frames, boxes, sure
    looks = np.unique(np.concatenate([frames, drift.between(int(frames[0]), int(frames[-1]))]))
    at = np.searchsorted(looks, frames)
    sizes = _levelled(looks, frames, boxes[:, 2:] - boxes[:, :2], sure, rate)
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    path = np.stack([np.interp(looks, frames, middles[:, k]) for k in (0, 1)], axis=1)
    for _ in range(2):  # once more where it was found to go, since movement is read there
        ways = [drift.way(np.concatenate([m - s / 2, m + s / 2]), int(a), int(b))
                for m, s, a, b in zip(path, sizes, looks, looks[1:], strict=False)]  # fmt: skip
        along = [[None if w is None else float(w[k]) for w in ways] for k in (0, 1)]
        path = np.stack([_path(middles[:, k], at, sure, sizes[at, k], along[k]) for k in (0, 1)], axis=1)
    return (
        looks,
        np.concatenate([path - sizes / 2, path + sizes / 2], axis=1).clip(0, 1),
        np.interp(looks, frames, sure),
    )


def _levelled(looks: np.ndarray, frames: np.ndarray, sizes: np.ndarray, sure: np.ndarray, rate: float) -> np.ndarray:
    """Sizes (looks, 2): of all sights around, the nearer and surer the more."""
    near = np.exp(-0.5 * ((looks[:, None] - frames[None]) / (_SIZES * rate)) ** 2) * sure[None] + 1e-9
    return np.asarray(np.exp(near @ np.log(np.maximum(sizes, 1e-4)) / near.sum(axis=1, keepdims=True)))


def _gain(seen: np.ndarray, at: np.ndarray, weight: np.ndarray, ways: list[float | None]) -> float:
    """How much farther a thing goes than movement in its box says: of what has little contrast too little is seen.

    By least squares over all that is ``seen``, drawn towards 1, which it is where too little is known.
    """
    gone = np.concatenate([[0.0], np.cumsum([way or 0.0 for way in ways])])[at]
    known = weight.sum()
    gone, seen = gone - (weight * gone).sum() / known, seen - (weight * seen).sum() / known
    held = float(weight.mean()) * _TRUSTED**2 * len(seen)
    return float(np.clip((held + (weight * gone * seen).sum()) / (held + (weight * gone**2).sum()), *_GAINS))


def _path(
    seen: np.ndarray, at: np.ndarray, sure: np.ndarray, sizes: np.ndarray, ways: list[float | None]
) -> np.ndarray:
    """The path (looks,) along one direction, from what is ``seen`` at looks ``at`` and ``ways`` from look to look."""
    from scipy.linalg import solveh_banded

    count = len(ways) + 1
    off = (_ROUGH * sizes + _LEAST) / np.maximum(sure, 0.05)
    more = _gain(seen, at, 1 / off**2, ways)
    ways = [None if way is None else more * way for way in ways]
    fixed = np.zeros((3, count))  # the upper diagonals, the main one last
    right = np.zeros(count)
    for k, way in enumerate(ways):
        if way is not None:
            weight = 1 / (_SLIPS * abs(way) + _STILL) ** 2
            fixed[2, [k, k + 1]] += weight
            fixed[1, k + 1] -= weight
            right[[k, k + 1]] += weight * way * np.array([-1, 1])
        elif k + 2 < count:
            weight = 1 / _EVEN**2
            fixed[2, [k, k + 1, k + 2]] += weight * np.array([1, 4, 1])
            fixed[1, [k + 1, k + 2]] -= 2 * weight
            fixed[0, k + 2] += weight
    counts = np.ones(len(seen))
    path = np.zeros(count)
    for _ in range(_ROUNDS):
        matrix, towards = fixed.copy(), right.copy()
        np.add.at(matrix[2], at, counts / off**2)
        np.add.at(towards, at, counts / off**2 * seen)
        path = solveh_banded(matrix, towards)
        astray = np.abs(path[at] - seen) / (_OFF * off)
        counts = 1 / np.maximum(astray, 1)
    return np.asarray(path)
