"""Showing interlaced pictures whole: where two fields do not fit together, the second is filled in from the first."""

from __future__ import annotations

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
