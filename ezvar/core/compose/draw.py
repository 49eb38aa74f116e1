"""Drawing a master's frame from a picture: its panes, each over its backdrop.

Works on the 4:2:0 planes that movies hold, so that a picture goes from source
to master without a turn through RGB and keeps its colour tags.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import cv2
import numpy as np

from ezvar.core.framing import Size, Window, framed, pane_window
from ezvar.core.lock import Layer
from ezvar.core.media import Planes
from ezvar.core.model import Backdrop, Document, Framing, Master, Pane, Rect, Shot

from .sampling import chroma_window, sample


def draw_master(doc: Document, shot: Shot, master: Master, frame: int, picture: Planes, scale: float = 1.0) -> Planes:
    """A master's picture at a lock frame that shows ``shot``, as decided in the document."""
    return draw_frame(framed(doc, shot, master), master, frame - shot.start, picture, scale)


def draw_layers(doc: Document, master: Master, frame: int, layers: Iterable[Layer], scale: float = 1.0) -> Planes:
    """A master's picture at a lock frame from the layers on screen there: two during a mix, each in its own window."""
    surface: Planes | None = None
    for layer in layers:
        drawn = draw_master(doc, layer.shot, master, frame, layer.picture.planes(), scale)
        surface = drawn if surface is None else surface.mixed(drawn, layer.weight)
    assert surface is not None
    return surface


def draw_frame(framing: Framing, master: Master, frame: int, picture: Planes, scale: float = 1.0) -> Planes:
    """A master's picture at a frame of the shot; ``scale`` below 1 draws it smaller, for previews.

    Returns even-sized 4:2:0 planes with the picture's colour tags.
    """
    width, height = _even(master.width * scale), _even(master.height * scale)
    size = Size(picture.width, picture.height)
    if len(framing.panes) == 1 and framing.panes[0].rect == Rect():
        pane = framing.panes[0]
        window = pane_window(pane, master, size, frame)
        return _draw_pane(picture, window, pane.backdrop or master.backdrop, width, height, _rests(pane))
    surface = _coloured(master.backdrop.colour, width, height, picture)
    for pane in framing.panes:
        left, top = _even(pane.rect.x * width, 0), _even(pane.rect.y * height, 0)
        right = min(width, _even((pane.rect.x + pane.rect.width) * width))
        foot = min(height, _even((pane.rect.y + pane.rect.height) * height))
        window = pane_window(pane, master, size, frame)
        drawn = _draw_pane(picture, window, pane.backdrop or master.backdrop, right - left, foot - top, _rests(pane))
        surface.y[top:foot, left:right] = drawn.y
        surface.u[top // 2 : foot // 2, left // 2 : right // 2] = drawn.u
        surface.v[top // 2 : foot // 2, left // 2 : right // 2] = drawn.v
    return surface


def _even(length: float, least: int = 2) -> int:
    return max(least, round(length / 2) * 2)


def _rests(pane: Pane) -> bool:
    """Whether the window never moves."""
    return len({replace(key, frame=0, ease="both") for key in pane.keys}) == 1


def _draw_pane(picture: Planes, window: Window, backdrop: Backdrop, width: int, height: int, resting: bool) -> Planes:
    behind = None
    if not window.covers(Size(picture.width, picture.height), tolerance=0.01):
        behind = _behind(picture, backdrop, width, height)
    small = chroma_window(window)
    y = sample(picture.y, window, width, height, behind.y if behind else None, resting)
    u = sample(picture.u, small, width // 2, height // 2, behind.u if behind else None, resting)
    v = sample(picture.v, small, width // 2, height // 2, behind.v if behind else None, resting)
    return Planes(y, u, v, picture.tags)


def _behind(picture: Planes, backdrop: Backdrop, width: int, height: int) -> Planes:
    if backdrop.kind == "colour":
        return _coloured(backdrop.colour, width, height, picture)
    # Blurring at an eighth of the size looks the same and costs a sixty-fourth.
    part = 8
    w, h = max(2, width // part), max(2, height // part)
    scale = min(picture.width / w, picture.height / h)
    cover = Window(picture.width / 2, picture.height / 2, w * scale, h * scale)
    black = 16 if picture.tags.range != 2 else 0
    planes = []
    for plane, window, size, rest in (
        (picture.y, cover, (width, height), black),
        (picture.u, chroma_window(cover), (width // 2, height // 2), 128),
        (picture.v, chroma_window(cover), (width // 2, height // 2), 128),
    ):
        small = sample(plane, window, w, h).astype(np.float32)
        soft = cv2.GaussianBlur(small, (0, 0), max(0.3, backdrop.blur * w))
        dark = rest + (soft - rest) * (1 - backdrop.darken)
        planes.append(np.clip(cv2.resize(dark, size, interpolation=cv2.INTER_LINEAR) + 0.5, 0, 255).astype(np.uint8))
    return Planes(planes[0], planes[1], planes[2], picture.tags)


_LUMA = {1: (0.2126, 0.0722), 9: (0.2627, 0.0593), 10: (0.2627, 0.0593)}  # Kr and Kb by H.273 matrix


def _coloured(colour: str, width: int, height: int, like: Planes) -> Planes:
    """Planes of one colour, in the colour space of a picture (ITU-T H.273)."""
    red, green, blue = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    kr, kb = _LUMA.get(like.tags.matrix_for(like.height), (0.299, 0.114))
    luma = kr * red + (1 - kr - kb) * green + kb * blue
    full = like.tags.range == 2
    y = luma * 255 if full else 16 + 219 * luma
    spread = 255 if full else 224
    u, v = (128 + spread * (c - luma) / (2 * (1 - k)) for c, k in ((blue, kb), (red, kr)))

    def plane(value: float, w: int, h: int) -> np.ndarray:
        return np.full((h, w), round(min(255.0, value)), np.uint8)

    half = (width // 2, height // 2)
    return replace(like, y=plane(y, width, height), u=plane(u, *half), v=plane(v, *half))
