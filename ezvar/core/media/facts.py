"""Facts about a movie, with the index that makes its frames addressable."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path

import numpy as np
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.video.format import VideoFormat
from av.video.frame import VideoFrame
from av.video.reformatter import VideoReformatter
from av.video.stream import VideoStream
from cachetools import LRUCache

from ezvar.core.errors import MediaError
from ezvar.core.progress import CancelToken, Progress, silent
from ezvar.core.timing import Rate, frame_of

from .colours.light import light_of
from .colours.tags import ColourTags
from .container import LARGEST_PICTURE, open_movie, reading, video_stream
from .index import FrameIndex, first_picture, index_of
from .picture import Picture
from .planes import Planes

MOVIE_SUFFIXES = frozenset({".mp4", ".mov", ".mkv", ".webm", ".mxf", ".m4v", ".avi", ".ts", ".mts", ".mpg"})
"""The endings of files that are looked at as movies."""


FileKey = tuple[str, int, int]
"""A file as it is: its path, size in bytes, and date in nanoseconds."""


@dataclass(frozen=True)
class AudioFacts:
    """A sound track: its codec, samples a second, channels, what it is called, and from which to which second it says
    that it lasts, ``None`` where it does not say."""

    codec: str
    rate: int
    channels: int
    name: str = ""
    lasts: tuple[Fraction, Fraction] | None = None

    @classmethod
    def of(cls, stream: AudioStream) -> AudioFacts:
        if stream.codec_context is None:
            return cls("unknown", 0, 0)
        said = stream.metadata.get("title", "") or stream.metadata.get("handler_name", "")
        name = "" if said == "SoundHandler" else said  # which the library writes where nobody has named it
        tick, start, long = stream.time_base, stream.start_time, stream.duration
        lasts = None if tick is None or start is None or long is None else (start * tick, (start + long) * tick)
        return cls(stream.codec_context.name, stream.rate, stream.channels, name, lasts)


@dataclass(frozen=True)
class MovieFacts:
    """What a movie is. ``width`` and ``height`` are the picture's: upright, square pixels."""

    path: Path
    container: str
    codec: str
    pixel_format: str
    tags: ColourTags
    stored_width: int
    stored_height: int
    pixel_aspect: Fraction
    rotation: int  # degrees counterclockwise, 0, 90, 180 or 270, that make it upright
    width: int
    height: int
    rate: Rate
    frames: int
    start: int  # timecode of the first frame, in frames
    drop: bool
    timecode_stated: bool
    steady: bool  # whether the pictures come at an even rate
    says_interlaced: bool  # whether it says itself that each picture holds two fields of different times
    audios: tuple[AudioFacts, ...]
    time_base: Fraction
    index: FrameIndex = field(repr=False, compare=False)
    file: FileKey = field(repr=False, compare=False)

    def quick_frame(self, start: int, end: int, near: int) -> int:
        """The frame nearest to ``near``, from ``start`` to ``end``, that decoding can start at; ``near`` if none is."""
        keys = self.index.key_frames
        inside = keys[np.searchsorted(keys, start) : np.searchsorted(keys, end)]
        return int(inside[np.argmin(np.abs(inside - near))]) if inside.size else near

    @property
    def audio(self) -> AudioFacts | None:
        """Its first sound track."""
        return self.audios[0] if self.audios else None

    @property
    def zero(self) -> Fraction:
        """The presentation time of the first picture, in seconds."""
        return int(self.index.pts[0]) * self.time_base

    @property
    def seconds(self) -> Fraction:
        return self.rate.seconds(self.frames)

    @property
    def depth(self) -> int:
        """Bits of a sample."""
        return max(part.bits for part in VideoFormat(self.pixel_format).components)

    @property
    def opaque(self) -> bool:
        """Whether its pictures cannot be seen through, by their format; of VP8 and VP9 that does not say."""
        parts = VideoFormat(self.pixel_format).components
        return self.codec not in ("vp8", "vp9") and not any(part.is_alpha for part in parts)


Begun = Callable[[Picture], object]
"""Called with the first picture of a movie whose file is going to be read through."""


def unseen(picture: Picture) -> None:
    """A beginning that nobody looks at."""


def probe(
    path: str | os.PathLike[str], progress: Progress = silent, cancel: CancelToken | None = None, begun: Begun = unseen
) -> MovieFacts:
    """Read a movie's facts and index. Decodes one picture.

    A file whose tables say too little is read through, with ``progress``;
    ``begun`` is handed its first picture before.
    Raises `MediaError` for files that are no movie or have no picture that
    can be decoded. What was read is kept for as long as the file's size and
    date stay.
    """
    key = _file_key(path)
    with _KEPT_LOCK:
        kept = _KEPT.get(key)
    if kept is None:
        kept = _probe(path, key, progress, cancel, begun)
        with _KEPT_LOCK:
            if _KEPT.getsizeof(kept) <= _KEPT.maxsize:
                _KEPT[key] = kept
    return kept


