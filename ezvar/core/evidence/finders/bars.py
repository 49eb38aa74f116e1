"""Black bars that are part of the picture: above and below it, or at its sides."""

from __future__ import annotations

import cv2
import numpy as np

from ezvar.core.media import Picture

BARS = np.dtype([("frame", "i4"), ("edges", "f4", 4), ("sharp", "?")])
"""A look for bars: the active picture's left, top, right and foot as fractions, and whether an edge of it is sharp."""
_BLACK = 30  # the most that all but a few samples of a bar reach, of 255
_PLAIN = 10  # levels between its darkest and lightest samples, but a few
_FEW = (2, 98)  # percentiles
_INSIDE = 2  # lines beyond an edge
_STEP = 8  # levels by which the picture stands out from a bar there
_MANY = 0.25  # share of the places along an edge at which it does
_LEAST, _MOST = 0.02, 0.3  # height, or width, of a bar
_ALIKE = 0.012  # by which two bars that face each other may differ
_AGREE = 0.006  # by which looks at the same bars may
_ENOUGH = 0.6  # share of the looks that show something in which they must


def bars_of(picture: Picture) -> tuple[tuple[float, float, float, float], bool] | None:
    """Where the active picture lies and whether any edge of it that is not the picture's own is sharp.

    ``None`` where all is black.
    """
    luma = picture.planes().y
    down, sharp_down = _ends(luma[:, :: max(1, luma.shape[1] // 240)])
    across, sharp_across = _ends(luma[:: max(1, luma.shape[0] // 135)].T)
    if down is None or across is None:
        return None
    return (across[0], down[0], across[1], down[1]), sharp_down or sharp_across


def _ends(lines: np.ndarray) -> tuple[tuple[float, float] | None, bool]:
    """The first and the last line (as fractions of all) of ``lines`` (n, samples) that are no bar."""
    low, high = np.percentile(lines, _FEW, axis=1)
    shows = np.flatnonzero((high > _BLACK) | (high - low > _PLAIN))
    if not len(shows):
        return None, False
    first, last, count = int(shows[0]), int(shows[-1]) + 1, len(lines)
    sharp = any(
        0 < edge < count and 0 <= inner < count and 0 <= outer < count
        and float(np.mean(cv2.absdiff(lines[inner], lines[outer]).ravel() > _STEP)) >= _MANY
        for edge, inner, outer in ((first, first + _INSIDE, first - 1), (last, last - 1 - _INSIDE, last))
    )  # fmt: skip
    return (first / count, last / count), sharp


def active_picture(looks: np.ndarray) -> tuple[float, float, float, float] | None:
    """The active picture that looks (n,) of `BARS` agree on, left, top, right and foot; ``None`` where there are no
    bars.

    Bars face each other and are as high (or wide); they stay where they are; and the picture stands out sharply from
    them at some time, so that darkness at the picture's edges is none.
    """
    if not len(looks) or not looks["sharp"].any():
        return None
    edges = looks["edges"].astype(float)
    whole = [float(edges[:, 0].min()), float(edges[:, 1].min()), float(edges[:, 2].max()), float(edges[:, 3].max())]
    found = [0.0, 0.0, 1.0, 1.0]
    for first, last in ((0, 2), (1, 3)):
        bars = whole[first], 1 - whole[last]
        there = min(bars) >= _LEAST and max(bars) <= _MOST and abs(bars[0] - bars[1]) <= _ALIKE
        reached = np.maximum(edges[:, first] - whole[first], whole[last] - edges[:, last]) <= _AGREE
        if there and reached.mean() >= _ENOUGH:
            found[first], found[last] = whole[first], whole[last]
    return None if found == [0.0, 0.0, 1.0, 1.0] else (found[0], found[1], found[2], found[3])
