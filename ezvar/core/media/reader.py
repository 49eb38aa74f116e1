"""Frame-exact reading: any frame at random, or many in order."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterator
from types import TracebackType

import av
import numpy as np
from av.video.codeccontext import VideoCodecContext
from av.video.reformatter import VideoReformatter
from av.video.stream import VideoStream

from ezvar.core.errors import MediaError
from ezvar.core.progress import Cancelled

from .container import in_decoder, open_movie, packets_of, reading, seek_back, strictly, unsmoothed, video_stream
from .facts import MovieFacts, probe
from .fields import is_interlaced
from .picture import Picture
from .planes import Planes, opacity_of

_Decoded = tuple[int, av.VideoFrame, bool]
"""A picture's number, its frame, and whether it is drawn on from damage."""
# Going on from where the decoder stands beats a seek up to about this many pictures.
_GO_ON = 12
_LARGE = 1280  # pixels of the longer side, from which pictures are looked at in less than half their size
_FARTHER = 12  # keys to either side, at which any picture is looked for where all nearby is gone


class _Torn(Exception):
    """Several threads that decode have come upon damage."""


_SEEING_THROUGH = {"vp8": "libvpx", "vp9": "libvpx-vp9"}


class MovieReader:
    """Reads the pictures of one movie by frame number.

    Frames are numbered from 0 at the movie's rate, in presentation order, and
    found through an index of all coded pictures, so that frame n at random is
    frame n of a straight decode, with long groups of pictures and B-frames as
    without. With ``opacity`` pictures say where they are seen, if the movie
    does; where they may be ``deep``, those of more than eight bits come in
    ten. ``glancing`` takes large ones as they are decoded most quickly, fit to
    be looked at in a small size. One caller at a time: calls from several threads wait for each other.
    """

    def __init__(
        self, path: str | os.PathLike[str], facts: MovieFacts | None = None, opacity: bool = False, deep: bool = False,
        glancing: bool = False,
    ) -> None:  # fmt: skip
        self.facts = facts or probe(path)
        self._path = path
        self._lock = threading.RLock()
        pts = self.facts.index.pts
        even = self.facts.steady and len(pts) > 1
        self._within = max(1, int(pts[-1] - pts[0]) // (len(pts) - 1) // 2 - 1) if even else 1  # ticks
        self._stands: dict[int, int] = {}  # pictures that cannot be decoded, and the good ones shown for them
        self._ahead: _Decoded | None = None  # decoded already, past what was wanted
        self._behind: _Decoded | None = None  # the last one decoded before what was wanted
        self._guessing = False  # whether the decoder may guess at what it finds damaged
        self._alone = False  # whether one thread decodes: several lose all that follows damage
        self._glancing = glancing and max(self.facts.width, self.facts.height) >= _LARGE
        self._container = open_movie(path)
        self._stream = self._opened_stream()
        self._decoded = self._from_start()
        self._next = 0  # the picture that the decoder gives next
        self._scaler = VideoReformatter()
        self._opacity, self._deep = opacity, deep
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
            self._decoded, self._last, self._ahead, self._behind = iter(()), None, None, None

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
        outside the movie and `MediaError` where no picture stands in for a damaged one.
        """
        if not 0 <= n < self.facts.frames:
            raise IndexError(f"frame {n} of {self.facts.frames}")
        with self._lock, reading(self._path, "decoding", f"frame {n}"):
            self._unwanted = unwanted
            number = int(self.facts.index.picture[n])
            try:
                return self._tried(number).numbered(n)
            except MediaError:
                if self._guessing:
                    raise
                self._guess()
                return self._tried(number).numbered(n)

    def _tried(self, number: int) -> Picture:
        """A coded picture; decoded by one thread alone from where several have come upon damage."""
        try:
            return self._picture(number)
        except _Torn:
            self._alone = True
            self._reopen()
            return self._picture(number)

    def _guess(self) -> None:
        """Go on with a decoder that guesses: what is right nowhere is shown as well as it can be, and said to be
        damaged."""
        self._guessing = True
        self._stands.clear()
        self._reopen()

    def frames(self, start: int = 0, end: int | None = None) -> Iterator[Picture]:
        """The frames from ``start`` up to, and without, ``end``, in order."""
        for n in range(start, self.facts.frames if end is None else min(end, self.facts.frames)):
            yield self.frame(n)

    def _picture(self, number: int) -> Picture:
        """A coded picture; for one that cannot be decoded the last good one before it stands in, else the first after.

        Raises `MediaError` where none can be decoded at all.
        """
        if self._last is not None and self._last[0] == number:
            return self._last[1]
        if (other := self._stand_in(number)) != number:
            return self._picture(other).standing_in()
        index = self.facts.index
        key = int(np.searchsorted(index.key_pts, int(index.pts[number]), side="right")) - 1
        key_number = self._number_at(int(index.key_pts[max(0, key)])) or 0
        if self._next <= number and (number - self._next <= _GO_ON or key_number <= self._next):
            if (picture := self._decode_until(number)) is not None:
                return picture
            if self._behind is not None and self._behind[0] == number - 1:
                return self._missing(number)
        # A picture that a group cannot give by itself needs an earlier start; and a missing one all that is before it.
        for earlier, whole in ((0, False), (0, True), (1, True), (3, True)):
            self._seek(int(index.key_seek[max(0, key - earlier)]), whole)
            if (picture := self._decode_until(number)) is not None:
                return picture
            if whole and (self._behind is not None or key - earlier <= 0):
                break
        return self._missing(number)

    def _stand_in(self, number: int) -> int:
        """The picture that is shown for one that is known to be missing; else itself."""
        there = self.facts.index.there
        return self._stands.get(min(number, max(0, there - 1)), min(number, max(0, there - 1)))

    def _missing(self, number: int) -> Picture:
        """Note that a picture, and all around it up to the next good ones, is missing; where reading broke off there,
        up to the next key, since what follows damage in the container may be found from there."""
        if self._behind is None and self._ahead is None:
            self._look_farther(number)
        low = self._behind[0] + 1 if self._behind is not None else 0
        good = self._behind or self._ahead
        if good is None or good[0] == number:
            raise MediaError(
                "this frame cannot be decoded", file=self._path, place=f"frame {number}", remedy="Copy it again"
            )
        high = self._ahead[0] if self._ahead is not None else self._key_after(number)
        self._stands.update(dict.fromkeys(range(low, high), good[0]))
        return self._made(*good).standing_in()

    def _look_farther(self, number: int) -> None:
        """Find any picture before another, or, if there is none, the first after it: what is between is missing."""
        index = self.facts.index
        keys = int(np.searchsorted(index.key_pts, int(index.pts[number]), side="right"))
        before = list(range(keys - 1, max(-1, keys - 1 - _FARTHER), -1))
        for key in (*before, 0, *range(keys, min(len(index.key_pts), keys + _FARTHER))):
            self._seek(int(index.key_seek[key]), whole=True)
            self._decode_until(number)
            if self._behind is not None or self._ahead is not None:
                return

    def _key_after(self, number: int) -> int:
        """The number of the first key picture after another; how many there are where it has none."""
        index = self.facts.index
        key = int(np.searchsorted(index.key_pts, int(index.pts[number]), side="right"))
        return int(np.searchsorted(index.pts, index.key_pts[key])) if key < len(index.key_pts) else len(index.pts)

    def _decode_until(self, number: int) -> Picture | None:
        """Decode on to a picture; ``None`` if it was passed or the movie ended."""
        self._target = int(self.facts.index.pts[number])
        while (found := self._take()) is not None:
            at = found[0]
            if self._unwanted is not None and at < number and self._unwanted():
                raise Cancelled
            if at == number:
                self._behind = found
                return self._made(*found)
            if at > number:
                self._ahead, self._next = found, at
                return None
            self._behind = found
        self._next = len(self.facts.index.pts) + 1  # at the end: only a seek helps
        return None

    def _take(self) -> _Decoded | None:
        """The next decoded picture; ``None`` at the end."""
        if self._ahead is not None:
            found, self._ahead = self._ahead, None
            self._next = found[0] + 1
            return found
        for frame, hurt in self._decoded:
            at = self._number_at(frame.pts if frame.pts is not None else frame.dts)
            if at is not None:
                self._next = at + 1
                return at, frame, hurt
        return None

    def _number_at(self, time: int | None) -> int | None:
        """The number of the picture at a time, which may be off by less than half a step where they come evenly."""
        if time is None:
            return None
        pts = self.facts.index.pts
        after = int(np.searchsorted(pts, time))
        near = [k for k in (after - 1, after) if 0 <= k < len(pts)]
        best = min(near, key=lambda k: abs(int(pts[k]) - time))
        return best if abs(int(pts[best]) - time) <= self._within else None

    def _made(self, number: int, frame: av.VideoFrame, damaged: bool) -> Picture:
        if self._last is not None and self._last[0] == number:
            return self._last[1]
        planes = Planes.of_frame(frame, self._scaler, self._deep)
        planes = planes.whole() if frame.interlaced_frame or is_interlaced(self.facts) else planes
        seen = opacity_of(frame, self._scaler) if self._opacity else None
        if seen is not None:
            seen = np.ascontiguousarray(np.rot90(seen, self.facts.rotation // 90))
        picture = Picture(
            number, planes, self.facts.width, self.facts.height, self.facts.rotation, damaged, opacity=seen
        )
        self._last = (number, picture)
        return picture

    def _from_start(self, whole: bool = False) -> Iterator[tuple[av.VideoFrame, bool]]:
        """All frames from where the container stands, and whether each is drawn on from damage.

        Pictures that nothing refers to are skipped before the target, unless
        the ``whole`` is wanted. What is damaged is passed over; what follows
        it, up to the next key, is drawn on from it.
        """
        self._target = int(self.facts.index.pts[0])
        codec, through = self._stream.codec_context, self._seeing_through()
        packets, hurt = packets_of(self._container, self._stream), False
        while True:
            try:
                packet = next(packets, None)
            except av.error.FFmpegError:  # damage in the container: a seek may find what follows
                packet = None
            if packet is None:
                return
            early = not whole and packet.pts is not None and packet.pts < self._target
            codec.skip_frame = "NONREF" if early else "DEFAULT"
            try:
                with in_decoder(self._container):
                    frames = packet.decode() if through is None else through.decode(packet)
            except av.error.FFmpegError as error:
                if not self._alone:
                    raise _Torn from error
                hurt = True
                continue
            for frame in frames:
                hurt = frame.is_corrupt or (hurt and not frame.key_frame)
                yield frame, hurt or self._guessing

    def _seeing_through(self) -> VideoCodecContext | None:
        """A decoder of its own where the usual one passes over what a movie says of its opacity."""
        name = _SEEING_THROUGH.get(self.facts.codec) if self._opacity else None
        if name is None or {k.lower(): v for k, v in self._stream.metadata.items()}.get("alpha_mode") != "1":
            return None
        made = VideoCodecContext.create(name, "r")
        assert isinstance(made, VideoCodecContext)
        return made

    def _seek(self, ticks: int, whole: bool) -> None:
        try:
            seek_back(self._container, ticks, self._stream)
        except av.error.FFmpegError:
            self._reopen()
        self._decoded = self._from_start(whole)
        self._next, self._ahead, self._behind = 0, None, None

    def _reopen(self) -> None:
        self._container.close()
        self._container = open_movie(self._path)
        self._stream = self._opened_stream()
        self._decoded = self._from_start()
        self._next, self._ahead, self._behind = 0, None, None

    def _opened_stream(self) -> VideoStream:
        stream = video_stream(self._container, self._path)
        stream = stream if self._guessing else strictly(stream)
        stream = unsmoothed(stream) if self._glancing else stream
        stream.thread_type = "NONE" if self._alone else "AUTO"
        return stream
