"""A picture that is seen through in places, to be laid over another: a title, a graphic, a caption."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np

from .colours.recoding import coding_levels
from .colours.tone import raising_table
from .picture import Picture
from .planes import Planes
from .still import read_still
from .tabled import tabled


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
        black, form = black_of(self.planes), self.planes.form
        y, u, v = (
            np.asarray(none + (plane.astype(np.float32) - none) * part + 0.5, form.dtype)
            for plane, part, none in (
                (self.planes.y, share, black), (self.planes.u, small, form.grey), (self.planes.v, small, form.grey)
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
        own = self._among(ground.tags.transfer) if ground.tags.hdr and not self.planes.tags.hdr else self
        own = own._deep if ground.form.depth > own.planes.form.depth else own
        cel = own.planes.coded_as(ground)
        parts = own._all_of_it if cel.y is own.planes.y and seen == 1 else _weighed(cel, self.opacity, seen)
        top, left = self.top, self.left
        rows, columns = slice(top, top + high), slice(left, left + wide)
        half = slice(top // 2, top // 2 + cel.u.shape[0]), slice(left // 2, left // 2 + cel.u.shape[1])
        for plane, place, (adds, keeps) in zip(into, ((rows, columns), half, half), parts, strict=True):
            plane[place] = (plane[place] * keeps + adds) >> 8

    def _among(self, transfer: int) -> Cel:
        """The same among pictures of HDR. What adds up over black is not what is seen there: each colour goes through
        the table as if nothing were seen through it."""
        if transfer not in self._raised:
            share = self.opacity.astype(np.float32) / 255
            black, form = black_of(self.planes), self.planes.form
            small = cv2.resize(share, self.planes.u.shape[::-1], interpolation=cv2.INTER_AREA)
            top = (1 << form.depth) - 1
            y, u, v = (
                np.clip(none + (plane.astype(np.float32) - none) / np.maximum(part, 1 / 255) + 0.5, 0, top)
                for plane, part, none in (
                    (self.planes.y, share, black), (self.planes.u, small, form.grey), (self.planes.v, small, form.grey)
                )
            )  # fmt: skip
            whole = replace(self.planes, y=y.astype(form.dtype), u=u.astype(form.dtype), v=v.astype(form.dtype))
            raised = tabled(whole.deep(), [raising_table(transfer)])
            opaque = Cel(raised, np.full(self.opacity.shape, 255, np.uint8))
            self._raised[transfer] = replace(self, planes=opaque.within(self.opacity).planes)
        return self._raised[transfer]

    @cached_property
    def _raised(self) -> dict[int, Cel]:
        return {}

    @cached_property
    def _deep(self) -> Cel:
        """The same for what is drawn in ten bits."""
        return replace(self, planes=self.planes.deep())

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
    """For each plane what a cel adds, and how much it keeps of what lies under it, both in 256ths: uint16, or uint32
    for ten bits."""
    form = planes.form
    top, wide = (1 << form.depth) - 1, np.uint16 if form.depth == 8 else np.uint32
    share = opacity.astype(np.float32) * np.float32(seen / 255)
    small = cv2.resize(share, planes.u.shape[::-1], interpolation=cv2.INTER_AREA)
    black = black_of(planes)
    made = []
    for plane, part, none in ((planes.y, share, black), (planes.u, small, form.grey), (planes.v, small, form.grey)):
        keeps = np.round((1 - part) * 256)
        adds = (plane.astype(np.float32) - none) * np.float32(seen) + none * part
        # Together they are a sample at most, half a step for rounding included.
        adds = np.clip(np.round(adds * 256) + 128, 128, (top << 8) + 255 - top * keeps)
        made.append((adds.astype(wide), keeps.astype(wide)))
    return made


def black_of(planes: Planes) -> int:
    """The luminance of black, as planes are coded."""
    return round(coding_levels(planes.tags.range == 2, planes.form.depth)[0])


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
