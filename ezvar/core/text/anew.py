"""Writing in the picture, and titling it anew: what it is that a window cuts, and a title in its place."""

from __future__ import annotations

import os
from dataclasses import dataclass, replace

import numpy as np

from ezvar.core.errors import MediaError
from ezvar.core.evidence import Analysis, Subject
from ezvar.core.lock import Conformed, conform
from ezvar.core.media import fingerprint, probe
from ezvar.core.model import DESIGNS, TO_WRITE, Across, Document, Down, Rect, Shot, Textless, Title, TitleKind, new_id
from ezvar.core.progress import CancelToken, Progress, silent

_SURE = 0.6
_SIDE, _HEIGHT = 0.12, 0.15  # from the frame's middle, beyond which writing stands at a side, high or low
_LEAST_FRAMES = 12
_MORE = 0.3  # of the writing's height, by which its cover reaches past it


@dataclass(frozen=True)
class Writing:
    """A block of writing in a shot's picture: its box as fractions of it, and the lock frames that it is seen in."""

    box: Rect
    start: int
    end: int


def writing_in(doc: Document, shot: Shot, analysis: Analysis, shape: float) -> list[Writing]:
    """The blocks of writing that were seen in a shot, of whose pictures ``shape`` is width over height; largest first.

    Blocks that are seen together and lie against each other are one: the
    lines of a lower third.
    """
    found = [s for s in analysis.subjects(shot.start, shot.end, shape) if s.kind == "text"]
    blocks = [_block(s, shot) for s in found if float(s.confidence.mean()) >= _SURE]
    joined: list[Writing] = []
    for block in sorted(blocks, key=lambda w: -w.box.width * w.box.height):
        beside = next((k for k, other in enumerate(joined) if _together(block, other)), None)
        if beside is None:
            joined.append(block)
        else:
            joined[beside] = _both(joined[beside], block)
    return joined


def _block(subject: Subject, shot: Shot) -> Writing:
    left, top = subject.boxes[:, :2].min(axis=0)
    right, foot = subject.boxes[:, 2:].max(axis=0)
    there = np.flatnonzero(subject.there(np.arange(shot.start, shot.end))) + shot.start
    start, end = (int(there[0]), int(there[-1]) + 1) if len(there) else (shot.start, shot.end)
    box = Rect(float(left), float(top), max(0.01, float(right - left)), max(0.01, float(foot - top)))
    return Writing(box, start, end)


def _together(a: Writing, b: Writing) -> bool:
    both = min(a.end, b.end) - max(a.start, b.start)
    near = 0.6 * max(a.box.height, b.box.height)
    across = min(a.box.x + a.box.width, b.box.x + b.box.width) - max(a.box.x, b.box.x)
    down = max(a.box.y, b.box.y) - min(a.box.y + a.box.height, b.box.y + b.box.height)
    return both > 0 and across > 0 and down < near


def _both(a: Writing, b: Writing) -> Writing:
    left, top = min(a.box.x, b.box.x), min(a.box.y, b.box.y)
    right, foot = max(a.box.x + a.box.width, b.box.x + b.box.width), max(a.box.y + a.box.height, b.box.y + b.box.height)
    return Writing(Rect(left, top, right - left, foot - top), min(a.start, b.start), max(a.end, b.end))


def titled_anew(writing: Writing, lock_frames: int) -> Title:
    """A title in the place of writing: at its time and its side, for somebody to write its words."""
    middle = writing.box.x + writing.box.width / 2, writing.box.y + writing.box.height / 2
    across: Across = "centre" if abs(middle[0] - 0.5) < _SIDE else "left" if middle[0] < 0.5 else "right"
    down: Down = "middle" if abs(middle[1] - 0.5) < _HEIGHT else "top" if middle[1] < 0.5 else "foot"
    kind: TitleKind = "title" if down == "middle" else "lower third" if down == "foot" else "label"
    design = replace(DESIGNS[kind], across=across, down=down)
    end = min(lock_frames, max(writing.end, writing.start + _LEAST_FRAMES))
    start = max(0, min(writing.start, end - 1))
    return Title(new_id(), kind, start, end, (TO_WRITE,), design, cover=_around(writing.box))


def _around(box: Rect) -> Rect:
    """A little more than a box, inside the picture: its bar and its shadow."""
    wide, high = _MORE * box.height, _MORE * box.height
    left, top = max(0.0, box.x - wide), max(0.0, box.y - high)
    right, foot = min(1.0, box.x + box.width + wide), min(1.0, box.y + box.height + high)
    return Rect(left, top, right - left, foot - top)


def textless_version(
    doc: Document, path: str | os.PathLike[str], progress: Progress = silent, cancel: CancelToken | None = None
) -> tuple[Textless, Conformed]:
    """A movie as the textless version of a lock, and how it compares: length, rate, and the pictures of every shot.

    Raises `MediaError` for one that is not as long, or runs at another rate.
    """
    facts = probe(path)
    if facts.frames != doc.lock.frames or facts.rate != doc.lock.rate:
        raise MediaError(
            f"it has {facts.frames} frames at {facts.rate} a second, the lock {doc.lock.frames} at {doc.lock.rate}",
            file=path, remedy="Export it from the same edit",
        )  # fmt: skip
    found = conform(doc, path, progress, cancel)
    return Textless(os.path.realpath(path), fingerprint(path), facts.frames), found
