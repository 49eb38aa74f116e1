"""Subjects: regions of one kind joined through the frames of a shot, numbered by importance.

Looks are joined one after the other by optimal assignment (Kuhn 1955, as
SciPy solves it) of what is seen to where each track is expected, at the
speed that it has shown.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from .gather import MOVING_EVERY, Evidence
from .movers import merged_movers
from .regions import Region, RegionKind
from .subject import LONGEST_GAP, REACH, Subject

_FAR = 1.2  # sizes between what is expected and what is seen, beyond which they are two things
_APART = 1.5  # what any pair farther apart than that counts for, so that no good pair is given up to bring it nearer
_SURE, _SURER = 0.4, 0.55  # confidence that the best sight of a face must have, and its only one in a short shot
_STAYS = 0.1  # of the picture, over which a block of text may drift; what goes farther is writing on a thing
_SURE_TEXT = 0.93  # confidence from which one sight of a block of text is enough
_SHORT = 30  # frames of a shot in which one sight is enough
_LEAST_MOVES = 3  # looks in which a moving thing is seen before it counts


@dataclass
class _Track:
    kind: RegionKind
    frames: list[int] = field(default_factory=list)
    regions: list[Region] = field(default_factory=list)

    def expected(self, frame: int) -> tuple[float, float]:
        """Where its middle should be at a frame, going on at the speed of its last second for at most a second."""
        last = self.regions[-1]
        k = max(0, len(self.frames) - 5)
        gone = self.frames[-1] - self.frames[k]
        if gone < 3:
            return last.cx, last.cy
        ahead = min(frame - self.frames[-1], 50) / gone
        first = self.regions[k]
        return last.cx + (last.cx - first.cx) * ahead, last.cy + (last.cy - first.cy) * ahead

    def distance(self, region: Region, frame: int) -> float:
        """How far a region is from what is expected, in sizes; size itself counts too."""
        x, y = self.expected(frame)
        last = self.regions[-1]
        across, down = max(last.width, region.width, 0.03), max(last.height, region.height, 0.03)
        # Uncertain after a gap: a second without sight doubles what still counts as near.
        room = 1 + (frame - self.frames[-1]) / 25
        apart = np.hypot((region.cx - x) / across, (region.cy - y) / down) / room
        ratio = abs(np.log(max(region.width * region.height, 1e-6) / max(last.width * last.height, 1e-6)))
        return float(apart + 0.3 * ratio)


def subjects_of(evidence: Evidence, start: int, end: int) -> tuple[Subject, ...]:
    """The subjects of lock frames ``start`` to ``end``, the most important first.

    What moves where a face or its body is, is that face's, as is its figure. Faces that are not
    sure and seen once only are left out, as are things that moved in one or
    two looks only.
    """
    seen = _tracks(evidence, "face", start, end)
    moving = [t for t in _tracks(evidence, "moving", start, end) if len(t.frames) >= _LEAST_MOVES]
    faces = [t for t in _with_bodies(seen, moving) if _counts(t, end - start)]
    text = [
        t for t in _tracks(evidence, "text", start, end) if len(t.frames) > 1 or t.regions[0].confidence >= _SURE_TEXT
    ]
    text = [t for t in text if abs(t.regions[-1].cx - t.regions[0].cx) < _STAYS]
    known = [_subject(t, start, end) for t in faces]
    figures = [t for t in _tracks(evidence, "figure", start, end) if len(t.frames) > 1 or end - start < _SHORT]
    known += [_subject(t, start, end) for t in figures if not any(_is_body(t, face) for face in known)]
    movers = [_subject(t, start, end) for t in moving if not any(_is_body(t, person) for person in known)]
    found = [*known, *(_subject(t, start, end) for t in text), *merged_movers(movers, start, end)]
    found.sort(key=lambda s: -s.importance)
    return tuple(replace(s, number=k) for k, s in enumerate(found, 1))


def _tracks(evidence: Evidence, kind: RegionKind, start: int, end: int) -> list[_Track]:
    from scipy.optimize import linear_sum_assignment  # loaded late: it would hold up the first window

    # A look for movement compares three pictures; all must be the shot's.
    margin = MOVING_EVERY if kind == "moving" else 0
    done: list[_Track] = []
    live: list[_Track] = []
    for frame, regions in evidence.seen(kind, start + margin, end - margin):
        still = [t for t in live if frame - t.frames[-1] <= LONGEST_GAP[kind]]
        done += [t for t in live if t not in still]
        live = still
        cost = np.array([[t.distance(r, frame) for r in regions] for t in live]).reshape(len(live), len(regions))
        taken = set()
        for row, column in zip(*linear_sum_assignment(np.minimum(cost, _APART)), strict=True):
            if cost[row, column] <= _FAR:
                live[row].frames.append(frame)
                live[row].regions.append(regions[column])
                taken.add(column)
        live += [_Track(kind, [frame], [r]) for k, r in enumerate(regions) if k not in taken]
    return done + live


def _with_bodies(faces: list[_Track], moving: list[_Track]) -> list[_Track]:
    """Tracks of faces joined, and filled in, by the moving bodies that carried them.

    A face turned away, or too quick to be joined from look to look, is where
    its body is. A body that carries two faces at once joins none.
    """
    faces = list(faces)
    for body in moving:
        carried = [f for f in faces if _carries(body, f)]
        frames = [n for f in carried for n in f.frames]
        if not carried or len(set(frames)) < len(frames):
            continue
        sights = {n: r for f in carried for n, r in zip(f.frames, f.regions, strict=True)}
        known = sorted(sights)
        places = [(sights[n], _body_at(body, n)) for n in known if body.frames[0] <= n <= body.frames[-1]]
        lies = np.array([(r.cx - b.cx, r.cy - b.y) for r, b in places])
        if len(places) < 2 or np.abs(lies - lies.mean(axis=0)).mean() > 0.5 * np.median([r.width for r, _ in places]):
            continue  # what moves is not the body that carries the face, or not only
        width, height = (float(v) for v in np.median([(r.width, r.height) for r, _ in places], axis=0))
        right, down = (float(v) for v in lies.mean(axis=0))
        for n, b in zip(body.frames, body.regions, strict=True):
            if min(abs(n - k) for k in known) > REACH["face"] // 2:
                x, y = b.cx + right - width / 2, b.y + down - height / 2
                sights[n] = Region("face", x, y, width, height, 0.5 * b.confidence).in_picture()
        faces = [f for f in faces if f not in carried]
        faces.append(_Track("face", sorted(sights), [sights[n] for n in sorted(sights)]))
    return faces


def _carries(body: _Track, face: _Track) -> bool:
    """Whether a moving thing holds a face in nearly all its sights while it moves."""
    during = [
        (r, _body_at(body, n)) for n, r in zip(face.frames, face.regions, strict=True)
        if body.frames[0] <= n <= body.frames[-1]
    ]  # fmt: skip
    return bool(during) and sum(b.holds(r) for r, b in during) >= 0.8 * len(during)


def _body_at(body: _Track, frame: int) -> Region:
    k = int(np.searchsorted(body.frames, frame))
    before, after = body.regions[max(0, k - 1)], body.regions[min(k, len(body.regions) - 1)]
    first, last = body.frames[max(0, k - 1)], body.frames[min(k, len(body.frames) - 1)]
    t = (frame - first) / (last - first) if last > first else 0.0
    ends = ((r.x, r.y, r.width, r.height) for r in (before, after))
    x, y, width, height = (a * (1 - t) + b * t for a, b in zip(*ends, strict=True))
    return Region("moving", x, y, width, height, after.confidence)


def _counts(face: _Track, frames: int) -> bool:
    best = max(r.confidence for r in face.regions)
    return best >= _SURE if len(face.frames) > 1 else best >= _SURER and frames <= _SHORT


def _subject(track: _Track, start: int, end: int) -> Subject:
    boxes = np.array([(r.x, r.y, r.x + r.width, r.y + r.height) for r in track.regions])
    confidence = np.array([r.confidence for r in track.regions])
    frames = np.array(track.frames)
    made = Subject(0, track.kind, frames, boxes, confidence, 0.0)
    present = float(made.there(np.arange(start, end)).mean())
    importance = float(np.mean([r.weight for r in track.regions])) * present**0.5
    if track.kind == "moving":
        made, importance = _calmed(made), importance * 0.5
        importance *= 1 + made.steady
        boxes = made.boxes
    looks = np.mean([r.look for r in track.regions])
    goes = boxes[-1, [0, 2]].mean() - boxes[0, [0, 2]].mean()
    return replace(made, importance=float(importance), look=float(np.clip(looks + 2 * goes, -1, 1)))


def _calmed(moving: Subject) -> Subject:
    """A moving thing with the size it mostly has, its way smoothed, and how steady that is."""
    from scipy.ndimage import median_filter

    boxes = moving.boxes
    middles = np.stack([(boxes[:, 0] + boxes[:, 2]) / 2, (boxes[:, 1] + boxes[:, 3]) / 2], axis=1)
    half = 1.15 * np.percentile(boxes[:, 2:] - boxes[:, :2], 80, axis=0) / 2  # parts without contrast do not show
    smooth = middles.copy()
    for axis in (0, 1):
        padded = np.pad(median_filter(middles[:, axis], 5, mode="nearest"), 4, mode="reflect", reflect_type="odd")
        smooth[:, axis] = np.convolve(padded, np.ones(9) / 9, mode="valid")
    rough = float(np.abs(middles - smooth).mean())
    seconds = len(middles) * MOVING_EVERY / 25
    looks = 1 + (moving.frames[-1] - moving.frames[0]) / MOVING_EVERY
    seen = min(1.0, 1.2 * len(middles) / looks)
    steady = float(np.exp(-((rough / _ROUGH) ** 2))) * min(1.0, seconds / 1.2) * seen**2 * float(half[0] < 0.35)
    return replace(moving, boxes=np.concatenate([smooth - half, smooth + half], axis=1).clip(0, 1), steady=steady)


_ROUGH = 0.02  # of the picture, by which a moving thing's middle strays from its smoothed way


def _is_body(track: _Track, person: Subject) -> bool:
    """Whether a moving thing or a figure is a known face or the body under it, for most of its sights."""
    frames = np.array(track.frames)
    there, boxes = person.there(frames), person.at(frames)
    beside = 1.2 if person.kind == "face" else 0.2
    hits = 0
    for region, box, seen in zip(track.regions, boxes, there, strict=True):
        across = box[2] - box[0]
        left, right = box[0] - beside * across, box[2] + beside * across
        hits += bool(seen) and left < region.cx < right and region.y + region.height > box[1] - 0.1
    return hits > 0.5 * len(frames)
