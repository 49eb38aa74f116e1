"""The decision: which changes are cuts. Hard cuts only in this version.

A change is judged against what is to be expected around it, not against a
fixed threshold: the same difference is a cut in a quiet talk and nothing in a
whip pan.
"""

from __future__ import annotations

from itertools import product

import numpy as np

from ezvar.core.media import MovieReader
from ezvar.core.model import Cut
from ezvar.core.progress import CancelToken, Progress, silent

from .signals import Signals, difference, measure

_AROUND = 8  # frames to either side that say what is to be expected
_QUIET = 1.5  # levels of change that noise makes in a still picture at this size
_NEEDED = 3.0  # a cut changes this many times more than expected
_SURE = 7.0
_GOES_ON = 0.6
_FLASH = 3  # a flash lasts this many frames at most


def find_cuts(reader: MovieReader, progress: Progress = silent, cancel: CancelToken | None = None) -> list[Cut]:
    """The hard cuts of a movie, in order. Decodes it once from end to end."""
    frames = reader.facts.frames
    return judge(measure(reader.frames(), frames, progress, cancel))


def judge(signals: Signals) -> list[Cut]:
    """Decide which changes are hard cuts."""
    change = signals.change
    cuts = []
    for n in range(1, len(change)):
        expected = _expected(change, n)
        ratio = float(change[n] / (_QUIET + expected))
        if ratio < _NEEDED or change[n] < change[max(1, n - 1) : n + 2].max():
            continue
        lasting = _lasting_change(signals, n)
        kept = lasting / (_QUIET + expected)
        if kept < _NEEDED * 0.6:
            continue  # what was there comes back within a few frames: a flash, a jump, a dropped frame
        sureness = min(1.0, max(0.0, (min(ratio, kept * 1.6) - _NEEDED) / (_SURE - _NEEDED)))
        doubt = round(60 * (1 - sureness))
        why = "The pictures before and after it are rather alike." if doubt >= 30 else ""
        cuts.append(Cut("cut", n, n, strength=round(1 - 1 / (1 + ratio / 4), 3), doubt=doubt, why=why))
    return cuts


def _expected(change: np.ndarray, n: int) -> float:
    """The change to be expected at ``n`` from the livelier of its two sides, without ``n`` itself.

    A high percentile rather than the greatest, so that cuts a few frames
    apart do not hide each other. The frames right beside ``n`` count by
    themselves as well: what goes on for two frames is a movement.
    """
    sides = (change[max(1, n - _AROUND) : n], change[n + 1 : n + 1 + _AROUND])
    around = max((float(np.percentile(side, 65)) for side in sides if side.size), default=0.0)
    beside = max((float(change[k]) for k in (n - 1, n + 1) if 0 < k < len(change)), default=0.0)
    return max(around, _GOES_ON * beside)


def _lasting_change(signals: Signals, n: int) -> float:
    """The least difference between any of the frames shortly before ``n`` and any shortly after."""
    before = range(max(0, n - 1 - _FLASH), n)
    after = range(n, min(len(signals.change), n + 1 + _FLASH))
    return min(
        difference(signals.luma[a], signals.luma[b], signals.colour[a], signals.colour[b])
        for a, b in product(before, after)
    )
