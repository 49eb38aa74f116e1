"""Faces, and the bodies that carry them: one subject a person, also while the face is turned away.

A body is what moves below a face, or the figure that the finder of people
draws around it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..regions import Region
from .tracks import Track

_HEAD = 0.5  # of a figure's height, from its top, in which its face lies
_MOSTLY = 0.6  # share of the sights of a face that lie in a figure which is its own
_STEADY = 0.5  # of a face's width, by which its place in its body may change
_LIKELY = 0.5  # confidence of a face that is known by its body alone, beside the body's


def with_moving_bodies(faces: Sequence[Track], moving: Sequence[Track], every: int) -> list[Track]:
    """Tracks of faces joined, and filled in, by the moving bodies that carried them.

    A face turned away, or too quick to be joined from look to look, is where
    its body is. A body that carries two faces at once joins none. ``every`` is
    how many frames apart faces are looked for.
    """
    faces = list(faces)
    for body in moving:
        carried = [f for f in faces if _carries(body, f)]
        frames = [n for f in carried for n in f.frames]
        if not carried or len(set(frames)) < len(frames):
            continue
        joined = _filled(carried, body, every)
        if joined is not None:
            faces = [f for f in faces if f not in carried] + [joined]
    return faces


def with_figures(faces: Sequence[Track], people: Sequence[Track], every: int) -> list[tuple[Track, Track | None]]:
    """Each face with the figure it belongs to, where there is one; filled in where only the figure is seen.

    Several faces in turn of one figure are one person's.
    """
    left = list(faces)
    made: list[tuple[Track, Track | None]] = []
    for figure in sorted(people, key=lambda t: -len(t.frames)):
        own = [f for f in left if _belongs(f, figure)]
        frames = [n for f in own for n in f.frames]
        if not own:
            continue
        if len(set(frames)) < len(frames):
            own = [max(own, key=lambda f: len(f.frames))]
        left = [f for f in left if f not in own]
        made.append((_filled(own, figure, every) or max(own, key=lambda f: len(f.frames)), figure))
    return [*made, *((face, None) for face in left)]


def _belongs(face: Track, figure: Track) -> bool:
    """Whether a face lies in the upper part of a figure in most of its sights."""
    during = [
        (r, _body_at(figure, n)) for n, r in zip(face.frames, face.regions, strict=True)
        if figure.frames[0] <= n <= figure.frames[-1]
    ]  # fmt: skip
    inside = sum(b.holds(r) and r.cy <= b.y + _HEAD * b.height and r.width <= b.width for r, b in during)
    return bool(during) and inside >= _MOSTLY * len(face.frames)


def _filled(faces: Sequence[Track], body: Track, every: int) -> Track | None:
    """Faces of one body as one, also where it alone is seen; ``None`` where they do not keep their place in it."""
    sights = {n: r for f in faces for n, r in zip(f.frames, f.regions, strict=True)}
    known = sorted(sights)
    places = [(sights[n], _body_at(body, n)) for n in known if body.frames[0] <= n <= body.frames[-1]]
    lies = np.array([(r.cx - b.cx, r.cy - b.y) for r, b in places]).reshape(-1, 2)
    wide = np.median([r.width for r, _ in places]) if places else 0.0
    if len(places) < 2 or np.abs(lies - lies.mean(axis=0)).mean() > _STEADY * wide:
        return None  # what moves is not the body that carries the face, or not only
    width, height = (float(v) for v in np.median([(r.width, r.height) for r, _ in places], axis=0))
    right, down = (float(v) for v in lies.mean(axis=0))
    best = max(r.confidence for f in faces for r in f.regions)  # none that was not seen is surer than those that were
    for n, b in zip(body.frames, body.regions, strict=True):
        if min(abs(n - k) for k in known) > every // 2:
            x, y = b.cx + right - width / 2, b.y + down - height / 2
            sure = min(best, _LIKELY * b.confidence)
            sights[n] = Region("face", x, y, width, height, sure).in_picture()
    return Track(sorted(sights), [sights[n] for n in sorted(sights)])


def _carries(body: Track, face: Track) -> bool:
    """Whether a moving thing holds a face in nearly all its sights while it moves."""
    during = [
        (r, _body_at(body, n)) for n, r in zip(face.frames, face.regions, strict=True)
        if body.frames[0] <= n <= body.frames[-1]
    ]  # fmt: skip
    return bool(during) and sum(b.holds(r) for r, b in during) >= 0.8 * len(during)


def _body_at(body: Track, frame: int) -> Region:
    k = int(np.searchsorted(body.frames, frame))
    before, after = body.regions[max(0, k - 1)], body.regions[min(k, len(body.regions) - 1)]
    first, last = body.frames[max(0, k - 1)], body.frames[min(k, len(body.frames) - 1)]
    t = (frame - first) / (last - first) if last > first else 0.0
    ends = ((r.x, r.y, r.width, r.height) for r in (before, after))
    x, y, width, height = (a * (1 - t) + b * t for a, b in zip(*ends, strict=True))
    return replace(after, x=x, y=y, width=width, height=height)
