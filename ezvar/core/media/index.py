"""Where the pictures of a movie are: from the container's own table where it has one, else read through."""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from fractions import Fraction
from itertools import islice

import av
import numpy as np
from av.container import InputContainer
from av.video.stream import VideoStream

from ezvar.core.errors import MediaError
from ezvar.core.timing import Rate

from .container import in_decoder, packets_of, seek_back
from .waits import waits_of

_EVEN = 1.01  # ticks that a time may be off an even step: containers that count in milliseconds round each
_TELLING, _REORDERED = 60, 5  # pictures that tell whether some are left out, and the last of them, which do not
_DAMAGE = 2  # gaps that tell of damage rather than of times that are uneven
_READ_ANYWAY, _READ = 200_000, 0.001  # bytes, and part of the file, that are read for it
_LONGEST = 24 * 3600  # seconds of a movie
_LAST = 1 << 40  # ticks, later than any picture


@dataclass(frozen=True)
class FrameIndex:
    """Where each frame of a movie is found.

    ``pts`` (pictures,) are the presentation times of the coded pictures in
    stream ticks, rising; ``picture`` (frames,) gives for each frame of the
    movie at its rate the picture that is on screen; ``key_pts``,
    ``key_seek`` and ``key_frames`` (keys,) are the times of the pictures that
    decoding can start at, the times to seek to for them, and their frames.
    The file holds the first ``there`` of the coded pictures; where it was
    cut short, those after them are stated only.
    """

    pts: np.ndarray
    picture: np.ndarray
    key_pts: np.ndarray
    key_seek: np.ndarray
    key_frames: np.ndarray
    there: int

    @property
    def nbytes(self) -> int:
        """The memory that it takes."""
        return sum(a.nbytes for a in (self.pts, self.picture, self.key_pts, self.key_seek, self.key_frames))


@dataclass(frozen=True)
class _Found:
    """Presentation times (pictures,), rising; times of keys and where to seek for them; pictures that are there."""

    times: np.ndarray
    key_times: np.ndarray
    key_seek: np.ndarray
    there: int


def decoded(container: InputContainer, stream: VideoStream) -> Iterator[av.VideoFrame]:
    """All pictures that can be decoded from where the container stands; what is damaged is passed over."""
    for packet in _packets(container, stream):
        with suppress(av.error.FFmpegError):
            with in_decoder(container):
                frames = packet.decode()
            yield from frames


def _packets(container: InputContainer, stream: VideoStream) -> Iterator[av.Packet[VideoStream]]:
    """The coded pictures from where the container stands, as far as it can be read."""
    with suppress(av.error.FFmpegError):
        yield from packets_of(container, stream)


def first_picture(container: InputContainer, stream: VideoStream) -> tuple[av.VideoFrame | None, int | None]:
    """The first picture that can be decoded, and the time in ticks at which the first one that is stated is shown."""
    times = []
    for packet in _packets(container, stream):
        if packet.size and not packet.is_discard and packet.pts is not None:
            times.append(packet.pts)
        with suppress(av.error.FFmpegError):
            with in_decoder(container):
                frames = packet.decode()
            for frame in frames:
                return frame, min(times, default=frame.pts)
    return None, None


def key_picture(container: InputContainer, stream: VideoStream) -> av.VideoFrame | None:
    """The picture at which the container stands, alone: nothing that follows is read to put it in order.

    Afterwards the container has to seek before anything else is decoded.
    """
    with suppress(av.error.FFmpegError):
        for packet in islice(packets_of(container, stream), 1):
            with in_decoder(container):
                found = [*packet.decode(), *stream.decode(None)]
            return found[0] if found else None
    return None


