"""Tracking a subject that an editor has drawn, both ways from the frame it was drawn on.

The box goes from frame to frame with the median motion of points inside it
that are found back on the way back (Kalal, Mikolajczyk and Matas,
"Forward-Backward Error", 2010), and is then put where what was drawn is found
best close by, so that it does not drift. It is given up where nothing there
looks like what was drawn, or at the picture's edge. A track ends, and is not
taken up again, where the subject leaves or is covered.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from ezvar.core.media import Picture
from ezvar.core.model import Rect
from ezvar.core.progress import CancelToken, Progress, silent

_WIDTH = 480  # pixels of the picture's longer side while tracking
_LEAST = 10  # pixels of the tracked box's shorter side
_KEPT_EVERY = 4  # frames
_PATCH = (24, 24)
_LOST, _SURE = 0.35, 0.6  # likeness below which it is not what was drawn, and from which its look is learnt anew
_LEARNS = 0.08
_POINTS = 11  # along each side of the grid of points that are followed
_ASTRAY, _ASTRAY_PART = 1.5, 0.05  # pixels, and part of the box, by which a point leaves the way of the rest
_TORN = (0.25, 0.9)
_BESIDE = 0.25  # of the box, how far beside where it is expected it is looked for
_PULL = 0.004  # likeness that a place loses for each squared step away from where it is expected
_PATIENCE = 4  # frames in a row without likeness after which it is taken to be covered
_OUT = 0.45  # part of the box beyond the picture's edge from which it has left
_CHUNK = 48  # frames read at once on the way back

LEFT = "It leaves the picture."
COVERED = "It is covered, or no longer looks like what was drawn."


@dataclass(frozen=True)
class Track:
    """Where a drawn subject was found: lock frames in order, and its boxes there as fractions of the picture.

    ``before`` and ``after`` say in a sentence why it begins and ends there,
    empty where the stretch that was asked for does.
    """

    frames: tuple[int, ...]
    boxes: tuple[Rect, ...]
    before: str = ""
    after: str = ""


def track(
    pictures: Callable[[int], Iterable[Picture]], start: int, end: int, frame: int, box: Rect,
    progress: Progress = silent, cancel: CancelToken | None = None,
) -> Track:  # fmt: skip
    """Track what lies in ``box`` (fractions of the picture) at lock frame ``frame``, through ``start`` to ``end``.

    ``pictures`` gives the pictures from a frame on. Every fourth frame is
    kept, and the last ones. Raises `ValueError` for a frame outside and for a
    box too small to be known again.
    """
    if not start <= frame < end:
        raise ValueError("the subject is drawn on a frame of the shot")
    done = 0

    def told(ways: Iterator[Picture]) -> Iterator[Picture]:
        nonlocal done
        for picture in ways:
            if cancel is not None:
                cancel.check()
            done += 1
            progress(min(1.0, done / (end - start + 1)), "Tracking")
            yield picture

    after, why_after = _follow(told(_onwards(pictures, frame, end)), box)
    before, why_before = _follow(told(_backwards(pictures, frame, start)), box)
    found = {**before, **after}
    ends = {min(found), max(found), frame}
    kept = [n for n in sorted(found) if n in ends or (n - frame) % _KEPT_EVERY == 0]
    return Track(tuple(kept), tuple(found[n] for n in kept), why_before, why_after)


def _onwards(pictures: Callable[[int], Iterable[Picture]], frame: int, end: int) -> Iterator[Picture]:
    for picture in pictures(frame):
        if picture.index >= end:
            return
        yield picture


def _backwards(pictures: Callable[[int], Iterable[Picture]], frame: int, start: int) -> Iterator[Picture]:
    """The pictures from ``frame`` down to ``start``, a few read at once."""
    last = frame + 1
    while last > start:
        first = max(start, last - _CHUNK)
        yield from reversed(list(_onwards(pictures, first, last)))
        last = first


def _follow(pictures: Iterator[Picture], box: Rect) -> tuple[dict[int, Rect], str]:
    """Boxes by frame from the first picture on, and why they end."""
    first = next(pictures)
    scale = _WIDTH / max(first.width, first.height)
    size = (max(16, round(first.width * scale)), max(16, round(first.height * scale)))
    at = np.array([box.x, box.y, box.width, box.height]) * (size * 2)
    if min(at[2:]) < 3:
        raise ValueError("the box is too small to be known again")
    grown = max(0.0, (_LEAST - min(at[2:])) / 2)
    margin = grown * np.array([-1, -1, 2, 2])
    at = at + margin
    image = first.rgb(*size)
    grey = cv2.cvtColor(image, cv2.COLOR_RGB2GRAY)
    look = drawn = _patch(image, at)
    found = {first.index: box}
    doubtful: list[int] = []
    gone = np.zeros(2)  # how far it goes from picture to picture
    why = ""
    for picture in pictures:
        image, before = picture.rgb(*size), grey
        grey = cv2.cvtColor(image, cv2.COLOR_RGB2GRAY)
        flowed, torn = _flowed(before, grey, at, gone)
        settled = _settled(image, flowed, (look, drawn))
        gone, at = 0.7 * gone + 0.3 * (settled - at)[:2], settled
        patch = _patch(image, at)
        like = max(_likeness(patch, look), _likeness(patch, drawn))
        doubtful = [*doubtful, picture.index] if like < _LOST or torn else []
        if _beyond(at, size) > _OUT or len(doubtful) >= _PATIENCE:
            why = LEFT if _near_edge(found, doubtful) else COVERED
            break
        if like > _SURE:
            look = (1 - _LEARNS) * look + _LEARNS * patch
        found[picture.index] = _fraction(at - margin, size)
    return {n: b for n, b in found.items() if n not in doubtful}, why


def _flowed(before: np.ndarray, after: np.ndarray, at: np.ndarray, gone: np.ndarray) -> tuple[np.ndarray, bool]:
    """A box moved and scaled by the median of how points in it move between two grey pictures.

    Also whether it is torn: a good part of the points, but not all, leaves the
    way that it has ``gone`` until now, as when something passes before it.
    """
    x, y, wide, high = at
    grid = np.linspace(-0.4, 0.4, _POINTS)
    across, down = (v.ravel() for v in np.meshgrid(grid, grid))
    round_ = across**2 + down**2 <= 0.17
    points = np.stack([x + wide / 2 + across[round_] * wide, y + high / 2 + down[round_] * high], axis=1)
    points = points.astype(np.float32)[:, None]
    there, ok, _ = cv2.calcOpticalFlowPyrLK(before, after, points, None, winSize=(13, 13), maxLevel=3)
    back, ok_back, _ = cv2.calcOpticalFlowPyrLK(after, before, there, None, winSize=(13, 13), maxLevel=3)
    error = np.linalg.norm(back - points, axis=2)[:, 0]
    good = (ok[:, 0] > 0) & (ok_back[:, 0] > 0) & (error <= max(0.5, float(np.median(error))))
    if good.sum() < 6:
        return at, False
    a, b = points[good, 0], there[good, 0]
    dx, dy = (float(v) for v in np.median(b - a, axis=0))
    apart = [np.linalg.norm(p[:, None] - p[None], axis=2)[np.triu_indices(len(p), 1)] for p in (a, b)]
    grows = float(np.clip(np.median(apart[1] / np.maximum(apart[0], 1e-3)), 0.97, 1.03))
    off = np.linalg.norm(b - a - gone, axis=1) > max(_ASTRAY, _ASTRAY_PART * min(wide, high))
    torn = _TORN[0] < off.mean() < _TORN[1]
    moved = np.array([x + dx - (grows - 1) * wide / 2, y + dy - (grows - 1) * high / 2, wide * grows, high * grows])
    return moved, bool(torn)


def _settled(image: np.ndarray, at: np.ndarray, looks: tuple[np.ndarray, np.ndarray]) -> np.ndarray:
    """A box put where what was drawn is found best, a little beside where it was expected."""
    best, found = -1.0, at
    side = _PATCH[0]
    reach = round(_BESIDE * side)
    wide, high = at[2] / side, at[3] / side  # pixels of the picture for one of the patch
    cut = cv2.getRectSubPix(
        image, (round((side + 2 * reach) * wide), round((side + 2 * reach) * high)),
        (float(at[0] + at[2] / 2), float(at[1] + at[3] / 2)),
    )  # fmt: skip
    area = cv2.GaussianBlur(cv2.resize(cut, (side + 2 * reach,) * 2, interpolation=cv2.INTER_AREA), (0, 0), 0.8)
    for look in looks:
        map_ = cv2.matchTemplate(area.astype(np.float32), look, cv2.TM_CCOEFF_NORMED)
        offset = np.arange(-reach, reach + 1)
        map_ = map_ - _PULL * (offset[:, None] ** 2 + offset[None] ** 2)
        row, column = np.unravel_index(int(map_.argmax()), map_.shape)
        if map_[row, column] > best:
            best = float(map_[row, column])
            found = at + np.array([(column - reach) * wide, (row - reach) * high, 0, 0])
    return found if best > _SURE else at


def _near_edge(found: dict[int, Rect], doubtful: list[int]) -> bool:
    """Whether it was last seen at the picture's edge."""
    sure = [b for n, b in found.items() if n not in doubtful]
    b = sure[-1]
    return min(b.x, b.y, 1 - b.x - b.width, 1 - b.y - b.height) < 0.25 * max(b.width, b.height)


