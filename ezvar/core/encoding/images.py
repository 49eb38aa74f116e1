"""Masters as numbered images: segments are folders of them, joined by linking their files."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from pathlib import Path
from types import MappingProxyType
from typing import cast

import av
from av.packet import Packet
from av.video.codeccontext import VideoCodecContext
from av.video.reformatter import VideoReformatter
from av.video.stream import VideoStream

from ezvar.core.media import Planes
from ezvar.core.model import Codec

from .codecs import CODERS, encoder_options, grade_of
from .segments import Segment
from .streams import PictureForm, as_coded, extra_options, frame_as, tags_in

_SUFFIXES: Mapping[Codec, str] = MappingProxyType({"png": ".png", "jpeg": ".jpg", "tiff": ".tif"})


def image_name(codec: Codec, number: int, stem: str = "") -> str:
    """The name of an image of a sequence."""
    return f"{stem}{number:06}{_SUFFIXES[codec]}"


def stem_of(folder: Path) -> str:
    """What the names of images in a finished folder begin with."""
    return f"{folder.name}."


class ImageWriter:
    """Images of a segment being coded into a folder, numbered from 0. `close` completes it."""

    def __init__(self, folder: str | os.PathLike[str], form: PictureForm) -> None:
        self._folder, self._form, self._tags = Path(folder), form, tags_in(form)
        self._folder.mkdir()
        coder = cast(VideoCodecContext, av.CodecContext.create(CODERS[form.coding.codec].encoder, "w"))
        coder.width, coder.height, coder.pix_fmt = form.width, form.height, grade_of(form.coding).samples
        coder.time_base = Fraction(1, 1000)
        coder.thread_count = form.threads
        coder.color_range = self._tags.range
        coder.options = encoder_options(form.coding) | extra_options(form, None)
        self._coder, self._scaler = coder, VideoReformatter()
        self._put = self._written = 0

    def picture(self, planes: Planes) -> None:
        """Add the next picture."""
        frame = frame_as(as_coded(planes, self._tags), str(self._coder.pix_fmt), self._scaler)
        frame.pts = self._put
        self._put += 1
        self._write(self._coder.encode(frame))

    def _write(self, packets: Sequence[Packet[VideoStream]]) -> None:
        for packet in packets:
            (self._folder / image_name(self._form.coding.codec, self._written)).write_bytes(bytes(packet))
            self._written += 1

    def close(self) -> None:
        self._write(self._coder.encode(None))

    def abandon(self) -> None:
        """Remove what was begun."""
        shutil.rmtree(self._folder, ignore_errors=True)  # what a disk will not remove is in nobody's way


def join_images(
    segments: Sequence[Segment], folder: Path, stem: str, codec: Codec,
    on_frame: Callable[[int], object] = lambda frame: None,
) -> None:  # fmt: skip
    """Put images of segments into a new folder, numbered from 1 behind a stem: linked, or copied where the disk knows
    no links. A segment whose ``first`` is above 0 is in a finished folder, and is that image of it."""
    folder.mkdir()
    done = 0
    for segment in segments:
        own = stem_of(segment.path) if segment.first else ""
        for number in range(segment.first, segment.first + segment.frames):
            done += 1
            image, target = segment.path / image_name(codec, number, own), folder / image_name(codec, done, stem)
            try:
                os.link(image, target)
            except OSError:
                shutil.copyfile(image, target)
            on_frame(done)
