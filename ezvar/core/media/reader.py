"""Frame-exact reading: any frame at random, or many in order."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterator
from types import TracebackType

import av
import numpy as np
from av.video.reformatter import VideoReformatter

from ezvar.core.errors import MediaError
from ezvar.core.progress import Cancelled

from .container import open_movie, reading, video_stream
from .facts import MovieFacts, probe
from .picture import Picture
from .planes import Planes

# Going on from where the decoder stands beats a seek up to about this many pictures.
_GO_ON = 12


class MovieReader:
    """Reads the pictures of one movie by frame number.

    Frames are numbered from 0 at the movie's rate, in presentation order, and
    found through an index of all coded pictures, so that frame n at random is
    frame n of a straight decode, with long groups of pictures and B-frames as
    without. One caller at a time: calls from several threads wait for each
    other.
    """

    def __init__(self, path: str | os.PathLike[str], facts: MovieFacts | None = None) -> None:
        self.facts = facts or probe(path)
        self._path = path
        self._lock = threading.RLock()
        self._number = {int(p): k for k, p in enumerate(self.facts.index.pts)}
        self._container = open_movie(path)
        self._stream = video_stream(self._container, path)
        self._stream.thread_type = "AUTO"
        self._decoded = self._from_start()
        self._next = 0  # the picture that the decoder gives next
        self._scaler = VideoReformatter()
        self._last: tuple[int, Picture] | None = None
        self._unwanted: Callable[[], bool] | None = None

    def __enter__(self) -> MovieReader:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        with self._lock:
            self._container.close()
            # The decoder refers back to this reader; its pictures' memory would wait for the collector otherwise.
            self._decoded, self._last = iter(()), None

    @property
    def count(self) -> int:
        """How many frames there are."""
        return self.facts.frames

    @property
    def name(self) -> str:
        """What its pictures are kept under."""
        return str(self.facts.path)

    def frame(self, n: int, unwanted: Callable[[], bool] | None = None) -> Picture:
        """Frame ``n``, from 0.

        ``unwanted`` is asked while decoding up to it; once it says yes,
        `Cancelled` is raised and the reader stays usable. Raises `IndexError`
        outside the movie and `MediaError` for damage.
        """
        if not 0 <= n < self.facts.frames:
            raise IndexError(f"frame {n} of {self.facts.frames}")
        with self._lock, reading(self._path, "decoding", f"frame {n}"):
            self._unwanted = unwanted
            return self._picture(int(self.facts.index.picture[n])).numbered(n)

    def frames(self, start: int = 0, end: int | None = None) -> Iterator[Picture]:
        """The frames from ``start`` up to, and without, ``end``, in order."""
        for n in range(start, self.facts.frames if end is None else min(end, self.facts.frames)):
            yield self.frame(n)

    def _picture(self, number: int) -> Picture:
        if self._last is not None and self._last[0] == number:
            return self._last[1]
        index = self.facts.index
        target = int(index.pts[number])
        key = int(np.searchsorted(index.key_pts, target, side="right")) - 1
        key_number = self._number.get(int(index.key_pts[max(0, key)]), 0)
        near = self._next <= number and (number - self._next <= _GO_ON or key_number <= self._next)
        if near and (picture := self._decode_until(number)) is not None:
            return picture
        # A picture that a group cannot give by itself needs an earlier start.
        for earlier in (0, 1, 3):
            if key - earlier < 0:
                break
            self._seek(int(index.key_seek[key - earlier]))
            if (picture := self._decode_until(number)) is not None:
                return picture
        self._reopen()
        if (picture := self._decode_until(number)) is not None:
            return picture
        raise MediaError(
            "this frame cannot be decoded", file=self._path, place=f"frame {number}", remedy="Copy it again"
        )

    def _decode_until(self, number: int) -> Picture | None:
        """Decode on to a picture; ``None`` if it was passed or the movie ended."""
        index = self.facts.index
        self._target = int(index.pts[number])
        for frame in self._decoded:
            at = self._number.get(frame.pts if frame.pts is not None else -1)
            if at is None:
                continue
            self._next = at + 1
            if self._unwanted is not None and at < number and self._unwanted():
                raise Cancelled
            if at == number:
                planes = Planes.of_frame(frame, self._scaler)
                planes = planes.whole() if frame.interlaced_frame or self.facts.interlaced else planes
                picture = Picture(number, planes, self.facts.width, self.facts.height, self.facts.rotation)
                self._last = (number, picture)
                return picture
            if at > number:
                return None
        self._next = len(index.pts) + 1  # at the end: only a seek helps
        return None

    def _from_start(self) -> Iterator[av.VideoFrame]:
        """All frames from where the container stands. Pictures that nothing refers to are skipped before the target."""
        self._target = int(self.facts.index.pts[0])
        codec = self._stream.codec_context
        for packet in self._container.demux(self._stream):
            early = packet.pts is not None and packet.pts < self._target
            codec.skip_frame = "NONREF" if early else "DEFAULT"
            yield from packet.decode()

    def _seek(self, ticks: int) -> None:
        self._container.seek(ticks, stream=self._stream, backward=True)
        self._decoded = self._from_start()
        self._next = 0

    def _reopen(self) -> None:
        self._container.close()
        self._container = open_movie(self._path)
        self._stream = video_stream(self._container, self._path)
        self._stream.thread_type = "AUTO"
        self._decoded = self._from_start()
        self._next = 0
