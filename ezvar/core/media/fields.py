"""Whether pictures hold two fields of different times, where a movie does not say so itself."""

from __future__ import annotations

import threading
from collections.abc import Iterable, Iterator

import cv2
import numpy as np
from av.container import InputContainer
from av.error import FFmpegError
from av.video.frame import VideoFrame
from av.video.reformatter import VideoReformatter
from av.video.stream import VideoStream
from cachetools import LRUCache

from .container import open_movie, seek_back, video_stream
from .facts import MovieFacts
from .index import decoded, key_picture
from .planes import Planes

_HEIGHTS = frozenset({480, 486, 512, 576, 608, 1080, 1088})  # that pictures of two fields come in
_LARGE, _READ = 100_000_000, 0.002  # bytes from which a movie is not read much in, and the looks for a picture of it
_LOOKED_AT, _APART = 6, 8  # pictures looked at, and frames between them where they are decoded in a row

_BLOCK = 16
_TEETH, _LEAST_TEETH = 1.5, 3.4  # neighbouring lines against next ones but one: how often as far apart, and levels more
_COMBED = 6  # blocks that must be combed in a picture
_ALL_OVER = 0.25  # of a picture: more than stripes would cover
_PICTURES = 2  # in so many of them at least

_KNOWN: LRUCache[object, bool] = LRUCache(maxsize=4096)
_KNOWN_LOCK = threading.Lock()


def is_interlaced(facts: MovieFacts) -> bool:
    """Whether each picture of a movie holds two fields of different times: it says so, or a few of them look like it.

    Those are decoded the first time it is asked, and what they tell is kept
    as long as the program runs. Raises `MediaError` where the movie cannot be read.
    """
    if (known := known_interlaced(facts)) is not None:
        return known
    with open_movie(facts.path) as container:
        scaler = VideoReformatter()
        found = looks_interlaced(Planes.of_frame(frame, scaler).y for frame in _some(container, facts))
    with _KNOWN_LOCK:
        _KNOWN[facts.file] = found
    return found


def known_interlaced(facts: MovieFacts) -> bool | None:
    """As `is_interlaced`, without looking at the movie: ``None`` where nobody has looked yet."""
    if facts.says_interlaced or facts.stored_height not in _HEIGHTS:
        return facts.says_interlaced
    with _KNOWN_LOCK:
        return _KNOWN.get(facts.file)


def _some(container: InputContainer, facts: MovieFacts) -> Iterator[VideoFrame]:
    """A few pictures spread over a movie: keys, or, where these are few, also what follows them."""
    keys = facts.index.key_seek
    affordable = int(len(facts.index.pts) * _READ) if container.size > _LARGE else _LOOKED_AT
    looks = max(2, min(_LOOKED_AT, affordable))
    chosen = keys[np.unique(np.linspace(0, max(0, len(keys) - 2), looks).astype(int))]
    stream = video_stream(container, facts.path)
    stream.thread_type = "NONE" if len(chosen) == looks else "AUTO"
    for key in chosen:
        try:
            seek_back(container, int(key), stream)
        except FFmpegError:  # damaged there: the others tell
            continue
        if len(chosen) < looks:
            yield from _following(container, stream, facts)
        elif (found := key_picture(container, stream)) is not None:
            yield found


def _following(container: InputContainer, stream: VideoStream, facts: MovieFacts) -> Iterator[VideoFrame]:
    """Pictures some way apart from where a container stands, of those that others refer to: they alone have to be
    decoded."""
    pts = facts.index.pts
    apart = _APART * float(np.median(np.diff(pts))) if len(pts) > 1 else 0.0
    stream.codec_context.skip_frame = "NONREF"
    taken, next_at = 0, -np.inf
    for frame in decoded(container, stream):
        if frame.pts is None or frame.pts < next_at:
            continue
        yield frame
        taken, next_at = taken + 1, frame.pts + apart
        if taken == _LOOKED_AT:
            return


def looks_interlaced(planes: Iterable[np.ndarray]) -> bool:
    """Whether pictures hold two fields of different times, told by the combs of what moves in them.

    ``planes`` are luminance, uint8 (height, width), of frames some way apart.
    Where fields do not fit, a line is nearer to the next but one than to its
    neighbour; grain does not do that, and fine stripes that are part of what
    is shown do it at the same places in many pictures, which is why only
    places count that are combed in a few of them, or else a good part of the picture. Not seen: movies in which nothing
    moves in the pictures given.
    """
    combed = np.array([_combed(plane) for plane in planes])
    if len(combed) < _PICTURES:
        return False
    moving = combed & (combed.mean(axis=0) <= 0.5)
    shown = (moving.sum(axis=(1, 2)) >= _COMBED) | (combed.mean(axis=(1, 2)) > _ALL_OVER)
    return int(shown.sum()) >= _PICTURES


def _combed(plane: np.ndarray) -> np.ndarray:
    """Which blocks of 16 × 16 samples are combed."""
    rows, columns = (len(plane) - 2) // _BLOCK, plane.shape[1] // _BLOCK

    def apart(lines: int) -> np.ndarray:
        """How far a line and one so many lines on are apart, in levels, on the mean of each block."""
        differ = cv2.absdiff(plane[: rows * _BLOCK], plane[lines : lines + rows * _BLOCK])[:, : columns * _BLOCK]
        return np.asarray(cv2.resize(differ.astype(np.float32), (columns, rows), interpolation=cv2.INTER_AREA))

    near, far = apart(1), apart(2)
    return np.asarray((near > _TEETH * far) & (near - far > _LEAST_TEETH))
