"""Pictures as planes of samples: what decoders hand over, what is drawn, and what encoders are given."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, cast

import av
import cv2
import numpy as np
from av.video.plane import VideoPlane
from av.video.reformatter import ColorRange, Interpolation, VideoReformatter

from .colours.recoding import luma_weights, recode
from .colours.tags import ColourTags, scaler_matrix, scaler_range
from .interlace import deinterlaced

_PLAIN = ("yuv420p", "yuvj420p", "yuv420p10le")  # the library's names for what planes hold


@dataclass(frozen=True)
class SampleForm:
    """How a picture is sampled: bits of a sample, how much finer luma is than chroma across and down, and whether it
    says where it is seen through. ``name`` is the decoder library's. Samples of more than 8 bits are the lower ones of
    16."""

    depth: int
    chroma: tuple[int, int]
    alpha: bool
    name: str

    @property
    def grey(self) -> int:
        """The level of no colour difference."""
        return 1 << (self.depth - 1)

    @property
    def dtype(self) -> type[np.uint8] | type[np.uint16]:
        return np.uint8 if self.depth == 8 else np.uint16


EIGHT_BIT_420 = SampleForm(8, (2, 2), False, "yuv420p")
TEN_BIT_420 = SampleForm(10, (2, 2), False, "yuv420p10le")
_FINER = 4  # levels of ten bits in one of eight


@dataclass(frozen=True)
class Planes:
    """A picture: ``y`` (height, width), ``u`` and ``v`` as its ``form`` says, rounded up: 8-bit or 10-bit 4:2:0.

    Nothing writes to the samples, so that all threads may look at them. Raises `ValueError` for samples of another
    form.
    """

    y: np.ndarray
    u: np.ndarray
    v: np.ndarray
    tags: ColourTags
    form: SampleForm = EIGHT_BIT_420

    def __post_init__(self) -> None:
        across, down = self.form.chroma
        small = (-(-self.y.shape[0] // down), -(-self.y.shape[1] // across))
        if (
            self.u.shape != small
            or self.v.shape != small
            or any(p.dtype != self.form.dtype for p in (self.y, self.u, self.v))
        ):
            raise ValueError(f"these samples are not {self.form.name}")

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
        return replace(self, y=y, u=u, v=v, tags=replace(self.tags, matrix=self.tags.matrix_for(self.height)))

    def glanced(self, width: int, height: int) -> Planes:
        """As `scaled`, but halved as often as it goes and then drawn from neighbours, which is several times quicker:
        fit for the screen and for looking through."""
        ends = ((width, height), (width // 2, height // 2), (width // 2, height // 2))
        y, u, v = (_glanced(plane, *end) for plane, end in zip((self.y, self.u, self.v), ends, strict=True))
        return replace(self, y=y, u=u, v=v, tags=replace(self.tags, matrix=self.tags.matrix_for(self.height)))

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
        y, u, v = recode(self.y, self.u, self.v, (now, wide), (matrix, full), self.form.depth)
        return replace(self, y=y, u=u, v=v, tags=tags)

    def deep(self) -> Planes:
        """The same picture in samples of ten bits."""
        if self.form.depth == TEN_BIT_420.depth:
            return self
        y, u, v = (plane.astype(np.uint16) * _FINER for plane in (self.y, self.u, self.v))
        return Planes(y, u, v, self.tags, TEN_BIT_420)

    def shallow(self) -> Planes:
        """The same picture in samples of eight bits, each rounded."""
        if self.form.depth == EIGHT_BIT_420.depth:
            return self
        y, u, v = (cv2.convertScaleAbs(plane, alpha=1 / _FINER) for plane in (self.y, self.u, self.v))
        return Planes(y, u, v, self.tags)

    @property
    def stated(self) -> ColourTags:
        """Its colour tags, said where they are not: a player decides for unsaid ones by size, which may change."""
        if (self.tags.matrix, self.tags.primaries, self.tags.transfer) == (2, 2, 2):
            return replace(self.tags, matrix=self.tags.matrix_for(self.height))
        return self.tags

    def coded_as(self, other: Planes) -> Planes:
        """The same colours by the matrix and the range of other planes, in samples as deep as theirs."""
        alike = self.deep() if other.form.depth > self.form.depth else self
        alike = alike.shallow() if other.form.depth < self.form.depth else alike
        return alike.recoded(other.tags.matrix_for(other.height), other.tags.range == 2)

    @classmethod
    def of_frame(cls, frame: av.VideoFrame, scaler: VideoReformatter, deep: bool = False) -> Planes:
        """The samples of a decoded frame, at the size it is stored in: in 8 bits, or, where they are more and it may
        be ``deep``, in ten.

        For the thread that decodes, with a ``scaler`` of its own: while the
        library converts a frame it writes to it, and the scaler that it would
        keep on the frame serves one thread only. What is 4:2:0 of 8 or 10 bits
        already is not copied; RGB becomes BT.709 in limited range.
        """
        tags = ColourTags.of(frame)
        form = TEN_BIT_420 if max(part.bits for part in frame.format.components) > 8 else EIGHT_BIT_420
        if frame.format.name not in _PLAIN:
            now = scaler_range(tags.range)
            if frame.format.is_rgb or frame.format.has_palette:
                tags, now = replace(tags, matrix=1, range=1), ColorRange.JPEG
            matrix = scaler_matrix(tags.matrix_for(frame.height))
            frame = scaler.reformat(
                frame, format=form.name, interpolation=Interpolation.BICUBIC, threads=1,
                src_colorspace=matrix, dst_colorspace=matrix,
                src_color_range=now, dst_color_range=scaler_range(tags.range),
            )  # fmt: skip
        read = replace(cls.of_stored(frame, form), tags=tags)
        return read if deep else read.shallow()

    @classmethod
    def of_stored(cls, frame: av.VideoFrame, form: SampleForm = EIGHT_BIT_420) -> Planes:
        """The samples of a frame that is of a form already, without copying."""
        y, u, v = (_shown(plane, form.dtype) for plane in frame.planes)
        return cls(y, u, v, ColourTags.of(frame), form)

    @classmethod
    def of_rgb(cls, rgb: np.ndarray) -> Planes:
        """An RGB picture, uint8 (height, width, 3) of even size, as planes in BT.709."""
        frame = av.VideoFrame.from_ndarray(rgb, format="rgb24").reformat(
            format="yuv420p", dst_colorspace=scaler_matrix(1), dst_color_range=ColorRange.MPEG
        )
        return replace(cls.of_stored(frame), tags=ColourTags(1, 1, 1, 1))

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
        frame = av.VideoFrame(self.width, self.height, self.form.name)
        for plane, data in zip(frame.planes, (self.y, self.u, self.v), strict=True):
            samples = _bytes(plane).view(self.form.dtype)
            samples.reshape(plane.height, -1)[:, : data.shape[1]] = data
        frame.colorspace, frame.color_range = self.tags.matrix, self.tags.range
        frame.color_primaries, frame.color_trc = self.tags.primaries, self.tags.transfer
        return frame

    def rgb(self, width: int | None = None, height: int | None = None) -> np.ndarray:
        """RGB, uint8 (height, width, 3), scaled to the given size; the planes' own where none is given."""
        width, height = width or self.width, height or self.height
        frame = self.frame().reformat(
            width, height, "rgb24",
            src_colorspace=scaler_matrix(self.tags.matrix_for(self.height)),
            src_color_range=scaler_range(self.tags.range), dst_color_range=ColorRange.JPEG,
            interpolation=Interpolation.AREA if width < self.width else Interpolation.BICUBIC,
        )  # fmt: skip
        plane = frame.planes[0]
        rows = _bytes(plane).reshape(height, plane.line_size)
        return np.ascontiguousarray(rows[:, : width * 3]).reshape(height, width, 3)

    def squared(self, width: int, height: int) -> Planes:
        """The same picture at the size that square samples give it."""
        if (width, height) == (self.width, self.height):
            return self
        range_ = scaler_range(self.tags.range)
        frame = self.frame().reformat(
            width, height, interpolation=Interpolation.BICUBIC, src_color_range=range_, dst_color_range=range_
        )
        return replace(self.of_stored(frame, self.form), tags=self.tags)

    def turned(self, turns: int) -> Planes:
        """The picture turned counterclockwise by so many quarters."""
        if not turns % 4:
            return self
        y, u, v = (np.ascontiguousarray(np.rot90(p, turns)) for p in (self.y, self.u, self.v))
        return replace(self, y=y, u=u, v=v)

    def cut(self, left: int, top: int, right: int, foot: int) -> Planes:
        """The part from even ``left``, ``top`` up to ``right``, ``foot``, in samples, without copying."""
        half = (slice(top // 2, (foot + 1) // 2), slice(left // 2, (right + 1) // 2))
        return replace(self, y=self.y[top:foot, left:right], u=self.u[half], v=self.v[half])

    def whole(self) -> Planes:
        """The picture with its two fields made one, where it is interlaced."""
        y, u, v = (deinterlaced(plane, self.form.depth) for plane in (self.y, self.u, self.v))
        return replace(self, y=y, u=u, v=v)


def opacity_of(frame: av.VideoFrame, scaler: VideoReformatter) -> np.ndarray | None:
    """Where a decoded frame is seen, (height, width) uint8 as it is stored; ``None`` where it does not say. For the
    thread that decodes, as `Planes.of_frame`."""
    if not any(part.is_alpha for part in frame.format.components):
        return None
    if frame.format.name != "yuva420p":
        frame = scaler.reformat(frame, format="yuva420p", threads=1)
    return _shown(frame.planes[3]).copy()


def _bytes(plane: VideoPlane) -> np.ndarray:
    """The memory of a plane, without copying."""
    return np.frombuffer(cast(Any, plane), np.uint8)


def _shown(plane: VideoPlane, dtype: type[np.uint8] | type[np.uint16] = np.uint8) -> np.ndarray:
    """The samples of a plane that are seen, without copying (height, width)."""
    rows = _bytes(plane)[: plane.height * plane.line_size].view(dtype).reshape(plane.height, -1)
    return np.asarray(rows[:, : plane.width])


def _glanced(plane: np.ndarray, width: int, height: int) -> np.ndarray:
    while (
        plane.shape[1] >= 2 * width and plane.shape[0] >= 2 * height and not (plane.shape[0] % 2 or plane.shape[1] % 2)
    ):
        plane = cv2.resize(plane, (plane.shape[1] // 2, plane.shape[0] // 2), interpolation=cv2.INTER_AREA)
    if plane.shape == (height, width):
        return plane
    near = plane.shape[1] < 2 * width and plane.shape[0] < 2 * height
    return np.asarray(cv2.resize(plane, (width, height), interpolation=cv2.INTER_LINEAR if near else cv2.INTER_AREA))
