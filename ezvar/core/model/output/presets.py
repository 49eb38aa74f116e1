"""Presets: how finished movies are coded. Size and rate are not among them, those are the master's and the lock's."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from ..checks import finite

Codec = Literal["h264", "h265", "prores", "dnxhr", "vp9", "av1", "ffv1", "png", "jpeg", "tiff"]
Container = Literal["mp4", "mov", "mkv", "webm", "images"]
Rating = Literal["quality", "bit rate", "size"]
Effort = Literal["quick", "usual", "thorough"]
SoundCodec = Literal["aac", "opus", "pcm", "none"]
Channels = Literal["mono", "stereo", "all"]
CaptionsGo = Literal["burnt in", "beside", "embedded", "none"]
CaptionFile = Literal["srt", "vtt", "ttml"]

MOST_BITS = 2_000_000_000
QUIETEST, LOUDEST = -40.0, -5.0
"""LUFS that sound can be brought to."""


@dataclass(frozen=True, slots=True)
class PictureCoding:
    """How pictures are coded.

    ``depth`` is in bits a sample. ``grade`` is one of a codec's own kinds, for
    those that have some. What else decides how much is kept is said by
    ``rating``: a ``quality``, which for movies is the encoder's own number,
    less being better, and for JPEG 1 to 100; ``bits`` a second; or so many
    ``megabytes`` (of a million bytes) for the whole file. ``passes`` counts
    for the last two.
    """

    codec: Codec = "h264"
    container: Container = "mp4"
    depth: Literal[8, 10, 16] = 8
    grade: str = ""
    rating: Rating = "quality"
    quality: float = 17.0
    bits: int = 12_000_000
    megabytes: float = 100.0
    passes: Literal[1, 2] = 1
    effort: Effort = "usual"

    def __post_init__(self) -> None:
        finite(quality=self.quality, megabytes=self.megabytes)
        if not 1 <= self.bits <= MOST_BITS or not 0 < self.megabytes <= 1e7:
            raise ValueError("a movie has more than no bits and fewer than a disk holds")


@dataclass(frozen=True, slots=True)
class SoundCoding:
    """How sound is coded, with ``bits`` a second where the codec leaves a choice.

    Of ``all`` channels there are as many as the widest of what is heard has.
    Sound with as many comes channel for channel; other sound is mixed into
    them (ITU-R BS.775). What is coded in this way already and not to be
    changed may be ``copied``.

    It is brought to ``loudness`` in LUFS (EBU R 128) where one is wanted, as
    far as its true peaks stay below ``peak`` in dBTP.
    """

    codec: SoundCodec = "aac"
    bits: int = 256_000
    channels: Channels = "stereo"
    loudness: float | None = None
    peak: float = -1.0
    copied: bool = True

    def __post_init__(self) -> None:
        finite(peak=self.peak)
        if self.loudness is not None and not QUIETEST <= self.loudness <= LOUDEST:
            raise ValueError(f"loudness lies between {QUIETEST:g} and {LOUDEST:g} LUFS")
        if not 8_000 <= self.bits <= 10_000_000:
            raise ValueError("sound has between 8,000 and 10,000,000 bits a second")


@dataclass(frozen=True, slots=True)
class Preset:
    """A named way of coding finished movies, and what becomes of captions in them."""

    name: str
    picture: PictureCoding = field(default_factory=PictureCoding)
    sound: SoundCoding = field(default_factory=SoundCoding)
    captions: CaptionsGo = "burnt in"
    caption_file: CaptionFile = "srt"

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise ValueError("a preset has a name")