def index_of(
    container: InputContainer, stream: VideoStream, first: int | None, path: str | os.PathLike[str],
    through: Callable[[float], object],
) -> tuple[FrameIndex, Rate, bool]:  # fmt: skip
    """The index of a movie, its rate, and whether its pictures come evenly. The container stands anywhere afterwards.

    ``first`` is the time at which its first picture is shown, in ticks. Reads
    the file through only where its tables say too little: they list key
    pictures only or nothing, and pictures come unevenly; ``through`` is then
    told again and again the part that is read, from 0 on, and what it raises ends the
    reading. Raises `MediaError` where there is no picture.
    """
    found = None
    if first is not None:
        names = set(container.format.name.split(","))
        found = _from_table(container, stream, first, path) if "mov" in names else None
        found = _from_keys(container, stream, first) if "matroska" in names else found
    if found is None:
        found = _read_through(container, stream, path, through)
    try:
        rate, steady = _rate(found.times, stream)
    except ValueError as error:
        raise MediaError(f"its frames cannot be shown: {error}", file=path, remedy="Export it again") from error
    times = found.times
    tick = Fraction(stream.time_base or Fraction(1, 1000))
    lasts = int(times[-1] - times[0]) * tick
    if lasts > _LONGEST:
        raise MediaError("its times reach further than a day", file=path, remedy="Export it again")
    if steady:
        picture = np.arange(len(times))
    else:
        total = max(1, round(lasts * rate.fraction) + 1)
        grid = times[0] + np.arange(total) * float(1 / (rate.fraction * tick))
        picture = np.maximum(0, np.searchsorted(times, grid + float(Fraction(1, 1000) / tick), side="right") - 1)
    key_frames = np.searchsorted(picture, np.searchsorted(times, found.key_times))
    return FrameIndex(times, picture, found.key_times, found.key_seek, key_frames, found.there), rate, steady


def _from_table(
    container: InputContainer, stream: VideoStream, first: int, path: str | os.PathLike[str]
) -> _Found | None:
    """From the table of all pictures that MOV and MP4 have (ISO/IEC 14496-12, 8.6); ``None`` where it is no use.

    It has decoding times only. Where these are even, presentation times are
    the same, later by what pictures wait to be put in order. The time of a
    key is then right but for pictures that are shown before it and coded after it.
    Where they are not, another table says how long each picture waits.
    """
    entries = [e for e in stream.index_entries if not e.is_discard]
    if not entries:
        return None  # in fragments
    coded = np.array([e.timestamp for e in entries], np.int64)
    keys = np.array([k for k, e in enumerate(entries) if e.is_keyframe], np.int64)
    if not keys.size:
        return None
    size = os.path.getsize(path)
    gone = [k for k, e in enumerate(entries) if e.pos + e.size > size]
    there = gone[0] if gone else len(entries)
    if not _is_even(coded):
        return _from_waits(coded, keys, there, waits_of(path, stream.id, len(stream.index_entries)), first)
    times = coded + (first - coded[0])
    before = [e.timestamp for e in stream.index_entries if e.is_discard and e.is_keyframe]  # from which the first is
    seek = times[keys]  # FFmpeg takes the shift between the two times off what is sought in these files
    if before and keys[0] > 0:
        keys, seek = np.array([0, *keys]), np.array([before[-1] + first - coded[0], *seek])
    return _Found(times, times[keys], seek, there)


def _from_waits(coded: np.ndarray, keys: np.ndarray, there: int, waits: np.ndarray | None, first: int) -> _Found | None:
    """From uneven decoding times and how long each picture waits; ``None`` where the tables are of no use together."""
    if waits is None or len(waits) != len(coded) or (np.diff(coded) <= 0).any():
        return None  # an edit list has left some out
    shown = coded + waits
    shown += first - shown.min()
    times = np.unique(shown)
    if len(times) < len(shown):
        return None
    # Of the first pictures in the file, the earliest shown that is gone with the rest ends what is there.
    there = int(np.searchsorted(times, shown[there:].min())) if there < len(shown) else there
    return _Found(times, shown[keys], np.minimum(shown, coded)[keys], there)


