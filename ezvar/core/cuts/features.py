"""What each frame is beside the frames around it: the features that the decision is made from.

A cut, a dissolve or a wipe shows in how a picture lies between one some
frames earlier and one as many frames later: on the straight line between
them, at which place along it, in which parts of the picture, and whether the
two show the same once the camera's move is taken out. All features are ratios
and logarithms, so that dark and bright, still and lively shots are judged
alike, and none of them knows what is shown.
"""

from __future__ import annotations

import cv2
import numpy as np

from .signals import THUMB

LAGS = (1, 2, 4, 8, 16)
"""How many frames earlier and later each frame is compared with."""
FEATURES = 47
"""How many features a frame has."""
_BY_PLACE = (4, 16)  # lags at which parts of the picture are looked at by themselves
_BY_MOVE = (1, 4, 8, 16)  # lags at which the camera's move is taken out
_WIDTH, _HEIGHT = THUMB
_PARTS = [np.s_[:, :, 8 * k : 8 * k + 8] for k in range(4)] + [np.s_[:, 6 * k : 6 * k + 6, :] for k in range(3)]
_SHIFTS = (2, 5)  # samples to either side, down and across, within which a move is looked for
_NOISE = 30.0  # squared levels of a whole thumb that say nothing


def features(thumbs: np.ndarray, colour: np.ndarray) -> np.ndarray:
    """The features of each frame, float32 (frames, 47).

    ``thumbs`` (frames, 18, 32) and ``colour`` (frames, 2, 5, 8) are those of
    `Signals`. At either end of what is given, frames beyond count as the
    last one there.
    """
    frames = len(thumbs)
    smooth = np.stack([cv2.GaussianBlur(t, (3, 3), 0.7) for t in thumbs.astype(np.float32)])
    flat = smooth.reshape(frames, -1)
    tint = colour.reshape(frames, -1).astype(np.float32)
    here = np.arange(frames)
    found = [np.log(flat.std(axis=1) + 1), flat.mean(axis=1) / 64 - 2]
    for lag in LAGS:
        before = np.clip(here - lag, 0, frames - 1)
        after = np.clip(here + lag, 0, frames - 1) if lag > 1 else here
        shade = np.log(np.abs(tint[after] - tint[before]).mean(axis=1) + 0.2)
        if lag == 1:
            found += [*_step(np.abs(flat - flat[before])), shade]
        else:
            found += [*_between(flat, flat[before], flat[after], lag in _BY_PLACE, shade)]
        if lag in _BY_MOVE:
            pairs = zip(before, after, strict=True)
            found.append(np.array([_alike_moved(smooth[a], smooth[b]) for a, b in pairs]))
    return np.stack(found, axis=1).astype(np.float32)


def _step(change: np.ndarray) -> list[np.ndarray]:
    """How much changes from one frame to the next: of all, and of the quarter that changes most beside that."""
    mean = change.mean(axis=1)
    quarter = change.shape[1] * 3 // 4
    most = np.partition(change, quarter, axis=1)[:, quarter:].mean(axis=1)
    return [np.log(mean + 0.3), np.log(most / (mean + 0.3) + 0.1)]


def _between(
    flat: np.ndarray, before: np.ndarray, after: np.ndarray, by_place: bool, shade: np.ndarray
) -> list[np.ndarray]:
    """How far apart the two sides are, how far along the way the frame is, and how far from it."""
    way, come = after - before, flat - before
    product, square = come * way, way * way
    share = product.sum(axis=1) / (square.sum(axis=1) + _NOISE)
    apart = np.abs(way).mean(axis=1)
    aside = np.abs(come - share[:, None] * way).mean(axis=1)
    from_middle = np.abs(flat - (before + after) / 2).mean(axis=1)
    either = np.minimum(np.abs(come), np.abs(flat - after)).mean(axis=1)
    held = np.clip(share, -0.5, 1.5)
    found = [np.log(apart + 0.3), held, *(v / (apart + 0.7) for v in (aside, from_middle, either)), shade]
    if by_place:
        for part in _PARTS:
            inner, outer = (v.reshape(-1, _HEIGHT, _WIDTH)[part].sum(axis=(1, 2)) for v in (product, square))
            found.append(np.clip(inner / (outer + _NOISE), -0.5, 1.5) - held)
    return found


def _alike_moved(a: np.ndarray, b: np.ndarray) -> float:
    """The correlation of two thumbs, the first one's middle moved to where it fits the second best."""
    down, across = _SHIFTS
    middle = np.ascontiguousarray(a[down:-down, across:-across])
    best = float(cv2.matchTemplate(b, middle, cv2.TM_CCOEFF_NORMED).max())
    return best if np.isfinite(best) else 1.0
