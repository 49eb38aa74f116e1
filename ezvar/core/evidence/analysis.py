"""One reading of a movie that gathers all that cuts and framings are decided from."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from dataclasses import asdict, dataclass

import cv2
import numpy as np

from ezvar.core.cuts import PAIR_EVERY, Signals, measure
from ezvar.core.media import Picture
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.store import Cache

from .faces import Face, FaceFinder

_EVERY = 12  # frames from one look for faces to the next
_VERSION = 3  # to be raised when what is measured changes
_PAIRS = 24  # pairs of neighbouring frames looked at for movement, a shot


@dataclass(frozen=True)
class Analysis:
    """What was seen of a movie: change signals of every frame, faces of some.

    ``faces`` maps the frames looked at to what was found there, ``looked``
    says whether a face model was there at all.
    """

    signals: Signals
    faces: dict[int, list[Face]]
    looked: bool


def analyse(
    pictures: Iterable[Picture],
    frames: int,
    content: str,
    cache: Cache,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Analysis:
    """Look through the ``frames`` pictures of a lock once, or take what is kept of it under the name ``content``."""
    kept = cached_analysis(content, frames, cache)
    if kept is not None:
        return kept
    try:
        finder = FaceFinder()
    except FileNotFoundError:
        finder = None
    faces: dict[int, list[Face]] = {}
    if finder is not None:
        pictures = _looking_for_faces(pictures, finder, faces)
    signals = measure(pictures, frames, progress, cancel)
    analysis = Analysis(signals, faces, finder is not None)
    _keep(analysis, content, cache)
    return analysis


def _looking_for_faces(
    pictures: Iterable[Picture], finder: FaceFinder, faces: dict[int, list[Face]]
) -> Iterator[Picture]:
    for picture in pictures:
        if picture.index % _EVERY == _EVERY // 2:
            faces[picture.index] = finder.find(picture.rgb(*finder.input_size(picture.width, picture.height)))
        yield picture


def shot_faces(analysis: Analysis, start: int, end: int) -> list[list[Face]]:
    """The faces of each look within frames ``start`` to ``end``; a shot that was not looked at has none.

    A face that is not sure counts only where the look before or after saw one
    in the same place, since lit windows and foliage look like faces for a moment.
    """
    looks = [found for frame, found in sorted(analysis.faces.items()) if start <= frame < end]
    supported = []
    for k, look in enumerate(looks):
        beside = [f for near in looks[max(0, k - 1) : k] + looks[k + 1 : k + 2] for f in near]
        supported.append([f for f in look if f.confidence >= _SURE or any(f.overlaps(other) for other in beside)])
    return supported


def shot_motion(analysis: Analysis, start: int, end: int) -> np.ndarray:
    """How much moves where in a shot, after the camera's own movement: (rows, columns), mean 8-bit levels."""
    pairs = analysis.signals.pairs
    total = np.zeros(pairs.shape[2:], np.float32)
    inside = [k for k in range(len(pairs)) if start <= k * PAIR_EVERY and k * PAIR_EVERY + 1 < end]
    chosen = inside[:: max(1, len(inside) // _PAIRS)]
    for k in chosen:
        total += _own_motion(pairs[k, 0].astype(np.float32), pairs[k, 1].astype(np.float32))
    return total / max(1, len(chosen))


_SURE = 0.55  # confidence from which a face counts by itself
_NOISE = 3.0  # levels of difference that noise makes in small pictures


def _own_motion(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    (dx, dy), response = cv2.phaseCorrelate(a, b, cv2.createHanningWindow((a.shape[1], a.shape[0]), cv2.CV_32F))
    if response < 0.1 or max(abs(dx), abs(dy)) > a.shape[1] / 4:
        dx = dy = 0.0
    moved = cv2.warpAffine(
        b, np.array([[1, 0, -dx], [0, 1, -dy]], np.float32), a.shape[::-1], borderMode=cv2.BORDER_REPLICATE
    )
    gone = min(float(np.abs(a - b).mean()), float(np.abs(a - moved).mean()))
    difference = np.abs(a - moved) if gone < np.abs(a - b).mean() else np.abs(a - b)
    return np.asarray(np.clip(cv2.GaussianBlur(difference, (0, 0), 0.8) - _NOISE, 0, None))


def cached_analysis(content: str, frames: int, cache: Cache) -> Analysis | None:
    """What is kept of a movie, or ``None``."""
    arrays = cache.arrays(f"analysis-{_VERSION}-{content}")
    if arrays is None or set(arrays) != {*Signals.__dataclass_fields__, "faces"} or len(arrays["change"]) != frames:
        return None
    try:
        stored = json.loads(arrays["faces"].tobytes())
        faces = {
            int(frame): [Face(**{**f, "landmarks": tuple(tuple(p) for p in f["landmarks"])}) for f in found]
            for frame, found in stored["faces"].items()
        }
    except (ValueError, KeyError, TypeError):
        return None  # a damaged cache is worth no more than none
    signals = Signals(**{name: arrays[name] for name in Signals.__dataclass_fields__})
    return Analysis(signals, faces, bool(stored["looked"]))


def _keep(analysis: Analysis, content: str, cache: Cache) -> None:
    stored = {
        "looked": analysis.looked,
        "faces": {str(frame): [asdict(f) for f in found] for frame, found in analysis.faces.items()},
    }
    arrays = {**analysis.signals.arrays(), "faces": np.frombuffer(json.dumps(stored).encode(), np.uint8)}
    cache.put_arrays(f"analysis-{_VERSION}-{content}", arrays)
