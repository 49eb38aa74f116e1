"""Finding out where an edit placed its pictures, by matching them against a flat movie of the same lock."""

from __future__ import annotations

import os
from dataclasses import dataclass, replace

import cv2
import numpy as np

from ezvar.core.media import MovieReader, Picture
from ezvar.core.model import Document, Placement, PlacementKey, Shot
from ezvar.core.progress import CancelToken, Progress, silent

from .pictures import LockReader
from .reference import frames_to_compare, likeness, shown, thumb

_WIDTH = 640  # of the pictures that are matched
_FEATURES, _NEXT_BEST = 800, 0.75
_PIXELS = 2.0  # that a match may be off
_MATCHES = 12  # at the least
_UPRIGHT = 0.02  # radians of turn up to which a picture is not turned
_LOOKS = 9  # frames matched in a shot
_ALIKE, _BETTER = 0.92, 0.005  # likeness of what fits, and what it must gain
_REST = (0.004, 0.006)  # how far position (of the frame) and scale (in parts) vary in a placement that rests


@dataclass(frozen=True)
class Estimated:
    """Placements found, by shot; ``unclear`` are shots that differ from the reference but could not be matched."""

    placements: dict[str, Placement]
    unclear: tuple[str, ...]


def estimate_placements(
    doc: Document,
    reference: str | os.PathLike[str],
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Estimated:
    """Estimate the placements of shots that state none, from a flat movie of the same lock.

    Of a few frames of each shot, features (SIFT; Lowe, 2004) of the source
    picture are matched with the reference's, and scale and position fitted
    to those that agree (RANSAC). What the fit says is drawn and compared
    with the reference before it is believed. Shots that would look no more
    like it are left alone. Not estimated: crops, turned, mirrored or
    distorted pictures.
    """
    found: dict[str, Placement] = {}
    unclear = []
    with MovieReader(reference) as flat, LockReader(doc) as lock:
        for number, shot in enumerate(doc.shots):
            if cancel is not None:
                cancel.check()
            progress(number / len(doc.shots), "Matching with the reference")
            media = doc.media_of(shot)
            if shot.placement != Placement() or media.missing or media.kind == "black":
                continue
            frames = frames_to_compare(doc, shot, flat.facts.frames, _LOOKS)
            pictures = {f: (lock.picture(shot, f), flat.frame(f)) for f in frames}
            if not frames:
                continue
            before = _likenesses(doc, shot, pictures)
            if np.mean(before) + _BETTER >= 1:  # nothing can be that much more alike
                continue
            placement = _estimated(doc, shot, pictures)
            after = _likenesses(doc, replace(shot, placement=placement or Placement()), pictures)
            if placement is not None and _fits(after) and np.mean(after) > np.mean(before) + _BETTER:
                found[shot.id] = placement
            elif not _fits(before):
                unclear.append(shot.id)
    return Estimated(found, tuple(unclear))


def _likenesses(doc: Document, shot: Shot, pictures: dict[int, tuple[Picture, Picture]]) -> list[float]:
    """How alike a shot, drawn as its placement says, and the reference are in each frame."""
    whole = replace(shot, uses="the full source")  # the pictures are whole ones
    return [likeness(shown(doc, whole, ours, f), thumb(theirs)) for f, (ours, theirs) in pictures.items()]


def _fits(alike: list[float]) -> bool:
    return sum(value < _ALIKE for value in alike) <= len(alike) // 5


def _estimated(doc: Document, shot: Shot, pictures: dict[int, tuple[Picture, Picture]]) -> Placement | None:
    keys = []
    for frame, (ours, theirs) in pictures.items():
        key = _matched(ours, theirs, (doc.lock.width, doc.lock.height))
        if key is not None:
            keys.append(replace(key, frame=frame - shot.start))
    if len(keys) < max(1, len(pictures) // 2):
        return None
    values = np.array([(k.x, k.y, k.scale) for k in keys])
    middle = np.median(values, axis=0)
    off = np.abs(values - middle)
    rests = (off[:, :2].max(axis=1) < _REST[0]) & (off[:, 2] < _REST[1] * middle[2])
    if rests.mean() >= 0.75 or len(keys) < 3:
        x, y, scale = (round(float(v), 5) for v in middle)
        return Placement(x, y, scale)
    return Placement(keys=_fewest(_reaching(keys, shot.frames)))


def _reaching(keys: list[PlacementKey], frames: int) -> list[PlacementKey]:
    """Keys from a shot's first frame to its last: it goes on through its mixes, which are not matched."""

    def on(near: PlacementKey, next_: PlacementKey, frame: int) -> list[PlacementKey]:
        t = (frame - near.frame) / (near.frame - next_.frame)
        scale = near.scale + t * (near.scale - next_.scale)
        if frame == near.frame or scale <= 0:
            return []
        return [PlacementKey(frame, near.x + t * (near.x - next_.x), near.y + t * (near.y - next_.y), scale)]

    return [*on(keys[0], keys[1], 0), *keys, *on(keys[-1], keys[-2], frames - 1)]


def _fewest(keys: list[PlacementKey]) -> tuple[PlacementKey, ...]:
    """Keys without those that lie between their neighbours anyway."""
    kept = [keys[0]]
    for k in range(1, len(keys) - 1):
        between = Placement(keys=(kept[-1], keys[k + 1])).at(keys[k].frame)
        near = max(abs(between.x - keys[k].x), abs(between.y - keys[k].y)) < _REST[0]
        if not (near and abs(between.scale - keys[k].scale) < _REST[1] * keys[k].scale):
            kept.append(keys[k])
    return (*kept, keys[-1])


def _matched(ours: Picture, theirs: Picture, frame: tuple[int, int]) -> PlacementKey | None:
    """Position and scale at which a picture stands in the reference's, which fills the lock's frame."""
    a, b = (_grey(p) for p in (ours, theirs))
    find = cv2.SIFT_create(_FEATURES)  # type: ignore[attr-defined]
    (at_a, said_a), (at_b, said_b) = (find.detectAndCompute(p, None) for p in (a, b))
    if said_a is None or said_b is None or min(len(at_a), len(at_b)) < _MATCHES:
        return None
    pairs = cv2.BFMatcher().knnMatch(said_a, said_b, k=2)
    good = [p[0] for p in pairs if len(p) == 2 and p[0].distance < _NEXT_BEST * p[1].distance]
    if len(good) < _MATCHES:
        return None
    from_ = np.array([at_a[m.queryIdx].pt for m in good])
    to = np.array([at_b[m.trainIdx].pt for m in good])
    matrix, inside = cv2.estimateAffinePartial2D(from_, to, method=cv2.RANSAC, ransacReprojThreshold=_PIXELS)
    if matrix is None or inside.sum() < _MATCHES or abs(np.arctan2(matrix[1, 0], matrix[0, 0])) > _UPRIGHT:
        return None
    x, y = from_[inside[:, 0] == 1], to[inside[:, 0] == 1]
    centred = x - x.mean(axis=0)
    scale = float((centred * (y - y.mean(axis=0))).sum() / (centred**2).sum())  # least squares, without a turn
    shift = y.mean(axis=0) - scale * x.mean(axis=0)
    middle = (scale * np.array([a.shape[1], a.shape[0]]) / 2 + shift) / (b.shape[1], b.shape[0])
    fitted = min(frame[0] / ours.width, frame[1] / ours.height) * (ours.width / a.shape[1])
    actual = scale * frame[0] / b.shape[1]
    return PlacementKey(0, float(middle[0] - 0.5), float(middle[1] - 0.5), actual / fitted)


def _grey(picture: Picture) -> np.ndarray:
    y = picture.planes().y
    size = (_WIDTH, max(1, round(_WIDTH * picture.height / picture.width)))
    how = cv2.INTER_AREA if picture.width > _WIDTH else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(y, size, interpolation=how))
