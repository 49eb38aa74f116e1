"""What a movie says of its colours, and what to take where it says nothing."""

from __future__ import annotations

from dataclasses import dataclass

from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace

_UNSAID = 2
_BT709 = 1
_SMPTE170M = 6


@dataclass(frozen=True)
class ColourTags:
    """Code points of ITU-T H.273: primaries, transfer, matrix; range 1 limited, 2 full, 0 unsaid."""

    primaries: int = _UNSAID
    transfer: int = _UNSAID
    matrix: int = _UNSAID
    range: int = 0

    @classmethod
    def of(cls, frame: VideoFrame) -> ColourTags:
        return cls(int(frame.color_primaries), int(frame.color_trc), int(frame.colorspace), int(frame.color_range))

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
