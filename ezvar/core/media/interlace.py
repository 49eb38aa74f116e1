"""Showing interlaced pictures whole: where two fields do not fit together, the second is filled in from the first."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

_COMB = 6  # levels by which a line stands out from both its neighbours where fields do not fit


def deinterlaced(plane: np.ndarray, depth: int = 8) -> np.ndarray:
    """A plane, (height, width) of samples of a ``depth``, with the combs of movement gone and what rests as sharp as
    it was.

    The lines of the first field stay; a sample of the second field that lies
    outside both its neighbours is replaced by their mean. Each picture is
    treated by itself, so that frames at random equal those in order.
    """
    out, comb = plane.copy(), _COMB << (depth - 8)
    lines = plane[1:-1:2].astype(np.int16)
    above, below = (plane[k : k + 2 * len(lines) : 2].astype(np.int16) for k in (0, 2))
    up, down = lines - above, lines - below
    combed = (np.sign(up) == np.sign(down)) & (np.minimum(np.abs(up), np.abs(down)) > comb)
    # A comb is seldom alone: its neighbours to the sides belong to it.
    wide = combed.copy()
    wide[:, 1:] |= combed[:, :-1]
    wide[:, :-1] |= combed[:, 1:]
    out[1:-1:2] = np.where(wide, (above + below + 1) >> 1, lines).astype(plane.dtype)
    if len(plane) % 2 == 0 and len(plane) > 1:
        last, before = plane[-1].astype(np.int16), plane[-2].astype(np.int16)
        out[-1] = np.where(np.abs(last - before) > 3 * comb, before, last).astype(plane.dtype)
    return out


_BLOCK = 16
_TEETH, _LEAST_TEETH = 1.5, 4.0  # neighbouring lines against next ones but one: how often as far apart, and levels more
_COMBED = 6  # blocks that must be combed in a picture
_ALL_OVER = 0.25  # of a picture: more than stripes would cover
_PICTURES = 2  # in so many of them at least


def looks_interlaced(planes: Sequence[np.ndarray]) -> bool:
    """Whether pictures hold two fields of different times, told by the combs of what moves in them.

    ``planes`` are luminance, uint8 (height, width), of frames some way apart.
    Where fields do not fit, a line is nearer to the next but one than to its
    neighbour; grain does not do that, and fine stripes that are part of what
    is shown do it at the same places in many pictures, which is why only
    places count that are combed in a few of them, or else a good part of the picture. Not seen: movies in which nothing
    moves in the pictures given.
    """
    combed = np.array([_combed(plane) for plane in planes])
    moving = combed & (combed.mean(axis=0) <= 0.5)
    shown = (moving.sum(axis=(1, 2)) >= _COMBED) | (combed.mean(axis=(1, 2)) > _ALL_OVER)
    return int(shown.sum()) >= _PICTURES


def _combed(plane: np.ndarray) -> np.ndarray:
    """Which blocks of 16 × 16 samples are combed."""
    lines = plane.astype(np.int16)
    near, far = (np.abs(lines[:-2] - lines[k : k + len(lines) - 2]) for k in (1, 2))
    rows, columns = near.shape[0] // _BLOCK, near.shape[1] // _BLOCK
    means = (
        part[: rows * _BLOCK, : columns * _BLOCK].reshape(rows, _BLOCK, columns, _BLOCK).mean(axis=(1, 3))
        for part in (near, far)
    )
    apart, same = means
    return np.asarray((apart > _TEETH * same) & (apart - same > _LEAST_TEETH))
