"""Receiving profiles: what a receiver of masters takes."""

from __future__ import annotations

from dataclasses import dataclass

from ezvar.core.timing import exact

from ..checks import finite
from .presets import CaptionsGo, Codec, Container, SoundCodec


@dataclass(frozen=True, slots=True)
class Receiving:
    """What a receiver of masters takes. What is empty, or ``None``, is all the same to it.

    ``shapes`` are as people write them, "9:16"; ``smallest`` and ``largest``
    are in pixels of the shorter and the longer side; ``rates`` are frames a
    second, "30000/1001"; ``loudness`` is from and to in LUFS.
    """

    name: str
    shapes: tuple[str, ...] = ()
    smallest: int | None = None
    largest: int | None = None
    seconds: float | None = None
    megabytes: float | None = None
    pictures: tuple[Codec, ...] = ()
    containers: tuple[Container, ...] = ()
    sounds: tuple[SoundCodec, ...] = ()
    rates: tuple[str, ...] = ()
    loudness: tuple[float, float] | None = None
    captions: tuple[CaptionsGo, ...] = ()

    def __post_init__(self) -> None:
        finite(seconds=self.seconds or 0.0, megabytes=self.megabytes or 0.0)
        if not self.name.strip():
            raise ValueError("a receiving profile has a name")
        for text in self.rates:
            exact(text)
        if self.loudness is not None and self.loudness[0] > self.loudness[1]:
            raise ValueError("loudness lies from a quieter to a louder one")
