"""What room a window has: how large it is in its picture, and where its centre can be."""

from __future__ import annotations

from dataclasses import dataclass

from ezvar.core.model import Rect

from .geometry import Size, placed_window

_NOTHING = 1e-4  # of the picture


@dataclass(frozen=True)
class Room:
    """A window's width and height, ``extent``, and the least and the greatest centres, ``limits``, across and down.

    All are fractions of the picture.
    """

    extent: tuple[float, float]
    limits: tuple[tuple[float, float], tuple[float, float]]

    @property
    def free(self) -> tuple[int, ...]:
        """The directions in which it can move: 0 across, 1 down."""
        return tuple(axis for axis in (0, 1) if self.limits[axis][1] - self.limits[axis][0] > _NOTHING)


def room_of(picture: Size, aspect: float, zoom: float, trim: Rect = Rect()) -> Room:
    """The room of an upright window of a shape and zoom in what ``trim`` leaves of a picture.

    In a direction in which it reaches past the picture it rests in the
    middle, though it could stand elsewhere.
    """
    ends = [placed_window(picture, aspect, at, at, zoom, trim=trim) for at in (-1.0, 2.0)]
    extent = (ends[0].width / picture.width, ends[0].height / picture.height)
    kept = ((trim.x, trim.width), (trim.y, trim.height))
    limits = []
    for axis, (begin, length) in enumerate(kept):
        if extent[axis] >= length - _NOTHING:
            middle = begin + length / 2
            limits.append((middle, middle))
        else:
            limits.append((begin + extent[axis] / 2, begin + length - extent[axis] / 2))
    return Room(extent, (limits[0], limits[1]))
