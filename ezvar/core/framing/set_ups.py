"""Set-ups: shots from the same camera position, found by how like their pictures are.

Each shot's stills become one picture, with what moved in it taken out by the
median and light by local contrast. Two shots are compared block by block at
the small shift and scale at which they agree most, so that somebody who sits
elsewhere, or a slightly tighter frame, costs some blocks only.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import cv2
import numpy as np

from ezvar.core.evidence import STILL_SIZE, Analysis
from ezvar.core.model import Shot
from ezvar.core.progress import CancelToken, Progress, silent

SAME = 0.47
"""Likeness from which two shots are taken to be from one position."""
_SCALES = (0.9, 0.93, 0.965, 1.0, 1.035, 1.07, 1.1)
_SHIFT = (10, 6)  # pixels of a still, across and down, by which a frame may lie beside another
_BLOCKS = (12, 7)
_AGREE = 0.75  # share of the blocks that count, the best ones
_LOCAL = 3.5  # pixels, over which contrast is evened out
_NOISE = 3.0  # levels that are no contrast yet
_STILLS = 5
_NEIGHBOURS = 16  # most likely partners that are compared for each shot
_UNLIKE = 0.05  # rough correlation below which two shots are not compared
_FINE = 25  # steps to a whole, in which evened light is kept; it hardly reaches 5
_FLAT = 0.15  # contrast, of the evened picture's own, below which a block says nothing


def setups(
    analysis: Analysis, shots: Sequence[Shot], progress: Progress = silent, cancel: CancelToken | None = None
) -> list[tuple[str, ...]]:
    """Shots from the same positions: the ids of each set-up that comes more than once, in the order of the shots.

    Shots too short for a still, and even ones (black, a plain title), belong to none.
    """
    pictures = np.empty((len(shots), *STILL_SIZE[::-1]), np.int8)  # one array, which leaves no holes in memory
    ids: list[str] = []
    for shot in shots:
        if (picture := _picture(analysis.stills(shot.start, shot.end))) is not None:
            pictures[len(ids)] = picture
            ids.append(shot.id)
    found: dict[tuple[int, int], float] = {}
    pairs = list(_likely(np.array([_rough(picture) for picture in pictures[: len(ids)]])))
    for k, (a, b) in enumerate(pairs):
        if cancel is not None:
            cancel.check()
        if k % 64 == 0:
            progress(k / len(pairs), "Finding set-ups")
        found[a, b] = likeness(*(pictures[one] / np.float32(_FINE) for one in (a, b)))
    return [tuple(ids[k] for k in sorted(group)) for group in _groups(len(ids), found) if len(group) > 1]


def _picture(stills: np.ndarray) -> np.ndarray | None:
    """A shot's picture with light evened out, int8 (54, 96) in steps of 1 / `_FINE`; ``None`` where it is even."""
    if not len(stills):
        return None
    picks = np.unique(np.linspace(0, len(stills) - 1, min(_STILLS, len(stills))).round().astype(int))
    luma = np.median(stills["luma"][picks].astype(np.float32), axis=0)
    off = luma - cv2.GaussianBlur(luma, (0, 0), _LOCAL)
    spread = np.sqrt(cv2.GaussianBlur(off * off, (0, 0), _LOCAL) + _NOISE**2)
    even = off / spread
    return np.clip(np.round(even * _FINE), -127, 127).astype(np.int8) if even.std() > _FLAT else None


def _rough(picture: np.ndarray) -> np.ndarray:
    blurred = cv2.GaussianBlur(picture.astype(np.float32), (0, 0), 4)
    small = cv2.resize(blurred, (24, 14), interpolation=cv2.INTER_AREA).ravel()
    small = small - small.mean()
    return np.asarray(small / (np.linalg.norm(small) + 1e-6))


def _likely(rough: np.ndarray) -> Iterable[tuple[int, int]]:
    """Pairs of shots worth comparing: for each those that are roughly most like it."""
    seen = set()
    for k, row in enumerate(rough):
        like = rough @ row
        like[k] = -1
        for other in np.argsort(-like)[:_NEIGHBOURS]:
            pair = (min(k, int(other)), max(k, int(other)))
            if like[other] > _UNLIKE and pair not in seen:
                seen.add(pair)
                yield pair


def likeness(a: np.ndarray, b: np.ndarray) -> float:
    """How like two pictures with evened light, float32 (54, 96), are, -1..1, where they agree most."""
    high, wide = a.shape
    inner = np.ascontiguousarray(a[_SHIFT[1] : high - _SHIFT[1], _SHIFT[0] : wide - _SHIFT[0]])
    best, at, scaled = -1.0, (0, 0), b
    for scale in _SCALES:
        matrix = np.array([[scale, 0, (1 - scale) * wide / 2], [0, scale, (1 - scale) * high / 2]])
        other = cv2.warpAffine(b, matrix, (wide, high), borderMode=cv2.BORDER_REPLICATE)
        map_ = cv2.matchTemplate(other, inner, cv2.TM_CCOEFF_NORMED)
        _, value, _, place = cv2.minMaxLoc(map_)
        if value > best:
            best, at, scaled = value, (place[0], place[1]), other
    part = scaled[at[1] : at[1] + inner.shape[0], at[0] : at[0] + inner.shape[1]]
    return _agreement(inner, part)


def _agreement(a: np.ndarray, b: np.ndarray) -> float:
    """The mean correlation of the blocks of two pictures that agree best."""
    values = []
    for rows in np.array_split(np.arange(a.shape[0]), _BLOCKS[1]):
        for columns in np.array_split(np.arange(a.shape[1]), _BLOCKS[0]):
            x, y = (p[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1] for p in (a, b))
            x, y = x - x.mean(), y - y.mean()
            spread = float(x.std() * y.std())
            if spread > _FLAT**2:
                values.append(float((x * y).mean()) / spread)
    if len(values) < _BLOCKS[0]:
        return 0.0
    best = sorted(values, reverse=True)[: max(1, round(_AGREE * len(values)))]
    return float(np.mean(best))


def _groups(count: int, likeness_of: dict[tuple[int, int], float]) -> list[set[int]]:
    """Shots in groups: the most alike are joined first, and groups only where they are alike on the whole."""
    groups = [{k} for k in range(count)]
    at = list(range(count))
    for (a, b), value in sorted(likeness_of.items(), key=lambda item: -item[1]):
        one, other = groups[at[a]], groups[at[b]]
        if value < SAME or one is other:
            continue
        known = [likeness_of[p] for x in one for y in other if (p := (min(x, y), max(x, y))) in likeness_of]
        if np.mean(known) >= SAME - 0.05:
            one |= other
            for k in other:
                at[k] = at[a]
    return [groups[k] for k in sorted(set(at), key=lambda k: min(groups[k]))]
