"""Opening movie files safely, and naming their content."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path
from typing import TypeVar

import av
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.video.stream import VideoStream

from ezvar.core.errors import MediaError, from_os
from ezvar.core.stalls import call_about
from ezvar.core.way_in import check_regular, open_regular

_FORMATS = (
    "mov", "matroska", "avi", "mpegts", "mpeg", "mpegvideo", "mxf", "mxf_opatom", "gxf", "dv", "asf", "flv", "nut",
    "ogg", "ivf", "h264", "hevc", "obu", "m4v", "mjpeg", "gif", "apng", "yuv4mpegpipe", "rm", "wav", "w64", "aiff",
    "flac", "mp3", "aac", "ac3", "eac3", "caf", "au", "srt", "webvtt",
)  # fmt: skip
"""The formats that are opened, by the library's names: none that lists other files, which would be followed unseen."""
LARGEST_PICTURE = 16_384
"""Pixels of a side of a picture."""
MOST_CHANNELS = 64
_SCHEME = "file:"
_PATIENCE = 60.0  # seconds that a look for data may take; a disk that was asleep comes back well within

_MATROSKA = b"\x1aE\xdf\xa3"  # how a file begins whose header says nearly all that is asked of its pictures elsewhere
_ENOUGH = "1000000"  # bytes of such pictures to be read on opening; they may be larger than that, each


def open_movie(path: str | os.PathLike[str]) -> InputContainer:
    """Open a local movie for reading.

    Remote addresses and lists of other files are never opened. Raises
    `MediaError` for whatever is not a readable movie file.
    """
    file = Path(path)
    if not check_regular(file, MediaError).st_size:
        raise MediaError("the file is empty", file=file, remedy="Copy or export it again")
    try:
        with open_regular(file, MediaError, "a movie") as begins:
            enough = {"probesize": _ENOUGH} if begins.read(len(_MATROSKA)) == _MATROSKA else {}
        how = {"protocol_whitelist": "file", "format_whitelist": ",".join(_FORMATS), **enough}
        with call_about(str(file)):
            return av.open(f"{_SCHEME}{file}", options=how, metadata_errors="replace", timeout=(_PATIENCE, _PATIENCE))
    except (av.error.FFmpegError, OSError, ValueError) as error:
        raise MediaError(
            "it is not a movie that can be read, or it is cut short",
            file=file,
            remedy="Choose another file, or copy it again",
        ) from error


def video_stream(container: InputContainer, path: str | os.PathLike[str]) -> VideoStream:
    """The first stream of moving pictures; cover pictures do not count. Raises `MediaError` for pictures too large."""
    for stream in container.streams.video:
        if not stream.disposition & av.stream.Disposition.attached_pic:
            if stream.codec_context is None:
                raise MediaError(
                    "its pictures are coded in a way that is unknown here", file=path, remedy="Export it again"
                )
            if max(stream.width, stream.height) > LARGEST_PICTURE:
                raise MediaError(
                    f"its pictures are larger than {LARGEST_PICTURE} pixels", file=path, remedy="Export it smaller"
                )
            return stream
    raise MediaError("it has no picture, only sound", file=path, remedy="Choose a movie with a picture")


def strictly(stream: VideoStream) -> VideoStream:
    """A stream whose decoder gives up pictures that it finds damaged, in place of guessing at them unsaid."""
    stream.codec_context.options = {**stream.codec_context.options, "err_detect": "explode"}
    return stream


def unsmoothed(stream: VideoStream) -> VideoStream:
    """A stream whose decoder leaves the edges of blocks in pictures to which no others refer: a fifth less work, and
    nothing is drawn on from it."""
    stream.codec_context.options = {**stream.codec_context.options, "skip_loop_filter": "noref"}
    return stream


_S = TypeVar("_S", VideoStream, AudioStream)


def packets_of(container: InputContainer, stream: _S) -> Iterator[av.Packet[_S]]:
    """The coded data of a stream from where the container stands.

    Damage makes streams turn up that nobody announced; what belongs to them is passed over. Raises FFmpeg's errors.
    """
    packets = container.demux(stream)
    while True:
        try:
            with call_about(_file(container)):
                packet = next(packets, None)
        except IndexError:
            packets = container.demux(stream)
            continue
        if packet is None:
            return
        yield packet


def in_decoder(container: InputContainer) -> AbstractContextManager[None]:
    """Around a call of a decoder, which may not come back from damaged data. Raises `MediaError` where one did not."""
    return call_about(_file(container))


def seek_back(container: InputContainer, ticks: int, stream: VideoStream | AudioStream | None) -> None:
    """Go to the last key before a time, in ticks of the stream. Raises FFmpeg's errors."""
    with call_about(_file(container)):
        container.seek(ticks, stream=stream, backward=True)


def _file(container: InputContainer) -> str:
    return container.name.removeprefix(_SCHEME)


@contextmanager
def reading(path: str | os.PathLike[str], doing: str, place: str | None = None) -> Iterator[None]:
    """Put what goes wrong while reading media into a `MediaError`."""
    try:
        yield
    except av.error.FFmpegError as error:
        raise MediaError(
            f"{doing} failed, its data are damaged or cut short", file=path, place=place, remedy="Copy it again"
        ) from error


def fingerprint(path: str | os.PathLike[str]) -> str:
    """A name for the content of a file: its size and 17 samples spread over it.

    Not a proof that two files are the same to the last byte; enough to keep
    an analysis with its movie when the file is moved or renamed.
    """
    block = 65_536
    digest = hashlib.sha256()
    try:
        size = check_regular(path, MediaError).st_size
        digest.update(str(size).encode())
        with open_regular(path, MediaError, "a movie") as file:
            for k in range(17):
                file.seek(max(0, (size - block) * k // 16))
                digest.update(file.read(block))
    except OSError as error:
        raise from_os(error, "read", path, MediaError) from error
    return digest.hexdigest()[:32]
