"""Laying a title out in a master, and drawing it: its lines, the bar behind them, a stripe, an icon."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from math import ceil, cos, floor, radians, sin

import cv2
import numpy as np
import skia

from ezvar.core.errors import EzvarError
from ezvar.core.media import Cel, Planes, read_still
from ezvar.core.model import CaptionStyle, Movement, Placed, Rect, Span, Title, TitleDesign

from ..placing import SAFE, begin, beside, share_before
from .drawing import over, paint_line, rgb_of, soft_shadow
from .fonts import families
from .layout import BASELINE, Hand, Line, broken_paragraph
from .type import USING, Face, right_to_left

_PITCH = 1.22  # of a line's size, from line to line
_MOST = 3  # lines that one of a title's texts is wrapped to
_SMALLEST, _STEP = 0.5, 0.94  # of the size that is wanted, to which a title shrinks that does not fit
_STRIPE, _ICON_GAP = 0.14, 0.5  # of the first line's size
_AWAY = {"rise": (0.0, 0.035), "slide": (-0.06, 0.0)}  # parts of the frame that it comes from
_CORNER = 0.1


@dataclass(frozen=True)
class LaidTitle:
    """A title's lines, each with its size of type, in ``block``; ``rect`` holds all of it, turned as it is.

    ``icon`` is where its image stands. All in pixels of the frame. ``shrunk`` below 1 where it did not fit.
    """

    lines: tuple[tuple[Line, float], ...]
    block: Rect
    rect: Rect
    icon: Rect | None
    shrunk: float = 1.0


@lru_cache(maxsize=4096)
def lay_out_title(
    title: Title, placed: Placed, width: int, height: int, band: tuple[float, float] | None = None,
    other: Rect | None = None,
) -> LaidTitle:  # fmt: skip
    """The layout of a title in a frame of a size in pixels.

    Its first layout keeps the side, the relative margin and the safe area in
    any shape, wraps its lines where they are too wide, and makes them smaller
    where even that does not serve. In the middle of a free ``band``, fractions
    of the height, where that holds it; beside the ``other`` item, in pixels,
    where it is to stand there and that is shown. ``placed`` then moves and
    scales all of it, as far as the frame reaches.
    """
    shrunk = 1.0
    while True:
        laid = _at_size(title, placed, shrunk, width, height, band, other)
        fits = laid.block.width <= width * (1 - 2 * SAFE) + 1 and laid.block.height <= height * (1 - 2 * SAFE) + 1
        if fits or shrunk <= _SMALLEST:
            return laid
        shrunk = max(_SMALLEST, shrunk * _STEP)


def face_of_design(design: TitleDesign) -> Face:
    return Face(design.family, design.font, design.font_content)


def _at_size(
    title: Title, placed: Placed, shrunk: float, width: int, height: int, band: tuple[float, float] | None,
    other: Rect | None,
) -> LaidTitle:  # fmt: skip
    design = title.design
    size = design.size * min(width, height) * shrunk * placed.scale
    pad = design.padding * size if design.ground_opacity > 0 or design.stripe else 0.1 * size
    stripe = _STRIPE * size if design.stripe else 0.0
    room = min(design.width, 1 - 2 * SAFE) * width - 2 * pad - stripe
    icon = _icon_size(design, size)
    if icon:
        room -= icon[0] + _ICON_GAP * size
    rows: list[tuple[tuple[Span, ...], float, float]] = []  # spans, width, size
    for k, text in enumerate(title.lines):
        if text.strip():
            own = size * (1 if k == 0 else design.second)
            hand = Hand(face_of_design(design), design.bold and k == 0, 0.0)
            broken = broken_paragraph((Span(text.strip()),), hand, max(1.0, room / own), _MOST)
            rows += [(spans, wide * own, own) for spans, wide in zip(broken.lines, broken.widths, strict=True)]
    text_wide, text_high = max(w for _, w, _ in rows), sum(_PITCH * s for _, _, s in rows)
    before = icon[0] + _ICON_GAP * size if icon else 0.0
    block_wide = text_wide + 2 * pad + stripe + before
    block_high = max(text_high, icon[1] if icon else 0.0) + pad
    at = share_before(design.across, design.down)
    if title.beside is not None and other is not None:
        gap = design.margin * min(width, height)
        left, top = beside(title.beside.side, gap, at, other, (block_wide, block_high), (width, height))
    else:
        left, top = (begin(at[0], design.margin, block_wide, width), begin(at[1], design.margin, block_high, height))
    left, top = left + placed.x * width, top + placed.y * height
    if band is not None and block_high <= (band[1] - band[0]) * height:
        top = sum(band) / 2 * height - block_high / 2 + placed.y * height
    text_left = left + pad + before + (stripe if design.across != "right" else 0.0)
    lines, y = [], top + (block_high - text_high) / 2
    for spans, wide, own in rows:
        slack = text_wide - wide
        x = text_left + {"left": 0.0, "centre": slack / 2, "right": slack}[design.across]
        lines.append((Line(spans, wide, x, y + _PITCH * own / 2 + BASELINE * own), own))
        y += _PITCH * own
    block = Rect(left, top, block_wide, block_high)
    place = None
    if icon:
        place = Rect(text_left - before, top + (block_high - icon[1]) / 2, *icon)
    return LaidTitle(tuple(lines), block, _turned(block, design.angle), place, shrunk)


def _turned(block: Rect, angle: float) -> Rect:
    """The upright box around a block that is turned about its middle."""
    if not angle:
        return block
    c, s = abs(cos(radians(angle))), abs(sin(radians(angle)))
    wide, high = block.width * c + block.height * s, block.width * s + block.height * c
    return Rect(block.x + (block.width - wide) / 2, block.y + (block.height - high) / 2, wide, high)


def _icon_size(design: TitleDesign, size: float) -> tuple[float, float] | None:
    image = _icon(design.icon) if design.icon else None
    if image is None:
        return None
    high = size * (1.2 + design.second)
    return high * image.shape[1] / image.shape[0], high


@lru_cache(maxsize=16)
def _icon(path: str) -> np.ndarray | None:
    """An icon's image over black, (height, width, 4) float32 RGBA 0..255; ``None`` for one that cannot be read, which
    is listed among the problems."""
    try:
        still = read_still(path)
    except EzvarError:
        return None
    rgb = still.picture.planes().rgb().astype(np.float32)
    opacity = still.opacity if still.opacity is not None else np.full(rgb.shape[:2], 255, np.uint8)
    return np.dstack([rgb, opacity.astype(np.float32)])


def on_its_way(movement: Movement, come: float) -> tuple[tuple[float, float], float, float]:
    """How a title that has come so far, 0..1, is drawn: moved by parts of the frame, seen by how much, and up to which
    part of its block."""
    eased = 1 - (1 - come) ** 3
    if movement == "open":
        return (0.0, 0.0), 1.0, eased
    away = _AWAY.get(movement, (0.0, 0.0))
    return (away[0] * (1 - eased), away[1] * (1 - eased)), (eased if movement != "none" else 1.0), 1.0


def draw_title(
    title: Title, laid: LaidTitle, size: tuple[int, int], shift: tuple[float, float] = (0.0, 0.0), part: float = 1.0
) -> Cel | None:
    """A title in a frame of a size in pixels, the one that it was laid out in; ``None`` where nothing is seen.

    ``shift`` moves it by pixels, ``part`` shows it up to a part of its block, from its side on.
    """
    width, height = size
    design = title.design
    first = laid.lines[0][1]
    reach = 0.3 * first if design.shadow else 2.0
    rect = Rect(0, 0, width, height) if title.kind == "end card" else laid.rect
    left = max(0, floor(rect.x + shift[0] - reach) // 2 * 2)
    top = max(0, floor(rect.y + shift[1] - reach) // 2 * 2)
    right = min(width, ceil(rect.x + rect.width + shift[0] + reach + 1) // 2 * 2)
    foot = min(height, ceil(rect.y + rect.height + shift[1] + reach + 1) // 2 * 2)
    if right - left < 2 or foot - top < 2:
        return None
    drawing = _Drawing(title, laid, (left - shift[0], top - shift[1]), (right - left, foot - top), part)
    image = drawing.ground()
    letters = over(drawing.letters(), drawing.icon())
    if design.shadow > 0:
        image = over(soft_shadow(letters[..., 3], first, design.shadow), image)
    image = over(letters, image)
    colours = np.clip(image[..., :3] + 0.5, 0, 255).astype(np.uint8)
    opacity = np.clip(image[..., 3] + 0.5, 0, 255).astype(np.uint8)
    return Cel(Planes.of_rgb(np.ascontiguousarray(colours)), opacity, left, top).trimmed()


class _Drawing:
    """A title in a part of the frame: where that begins, and its size in pixels."""

    def __init__(
        self, title: Title, laid: LaidTitle, at: tuple[float, float], size: tuple[int, int], part: float
    ) -> None:
        self._title, self._laid, self._at, self._size, self._part = title, laid, at, size, part

    def _canvas(self) -> tuple[np.ndarray, skia.Canvas]:
        """A canvas in whose pixels the frame's lie, turned and cut off as the title is."""
        image = np.zeros((self._size[1], self._size[0], 4), np.uint8)
        canvas = skia.Canvas(image, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType)
        canvas.translate(-self._at[0], -self._at[1])
        block, design = self._laid.block, self._title.design
        if design.angle:
            canvas.rotate(design.angle, block.x + block.width / 2, block.y + block.height / 2)
        if self._part < 1:
            cut = block.width * (1 - self._part)
            left = block.x + {"left": 0.0, "centre": cut / 2, "right": cut}[design.across]
            canvas.clipRect(skia.Rect.MakeXYWH(left, block.y - 4, block.width * self._part, block.height + 8))
        return image, canvas

    def ground(self) -> np.ndarray:
        design, block = self._title.design, self._laid.block
        image, canvas = self._canvas()
        with USING:
            if design.ground_opacity > 0:
                paint = skia.Paint(AntiAlias=True, Color=skia.Color(*rgb_of(design.ground)))
                paint.setAlphaf(design.ground_opacity)
                if self._title.kind == "end card":
                    canvas.drawPaint(paint)
                else:
                    corner = _CORNER * self._laid.lines[0][1]
                    canvas.drawRoundRect(skia.Rect.MakeXYWH(*_edges(block)), corner, corner, paint)
            if design.stripe:
                paint = skia.Paint(AntiAlias=True, Color=skia.Color(*rgb_of(design.stripe)))
                wide = _STRIPE * self._laid.lines[0][1]
                left = block.x + (block.width - wide if design.across == "right" else 0.0)
                canvas.drawRect(skia.Rect.MakeXYWH(left, block.y, wide, block.height), paint)
        return image.astype(np.float32)

    def letters(self) -> np.ndarray:
        design = self._title.design
        image, canvas = self._canvas()
        type_ = families(face_of_design(design))
        with USING:
            for k, (line, size) in enumerate(self._laid.lines):
                first = size == self._laid.lines[0][1]
                colour = design.colour if first or k == 0 else design.second_colour
                paint = skia.Paint(AntiAlias=True, Color=skia.Color(*rgb_of(colour)))
                style = CaptionStyle(bold=design.bold and first)
                paint_line(canvas, line, size, style, type_, right_to_left(line.text), paint)
        return image.astype(np.float32)

    def icon(self) -> np.ndarray:
        made = np.zeros((self._size[1], self._size[0], 4), np.float32)
        image, place = _icon(self._title.design.icon) if self._title.design.icon else None, self._laid.icon
        if image is None or place is None or self._part < 1:
            return made
        block, angle = self._laid.block, self._title.design.angle
        scale = place.width / image.shape[1]
        into = np.array([[scale, 0, place.x], [0, scale, place.y], [0, 0, 1.0]])
        middle = block.x + block.width / 2, block.y + block.height / 2
        turn = np.vstack([cv2.getRotationMatrix2D(middle, -angle, 1.0), [0, 0, 1]])
        moved = np.array([[1, 0, -self._at[0]], [0, 1, -self._at[1]], [0, 0, 1.0]]) @ turn @ into
        if scale < 1:  # averaged down first, so that fine lines stay
            step = max(1, floor(1 / scale))
            image = cv2.resize(image, None, fx=1 / step, fy=1 / step, interpolation=cv2.INTER_AREA)
            moved = moved @ np.diag([step, step, 1.0])
        cv2.warpAffine(image, moved[:2], self._size, made, cv2.INTER_LINEAR, cv2.BORDER_CONSTANT)
        return made


def _edges(rect: Rect) -> tuple[float, float, float, float]:
    return rect.x, rect.y, rect.width, rect.height


def scaled_title(laid: LaidTitle, by: float) -> LaidTitle:
    """A layout for a frame of another size of the same shape."""
    if by == 1:
        return laid

    def rect(of: Rect) -> Rect:
        return Rect(of.x * by, of.y * by, of.width * by, of.height * by)

    lines = tuple(
        (replace(line, width=line.width * by, x=line.x * by, y=line.y * by), size * by) for line, size in laid.lines
    )
    return LaidTitle(lines, rect(laid.block), rect(laid.rect), rect(laid.icon) if laid.icon else None, laid.shrunk)
