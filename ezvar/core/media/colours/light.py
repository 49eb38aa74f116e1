"""The light that a movie was graded on (SMPTE ST 2086, CTA-861.3)."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from typing import Any, cast

from av.sidedata.sidedata import Type
from av.video.frame import VideoFrame

_CHROMATICITY, _LUMINANCE = 50_000, 10_000  # units in one
_SCREEN, _CONTENT = struct.Struct("=22i"), struct.Struct("=2I")


@dataclass(frozen=True)
class MasteringLight:
    """The screen that a movie was graded on: ``red``, ``green``, ``blue`` and ``white`` as x and y of CIE 1931 in
    50,000ths, ``darkest`` and ``brightest`` in 10,000ths of cd/m². ``content`` and ``average`` are the brightest sample
    and the brightest picture's mean, in cd/m²; 0 where that is not said.
    """

    red: tuple[int, int]
    green: tuple[int, int]
    blue: tuple[int, int]
    white: tuple[int, int]
    darkest: int
    brightest: int
    content: int = 0
    average: int = 0

    @property
    def peak(self) -> float:
        """The brightest light that is to be expected, in cd/m²."""
        screen = self.brightest / _LUMINANCE
        return min(screen, float(self.content)) if self.content else screen

    @property
    def said(self) -> str:
        """As encoders are told of the screen, in these units."""
        ends = zip("GBR", (self.green, self.blue, self.red), strict=True)
        primaries = "".join(f"{name}({x},{y})" for name, (x, y) in ends)
        return f"{primaries}WP({self.white[0]},{self.white[1]})L({self.brightest},{self.darkest})"

    @property
    def said_in_full(self) -> str:
        """As `said`, with x and y as such and light in cd/m²."""

        def at(place: tuple[int, int]) -> str:
            return f"({place[0] / _CHROMATICITY:g},{place[1] / _CHROMATICITY:g})"

        ends = zip("GBR", (self.green, self.blue, self.red), strict=True)
        light = f"L({self.brightest / _LUMINANCE:g},{self.darkest / _LUMINANCE:g})"
        return "".join(name + at(place) for name, place in ends) + f"WP{at(self.white)}{light}"

    def like(self, other: MasteringLight | None) -> bool:
        """Whether another is the same but for the rounding of a codec with units of its own."""
        if other is None:
            return False
        mine, others = (
            (*a.red, *a.green, *a.blue, *a.white, a.brightest / 100, a.darkest / 2, a.content, a.average)
            for a in (self, other)
        )
        return all(abs(a - b) <= 2 + a / 1000 for a, b in zip(mine, others, strict=True))


def light_of(frame: VideoFrame) -> MasteringLight | None:
    """What a decoded frame says of the light that it was graded on; ``None`` where it says too little."""
    data, levels_said = (_bytes(frame, kind) for kind in (Type.MASTERING_DISPLAY_METADATA, Type.CONTENT_LIGHT_LEVEL))
    if len(data) != _SCREEN.size:
        return None
    values = _SCREEN.unpack(data)
    if not all(values[20:]) or not all(values[1:20:2]):
        return None
    places = [round(_CHROMATICITY * values[k] / values[k + 1]) for k in range(0, 16, 2)]
    darkest, brightest = (round(_LUMINANCE * values[k] / values[k + 1]) for k in (16, 18))
    levels = _CONTENT.unpack(levels_said) if len(levels_said) == _CONTENT.size else (0, 0)
    red, green, blue, white = zip(places[::2], places[1::2], strict=True)
    if brightest <= darkest or min(places) < 0 or darkest < 0:
        return None
    return MasteringLight(red, green, blue, white, darkest, brightest, *levels)


def _bytes(frame: VideoFrame, kind: Type) -> bytes:
    said = cast(Any, frame.side_data).get(kind)
    return b"" if said is None else bytes(said)