def _fraction(at: np.ndarray, size: tuple[int, int]) -> Rect:
    x, y = (float(max(0.0, at[k] / size[k])) for k in (0, 1))
    right, foot = (float(min(1.0, (at[k] + at[k + 2]) / size[k])) for k in (0, 1))
    return Rect(round(x, 5), round(y, 5), max(round(right - x, 5), 1e-3), max(round(foot - y, 5), 1e-3))


def _beyond(at: np.ndarray, size: tuple[int, int]) -> float:
    """The part of a box that lies beyond the picture's edge."""
    wide = min(at[0] + at[2], size[0]) - max(at[0], 0.0)
    high = min(at[1] + at[3], size[1]) - max(at[1], 0.0)
    return float(1 - max(0.0, wide) * max(0.0, high) / (at[2] * at[3]))


def _patch(image: np.ndarray, at: np.ndarray) -> np.ndarray:
    """What lies in a box, small: float32 (24, 24, 3)."""
    centre = (float(at[0] + at[2] / 2), float(at[1] + at[3] / 2))
    cut = cv2.getRectSubPix(image, (max(2, round(at[2])), max(2, round(at[3]))), centre)
    small = cv2.GaussianBlur(cv2.resize(cut, _PATCH, interpolation=cv2.INTER_AREA), (0, 0), 0.8)
    return np.asarray(small, np.float32)


def _likeness(a: np.ndarray, b: np.ndarray) -> float:
    """Correlation of two patches after their mean colours are taken out, times how near those colours are; -1..1."""
    means = a.mean(axis=(0, 1)), b.mean(axis=(0, 1))
    x, y = a - means[0], b - means[1]
    norm = float(np.linalg.norm(x) * np.linalg.norm(y)) + 1e-3
    hue = [m / (m.sum() + 1e-3) for m in means]
    return float((x * y).sum()) / norm - 2.0 * float(np.abs(hue[0] - hue[1]).sum())
