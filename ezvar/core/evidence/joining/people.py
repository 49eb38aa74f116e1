"""Faces, and the bodies that carry them: one subject a person, also while the face is turned away.

A body is what moves below a face, or the figure that the finder of people
draws around it.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..regions import Region
from .tracks import Track

_HEAD = 0.5  # of a figure's height, from its top, in which its face lies
_MOSTLY = 0.6  # share of the sights of a face that lie in a figure which is its own
_STEADY = 0.5  # of a face's width, by which its place in its body may change
_TURNS = 2  # sights in which it carries a face, and then another, by which a figure is two
_SIDE = 0.01  # of the picture's width, from its sides, at which a body may go on beyond it
_SHOWS = 0.5  # of a face's width, that must lie in the picture where it is known by its body
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


def untangled(people: Sequence[Track], faces: Sequence[Track]) -> list[Track]:
    """Figures, of which those that were mixed up as they passed each other are told apart by the faces that they carry.

    A figure in which one face lies first and another from then on is two; what belongs to one face is joined.
    """
    made: list[Track] = []
    parts: list[list[Track]] = [[] for _ in faces]
    for figure in people:
        whose = [_only_face_in(region, n, faces) for n, region in zip(figure.frames, figure.regions, strict=True)]
        turn = _turn(whose)
        if turn is None:
            made.append(figure)
            continue
        for face, part in ((whose[turn[0]], slice(turn[0] + 1)), (whose[turn[1]], slice(turn[1], None))):
            if face is not None:
                parts[face].append(Track(figure.frames[part], figure.regions[part]))
    for own in parts:
        made += _joined_where_apart(own)
    return made


def _turn(whose: Sequence[int | None]) -> tuple[int, int] | None:
    """The last sight of one face and the first of the next, where a figure's sights, each with ``whose`` face lies in
    it alone, are mostly those of one and then mostly those of another."""
    known = [(k, w) for k, w in enumerate(whose) if w is not None]
    turns = [(a, b) for (a, v), (b, w) in itertools.pairwise(known) if v != w]
    if len(turns) != 1:
        return None
    last, first = turns[0]
    seen = [sum(w is not None for w in part) / len(part) for part in (whose[: last + 1], whose[first:])]
    many = min(last + 1, len(whose) - first) >= _TURNS and min(seen) >= _MOSTLY
    return (last, first) if many else None


def _only_face_in(figure: Region, frame: int, faces: Sequence[Track]) -> int | None:
    """The number of the only face that lies in the upper part of a figure at a frame."""
    inside = []
    for k, face in enumerate(faces):
        if face.frames[0] <= frame <= face.frames[-1]:
            seen = _body_at(face, frame)
            if figure.holds(seen) and seen.cy <= figure.y + _HEAD * figure.height:
                inside.append(k)
    return inside[0] if len(inside) == 1 else None


def _joined_where_apart(parts: Sequence[Track]) -> list[Track]:
    """Parts of one figure's way as one, where one follows the other; else the longest."""
    inorder = sorted(parts, key=lambda t: t.frames[0])
    if any(a.frames[-1] >= b.frames[0] for a, b in itertools.pairwise(inorder)):
        return [max(parts, key=lambda t: len(t.frames))]
    frames = [n for t in inorder for n in t.frames]
    return [Track(frames, [r for t in inorder for r in t.regions])] if frames else []


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
    whole = float(np.median([b.width for b in body.regions if not _at_side(b)] or [b.width for b in body.regions]))
    lies = np.array([(r.cx - _middle(b, whole), r.cy - b.y) for r, b in places]).reshape(-1, 2)
    wide = np.median([r.width for r, _ in places]) if places else 0.0
    if len(places) < 2 or np.abs(lies - lies.mean(axis=0)).mean() > _STEADY * wide:
        return None  # what moves is not the body that carries the face, or not only
    width, height = (float(v) for v in np.median([(r.width, r.height) for r, _ in places], axis=0))
    right, down = (float(v) for v in lies.mean(axis=0))
    best = max(r.confidence for f in faces for r in f.regions)  # none that was not seen is surer than those that were
    for n, b in zip(body.frames, body.regions, strict=True):
        if min(abs(n - k) for k in known) > every // 2:
            x, y = _middle(b, whole) + right - width / 2, b.y + down - height / 2
            sure = min(best, _LIKELY * b.confidence)
            seen = Region("face", x, y, width, height, sure).in_picture()
            if seen.width >= _SHOWS * width:
                sights[n] = seen
    return Track(sorted(sights), [sights[n] for n in sorted(sights)])


def _at_side(body: Region) -> bool:
    return body.x < _SIDE or body.x + body.width > 1 - _SIDE


def _middle(body: Region, whole: float) -> float:
    """Where the middle of a body is that may reach beyond the picture's sides, if it is ``whole`` wide."""
    if not _at_side(body) or body.width >= whole:
        return body.cx
    return body.x + body.width - whole / 2 if body.x < _SIDE else body.x + whole / 2


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
