"""A frame of a movie, seen upright and with square pixels."""

from __future__ import annotations

import numpy as np

from .planes import Planes


class Picture:
    """One frame of a movie, as planes that no decoder writes to. Safe across threads.

    ``stored`` are its planes as they are stored, neither turned nor squared;
    ``width`` and ``height`` its size upright and in square pixels. It is
    ``damaged`` where it stands in for one that cannot be decoded, or is drawn
    on from such a one, ``empty`` where it stands for media that are not
    there. ``opacity`` (height, width) uint8, upright, is where it is seen, of
    a reader that is asked for it. Other forms are made when asked for and not kept.
    """

    def __init__(
        self, index: int, stored: Planes, width: int, height: int, rotation: int = 0, damaged: bool = False,
        empty: bool = False, opacity: np.ndarray | None = None,
    ) -> None:  # fmt: skip
        self.index = index
        self.stored = stored
        self.width = width
        self.height = height
        self.tags = stored.tags
        self.damaged = damaged
        self.empty = empty
        self.opacity = opacity
        self._turns = rotation // 90

    @property
    def nbytes(self) -> int:
        """Memory held, in bytes."""
        return sum(p.nbytes for p in (self.stored.y, self.stored.u, self.stored.v))

    def numbered(self, index: int) -> Picture:
        """The same picture under another number."""
        turned = self._turns * 90
        return Picture(index, self.stored, self.width, self.height, turned, self.damaged, self.empty, self.opacity)

    def standing_for_nothing(self) -> Picture:
        """The same picture for media that are not there."""
        return Picture(self.index, self.stored, self.width, self.height, self._turns * 90, empty=True)

    def standing_in(self) -> Picture:
        """The same picture in place of one that cannot be decoded."""
        return Picture(self.index, self.stored, self.width, self.height, self._turns * 90, damaged=True)

    def cropped(self, x: float, y: float, w: float, h: float, width: int, height: int) -> Picture:
        """A part of the picture, given as fractions, at an even size in pixels. Its edges fall on whole pixels."""
        whole = self.planes()
        left, top = round(x * whole.width / 2) * 2, round(y * whole.height / 2) * 2
        right = min(whole.width, max(left + 2, round((x + w) * whole.width / 2) * 2))
        foot = min(whole.height, max(top + 2, round((y + h) * whole.height / 2) * 2))
        cut = whole.cut(left, top, right, foot)
        if (cut.width, cut.height) != (width, height):
            cut = cut.scaled(width, height)
        return Picture(self.index, cut, width, height, damaged=self.damaged, empty=self.empty)

    def mixed(self, other: Picture, share: float) -> Picture:
        """This picture and ``share`` (0..1) of another of the same size, mixed."""
        both = self.planes().mixed(other.planes(), share)
        return Picture(self.index, both, self.width, self.height, damaged=self.damaged or other.damaged)

    def planes(self) -> Planes:
        """The picture upright and in square pixels. May share memory with what is stored."""
        size = (self.height, self.width) if self._turns % 2 else (self.width, self.height)
        return self.stored.squared(*size).turned(self._turns)

    def glance(self, width: int, height: int) -> np.ndarray:
        """RGB, uint8, at a smaller even size (the picture's own where that is smaller): made more quickly than `rgb`
        and a little less exactly, fit for looking through."""
        planes = self.planes()
        if planes.width <= width or planes.height <= height:
            return planes.rgb()
        return planes.glanced(width, height).rgb()

    def rgb(self, width: int | None = None, height: int | None = None) -> np.ndarray:
        """RGB, uint8 (height, width, 3), scaled to the given size; the picture's own where none is given."""
        width, height = width or self.width, height or self.height
        if 2 * width <= self.width and 2 * height <= self.height and not (width % 2 or height % 2):
            return self.planes().scaled(width, height).rgb()  # reducing the planes first is several times cheaper
        turned = self._turns % 2
        image = self.stored.rgb(height if turned else width, width if turned else height)
        return np.ascontiguousarray(np.rot90(image, self._turns)) if self._turns else image


def fit_within(width: int, height: int, most_wide: int, most_high: int) -> tuple[int, int]:
    """The largest size of a shape within another, even, at least 2 × 2 and never enlarged.

    >>> fit_within(1920, 1080, 384, 216), fit_within(100, 50, 384, 216)
    ((384, 216), (100, 50))
    """
    if width > most_wide or height > most_high:
        across = most_high * width // height
        if across <= most_wide:
            width, height = across, most_high
        else:
            width, height = most_wide, most_wide * height // width
    return max(2, width // 2 * 2), max(2, height // 2 * 2)
