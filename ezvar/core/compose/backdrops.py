"""What shows behind a picture that does not fill its pane."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from ezvar.core.framing import Window
from ezvar.core.media import Planes, coding_levels, luma_weights
from ezvar.core.model import Backdrop

from .sampling import chroma_window, coverage, sample

_PART = 8  # blurring at an eighth of the size looks the same and costs a sixty-fourth
_SHADOW, _FALLS = 0.025, 0.012  # the shadow's softness, and how far down it falls, in widths of the surface


def coloured(colour: str, width: int, height: int, like: Planes) -> Planes:
    """Planes of one colour, in the colour space of a picture (ITU-T H.273)."""
    y, u, v = _levels(colour, like)

    def plane(value: float, w: int, h: int) -> np.ndarray:
        return np.full((h, w), round(min(255.0, value)), np.uint8)

    half = (width // 2, height // 2)
    return replace(like, y=plane(y, width, height), u=plane(u, *half), v=plane(v, *half))


def _levels(colour: str, like: Planes) -> tuple[float, float, float]:
    red, green, blue = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    kr, kb = luma_weights(like.tags.matrix_for(like.height))
    light = kr * red + (1 - kr - kb) * green + kb * blue
    black, luma, chroma = coding_levels(like.tags.range == 2)
    u, v = (128 + chroma * (c - light) / (2 * (1 - k)) for c, k in ((blue, kb), (red, kr)))
    return black + luma * light, u, v


def behind(
    picture: Planes, window: Window, backdrop: Backdrop, width: int, height: int, other: Planes | None
) -> Planes:
    """The backdrop of a surface of ``width`` × ``height`` on which ``window`` shows a picture.

    ``other`` is the picture of a backdrop that is a movie or an image; plain
    colour shows without one.
    """
    source = {"picture": picture, "media": other and other.coded_as(picture), "colour": None}[backdrop.kind]
    if source is None:
        made = coloured(backdrop.colour, width, height, picture)
    else:
        made = _soft(source, backdrop, width, height, picture)
    return _shaded(made, window, picture, backdrop.shadow) if backdrop.shadow > 0 else made


def _soft(source: Planes, backdrop: Backdrop, width: int, height: int, like: Planes) -> Planes:
    w, h = max(2, width // _PART), max(2, height // _PART)
    scale = min(source.width / w, source.height / h) / backdrop.zoom
    cover = Window(source.width / 2, source.height / 2, w * scale, h * scale)
    rests = (_black(like), 128, 128)
    levels = _levels(backdrop.colour, like)
    half = (width // 2, height // 2)
    parts = (
        (source.y, cover, (width, height)), (source.u, chroma_window(cover), half),
        (source.v, chroma_window(cover), half),
    )  # fmt: skip
    planes = []
    for k, (plane, window, size) in enumerate(parts):
        small = sample(plane, window, w, h).astype(np.float32)
        if backdrop.blur > 0:
            small = cv2.GaussianBlur(small, (0, 0), max(0.3, backdrop.blur * w))
        dark = rests[k] + (small - rests[k]) * (1 - backdrop.darken)
        if k:  # a tint changes the colour and leaves the light
            dark += backdrop.tint * (levels[k] - dark)
        dark = levels[k] + (dark - levels[k]) * backdrop.strength
        planes.append(np.clip(cv2.resize(dark, size, interpolation=cv2.INTER_LINEAR) + 0.5, 0, 255).astype(np.uint8))
    return Planes(planes[0], planes[1], planes[2], like.tags)


def _black(like: Planes) -> int:
    return round(coding_levels(like.tags.range == 2)[0])


def _shaded(made: Planes, window: Window, picture: Planes, shadow: float) -> Planes:
    """A backdrop with the soft shadow of the picture that stands before it."""
    w, h = max(2, made.width // _PART), max(2, made.height // _PART)
    soft = cv2.GaussianBlur(coverage(window, picture.width, picture.height, w, h), (0, 0), max(0.5, _SHADOW * w))
    soft = cv2.warpAffine(soft, np.array([[1.0, 0, 0], [0, 1.0, _FALLS * w]]), (w, h))
    dark = 1 - shadow * cv2.resize(soft, (made.width, made.height), interpolation=cv2.INTER_LINEAR)
    black = _black(made)
    return replace(made, y=np.clip(black + (made.y - np.float32(black)) * dark + 0.5, 0, 255).astype(np.uint8))
