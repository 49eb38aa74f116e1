"""Comparing a timeline with a flat reference movie of the same lock, picture by picture."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from ezvar.core.media import MovieReader, Picture
from ezvar.core.model import Document, Shot
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timing import timecode

from .pictures import LockReader

_SIZE = (48, 27)
_LOOKS = 5  # frames compared in each shot
_SAME = 0.90  # correlation from which two pictures show the same
_SAME_LEVELS = 9.0  # mean difference up to which two flat pictures do
_SEARCH = 40  # frames to either side in which a wrong offset is looked for


@dataclass(frozen=True)
class Difference:
    """A shot whose pictures differ from the reference: ``frame`` is where it differs most (lock frames)."""

    shot: str
    frame: int
    what: str


@dataclass(frozen=True)
class Conformed:
    """What a comparison came to: facts that differ, in sentences, and shots that do."""

    facts: tuple[str, ...]
    shots: tuple[Difference, ...]


def conform(
    doc: Document,
    reference: str | os.PathLike[str],
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Conformed:
    """Compare a lock with a flat movie of it: rate, length, start timecode, and a few pictures of every shot.

    Titles that only the reference shows, colour and compression do not
    count; a shot differs where its pictures do not correlate. Frames of
    mixes are left out. Not told apart: two takes that look the same.
    """
    with MovieReader(reference) as flat, LockReader(doc) as lock:
        facts = _facts(doc, flat)
        differing = []
        for number, shot in enumerate(doc.shots):
            if cancel is not None:
                cancel.check()
            progress(number / len(doc.shots), "Comparing with the reference")
            found = _compare(doc, shot, lock, flat)
            if found is not None:
                differing.append(found)
    return Conformed(tuple(facts), tuple(differing))


def _facts(doc: Document, flat: MovieReader) -> list[str]:
    lock, facts, said = doc.lock, flat.facts, []
    name = Path(facts.path).name
    if facts.rate != lock.rate:
        said.append(f"{name} has {facts.rate} frames a second, the lock {lock.rate}.")
    if facts.frames != lock.frames:
        said.append(f"{name} has {facts.frames} frames, the lock {lock.frames}.")
    if facts.timecode_stated and facts.rate == lock.rate and facts.start != lock.start:
        theirs, ours = (timecode(s, lock.rate) for s in (facts.start, lock.start))
        said.append(f"{name} starts at {theirs}, the lock at {ours}.")
    return said


def frames_to_compare(doc: Document, shot: Shot, last: int, looks: int = _LOOKS) -> list[int]:
    """Lock frames of a shot to compare, away from its mixes and before frame ``last``; ``looks`` of them at most."""
    place = doc.place_of(shot.id)
    following = doc.shots[place + 1].cut if place + 1 < len(doc.shots) else None
    start = max(shot.start, shot.cut.end if shot.cut else shot.start)
    end = min(shot.end, following.start if following else shot.end, last)
    if end <= start:
        return []
    return sorted({int(f) for f in np.linspace(start, end - 1, looks)})


def _compare(doc: Document, shot: Shot, lock: LockReader, flat: MovieReader) -> Difference | None:
    frames = frames_to_compare(doc, shot, flat.facts.frames)
    if not frames:
        return None if shot.start < flat.facts.frames else Difference(shot.id, shot.start, "missing in the reference")
    ours = {f: shown(doc, shot, lock.picture(shot, f), f) for f in frames}
    alike = {f: likeness(ours[f], thumb(flat.frame(f))) for f in frames}
    differing = [f for f in frames if alike[f] < _SAME]
    if len(differing) * 2 <= len(frames):
        return None
    worst = min(frames, key=lambda f: alike[f])
    return Difference(shot.id, worst, _what(doc, shot, ours, flat, worst))


def _what(doc: Document, shot: Shot, ours: dict[int, np.ndarray], flat: MovieReader, worst: int) -> str:
    media = doc.media_of(shot)
    if media.missing:
        return "its media is missing"
    if media.kind == "black":
        return "black here, a picture in the reference"
    if float(thumb(flat.frame(worst)).std()) < 3:
        return "black in the reference"
    last = min(shot.end, flat.facts.frames)
    near = {n for f in ours for n in range(max(shot.start, f - _SEARCH), min(last, f + _SEARCH + 1))}
    theirs = {n: thumb(flat.frame(n)) for n in sorted(near)}  # in order: else each is decoded from the key before it
    for by in sorted(range(-_SEARCH, _SEARCH + 1), key=abs):
        moved = [f for f in ours if f + by in theirs]
        if by and len(moved) > 1 and all(likeness(ours[f], theirs[f + by]) >= _SAME for f in moved):
            late = "later" if by > 0 else "earlier"
            return f"wrong offset: the reference shows it {abs(by)} frames {late}"
    return "another picture: a wrong take or clip"


def thumb(picture: Picture) -> np.ndarray:
    """A small grey picture, float32 (27, 48)."""
    return np.asarray(cv2.resize(picture.planes().y, _SIZE, interpolation=cv2.INTER_AREA), np.float32)


def shown(doc: Document, shot: Shot, picture: Picture, frame: int) -> np.ndarray:
    """A shot's picture as the edit placed it in the lock's frame, small and grey: float32 (27, 48).

    The picture is what the shot's windows lie in; a part that fills the frame
    is stretched over it, a whole one is placed.
    """
    y = picture.planes().y
    scale = min(_SIZE[0] / y.shape[1], _SIZE[1] / y.shape[0])
    placed = shot.placement.at(frame - shot.start)
    if shot.uses == "the full source":
        scale *= placed.scale
    width, height = y.shape[1] * scale, y.shape[0] * scale
    if shot.uses != "the full source":
        placed = type(placed)(placed.frame)
    left = _SIZE[0] * (0.5 + placed.x) - width / 2
    top = _SIZE[1] * (0.5 + placed.y) - height / 2
    small = cv2.resize(y, (max(1, round(width)), max(1, round(height))), interpolation=cv2.INTER_AREA)
    move = np.array([[1, 0, round(left)], [0, 1, round(top)]], np.float32)
    moved = cv2.warpAffine(small, move, _SIZE, borderMode=cv2.BORDER_CONSTANT, borderValue=16)
    return np.asarray(moved, np.float32)


def likeness(a: np.ndarray, b: np.ndarray) -> float:
    """How alike two small pictures are, up to 1: their correlation, or for flat ones their level."""
    if max(a.std(), b.std()) < 4:
        return 1.0 if abs(float(a.mean() - b.mean())) < _SAME_LEVELS else 0.0
    x, y = cv2.GaussianBlur(a, (3, 3), 0), cv2.GaussianBlur(b, (3, 3), 0)
    x, y = x - x.mean(), y - y.mean()
    return float((x * y).sum() / np.sqrt((x * x).sum() * (y * y).sum() + 1e-6))
