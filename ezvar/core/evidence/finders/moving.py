"""What moves by itself: movement left after the camera's own movement is taken out.

The camera's movement between two pictures is a similarity transform fitted to
tracked corners (pyramidal Lucas-Kanade, Bouguet 2001; RANSAC, Fischler and
Bolles 1981). A picture is compared with one before and one after it, each
moved to fit; only what differs from both moves there (three-frame
differencing, Lipton, Fujiyoshi and Patil 1998), so that a mover shows where
it is and not where it was.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..regions import Region

SIZE = (160, 90)
"""Width and height of the pictures that are compared, whatever the shape."""
_CELL = 10  # samples; both sides of `SIZE` are multiples
_CORNER = 2e-5  # the lesser eigenvalue from which a place is a corner
_LEAST = 12  # corners that a transform is trusted from
_WIDE = 0.4  # of the picture's width and height over which they must spread
_PLAIN = 6.0  # levels of slope that every place counts for, so that grain on flat ground is no movement
_MOVES, _SURELY = 0.07, 0.14  # part of its slope by which a place, and the strongest of a region, must differ
_WHOLLY = 0.5  # from this on a region moves for sure
_TAIL = 0.03  # of a region's movement that may lie beyond each side of its box
_MOST = 6  # regions of one picture
_SMALLEST = 12  # samples


def camera_move(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """The transform (2, 3) that takes places of picture ``a`` to ``b``; identity where none can be trusted.

    Both are luminance, uint8 of `SIZE`. Corners are taken from all over the
    picture, so that a thing full of corners on plain ground is not taken for
    the ground.
    """
    corners = _spread_corners(a)
    if len(corners) < _LEAST:
        return np.eye(2, 3)
    found, good, _ = cv2.calcOpticalFlowPyrLK(a, b, corners, None, winSize=(13, 13), maxLevel=2)
    kept = good.ravel() == 1
    if kept.sum() < _LEAST:
        return np.eye(2, 3)
    matrix, inliers = cv2.estimateAffinePartial2D(
        corners[kept], found[kept], method=cv2.RANSAC, ransacReprojThreshold=0.8
    )
    if matrix is None or inliers.sum() < max(_LEAST, 0.3 * kept.sum()):
        return np.eye(2, 3)
    if (np.ptp(corners[kept][inliers.ravel() == 1][:, 0], axis=0) < np.array(SIZE) * _WIDE).any():
        return np.eye(2, 3)  # all of one thing: it, and not the camera, may have moved
    return np.asarray(matrix)


def _spread_corners(a: np.ndarray) -> np.ndarray:
    """The strongest corner of each cell of a grid, float32 (corners, 1, 2), without those of plain cells."""
    strength = cv2.cornerMinEigenVal(a, 3)
    rows, columns = SIZE[1] // _CELL, SIZE[0] // _CELL
    cells = strength.reshape(rows, _CELL, columns, _CELL).transpose(0, 2, 1, 3).reshape(rows * columns, -1)
    best = cells.argmax(axis=1)
    strong = cells.max(axis=1) > _CORNER
    row, column = np.divmod(np.arange(rows * columns), columns)
    places = np.stack([column * _CELL + best % _CELL, row * _CELL + best // _CELL], axis=1)
    return np.asarray(places[strong].astype(np.float32)[:, None])


def camera_in_mirror(move: np.ndarray) -> np.ndarray:
    """The transform (2, 3) between the mirror images of two pictures of `SIZE`."""
    return np.asarray((_MIRROR @ np.vstack([move, (0, 0, 1)]) @ _MIRROR)[:2])


def moving_map(
    before: np.ndarray, now: np.ndarray, after: np.ndarray, moves: tuple[np.ndarray, np.ndarray] | None = None
) -> np.ndarray:
    """How much each place of ``now`` moves by itself, float32 (90, 160): 1 is a whole edge's worth.

    All are luminance, uint8 of `SIZE`, evenly spaced in time. ``moves`` are the
    `camera_move`s from each to the next, where they are known.
    """
    if np.array_equal(before, now) or np.array_equal(now, after):  # a still, or a frame that is held
        return np.zeros(now.shape, np.float32)
    came, goes = moves or (camera_move(before, now), camera_move(now, after))
    smooth = cv2.GaussianBlur(now, (0, 0), 1.0).astype(np.float32)
    slope = np.hypot(cv2.Sobel(smooth, cv2.CV_32F, 1, 0), cv2.Sobel(smooth, cv2.CV_32F, 0, 1)) / 4 + _PLAIN
    there = ((before, came), (after, cv2.invertAffineTransform(goes)))
    differs = np.minimum(*(_left_over(other, camera, smooth, slope) for other, camera in there))
    return np.asarray(cv2.GaussianBlur(differs, (0, 0), 1.5))


def _left_over(other: np.ndarray, camera: np.ndarray, smooth: np.ndarray, slope: np.ndarray) -> np.ndarray:
    """What still differs once the ``camera`` has been followed, or has not, whichever leaves less of the picture."""
    least, best = np.inf, smooth
    for matrix in (np.eye(2, 3), camera) if np.abs(_CORNERS @ camera.T - _CORNERS[:, :2]).max() > _RESTS else (camera,):
        moved = cv2.warpAffine(other, matrix, SIZE, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        seen = cv2.warpAffine(_ALL, matrix, SIZE)
        moved = _as_light_as(cv2.GaussianBlur(moved, (0, 0), 1.0).astype(np.float32), smooth)
        change = cv2.absdiff(smooth, moved)
        change = np.maximum(change - 1.5 * float(np.median(change.ravel()[::_EACH])), 0) / slope  # grain is everywhere
        change[seen < 255] = 0
        left = float(np.minimum(change, _MOVES).mean())
        if left < least:
            least, best = left, change
    return best


def _as_light_as(picture: np.ndarray, other: np.ndarray) -> np.ndarray:
    """A picture in another's light: light that changes all over is no movement.

    Mean and contrast are made equal, then once more those of the three
    quarters that fit best, so that what moves has no say. (A regression would
    give too small a gain, since both pictures are noisy.)
    """
    x, y = picture.ravel()[::_EACH], other.ravel()[::_EACH]
    gain, offset = 1.0, 0.0
    fitted = np.ones(len(x), bool)
    for _ in range(2):
        mean_x, mean_y = float(x[fitted].mean()), float(y[fitted].mean())
        spread = float(x[fitted].std())
        gain = float(np.clip(y[fitted].std() / spread, 0.6, 1.6)) if spread > 1 else 1.0
        offset = mean_y - gain * mean_x
        off = np.abs(y - gain * x - offset)
        fitted = off <= np.partition(off, 3 * len(off) // 4)[3 * len(off) // 4]
    return np.asarray(picture * np.float32(gain) + np.float32(offset), np.float32)


_CORNERS = np.array([[x, y, 1.0] for x in (0, SIZE[0]) for y in (0, SIZE[1])])
_MIRROR = np.array([[-1.0, 0, SIZE[0] - 1], [0, 1, 0], [0, 0, 1]])
_RESTS = 0.1  # samples by which the camera moves the picture's corners at most, and still rests
_EACH = 7  # of how many samples one is enough to tell light and grain
_ALL = np.full(SIZE[::-1], 255, np.uint8)


def _bulk(profile: np.ndarray) -> tuple[int, int]:
    """Where nearly all of a profile lies: a few blades of grass beside a walker do not widen it."""
    gone = np.cumsum(profile) / profile.sum()
    return int(np.searchsorted(gone, _TAIL)), int(np.searchsorted(gone, 1 - _TAIL)) + 1


def moving_regions(moves: np.ndarray) -> list[Region]:
    """The places of a `moving_map` that hang together, the strongest first."""
    if not moves.any():
        return []
    mask = (moves > _MOVES).astype(np.uint8)
    joined = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((13, 9), np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(joined)
    found = []
    for k in range(1, count):
        x, y, width, height, area = (int(v) for v in stats[k])
        rows, columns = slice(y, y + height), slice(x, x + width)
        inside = np.where(labels[rows, columns] == k, np.minimum(moves[rows, columns], 1), 0)
        if area >= _SMALLEST and (peak := float(inside.max())) >= _SURELY:
            (left, right), (top, foot) = _bulk(inside.sum(axis=0)), _bulk(inside.sum(axis=1))
            found.append((float(inside.sum()), peak, x + left, y + top, right - left, foot - top))
    found.sort(reverse=True)
    whole = sum(f[0] for f in found) or 1.0
    return [
        Region(
            "moving", round(x / SIZE[0], 4), round(y / SIZE[1], 4), round(w / SIZE[0], 4), round(h / SIZE[1], 4),
            round(min(1.0, peak / _WHOLLY), 3), round(strength / whole, 3),
        )
        for strength, peak, x, y, w, h in found[:_MOST]
    ]  # fmt: skip
