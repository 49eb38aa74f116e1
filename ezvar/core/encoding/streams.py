"""Streams of a file that is being written: set up once, the same wherever pictures and sound are coded."""

from __future__ import annotations

import os
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import cast

import av
import numpy as np
from av.audio.stream import AudioStream
from av.container import OutputContainer
from av.video.reformatter import Interpolation, VideoReformatter
from av.video.stream import VideoStream

from ezvar.core.media import SOUND_RATE, ColourTags, Planes, scaler_matrix, scaler_range, sound_frame, sound_layout
from ezvar.core.model import PictureCoding, SoundCoding
from ezvar.core.timing import Rate

from .codecs import CODERS, SOUND_CODERS, encoder_options, grade_of

THREADS = 4
"""Threads of an encoder, however many the machine has: what comes out depends on their number."""


@dataclass(frozen=True)
class PictureForm:
    """What pictures of a movie are: how they are coded, width and height in pixels, rate and colour tags.

    ``bits`` a second, and for a moment ``peak``, count where the coding is rated so; segments that are joined have the
    same peak. ``group`` is the longest run of pictures without a key picture, 0 for what the encoder
    takes. ``threads`` are the encoder's.
    """

    coding: PictureCoding
    width: int
    height: int
    rate: Rate
    tags: ColourTags
    bits: int = 0
    peak: int = 0
    group: int = 0
    threads: int = THREADS


@dataclass(frozen=True)
class Pass:
    """One of two passes, and the file in which the first notes what the second reads."""

    number: int
    notes: str


class PictureStream:
    """Pictures being coded into a container, from 0 on. Colour tags are those of the form."""

    def __init__(self, out: OutputContainer, form: PictureForm, one_of_two: Pass | None = None) -> None:
        coding, grade = form.coding, grade_of(form.coding)
        options = encoder_options(coding, form.bits, form.peak, form.group) | extra_options(form, one_of_two)
        self.form, self._out = form, out
        encoder = CODERS[coding.codec].encoder
        self.stream = cast(VideoStream, out.add_stream(encoder, rate=form.rate.fraction, options=options))
        self.stream.width, self.stream.height, self.stream.pix_fmt = form.width, form.height, grade.samples
        codec = self.stream.codec_context
        self.stream.time_base = codec.time_base = 1 / form.rate.fraction
        codec.thread_count = form.threads
        codec.thread_type = "AUTO"  # slices, the library's default, are slower and compress less
        if grade.tag:
            codec.codec_tag = grade.tag
        tags = self._tags = tags_in(form)
        codec.color_primaries, codec.color_trc = tags.primaries, tags.transfer
        codec.colorspace, codec.color_range = tags.matrix, tags.range
        self._scaler = VideoReformatter()
        self.count = 0

    def put(self, planes: Planes) -> None:
        """Code the next picture."""
        frame = frame_as(as_coded(planes, self._tags), str(self.stream.pix_fmt), self._scaler)
        frame.pts, frame.time_base = self.count, 1 / self.form.rate.fraction
        self.count += 1
        self._out.mux(self.stream.encode(frame))

    def flush(self) -> None:
        """Code what the encoder still holds."""
        self._out.mux(self.stream.encode(None))


def as_coded(planes: Planes, tags: ColourTags) -> Planes:
    """Planes by the matrix and in the range of a stream."""
    if planes.tags == tags:
        return planes
    return planes.recoded(tags.matrix_for(planes.height), tags.range == 2)


def tags_in(form: PictureForm) -> ColourTags:
    """The colour tags that pictures of a form have in their file: a codec that cannot say their matrix or range gets
    them in one that it can."""
    coder, tags = CODERS[form.coding.codec], form.tags
    if coder.matrices and tags.matrix_for(form.height) not in coder.matrices:
        tags = replace(tags, matrix=coder.matrices[0])
    return replace(tags, range=2) if coder.full else tags


def frame_as(planes: Planes, samples: str, scaler: VideoReformatter) -> av.VideoFrame:
    """Planes as a frame whose samples are of a form that the library names, with their colours, matrix and range."""
    frame = planes.frame()
    if frame.format.name == samples:
        return frame
    rgb = samples.startswith(("rgb", "gbr"))
    now = scaler_matrix(planes.tags.matrix_for(planes.height)), scaler_range(planes.tags.range)
    full = scaler_range(2)
    made = scaler.reformat(
        frame, format=samples, interpolation=Interpolation.BICUBIC, threads=1, src_colorspace=now[0],
        dst_colorspace=now[0], src_color_range=now[1], dst_color_range=full if rgb or "j" in samples else now[1],
    )  # fmt: skip
    tags = planes.tags
    made.colorspace, made.color_range = (0 if rgb else tags.matrix), (2 if rgb or "j" in samples else tags.range)
    made.color_primaries, made.color_trc = tags.primaries, tags.transfer
    return made


def extra_options(form: PictureForm, one_of_two: Pass | None) -> dict[str, str]:
    """What goes to an encoder besides: passes, and what its own options take."""
    light = form.tags.light
    match form.coding.codec:
        case "h264":
            said = f"stitchable=1{_narrowed()}"  # what stands in front of pictures is the same in all parts
            if light is not None:
                said += f":mastering-display={light.said}:cll={light.content},{light.average}"
            options = {"x264-params": said}
            if one_of_two is not None:
                options |= {"flags": f"+pass{one_of_two.number}", "stats": one_of_two.notes}
            return options
        case "h265":
            # What it notes of itself would differ from part to part.
            own = ["open-gop=0", "log-level=error", "repeat-headers=0", "info=0"]
            if light is not None:
                own += [f"master-display={light.said}", f"max-cll={light.content},{light.average}"]
            if one_of_two is not None:
                own += [f"pass={one_of_two.number}", f"stats={one_of_two.notes}"]
            return {"x265-params": ":".join(own)}
        case "av1" if light is not None:
            content = f"content-light={light.content},{light.average}"
            return {"svtav1-params": f"mastering-display={light.said_in_full}:{content}"}
        case "jpeg":
            # The encoder's scale goes from 2, best, to 31.
            scale = round(2 + (100 - form.coding.quality) * 29 / 99)
            return {"qmin": str(scale), "qmax": str(scale)}
    return {}


@cache
def _narrowed() -> str:
    """What keeps x264 from the processor's widest instructions, where it has them. It comes to the same by any; but
    under load, on virtual machines, the widest were seen to come to something else now and then, and a movie is to be
    the same however often it is made."""
    try:
        flags = Path("/proc/cpuinfo").read_text(errors="replace")
    except OSError:
        return ""
    return ":asm=avx2" if " avx512f" in flags and " avx2" in flags else ""


os.environ.setdefault("SVT_LOG", "1")  # else the AV1 encoder writes about itself to the terminal


class SoundStream:
    """Sound being coded into a container: float32 (channels, samples) at 48 kHz."""

    def __init__(self, out: OutputContainer, coding: SoundCoding, channels: int) -> None:
        self._out = out
        name = SOUND_CODERS[coding.codec][0]
        self._layout = sound_layout(channels)
        self.stream = cast(AudioStream, out.add_stream(name, rate=SOUND_RATE, layout=self._layout))
        if coding.codec != "pcm":
            self.stream.bit_rate = coding.bits
        self._samples = 0

    def put(self, block: np.ndarray) -> None:
        frame = sound_frame(block, self._layout)
        frame.pts = self._samples
        self._samples += block.shape[1]
        self._out.mux(self.stream.encode(frame))

    def flush(self) -> None:
        """Code what the encoder still holds."""
        self._out.mux(self.stream.encode(None))
