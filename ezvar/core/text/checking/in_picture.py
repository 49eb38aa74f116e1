"""What of a master's picture captions should not hide: faces and writing, where the window shows them."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from functools import cached_property
from operator import is_

import numpy as np
from cachetools import LRUCache

from ezvar.core.evidence import Analysis
from ezvar.core.framing import band, framed, pane_picture_size
from ezvar.core.model import Document, Framing, Master, Rect, Shot

_EVERY = 6  # frames from one look to the next
_KEPT = 4000
_SURE = 0.6  # confidence of writing and faces that count
_LEAST = {"face": 0.02, "text": 0.01}  # of the frame's height: what is smaller is nothing to keep free


_NONE = np.zeros((0, 4))
_Of = tuple[Shot, Framing, Analysis, tuple[int, int, bool]]


@dataclass(frozen=True, eq=False)
class Seen:
    """What a shot shows in a master: lock frames (n,), and (n, k, 4) left, top, right, foot of faces and of writing as
    fractions of the frame; not a number where one is not there."""

    frames: np.ndarray
    faces: np.ndarray
    writing: np.ndarray

    def of(self, kind: str, start: int, end: int) -> np.ndarray:
        """All boxes (n, 4) in lock frames ``start`` to ``end``, or of the nearest look."""
        boxes = self.faces if kind == "face" else self.writing
        if not boxes.shape[1]:
            return _NONE
        first, last = ((n - int(self.frames[0])) // _EVERY for n in (start, end))
        found = boxes[max(0, min(first, len(self.frames) - 1)) : last + 1].reshape(-1, 4)
        return np.asarray(found[~np.isnan(found[:, 0])])

    @cached_property
    def _reach(self) -> dict[str, tuple[float, float, float, float] | None]:
        """How far the boxes of a kind reach in all looks together: left, top, right, foot."""
        found = {}
        for kind, boxes in (("face", self.faces), ("text", self.writing)):
            there = boxes[~np.isnan(boxes[:, :, 0])]
            ends = (*there[:, :2].min(axis=0), *there[:, 2:].max(axis=0)) if len(there) else None
            found[kind] = None if ends is None else (float(ends[0]), float(ends[1]), float(ends[2]), float(ends[3]))
        return found

    def covered(self, kind: str, start: int, end: int, rect: Rect) -> float:
        """The largest part, 0..1, of a face or of writing in lock frames ``start`` to ``end`` that lies under a
        rectangle, fractions of the frame."""
        reach = self._reach[kind]
        if reach is None or rect.x >= reach[2] or rect.x + rect.width <= reach[0]:
            return 0.0
        if rect.y >= reach[3] or rect.y + rect.height <= reach[1]:
            return 0.0
        return covered(self.of(kind, start, end), rect)


class SeenInMasters:
    """What shots show in masters, worked out once for each framing. Safe across threads."""

    def __init__(self) -> None:
        self._kept: LRUCache[tuple[str, str], tuple[_Of, Seen]] = LRUCache(_KEPT)
        self._lock = threading.Lock()

    def of(self, doc: Document, shot: Shot, master: Master, analysis: Analysis) -> Seen:
        framing = framed(doc, shot, master)
        of = (shot, framing, analysis, (master.width, master.height, _left_out(doc, shot)))
        with self._lock:
            found = self._kept.get((shot.id, master.id))
        if found is not None and _same(found[0], of):
            return found[1]
        seen = _seen(doc, shot, master, framing, analysis)
        with self._lock:
            self._kept[shot.id, master.id] = of, seen
        return seen


def _same(one: _Of, other: _Of) -> bool:
    """Whether what a shot shows is the same; told by identity where it can be, which is quick."""
    if one[3] != other[3] or one[2] is not other[2]:
        return False
    return all(map(is_, one[:2], other[:2])) or one[:2] == other[:2]


def _seen(doc: Document, shot: Shot, master: Master, framing: Framing, analysis: Analysis) -> Seen:
    frames = np.arange(shot.start, shot.end, _EVERY)
    found: dict[str, list[np.ndarray]] = {"face": [], "text": []}
    for pane in framing.panes:
        if pane.shot:  # another shot's picture, whose subjects are not this one's
            continue
        size = pane_picture_size(doc, shot, pane)
        windows = band(pane, master, size, frames - shot.start)
        for subject in analysis.subjects(shot.start, shot.end, size.width / size.height):
            if subject.kind == "text" and _left_out(doc, shot):
                continue
            if subject.kind in found and float(subject.confidence.mean()) >= _SURE:
                boxes = _in_window(subject.at(frames), windows, pane.rect)
                small = boxes[:, 3] - boxes[:, 1] < _LEAST[subject.kind]
                boxes[small | ~subject.there(frames)] = np.nan
                found[subject.kind].append(boxes)
    empty = np.zeros((len(frames), 0, 4))
    faces, writing = (np.stack(found[kind], axis=1) if found[kind] else empty for kind in ("face", "text"))
    return Seen(frames, faces, writing)


def _left_out(doc: Document, shot: Shot) -> bool:
    """Whether no writing of a shot's picture is seen: it is textless, or covered."""
    return doc.is_textless(shot.id) or any(
        t.cover is not None and t.start < shot.end and shot.start < t.end for t in doc.shown_titles
    )


def _in_window(boxes: np.ndarray, windows: np.ndarray, rect: Rect) -> np.ndarray:
    """Boxes of the picture as fractions of the master's frame, as a pane there shows them; ends outside are cut."""
    low, size = windows[:, [0, 1]], windows[:, 2:] - windows[:, :2]
    made = np.empty_like(boxes)
    for k in (0, 2):
        made[:, k : k + 2] = np.clip((boxes[:, k : k + 2] - low) / size, 0, 1)
    made[:, [0, 2]] = rect.x + made[:, [0, 2]] * rect.width
    made[:, [1, 3]] = rect.y + made[:, [1, 3]] * rect.height
    made[(made[:, 2] <= made[:, 0]) | (made[:, 3] <= made[:, 1])] = np.nan
    return made


def covered(boxes: np.ndarray, rect: Rect) -> float:
    """The largest part, 0..1, of a box (n, 4) that lies under a rectangle."""
    if not len(boxes):
        return 0.0
    across = np.minimum(boxes[:, 2], rect.x + rect.width) - np.maximum(boxes[:, 0], rect.x)
    down = np.minimum(boxes[:, 3], rect.y + rect.height) - np.maximum(boxes[:, 1], rect.y)
    area = (boxes[:, 2] - boxes[:, 0]) * (boxes[:, 3] - boxes[:, 1])
    return float(np.max(np.clip(across, 0, None) * np.clip(down, 0, None) / np.maximum(area, 1e-9)))
