"""What shows behind a picture that does not fill its pane."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from ezvar.core.framing import Window
from ezvar.core.media import Planes, black_of, coding_levels, hdr_of_sdr, luma_weights
from ezvar.core.model import Backdrop

from .sampling import chroma_window, coverage, sample

_PART = 16  # blurring at a sixteenth of the size looks the same and costs a part of it
_SOFT = 1.9  # samples that a blur takes at the size it is drawn in, at least
_SHADOW, _FALLS = 0.025, 0.012  # the shadow's softness, and how far down it falls, in widths of the surface


def coloured(colour: str, width: int, height: int, like: Planes) -> Planes:
    """Planes of one colour, in the colour space of a picture (ITU-T H.273)."""
    y, u, v = _levels(colour, like)
    top = (1 << like.form.depth) - 1

    def plane(value: float, w: int, h: int) -> np.ndarray:
        return np.full((h, w), round(min(top, value)), like.form.dtype)

    half = (width // 2, height // 2)
    return replace(like, y=plane(y, width, height), u=plane(u, *half), v=plane(v, *half))


def _levels(colour: str, like: Planes) -> tuple[float, float, float]:
    rgb = np.array([int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)])
    red, green, blue = hdr_of_sdr(rgb, like.tags.transfer) if like.tags.hdr else rgb
    kr, kb = luma_weights(like.tags.matrix_for(like.height))
    light = kr * red + (1 - kr - kb) * green + kb * blue
    black, luma, chroma = coding_levels(like.tags.range == 2, like.form.depth)
    u, v = (like.form.grey + chroma * (c - light) / (2 * (1 - k)) for c, k in ((blue, kb), (red, kr)))
    return black + luma * light, u, v


def behind(
    picture: Planes, window: Window, backdrop: Backdrop, width: int, height: int, other: Planes | None
) -> Planes:
    """The backdrop of a surface of ``width`` × ``height`` on which ``window`` shows a picture.

    ``other`` is the picture of a backdrop that is a movie or an image; plain
    colour shows without one.
    """
    source = {"picture": picture, "media": other and other.coded_as(picture), "colour": None}[backdrop.kind]
    part = _part(backdrop, width)
    size = max(2, width // part), max(2, height // part)
    levels = _levels(backdrop.colour, picture)
    if source is None:
        if backdrop.shadow <= 0:
            return coloured(backdrop.colour, width, height, picture)
        planes = [np.full(size[::-1], level, np.float32) for level in levels]
    else:
        planes = _soft(source, backdrop, size, picture)
    if backdrop.shadow > 0:
        black = black_of(picture)
        planes[0] = black + (planes[0] - black) * _shade(window, picture, backdrop.shadow, size)
    half = (width // 2, height // 2)
    y, u, v = (
        _enlarged(plane, *end, picture.form.depth)
        for plane, end in zip(planes, ((width, height), half, half), strict=True)
    )
    return replace(picture, y=y, u=u, v=v)


def _part(backdrop: Backdrop, width: int) -> int:
    """By how much a backdrop is drawn smaller: what is sharp, not at all."""
    part = _PART
    while backdrop.kind != "colour" and part > 1 and backdrop.blur * width / part < _SOFT:
        part //= 2
    return part


def _soft(source: Planes, backdrop: Backdrop, size: tuple[int, int], like: Planes) -> list[np.ndarray]:
    """The planes of a backdrop, float32 and all of one ``size``."""
    w, h = size
    scale = min(source.width / w, source.height / h) / backdrop.zoom
    cover = Window(source.width / 2, source.height / 2, w * scale, h * scale)
    rests = (black_of(like), like.form.grey, like.form.grey)
    levels = _levels(backdrop.colour, like)
    parts = ((source.y, cover), (source.u, chroma_window(cover)), (source.v, chroma_window(cover)))
    finest = 2 if backdrop.blur > 0 else 4  # samples for one that are left to a better kernel
    planes = []
    for k, (plane, window) in enumerate(parts):
        while window.width > finest * w and not (plane.shape[0] % 2 or plane.shape[1] % 2):  # by halves, quicker
            plane = cv2.resize(plane, (plane.shape[1] // 2, plane.shape[0] // 2), interpolation=cv2.INTER_AREA)
            window = Window(window.cx / 2, window.cy / 2, window.width / 2, window.height / 2)
        small = sample(plane, window, w, h).astype(np.float32)
        if backdrop.blur > 0:
            small = cv2.GaussianBlur(small, (0, 0), max(0.3, backdrop.blur * w))
        dark = rests[k] + (small - rests[k]) * (1 - backdrop.darken)
        if k:  # a tint changes the colour and leaves the light
            dark += backdrop.tint * (levels[k] - dark)
        planes.append(levels[k] + (dark - levels[k]) * backdrop.strength)
    return planes


def _enlarged(plane: np.ndarray, width: int, height: int, depth: int) -> np.ndarray:
    """A float32 plane at a size, as samples of a depth: rounded first, which is several times cheaper and off by no
    more than a level."""
    whole = np.clip(plane + 0.5, 0, (1 << depth) - 1).astype(np.uint8 if depth == 8 else np.uint16)
    return np.asarray(cv2.resize(whole, (width, height), interpolation=cv2.INTER_LINEAR))


def _shade(window: Window, picture: Planes, shadow: float, size: tuple[int, int]) -> np.ndarray:
    """How much light the soft shadow of a picture that stands before a backdrop leaves it, float32, 0..1."""
    w, h = size
    soft = cv2.GaussianBlur(coverage(window, picture.width, picture.height, w, h), (0, 0), max(0.5, _SHADOW * w))
    fallen = cv2.warpAffine(soft, np.array([[1.0, 0, 0], [0, 1.0, _FALLS * w]]), (w, h))
    return np.asarray(1 - shadow * fallen, np.float32)
