"""Movies in segments: each coded by itself, then joined without being coded again."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from types import TracebackType

import av
import numpy as np
from av.audio.stream import AudioStream
from av.container import InputContainer, OutputContainer
from av.packet import Packet
from av.video.stream import VideoStream

from ezvar.core.errors import OutputError
from ezvar.core.media import Planes, probe
from ezvar.core.model import Codec, Container, SoundCodec, SoundCoding
from ezvar.core.timing import Rate

from .codecs import CODERS, FORMATS, grade_of
from .embedded import CaptionStream, EmbeddedCaptions
from .streams import Pass, PictureForm, PictureStream, SoundStream

_HOLDS: dict[Codec, Container] = {"ffv1": "mkv", "prores": "mov", "dnxhr": "mov"}  # all others are in MP4
_SOUND_HOLDS: dict[SoundCodec, Container] = {"pcm": "mov"}


@dataclass(frozen=True)
class Segment:
    """Coded pictures in a file: so many ``frames`` from its picture ``first`` on, which is a key picture."""

    path: Path
    frames: int
    first: int = 0


def segment_suffix(codec: Codec) -> str:
    """How files that hold one segment end."""
    return f".{_HOLDS.get(codec, 'mp4')}"


class SegmentWriter:
    """A segment being coded. `close` completes it; without it the file is none."""

    def __init__(self, path: str | os.PathLike[str], form: PictureForm, one_of_two: Pass | None = None) -> None:
        container = _HOLDS.get(form.coding.codec, "mp4")
        self._out = av.open(str(path), "w", format=FORMATS[container], options=_options(container, form.rate))
        self._pictures = PictureStream(self._out, form, one_of_two)

    def picture(self, planes: Planes) -> None:
        """Add the next picture."""
        self._pictures.put(planes)

    def close(self) -> None:
        self._pictures.flush()
        self._out.close()

    def abandon(self) -> None:
        """Let go of the file without completing it."""
        let_go(self._out)


def let_go(out: OutputContainer) -> None:
    """Close a file that is not to be completed."""
    try:
        out.close()
    except (av.error.FFmpegError, OSError):
        return  # the disk that refused the data refuses the end as well; the file is removed anyway


def _options(container: Container, rate: Rate) -> dict[str, str]:
    # The file's own clock counts as the pictures do, so that edit lists are exact.
    return {"movie_timescale": str(rate.fraction.numerator)} if container in ("mp4", "mov") else {}


def file_options(container: Container, rate: Rate) -> dict[str, str]:
    """How a finished file is laid out: what players need first stands first, colours are said for every player."""
    match container:
        case "mp4" | "mov":
            return {"movflags": "+faststart+write_colr", **_options(container, rate)}
        case _:
            return {"cues_to_front": "1"}


@dataclass(frozen=True)
class SoundFile:
    """Sound that is coded already: in which file, how, of how many channels, and as which of its sound tracks, counted
    from 1; in a movie it is called by its ``name``. What is ``copied`` was not coded here, and lies in its movie
    against the first picture."""

    path: Path
    coding: SoundCoding
    channels: int
    track: int = 1
    copied: bool = False
    name: str = ""


def sound_suffix(codec: SoundCodec) -> str:
    """How files that hold sound alone end."""
    return f".{_SOUND_HOLDS.get(codec, 'mp4')}"


def write_sound(
    path: str | os.PathLike[str], coding: SoundCoding, channels: int, blocks: Iterable[np.ndarray]
) -> SoundFile:  # fmt: skip
    """Code sound, float32 ``blocks`` (channels, samples) at 48 kHz, into a file of its own."""
    out = av.open(str(path), "w", format=FORMATS[_SOUND_HOLDS.get(coding.codec, "mp4")])
    try:
        stream = SoundStream(out, coding, channels)
        for block in blocks:
            stream.put(block)
        stream.flush()
        out.close()
    except BaseException:
        let_go(out)
        raise
    return SoundFile(Path(path), coding, channels)


def join(
    segments: Sequence[Segment], target: str | os.PathLike[str], form: PictureForm, sounds: Sequence[SoundFile] = (),
    captions: Sequence[EmbeddedCaptions] = (), timecode: str | None = None,
    on_frame: Callable[[int], object] = lambda frame: None,
) -> None:  # fmt: skip
    """Put segments of one form, in order, into a file with sound and captions; nothing is coded again.

    ``on_frame`` is told of each picture that is in, and may raise. Raises
    `OutputError` for a segment that is not whole or is of another form; what
    the disk refuses is raised as the library has it, and no file is then
    complete.
    """
    container = form.coding.container
    out = av.open(str(target), "w", format=FORMATS[container], options=file_options(container, form.rate))
    try:
        with ExitStack() as stack:
            readers = [stack.enter_context(_Packets(s, form)) for s in segments[:1]]
            stream = out.add_stream_from_template(readers[0].stream, opaque=True)
            stream.time_base = 1 / form.rate.fraction
            if tag := grade_of(form.coding).tag:  # a copy of a stream has lost it
                stream.codec_context.codec_tag = tag
            if timecode:
                stream.metadata["timecode"] = timecode
            beside: list[_InStep | CaptionStream] = [
                *(_InStep(out, sound, stack) for sound in sounds),
                *(CaptionStream(out, container, each, stack) for each in captions),
            ]
            _in_order(out, stream, segments, form, beside, on_frame)
            for each in beside:
                each.up_to(None)
        out.close()
    except BaseException:
        let_go(out)
        raise


def _in_order(
    out: OutputContainer, stream: VideoStream, segments: Sequence[Segment], form: PictureForm,
    beside: Sequence[_InStep | CaptionStream], on_frame: Callable[[int], object],
) -> None:  # fmt: skip
    late = max(_delay(each, form) for each in segments)
    head: bytes | None = None
    done = 0
    for segment in segments:
        with _Packets(segment, form) as packets:
            said = bytes(packets.stream.codec_context.extradata or b"")
            if head is not None and said != head:
                raise OutputError("a part of it was coded in another way", file=segment.path, remedy="Make it again")
            head = said
            for n, (shown, packet) in enumerate(packets):
                packet.pts, packet.dts, packet.duration = done + shown, done + n - late, 1
                packet.time_base, packet.stream = 1 / form.rate.fraction, stream
                for each in beside:
                    each.up_to(form.rate.seconds(done + n + 1))
                out.mux(packet)
                on_frame(done + n + 1)
        done += segment.frames


def _delay(segment: Segment, form: PictureForm) -> int:
    """By how many pictures a segment's are decoded before they are shown."""
    if not CODERS[form.coding.codec].reorders:
        return 0
    with _Packets(segment, form) as packets:
        return max(n - shown for n, (shown, _) in enumerate(packets))


