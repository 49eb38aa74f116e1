"""A picture that is seen through in places, to be laid over another: a title, a graphic, a caption."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np

from .picture import Picture
from .planes import Planes
from .still import read_still

_BLACK = 16, 0  # luminance of black in limited and in full range
_GREY = 128


@dataclass(frozen=True)
class Cel:
    """``planes`` over black, and ``opacity`` (height, width) uint8: 255 where nothing is seen through it. It lies at
    even ``left`` and ``top`` of what it is laid over.

    Over black, since colour is sampled more coarsely than opacity: what is
    transparent has no colour that could bleed.
    """

    planes: Planes
    opacity: np.ndarray
    left: int = 0
    top: int = 0

    def __post_init__(self) -> None:
        if self.opacity.shape != self.planes.y.shape:
            raise ValueError("a cel says of each sample how far it is seen")

    @property
    def opaque(self) -> bool:
        """Whether nothing is seen through it."""
        return bool(self.opacity.min() == 255)

    def within(self, opacity: np.ndarray) -> Cel:
        """This cel, where another ``opacity`` (height, width) uint8 shows it."""
        share = opacity.astype(np.float32) / 255
        small = cv2.resize(share, self.planes.u.shape[::-1], interpolation=cv2.INTER_AREA)
        black = black_of(self.planes)
        y, u, v = (
            np.asarray(none + (plane.astype(np.float32) - none) * part + 0.5, np.uint8)
            for plane, part, none in (
                (self.planes.y, share, black), (self.planes.u, small, _GREY), (self.planes.v, small, _GREY)
            )
        )  # fmt: skip
        return replace(
            self, planes=replace(self.planes, y=y, u=u, v=v), opacity=np.asarray(self.opacity * share + 0.5, np.uint8)
        )

    def trimmed(self) -> Cel | None:
        """The part of it that is seen, from even samples on; ``None`` where nothing is."""
        rows, columns = (np.flatnonzero(self.opacity.any(axis=axis)) for axis in (1, 0))
        if not len(rows):
            return None
        top, foot = int(rows[0]) // 2 * 2, int(rows[-1]) + 1
        left, right = int(columns[0]) // 2 * 2, int(columns[-1]) + 1
        part = self.planes.cut(left, top, right, foot)
        return Cel(part, self.opacity[top:foot, left:right], self.left + left, self.top + top)

    def lay_on(self, ground: Planes, into: tuple[np.ndarray, np.ndarray, np.ndarray], seen: float) -> None:
        """Lay this cel, of which ``seen`` 0..1 is seen, over samples that are coded as ``ground``, which it changes.

        Beside it they stay as they are.
        """
        high, wide = self.opacity.shape
        cel = self.planes.coded_as(ground)
        parts = self._all_of_it if cel.y is self.planes.y and seen == 1 else _weighed(cel, self.opacity, seen)
        top, left = self.top, self.left
        rows, columns = slice(top, top + high), slice(left, left + wide)
        half = slice(top // 2, top // 2 + cel.u.shape[0]), slice(left // 2, left // 2 + cel.u.shape[1])
        for plane, place, (adds, keeps) in zip(into, ((rows, columns), half, half), parts, strict=True):
            plane[place] = (plane[place] * keeps + adds) >> 8

    @cached_property
    def _all_of_it(self) -> list[tuple[np.ndarray, np.ndarray]]:
        """What is the same for every picture that it lies over."""
        return _weighed(self.planes, self.opacity, 1.0)


def laid_over(cels: Iterable[tuple[Cel, float]], ground: Planes) -> Planes:
    """Cels over a picture that holds all of them, each with how much of it is seen, 0..1, the first lowest.

    Beside them the picture stays as it is, to the sample.
    """
    made: tuple[np.ndarray, np.ndarray, np.ndarray] | None = None
    for cel, seen in cels:
        if made is None:
            made = ground.y.copy(), ground.u.copy(), ground.v.copy()
        cel.lay_on(ground, made, seen)
    return ground if made is None else replace(ground, y=made[0], u=made[1], v=made[2])


def _weighed(planes: Planes, opacity: np.ndarray, seen: float) -> list[tuple[np.ndarray, np.ndarray]]:
    """For each plane what a cel adds, and how much it keeps of what lies under it, both uint16 in 256ths."""
    share = opacity.astype(np.float32) * np.float32(seen / 255)
    small = cv2.resize(share, planes.u.shape[::-1], interpolation=cv2.INTER_AREA)
    black = black_of(planes)
    made = []
    for plane, part, none in ((planes.y, share, black), (planes.u, small, _GREY), (planes.v, small, _GREY)):
        keeps = np.round((1 - part) * 256)
        adds = (plane.astype(np.float32) - none) * np.float32(seen) + none * part
        # Together they are a sample at most, half a step for rounding included.
        adds = np.clip(np.round(adds * 256) + 128, 128, 65535 - 255 * keeps)
        made.append((adds.astype(np.uint16), keeps.astype(np.uint16)))
    return made


def black_of(planes: Planes) -> int:
    """The luminance of black, as planes are coded."""
    return _BLACK[planes.tags.range == 2]


def cel_of(picture: Picture) -> Cel:
    """A movie's picture with the opacity that it came with; one without is seen whole."""
    planes = picture.planes()
    whole = Cel(planes, np.full(planes.y.shape, 255, np.uint8))
    if picture.opacity is None:
        return whole
    return whole.within(cv2.resize(picture.opacity, planes.y.shape[::-1], interpolation=cv2.INTER_AREA))


def read_cel(path: str | os.PathLike[str]) -> Cel:
    """A still with its opacity. Raises `MediaError` as `read_still`."""
    still = read_still(path)
    planes = still.picture.planes()
    opacity = still.opacity
    return Cel(planes, np.full(planes.y.shape, 255, np.uint8) if opacity is None else opacity)
