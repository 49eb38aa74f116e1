"""How a being comes and goes: movement shows it before the finder first looks for it, and after it did last; and what
stops is still there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..regions import Region
from ..subject import Subject

_EDGE = 0.025  # of the picture, from its side, where something comes in or goes out
_LONGEST, _WHILE_IT_GOES = 1.0, 3.0
"""Seconds before its first sight and after its last one: of what comes in or goes out, and of what goes steadily."""
_AGAIN = 0.25  # overlap (intersection over union) with where it stopped, at which something moves there
_STOPS = 2  # looks in which it comes to rest
_WHOLE = 0.7  # of the area that it mostly has
_STEADY = 0.7  # steadiness of a mover that goes a way of its own


def with_ends(being: Subject, mover: Subject, rate: float) -> Subject:
    """A being that is also where what moves, and is its body, came in before its first sight and went out after its
    last one; or went a steady way there.

    It has the size there that it had in the sight next to it. ``rate`` is in frames a second.
    """
    goes = mover.steady >= _STEADY
    (first, last), far = being.frames[[0, -1]], (_WHILE_IT_GOES if goes else _LONGEST) * rate
    before = (mover.frames < first) & (mover.frames >= first - far)
    after = (mover.frames > last) & (mover.frames <= last + far)
    for end, own in ((0, before), (-1, after)):
        at = being.frames[[end]]
        if own.any() and mover.there(at)[0] and (goes or _at_side(mover.boxes[own][end])):
            being = _longer(being, end, mover.frames[own], _middles(mover.boxes[own]) - _middles(mover.at(at)))
    return being


def until_the_end(being: Subject, glances: np.ndarray, end: int) -> Subject:
    """A being that was seen in the last of the looks for such (looks,), also where it stands from then on, up to frame
    ``end``: looks become rare only where all rests."""
    last, unseen = int(being.frames[-1]), end - 1 - int(being.frames[-1])
    if being.way is not None or not being.reach < unseen <= being.bridged or (glances > last).any():
        return being
    return _longer(being, -1, np.array([end - 1]), np.zeros((1, 2)))


def staying(mover: Subject, looks: Sequence[tuple[int, list[Region]]], start: int, end: int) -> Subject:
    """What moved and stopped inside the picture, also where it stands from then on, in frames ``start`` to ``end``:
    until something moves there again. ``looks`` are those for movement."""
    box = mover.boxes[-1]
    if _at_side(box) or not _is_whole(mover):
        return mover
    there = Region("moving", box[0], box[1], box[2] - box[0], box[3] - box[1], 1.0)
    after = [(frame, regions) for frame, regions in looks if frame > mover.frames[-1]]
    frames = []
    for k, (frame, regions) in enumerate(after):
        if k >= _STOPS and any(r.overlap(there) >= _AGAIN for r in regions):
            break
        frames.append(frame)
    seen = float(mover.there(np.arange(start, end)).mean())
    made = replace(
        mover, frames=np.concatenate([mover.frames, frames]).astype(int),
        boxes=np.concatenate([mover.boxes, np.tile(box, (len(frames), 1))]),
        confidence=np.concatenate([mover.confidence, np.full(len(frames), mover.confidence[-1])]),
    )  # fmt: skip
    longer = float(made.there(np.arange(start, end)).mean()) / seen
    return replace(made, importance=mover.importance * longer**0.5)


def _is_whole(mover: Subject) -> bool:
    """Whether something is about as large in its last sight as ever: it neither went behind something nor away."""
    sizes = (mover.boxes[:, 2:] - mover.boxes[:, :2]).prod(axis=1)
    return float(sizes[-1]) >= _WHOLE * float(np.median(sizes))


def _at_side(box: np.ndarray) -> bool:
    return bool(box[0] <= _EDGE or box[2] >= 1 - _EDGE)


def _longer(being: Subject, end: int, frames: np.ndarray, gone: np.ndarray) -> Subject:
    """A being with sights before its first (``end`` 0) or after its last (-1), that far (n, 2) from there."""

    def joined(old: np.ndarray, new: np.ndarray) -> np.ndarray:
        return np.concatenate([new, old] if end == 0 else [old, new])

    def moved(boxes: np.ndarray) -> np.ndarray:
        return joined(boxes, (boxes[[end]] + gone[:, [0, 1, 0, 1]]).clip(0, 1))

    return replace(
        being, frames=joined(being.frames, frames), boxes=moved(being.boxes),
        confidence=joined(being.confidence, np.repeat(being.confidence[end], len(frames))),
        around=None if being.around is None else moved(being.around),
        core=None if being.core is None else moved(being.core),
    )  # fmt: skip


def _middles(boxes: np.ndarray) -> np.ndarray:
    """The middles (n, 2) of boxes (n, 4)."""
    return np.asarray((boxes[:, :2] + boxes[:, 2:]) / 2)