class _Packets:
    """The coded pictures of a segment as they are stored, each with its place among those shown, from 0 on."""

    def __init__(self, segment: Segment, form: PictureForm) -> None:
        self._segment, self._form = segment, form
        try:
            self._container: InputContainer = av.open(str(segment.path))
        except (av.error.FFmpegError, OSError) as error:
            raise OutputError("a part of it cannot be read", file=segment.path, remedy="Make it again") from error
        self.stream: VideoStream = self._container.streams.video[0]

    def __enter__(self) -> _Packets:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._container.close()

    def __iter__(self) -> Iterator[tuple[int, Packet[VideoStream]]]:
        first, frames, rate = self._segment.first, self._segment.frames, self._form.rate
        tick = Fraction(self.stream.time_base or 1)
        if first:
            self._container.seek(int(rate.seconds(first) / tick), stream=self.stream, backward=True)
        found = 0
        for packet in self._container.demux(self.stream):
            if not packet.size or packet.pts is None:
                continue
            shown = round(packet.pts * tick * rate.fraction) - first
            if 0 <= shown < frames:
                found += 1
                yield shown, packet
                if found == frames:
                    return
        raise OutputError(
            f"a part of it has {found} pictures, not {frames}", file=self._segment.path, remedy="Make it again"
        )


class _InStep:
    """Coded sound that goes in with the pictures, so that the file is interleaved well."""

    def __init__(self, out: OutputContainer, sound: SoundFile, stack: ExitStack) -> None:
        self._out = out
        coded = stack.enter_context(av.open(str(sound.path)))
        own = coded.streams.audio[sound.track - 1]
        # Set up as if it were coded here: by that the file says how much of its beginning only primes a decoder.
        self._stream = out.add_stream_from_template(own) if sound.copied else SoundStream(
            out, sound.coding, sound.channels
        ).stream  # fmt: skip
        for key in ("title", "handler_name") if sound.name else ():
            self._stream.metadata[key] = sound.name
        self._zero = round(probe(sound.path).zero / Fraction(own.time_base or 1)) if sound.copied else 0
        self._packets = coded.demux(own)
        self._next = self._following()

    def _following(self) -> Packet[AudioStream] | None:
        for packet in self._packets:
            if packet.size and packet.pts is not None:
                packet.pts -= self._zero
                packet.dts = packet.pts
                return packet
        return None

    def up_to(self, seconds: Fraction | None) -> None:
        """Put in what is heard before a time, or all that is left."""
        while (packet := self._next) is not None:
            if seconds is not None and packet.pts is not None and packet.pts * packet.time_base > seconds:
                return
            packet.stream = self._stream
            self._out.mux(packet)
            self._next = self._following()
