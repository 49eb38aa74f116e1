"""From a path to the fewest keyframes, with eases, that a person would have set."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ezvar.core.model import Ease

from ..windows.path import ease_curve

Keys = list[tuple[int, np.ndarray, Ease]]
"""Keyframes: frame, centre (2,), and the ease to the next."""
_EASES: tuple[Ease, ...] = ("both", "linear", "ease out", "ease in")
NEAR = 0.025
"""How far, as a fraction of the picture, the curve may lie off the path inside the corridor."""
_EVEN = 0.05
"""The same for one even move all through, which asks least of an eye."""
_RESTS, _MOVING = 0.2, 0.8
"""Of the mean speed, below which a path rests; and share of the time in which one moves that hardly ever does."""
_STOPS = 1.0  # what it costs, in keyframes, to stop where the path goes on
_FROM_REST, _TO_REST = ("both", "ease in"), ("both", "ease out")
_HAIR = 0.0005
_LEFT, _NEARLY, _BESIDE = 0.02, 0.008, 3
"""Of the picture, beside a path outside its corridor, and as many knots before and after."""
_NOTHING = 0.002  # of the picture, a turn at an end that nobody sees
_PEAK: dict[Ease, float] = {"both": 1.5, "linear": 1.0, "ease out": 2.0, "ease in": 2.0}  # fastest over mean speed
_MOST_PLACES = 40  # places for keyframes tried at first


def fewest_keys(
    frames: np.ndarray, path: np.ndarray, low: np.ndarray, high: np.ndarray, fastest: Sequence[float],
    limits: Sequence[tuple[float, float]] | None = None,
) -> Keys:  # fmt: skip
    """Keyframes for a path.

    ``frames`` (n,) are the path's frames in order, ``path`` (n, 2) its
    centres as fractions of the picture, ``low`` and ``high`` (n, 2) the
    corridor that keeps what must be kept, ``fastest`` the most it may move a
    frame in each direction, ``limits`` the least and the greatest centre in
    each; without them the path's ends are kept. A path that hardly ever rests
    becomes one even move where that keeps as much. Else, between keyframes,
    the curve stays inside the corridor and within `NEAR` of the path, and is
    no faster than asked. The fewest keyframes are found by the shortest chain
    of such stretches (plain dynamic programming, since they are in order),
    among equals the one that is nearest to the path. A stop amid a move, which
    an eye sees sooner than how far the path is, costs as much as a keyframe.
    """
    if np.ptp(path, axis=0).max() < 1e-6:
        return [(int(frames[0]), path[0], "both")]
    ends = None if limits is None else _one_even_move(frames, path, low, high, fastest, limits)
    if ends is not None:
        return [(int(frames[0]), ends[0], "linear"), (int(frames[-1]), ends[1], "both")]
    near = _around(path, low, high, NEAR)
    places, through = _places(path), _going_through(frames, path)
    best: list[tuple[float, int, Ease]] = [(0.0, -1, "both")]
    for b in range(1, len(places)):
        options = []
        for a in range(b):
            found = _stretch(frames, path, near, fastest, through, places[a], places[b])
            if found is not None:
                options.append((best[a][0] + 1 + found[0], a, found[1]))
        # Neighbours are always joined evenly: that is the path itself.
        options.append((best[b - 1][0] + 1.5, b - 1, "linear"))
        best.append(min(options, key=lambda o: o[0]))
    keys: Keys = [(int(frames[places[-1]]), path[places[-1]], "both")]
    at = len(places) - 1
    while at > 0:
        _, before, ease = best[at]
        keys.append((int(frames[places[before]]), path[places[before]], ease))
        at = before
    keys.reverse()
    return _without_idle(keys, frames, near)


def _around(path: np.ndarray, low: np.ndarray, high: np.ndarray, away: float) -> tuple[np.ndarray, np.ndarray]:
    """The corridor, as far as it does not lead ``away`` from the path; around the path where, or shortly before or
    after, it has left the corridor anyway."""
    left = (path < low - _HAIR) | (path > high + _HAIR)
    near = np.array([left[max(0, k - _BESIDE) : k + _BESIDE + 1].any(axis=0) for k in range(len(left))])
    beside = np.where(left, _LEFT, np.where(near, _NEARLY, _HAIR))
    return (
        np.minimum(np.maximum(low, path - away), path - beside),
        np.maximum(np.minimum(high, path + away), path + beside),
    )


def _one_even_move(
    frames: np.ndarray, path: np.ndarray, low: np.ndarray, high: np.ndarray, fastest: Sequence[float],
    limits: Sequence[tuple[float, float]],
) -> np.ndarray | None:  # fmt: skip
    """Both ends (2, 2) of an even move in place of a path that hardly ever rests; ``None`` where none serves.

    It is the nearest to the path: by least absolute deviations, as a linear programme (Charnes, Cooper and Ferguson,
    "Optimal Estimation of Executive Compensation by Linear Programming", 1955).
    """
    from scipy.optimize import linprog

    lasts = float(frames[-1] - frames[0])
    t = (frames - frames[0]) / lasts
    near = _around(path, low, high, _EVEN)
    ends = np.empty((2, 2))
    for axis in (0, 1):
        along = path[:, axis]
        if np.ptp(along) < 1e-6:
            ends[:, axis] = along[0]
            continue
        speed = np.abs(np.diff(along)) / np.diff(frames)
        if float((speed > _RESTS * np.ptp(along) / lasts).mean()) < _MOVING:
            return None
        line = np.stack([1 - t, t], axis=1)
        one = -np.eye(len(t))
        found = linprog(
            np.concatenate([[0, 0], np.ones(len(t))]),
            A_ub=np.block([[line, one], [-line, one], [line, 0 * one], [-line, 0 * one]]),
            b_ub=np.concatenate([along, -along, near[1][:, axis], -near[0][:, axis]]),
            bounds=[limits[axis]] * 2 + [(0, None)] * len(t),
        )
        if found.x is None or abs(found.x[1] - found.x[0]) > fastest[axis] * lasts:
            return None
        ends[:, axis] = found.x[:2]
    return ends


def _places(path: np.ndarray) -> list[int]:
    """Where keyframes are tried: both ends, where the path bends most, and one and two knots beside."""
    bend = np.abs(np.diff(path, 2, axis=0)).max(axis=1)
    bends = np.flatnonzero(bend > 1e-5) + 1
    if len(bends) > _MOST_PLACES:
        bends = np.sort(bends[np.argsort(-bend[bends - 1])[:_MOST_PLACES]])
    beside = (bends[:, None] + np.arange(-2, 3)).ravel()
    return sorted({0, *(int(b) for b in beside if 0 < b < len(path) - 1), len(path) - 1})


def _going_through(frames: np.ndarray, path: np.ndarray) -> np.ndarray:
    """How fast (n, 2) a path goes on through each of its knots, in pictures a frame; 0 where it turns, ends, or rests
    before or after."""
    speed = np.diff(path, axis=0) / np.diff(frames)[:, None]
    on = speed[1:] * speed[:-1] > 0
    least = np.minimum(np.abs(speed[1:]), np.abs(speed[:-1]))
    return np.pad(np.where(on, least, 0.0), ((1, 1), (0, 0)))


def _stretch(
    frames: np.ndarray, path: np.ndarray, near: tuple[np.ndarray, np.ndarray], fastest: Sequence[float],
    through: np.ndarray, a: int, b: int,
) -> tuple[float, Ease] | None:  # fmt: skip
    """The ease that serves best between two places, with how far off the path it is (0..0.3) and what it costs that it
    stops where the path does not; or ``None``."""
    t = (frames[a : b + 1] - frames[a]) / (frames[b] - frames[a])
    move = path[b] - path[a]
    least = np.where(np.abs(move) > _NOTHING, _RESTS * np.abs(move) / (frames[b] - frames[a]), np.inf)
    goes_on = [bool((through[k] > least).any()) for k in (a, b)]
    found: list[tuple[float, Ease]] = []
    for ease in _EASES:
        quickest = np.abs(move) / (frames[b] - frames[a]) * _PEAK[ease]
        if (quickest > np.asarray(fastest) + 1e-9).any():
            continue
        curve = path[a] + move * ease_curve(t, ease)[:, None]
        if (curve >= near[0][a : b + 1] - 1e-9).all() and (curve <= near[1][a : b + 1] + 1e-9).all():
            off = float(np.abs(curve - path[a : b + 1]).mean())
            stops = sum(on and ease in slow for on, slow in zip(goes_on, (_FROM_REST, _TO_REST), strict=True))
            found.append((min(0.3, off * 3) + _STOPS * stops + 0.01 * _EASES.index(ease), ease))
    return min(found, default=None)


def _without_idle(keys: Keys, frames: np.ndarray, near: tuple[np.ndarray, np.ndarray]) -> Keys:
    """Without keyframes at the ends that say the same as their neighbour, where the nearest holds anyway; nor those
    that differ by a hair, which is turned back, or gone at once where that is ``near`` enough."""
    while len(keys) > 1 and (inner := _instead(keys[1::-1], keys[2:3], frames, near)) is not None:
        keys = [inner, *keys[2:]]
    while len(keys) > 1 and (inner := _instead(keys[-2:], keys[-3:-2], frames, near)) is not None:
        keys = [*keys[:-2], inner]
    return keys


def _instead(
    last_two: Keys, before: Keys, frames: np.ndarray, near: tuple[np.ndarray, np.ndarray]
) -> tuple[int, np.ndarray, Ease] | None:
    """One keyframe in place of the last two, if the move from the first to the second of them is none, or a hair."""
    (frame, inner, ease), (_, outer, _) = last_two
    move = outer - inner
    far = float(np.abs(move).max())
    back = bool(before) and float((move * (inner - before[0][1])).sum()) < 0
    if far < (_NOTHING if back else 1e-4):
        return last_two[0]
    at = int(np.searchsorted(frames, frame))
    serves = bool(((outer >= near[0][at]) & (outer <= near[1][at])).all())
    return (frame, outer, ease) if far < _NOTHING and serves else None