def _from_keys(container: InputContainer, stream: VideoStream, first: int) -> _Found | None:
    """From the table of key pictures that Matroska has (RFC 9559, 5.1.5), and the pictures after the last of them.

    Where keys and last pictures stand at even steps from the first, and those
    that are looked at leave none out, all do, or something is missing; ``None`` where they do not.
    """
    rate = stream.average_rate or stream.guessed_rate
    if rate is None or stream.time_base is None:
        return None
    ends = _stated_end(stream)
    try:
        seek_back(container, first + 1 if ends is not None else _LAST, stream)  # reads the keys' table
        keys = np.array(sorted({e.timestamp for e in stream.index_entries if e.is_keyframe}), np.int64)
        if ends is not None:
            tail = np.array([round((ends - 1 / Fraction(rate)) / stream.time_base)])
        else:
            tail = np.array(
                sorted(p.pts for p in packets_of(container, stream) if p.size and p.pts is not None), np.int64
            )
    except av.error.FFmpegError:
        return None
    if len(keys) < 2 or not tail.size or keys[0] < first:
        return None
    count = round(Fraction(int(tail[-1]) - first) * stream.time_base * Fraction(rate)) + 1
    if not 2 <= count <= _LONGEST * rate:
        return None
    step = (int(tail[-1]) - first) / (count - 1)
    for some in (keys, tail):
        off = (some - first) - np.round((some - first) / step) * step
        if abs(off).max() > _EVEN:
            return None
    readable = max(_READ_ANYWAY, container.size * _READ)
    if container.size / count * 2 * _REORDERED < readable:
        gaps = (_left_out(container, stream, int(keys[k]), step, readable) for k in {0, len(keys) // 2})
        if sum(gaps) > _DAMAGE:
            return None
    times = first + np.round(np.arange(count) * step).astype(np.int64)
    return _Found(times, keys, keys, count)


def _left_out(container: InputContainer, stream: VideoStream, key: int, step: float, readable: float) -> int:
    """How many of the pictures that follow a key, as far as so many bytes are read, come later than a step after the
    one before."""
    times: list[int] = []
    with suppress(av.error.FFmpegError):
        seek_back(container, key, stream)
        for packet in islice(packets_of(container, stream), _TELLING):
            readable -= packet.size
            if readable < 0:
                break
            if packet.pts is not None:
                times.append(packet.pts)
    sure = np.sort(times)[:-_REORDERED]  # those before the last may still come
    return int((np.diff(sure) > step + 2 * _EVEN).sum())


def _stated_end(stream: VideoStream) -> Fraction | None:
    """Where a stream says that its last picture ends, in seconds, as most writers of Matroska note."""
    found = re.fullmatch(r"(\d+):(\d\d):(\d\d(?:\.\d+)?)", stream.metadata.get("DURATION", "").strip("\0 "))
    return None if found is None else 3600 * int(found[1]) + 60 * int(found[2]) + Fraction(found[3])


def _is_even(times: np.ndarray) -> bool:
    if len(times) < 2:
        return True
    step = (int(times[-1]) - int(times[0])) / (len(times) - 1)
    return bool(step > 0 and np.abs(times - times[0] - np.arange(len(times)) * step).max() <= _EVEN)


def _read_through(
    container: InputContainer, stream: VideoStream, path: str | os.PathLike[str], through: Callable[[float], object]
) -> _Found:
    pts: list[int] = []
    keys: list[tuple[int, int]] = []
    through(0.0)
    size = max(1, os.path.getsize(path))
    seek_back(container, 0, None)
    for packet in _packets(container, stream):
        if not packet.size:
            continue
        if packet.pos is not None:
            through(min(1.0, packet.pos / size))
        time = packet.pts if packet.pts is not None else packet.dts
        if time is None:
            continue
        if packet.is_keyframe:  # also one before what is shown, from which that is decoded
            keys.append((time, min(time, packet.dts if packet.dts is not None else time)))
        if not packet.is_discard:
            pts.append(time)
    if not pts:
        raise MediaError("it has no frames", file=path, remedy="Export it again")
    times = np.unique(np.array(pts, dtype=np.int64))
    found = np.array(sorted(keys) or [(times[0], times[0])], dtype=np.int64)
    return _Found(times, found[:, 0], found[:, 1], len(times))


def _rate(times: np.ndarray, stream: VideoStream) -> tuple[Rate, bool]:
    """The rate, and whether pictures come evenly. Uneven ones take the stream's base rate as their grid."""
    tick = Fraction(stream.time_base or Fraction(1, 1000))
    stated = stream.average_rate or stream.guessed_rate or Fraction(25)
    if len(times) < 2:
        return Rate.parse(Fraction(stated)), True
    measured = Fraction(len(times) - 1) / (int(times[-1] - times[0]) * tick)
    even = times[0] + np.arange(len(times)) * float(1 / (measured * tick))
    # A container that counts in milliseconds rounds each time; that is still even.
    steady = bool(np.abs(times - even).max() <= max(_EVEN, 0.2 / float(measured * tick)))
    if steady:
        near = abs(Fraction(stated) - measured) <= measured / 500
        return Rate.parse(Fraction(stated) if near else measured), True
    base = Fraction(stream.base_rate or stated)
    return Rate.parse(base if base <= 240 else Fraction(stated)), False
