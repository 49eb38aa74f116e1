"""A decoded frame, seen upright and with square pixels."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import gcd
from typing import Any, cast

import av
import cv2
import numpy as np
from av.video.plane import VideoPlane
from av.video.reformatter import ColorRange, Interpolation

from .colour import ColourTags, scaler_matrix, scaler_range
from .interlace import deinterlaced
from .recoding import luma_weights, recode


@dataclass(frozen=True)
class Planes:
    """An 8-bit 4:2:0 picture: ``y`` (height, width), ``u`` and ``v`` of half size, rounded up; uint8."""

    y: np.ndarray
    u: np.ndarray
    v: np.ndarray
    tags: ColourTags

    @property
    def width(self) -> int:
        return int(self.y.shape[1])

    @property
    def height(self) -> int:
        return int(self.y.shape[0])

    def scaled(self, width: int, height: int) -> Planes:
        """The whole picture at another even size, averaged by area where it shrinks."""
        half = (width // 2, height // 2)
        y = cv2.resize(self.y, (width, height), interpolation=cv2.INTER_AREA)
        u, v = (cv2.resize(c, half, interpolation=cv2.INTER_AREA) for c in (self.u, self.v))
        return Planes(y, u, v, replace(self.tags, matrix=self.tags.matrix_for(self.height)))

    def glanced(self, width: int, height: int) -> Planes:
        """As `scaled`, but where the size divides well in two steps, which is several times quicker: fit for the
        screen."""
        planes = (self.y, self.u, self.v)
        whole = gcd(*(side for plane in planes for side in plane.shape))
        most = min(self.width // width, self.height // height)
        by = max((d for d in range(2, min(most, whole) + 1) if whole % d == 0), default=1)
        if by == 1:
            return self.scaled(width, height)
        small = (cv2.resize(p, None, fx=1 / by, fy=1 / by, interpolation=cv2.INTER_AREA) for p in planes)
        ends = ((width, height), (width // 2, height // 2), (width // 2, height // 2))
        y, u, v = (cv2.resize(p, end, interpolation=cv2.INTER_AREA) for p, end in zip(small, ends, strict=True))
        return Planes(y, u, v, replace(self.tags, matrix=self.tags.matrix_for(self.height)))

    def mixed(self, other: Planes, share: float) -> Planes:
        """These planes and ``share`` (0..1) of others of the same size, mixed."""
        y, u, v = (
            cv2.addWeighted(np.ascontiguousarray(a), 1 - share, np.ascontiguousarray(b), share, 0)
            for a, b in ((self.y, other.y), (self.u, other.u), (self.v, other.v))
        )
        return replace(self, y=y, u=u, v=v)

    def recoded(self, matrix: int, full: bool) -> Planes:
        """The same colours by another H.273 matrix, in full or limited range; primaries and transfer stay."""
        now, wide = self.tags.matrix_for(self.height), self.tags.range == 2
        tags = replace(self.tags, matrix=matrix, range=2 if full else 1)
        if luma_weights(now) == luma_weights(matrix) and wide == full:
            return replace(self, tags=tags)
        return Planes(*recode(self.y, self.u, self.v, (now, wide), (matrix, full)), tags)

    def coded_as(self, other: Planes) -> Planes:
        """The same colours as `recoded` by the matrix and the range of other planes."""
        return self.recoded(other.tags.matrix_for(other.height), other.tags.range == 2)

    @classmethod
    def of_rgb(cls, rgb: np.ndarray) -> Planes:
        """An RGB picture, uint8 (height, width, 3) of even size, as planes in BT.709."""
        frame = av.VideoFrame.from_ndarray(rgb, format="rgb24").reformat(
            format="yuv420p", dst_colorspace=scaler_matrix(1), dst_color_range=ColorRange.MPEG
        )
        y, u, v = (_shown(plane) for plane in frame.planes)
        return cls(y, u, v, ColourTags(1, 1, 1, 1))

    @classmethod
    def glimpsed(cls, rgb: np.ndarray) -> Planes:
        """As `of_rgb`, but in BT.601 and with the colour of every second sample, twenty times quicker: fit for the
        screen."""
        height, width = rgb.shape[:2]
        flat = cv2.cvtColor(rgb, cv2.COLOR_RGB2YUV_I420).ravel()
        y, (u, v) = flat[: height * width], flat[height * width :].reshape(2, height // 2, width // 2)
        return cls(y.reshape(height, width), u, v, ColourTags(1, 1, 6, 1))

    def frame(self) -> av.VideoFrame:
        """As a frame for an encoder or the scaler, with its colour tags."""
        frame = av.VideoFrame(self.width, self.height, "yuv420p")
        for plane, data in zip(frame.planes, (self.y, self.u, self.v), strict=True):
            target = _bytes(plane).reshape(plane.height, plane.line_size)
            target[:, : data.shape[1]] = data
        frame.colorspace, frame.color_range = self.tags.matrix, self.tags.range
        frame.color_primaries, frame.color_trc = self.tags.primaries, self.tags.transfer
        return frame

    def rgb(self) -> np.ndarray:
        """RGB, uint8 (height, width, 3)."""
        return _rgb(self.frame(), self.width, self.height, self.tags)


class Picture:
    """One frame of a movie. Conversions are made when asked for and not kept."""

    def __init__(self, index: int, frame: av.VideoFrame, width: int, height: int, rotation: int) -> None:
        self.index = index
        self.width = width  # upright, square pixels
        self.height = height
        self._frame = frame
        self._turns = rotation // 90
        self.tags = ColourTags.of(frame)

    @property
    def nbytes(self) -> int:
        """Memory held, in bytes."""
        return sum(p.buffer_size for p in self._frame.planes)

    def luma(self) -> np.ndarray:
        """The stored luminance plane without copying, uint8 (height, width); as in `stored`."""
        return self.stored()[0]

    def stored(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """The three stored planes of 4:2:0 without copying, uint8 (height, width); neither turned nor squared.

        Ten-bit and other pictures are converted first.
        """
        frame = self._frame if _is_plain(self._frame) else self._frame.reformat(format="yuv420p")
        y, u, v = (_shown(plane) for plane in frame.planes)
        return y, u, v

    def whole(self) -> Picture:
        """The picture with its two fields made one, where it is interlaced."""
        y, u, v = (deinterlaced(plane) for plane in self.stored())
        made = Planes(y, u, v, self.tags).frame()
        return Picture(self.index, made, self.width, self.height, self._turns * 90)

    def numbered(self, index: int) -> Picture:
        """The same picture under another number."""
        return Picture(index, self._frame, self.width, self.height, self._turns * 90)

    def part(self, x: float, y: float, w: float, h: float, width: int, height: int) -> Picture:
        """A part of the picture, given as fractions, at an even size in pixels. Its edges fall on whole pixels."""
        whole = self.planes()
        left, top = round(x * whole.width / 2) * 2, round(y * whole.height / 2) * 2
        right = min(whole.width, max(left + 2, round((x + w) * whole.width / 2) * 2))
        foot = min(whole.height, max(top + 2, round((y + h) * whole.height / 2) * 2))
        cut = Planes(
            whole.y[top:foot, left:right],
            whole.u[top // 2 : (foot + 1) // 2, left // 2 : (right + 1) // 2],
            whole.v[top // 2 : (foot + 1) // 2, left // 2 : (right + 1) // 2],
            whole.tags,
        )
        if (cut.width, cut.height) != (width, height):
            cut = cut.scaled(width, height)
        return Picture(self.index, cut.frame(), width, height, 0)

    def mixed(self, other: Picture, share: float) -> Picture:
        """This picture and ``share`` (0..1) of another of the same size, mixed."""
        a, b = self.planes(), other.planes()
        return Picture(self.index, a.mixed(b, share).frame(), self.width, self.height, 0)

    def planes(self) -> Planes:
        """The picture upright, in square pixels, 8-bit 4:2:0. May share memory with the decoded frame."""
        frame = self._frame
        width, height = self._stored_square()
        if not _is_plain(frame) or (frame.width, frame.height) != (width, height):
            tags = self.tags
            frame = frame.reformat(
                width, height, "yuv420p", interpolation=Interpolation.BICUBIC,
                src_color_range=scaler_range(tags.range), dst_color_range=scaler_range(tags.range),
            )  # fmt: skip
        y, u, v = (_shown(plane) for plane in frame.planes)
        if self._turns:
            y, u, v = (np.ascontiguousarray(np.rot90(p, self._turns)) for p in (y, u, v))
        return Planes(y, u, v, self.tags)

    def rgb(self, width: int | None = None, height: int | None = None) -> np.ndarray:
        """RGB, uint8 (height, width, 3), scaled to the given size; the picture's own where none is given."""
        width, height = width or self.width, height or self.height
        if 2 * width <= self.width and 2 * height <= self.height and not (width % 2 or height % 2):
            return self.planes().scaled(width, height).rgb()  # reducing the planes first is several times cheaper
        turned = self._turns % 2
        image = _rgb(self._frame, height if turned else width, width if turned else height, self.tags)
        return np.ascontiguousarray(np.rot90(image, self._turns)) if self._turns else image

    def _stored_square(self) -> tuple[int, int]:
        return (self.height, self.width) if self._turns % 2 else (self.width, self.height)


def _bytes(plane: VideoPlane) -> np.ndarray:
    """The memory of a plane, without copying."""
    return np.frombuffer(cast(Any, plane), np.uint8)


def _is_plain(frame: av.VideoFrame) -> bool:
    return frame.format.name in ("yuv420p", "yuvj420p")


def _shown(plane: VideoPlane) -> np.ndarray:
    """The samples of a plane that are seen, without copying (height, width)."""
    rows = _bytes(plane)[: plane.height * plane.line_size].reshape(plane.height, plane.line_size)
    return np.asarray(rows[:, : plane.width])


def _rgb(frame: av.VideoFrame, width: int, height: int, tags: ColourTags) -> np.ndarray:
    shrinks = width < frame.width
    out = frame.reformat(
        width, height, "rgb24",
        src_colorspace=scaler_matrix(tags.matrix_for(frame.height)),
        src_color_range=scaler_range(tags.range), dst_color_range=ColorRange.JPEG,
        interpolation=Interpolation.AREA if shrinks else Interpolation.BICUBIC,
    )  # fmt: skip
    plane = out.planes[0]
    rows = _bytes(plane).reshape(height, plane.line_size)
    return np.ascontiguousarray(rows[:, : width * 3]).reshape(height, width, 3)