def _file_key(path: str | os.PathLike[str]) -> FileKey:
    try:
        state = os.stat(path)
    except (OSError, ValueError):
        return str(path), 0, 0  # it cannot be opened either, which says what is wrong
    return str(path), state.st_size, state.st_mtime_ns


_SPARE = 64 * 1024**2  # bytes of indexes that are kept; a day at 25 frames a second takes half of it
_KEPT: LRUCache[FileKey, MovieFacts] = LRUCache(_SPARE, lambda facts: 4096 + facts.index.nbytes)
_KEPT_LOCK = threading.Lock()


def _probe(
    path: str | os.PathLike[str], key: FileKey, progress: Progress, cancel: CancelToken | None, begun: Begun
) -> MovieFacts:
    with open_movie(path) as container:
        stream = video_stream(container, path)
        with reading(path, "reading it"):
            stream.thread_type = "NONE"
            first, begins = first_picture(container, stream)
            if first is None:
                raise MediaError("it has no picture that can be decoded", file=path, remedy="Export it again")
            aspect, rotation, (width, height) = _upright(stream, first)
            if max(width, height, first.width, first.height) > LARGEST_PICTURE:
                raise MediaError(
                    f"its pictures are larger than {LARGEST_PICTURE} pixels", file=path, remedy="Export it smaller"
                )

            def through(part: float) -> None:
                if cancel is not None:
                    cancel.check()
                if not part:
                    begun(Picture(0, Planes.of_frame(first, VideoReformatter()), width, height, rotation))
                progress(part, "Reading it through")

            index, rate, steady = index_of(container, stream, begins, path, through)
        start, drop, stated = _start_timecode(container, stream, rate)
        return MovieFacts(
            path=Path(path),
            container=container.format.name.split(",")[0],
            codec=stream.codec_context.name,
            pixel_format=first.format.name,
            tags=replace(ColourTags.of(first), light=light_of(first)),
            stored_width=first.width,
            stored_height=first.height,
            pixel_aspect=aspect,
            rotation=rotation,
            width=width,
            height=height,
            rate=rate,
            frames=len(index.picture),
            start=start,
            drop=drop,
            timecode_stated=stated,
            steady=steady,
            says_interlaced=bool(first.interlaced_frame),
            audios=tuple(AudioFacts.of(each) for each in container.streams.audio),
            time_base=Fraction(stream.time_base or Fraction(1, 1000)),
            index=index,
            file=key,
        )


def _upright(stream: VideoStream, first: VideoFrame) -> tuple[Fraction, int, tuple[int, int]]:
    """A pixel's aspect, the degrees that make the picture upright, and its size then, in square pixels."""
    aspect = Fraction(stream.sample_aspect_ratio or stream.codec_context.sample_aspect_ratio or 1)
    if not Fraction(1, 8) <= aspect <= 8:
        aspect = Fraction(1)
    rotation = round(first.rotation / 90) % 4 * 90
    width, height = round(first.width * aspect), first.height
    return aspect, rotation, (height, width) if rotation in (90, 270) else (width, height)


def media_label(path: str | os.PathLike[str]) -> tuple[str, Fraction, Fraction]:
    """What a movie says of its reel, with its first and last timecode in seconds, without reading it through.

    Raises `MediaError` as `probe`, and where its rate can be none.
    """
    with open_movie(path) as container:
        stream = video_stream(container, path)
        try:
            rate = Rate.parse(Fraction(stream.average_rate or stream.guessed_rate or 25))
        except ValueError as error:
            raise MediaError(f"its frames cannot be shown: {error}", file=path, remedy="Export it again") from error
        start, _, _ = _start_timecode(container, stream, rate)
        metadata = [stream.metadata, container.metadata, *(s.metadata for s in container.streams)]
        reel = next((m["reel_name"] for m in metadata if m.get("reel_name")), "")
        length = Fraction(container.duration or 0, 1_000_000)
        return reel, rate.seconds(start), rate.seconds(start) + length


def _start_timecode(container: InputContainer, stream: VideoStream, rate: Rate) -> tuple[int, bool, bool]:
    places = [stream.metadata, container.metadata, *(s.metadata for s in container.streams)]
    for text in (p["timecode"] for p in places if "timecode" in p):
        try:
            return frame_of(text, rate), ";" in text or "," in text, True
        except ValueError:
            continue  # a label that is no timecode at this rate states none
    return 0, False, False
