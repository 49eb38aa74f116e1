"""How many bits each segment of a row gets, where a bit rate or a size is asked for: the row as a whole keeps to it."""

from __future__ import annotations

from fractions import Fraction

import av

from ezvar.core.encoding import Segment
from ezvar.core.model import Preset
from ezvar.core.timing import Rate

_LEAST = 16_000  # bits a second, below which no encoder makes a picture
_HELD_BACK = 0.02  # of a size limit: what encoders may be off by, and what the container itself takes
_PEAK = 3  # times a row's bits a second that it may have for a moment
_HEAD = 40_000  # bytes of a file that are no pictures and no sound


class Budget:
    """The bits of a row's pictures of so many ``frames``.

    Weights are what first passes of its segments have come to at one
    quality, so that bits go where they are needed; without them each frame
    weighs the same.
    """

    def __init__(self, preset: Preset, frames: int, rate: Rate) -> None:
        picture, sound = preset.picture, preset.sound
        seconds = rate.seconds(frames)
        if picture.rating == "size":
            self._heard = sound.bits * seconds if sound.codec in ("aac", "opus") else Fraction(0)
            whole = Fraction((1 - _HELD_BACK) * (picture.megabytes * 1e6 - _HEAD) * 8) - self._heard
        else:
            self._heard, whole = Fraction(0), Fraction(picture.bits) * seconds
        self._left, self._rate = whole, rate
        self.peak = max(_PEAK * _LEAST, int(_PEAK * whole / seconds))
        self._limited, self._harder = picture.rating == "size", 1.0
        self._weights: dict[str, float] = {}

    def wants(self, name: str, frames: int, weight: float | None = None) -> None:
        """A segment is to be made."""
        self._weights[name] = float(frames if weight is None else max(weight, 1.0))

    def spent(self, name: str, bits: int) -> None:
        """A segment is made, and took so many."""
        self._weights.pop(name, None)
        self._left -= bits

    def heard(self, bits: int) -> None:
        """The sound is coded, and takes so many."""
        if self._limited:
            self._left += self._heard - bits
            self._heard = Fraction(bits)

    def rate_of(self, name: str, frames: int) -> int:
        """Bits a second for a segment that is to be made: its share of what is left."""
        share = self._weights[name] / sum(self._weights.values())
        return min(
            self.peak, max(_LEAST, int(self._left * Fraction(share * self._harder) / self._rate.seconds(frames)))
        )

    @property
    def over(self) -> bool:
        """Whether the segments that are made take more than a size allows."""
        return self._limited and self._left < 0

    def again(self, made: dict[str, tuple[int, int]]) -> None:
        """Segments, by their names with the frames and bits that they have, are to be made again, with as many fewer
        bits as they were over; they are weighed by what they took."""
        took = sum(bits for _, bits in made.values())
        allowed = self._left + took
        self._harder *= float(allowed / took) * (1 - _HELD_BACK) if took else 1.0
        self._left = allowed
        for name, (frames, bits) in made.items():
            self.wants(name, frames, bits)


def coded_bits(segment: Segment, rate: Rate) -> int:
    """The bits that the pictures of a segment take."""
    found = 0
    with av.open(str(segment.path)) as movie:
        stream = movie.streams.video[0]
        tick = Fraction(stream.time_base or 1)
        if segment.first:
            movie.seek(int(rate.seconds(segment.first) / tick), stream=stream, backward=True)
        left = segment.frames
        for packet in movie.demux(stream):
            if packet.size and packet.pts is not None:
                shown = round(packet.pts * tick * rate.fraction) - segment.first
                if 0 <= shown < segment.frames:
                    found, left = found + packet.size * 8, left - 1
            if not left:
                break
    return found
