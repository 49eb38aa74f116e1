"""What a movie says of its colours, and what to take where it says nothing."""

from __future__ import annotations

from dataclasses import dataclass

from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace

from .light import MasteringLight

_UNSAID = 2
_BT709 = 1
_SMPTE170M = 6

HDR = (16, 18)
"""Transfers for more light than SDR's white: PQ (SMPTE ST 2084) and HLG (ARIB STD-B67), both in ITU-R BT.2100."""


@dataclass(frozen=True)
class ColourTags:
    """Code points of ITU-T H.273: primaries, transfer, matrix; range 1 limited, 2 full, 0 unsaid. ``light`` is the one
    that a movie was graded on, said of the whole of it and of none of its frames."""

    primaries: int = _UNSAID
    transfer: int = _UNSAID
    matrix: int = _UNSAID
    range: int = 0
    light: MasteringLight | None = None

    @classmethod
    def of(cls, frame: VideoFrame) -> ColourTags:
        return cls(int(frame.color_primaries), int(frame.color_trc), int(frame.colorspace), int(frame.color_range))

    @property
    def hdr(self) -> bool:
        """Whether colours are coded for more light than SDR's white."""
        return self.transfer in HDR

    def matrix_for(self, height: int) -> int:
        """The matrix to decode with: where none is said, BT.709 from 720 lines on, else BT.601."""
        if self.matrix != _UNSAID:
            return self.matrix
        return _BT709 if height >= 720 else _SMPTE170M


_SCALER_MATRIX = {
    1: Colorspace.ITU709,
    4: Colorspace.FCC,
    5: Colorspace.ITU601,
    6: Colorspace.SMPTE170M,
    7: Colorspace.SMPTE240M,
    9: Colorspace.BT2020,
    10: Colorspace.BT2020,
}


def scaler_matrix(matrix: int) -> Colorspace:
    """The scaler's name for an H.273 matrix; BT.601 for those it does not know."""
    return _SCALER_MATRIX.get(matrix, Colorspace.ITU601)


def scaler_range(code: int) -> ColorRange:
    """The scaler's name for a range; limited where unsaid."""
    return ColorRange.JPEG if code == 2 else ColorRange.MPEG
