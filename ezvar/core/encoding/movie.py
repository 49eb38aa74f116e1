"""Writing an H.264 MP4 with AAC sound."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

import av
import numpy as np
from av.audio.stream import AudioStream
from av.video.stream import VideoStream

from ezvar.core.media import EIGHT_BIT_420, SOUND_RATE, ColourTags, Planes
from ezvar.core.timing import Rate


@dataclass(frozen=True)
class Settings:
    """How a movie is coded: options of the encoder, and bits a second for its sound."""

    video: Mapping[str, str]
    sound_bits: int


DELIVERY = Settings({"preset": "fast", "crf": "17", "profile": "high"}, 256_000)
"""Visibly lossless."""
REVIEW = Settings({"preset": "superfast", "crf": "27", "profile": "main", "g": "25"}, 96_000)
"""Small and quick, and quick to be gone to any place of."""
THREADS = 4
"""Threads of the encoder, however many the machine has: what comes out depends on their number."""


class MovieWriter:
    """An MP4 being written. `close` completes it; without it the file is no movie."""

    def __init__(
        self, path: str | os.PathLike[str], width: int, height: int, rate: Rate, tags: ColourTags, sound: bool,
        timecode: str | None = None, threads: int = THREADS, settings: Settings = DELIVERY,
    ) -> None:  # fmt: skip
        self._out = av.open(str(path), "w", format="mp4", options={"movflags": "+faststart+write_colr"})
        self._rate = rate
        self._video: VideoStream = self._out.add_stream("libx264", rate=rate.fraction, options=dict(settings.video))
        self._video.width, self._video.height = width, height
        self._video.pix_fmt = EIGHT_BIT_420.name
        self._video.time_base = self._video.codec_context.time_base = 1 / rate.fraction
        codec = self._video.codec_context
        codec.thread_count = threads
        codec.thread_type = "AUTO"  # slices, the library's default, are slower and compress less
        codec.color_primaries, codec.color_trc = tags.primaries, tags.transfer
        codec.colorspace, codec.color_range = tags.matrix, tags.range
        if timecode:
            self._video.metadata["timecode"] = timecode
        self._audio: AudioStream | None = None
        if sound:
            self._audio = self._out.add_stream("aac", rate=SOUND_RATE, layout="stereo")
            self._audio.bit_rate = settings.sound_bits
        self._pictures = 0
        self._samples = 0

    def picture(self, planes: Planes) -> None:
        """Add the next picture, of the form that the movie has. Raises `ValueError` for another."""
        if planes.form.name != self._video.pix_fmt:
            raise ValueError(f"a picture in {planes.form.name} does not go into a movie in {self._video.pix_fmt}")
        frame = planes.frame()
        frame.pts, frame.time_base = self._pictures, 1 / self._rate.fraction
        self._pictures += 1
        self._out.mux(self._video.encode(frame))

    def sound(self, block: np.ndarray) -> None:
        """Add sound, float32 (2, samples) at 48 kHz."""
        assert self._audio is not None
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = SOUND_RATE, self._samples, Fraction(1, SOUND_RATE)
        self._samples += block.shape[1]
        self._out.mux(self._audio.encode(frame))

    def close(self) -> None:
        """Flush and complete the movie."""
        self._out.mux(self._video.encode(None))
        if self._audio is not None:
            self._out.mux(self._audio.encode(None))
        self._out.close()

    def abandon(self) -> None:
        """Let go of the file without completing it."""
        try:
            self._out.close()
        except (av.error.FFmpegError, OSError):
            return  # the disk that refused the data refuses the end as well; the file is removed anyway
