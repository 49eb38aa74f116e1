"""Drawing a caption that is laid out: letters, outline, shadow and ground, as a cel."""

from __future__ import annotations

from math import ceil, floor

import cv2
import numpy as np
import skia

from ezvar.core.media import Cel, Planes
from ezvar.core.model import CaptionStyle

from .fonts import families
from .layout import LaidOut, Line, face_of, reads_from_right
from .type import ENDS, FROM_LEFT, FROM_RIGHT, USING, Families, Writing

_SHADOW_FALLS, _SHADOW_SOFT = 0.05, 0.05  # of the size
_CORNER = 0.12


def draw_laid_out(laid: LaidOut, style: CaptionStyle, size: tuple[int, int], language: str = "") -> Cel | None:
    """A caption in a frame of a size in pixels, the one that it was laid out in; ``None`` where nothing is seen."""
    width, height = size
    left, top = max(0, floor(laid.rect.x) // 2 * 2), max(0, floor(laid.rect.y) // 2 * 2)
    right = min(width, ceil(laid.rect.x + laid.rect.width + 1) // 2 * 2)
    foot = min(height, ceil(laid.rect.y + laid.rect.height + 1) // 2 * 2)
    if right - left < 2 or foot - top < 2:
        return None
    letters = _Letters(laid, style, language, (left, top), (right - left, foot - top))
    image = letters.ground()
    if style.shadow > 0:
        image = over(letters.shadow(), image)
    if style.outline > 0:
        image = over(letters.strokes(style.outline_colour, 2 * style.outline * laid.size), image)
    image = over(letters.strokes(style.colour), image)
    colours = np.clip(image[..., :3] + 0.5, 0, 255).astype(np.uint8)
    opacity = np.clip(image[..., 3] + 0.5, 0, 255).astype(np.uint8)
    return Cel(Planes.of_rgb(np.ascontiguousarray(colours)), opacity, left, top).trimmed()


def over(upper: np.ndarray, lower: np.ndarray) -> np.ndarray:
    """One picture over another, both float32 RGBA 0..255, over black."""
    return np.asarray(upper + lower * (1 - upper[..., 3:] / np.float32(255)), np.float32)


def rgb_of(colour: str) -> tuple[int, int, int]:
    red, green, blue = (int(colour[k : k + 2], 16) for k in (1, 3, 5))
    return red, green, blue


def soft_shadow(cast: np.ndarray, size: float, dark: float) -> np.ndarray:
    """A soft shadow, ``dark`` 0..1, that falls a little down, of what is seen by ``cast`` (height, width) 0..255."""
    soft = cv2.GaussianBlur(cast, (0, 0), max(0.3, _SHADOW_SOFT * size))
    moved = cv2.warpAffine(soft, np.array([[1.0, 0, 0], [0, 1.0, _SHADOW_FALLS * size]]), soft.shape[::-1])
    made = np.zeros((*cast.shape, 4), np.float32)
    made[..., 3] = moved * dark
    return made


def paint_line(
    canvas: skia.Canvas, line: Line, size: float, style: CaptionStyle, type_: Families, from_right: bool,
    paint: skia.Paint, at: tuple[float, float] = (0.0, 0.0),
) -> None:  # fmt: skip
    """Paint a line at a size of type on a canvas that begins at a place of the frame. To be called while `USING` is
    held."""
    written = [(s.text, Writing(style.bold or s.bold, s.italic), s.underline) for s in line.spans]
    plain = Writing(style.bold, False)
    # The direction holds for the whole line, whatever it begins with.
    around = [(FROM_RIGHT if from_right else FROM_LEFT, plain, False)]
    place = line.x - at[0] + line.width / 2, line.y - at[1]
    type_.paint(canvas, [*around, *written, (ENDS, plain, False)], size, style.letter_spacing * size, paint, place)


class _Letters:
    """The lines of a caption in a part of the frame: its place and its size in pixels."""

    def __init__(
        self, laid: LaidOut, style: CaptionStyle, language: str, at: tuple[int, int], size: tuple[int, int]
    ) -> None:
        self._laid, self._style, self._at, self._size = laid, style, at, size
        self._type: Families = families(face_of(style, language))
        self._from_right = reads_from_right(laid)

    def ground(self) -> np.ndarray:
        """What lies behind the letters."""
        style, laid = self._style, self._laid
        image, canvas = self._canvas()
        if style.ground == "none" or style.ground_opacity == 0:
            return image.astype(np.float32)
        paint = skia.Paint(AntiAlias=True, Color=skia.Color(*rgb_of(style.ground_colour)))
        pad = style.padding * laid.size
        boxes = [
            (line.x - pad, row - pad * 0.4, line.x + line.width + pad, row + high + pad * 0.4)
            for line, (row, high) in zip(laid.lines, laid.rows, strict=True)
        ]
        if style.ground == "block":
            lefts, tops, rights, feet = zip(*boxes, strict=True)
            boxes = [(min(lefts), min(tops), max(rights), max(feet))]
        corner = _CORNER * laid.size
        with USING:
            for box in boxes:
                left, top, right, foot = self._moved(*box)
                canvas.drawRoundRect(skia.Rect.MakeLTRB(left, top, right, foot), corner, corner, paint)
        return image.astype(np.float32) * np.float32(style.ground_opacity)

    def _moved(self, left: float, top: float, right: float, foot: float) -> tuple[float, float, float, float]:
        x, y = self._at
        return left - x, top - y, right - x, foot - y

    def strokes(self, colour: str, outline: float = 0.0) -> np.ndarray:
        """The letters in a colour, or their outline so many pixels wide."""
        image, canvas = self._canvas()
        paint = skia.Paint(AntiAlias=True, Color=skia.Color(*rgb_of(colour)))
        if outline:
            paint.setStyle(skia.Paint.kStrokeAndFill_Style)
            paint.setStrokeWidth(outline)
            paint.setStrokeJoin(skia.Paint.kRound_Join)
        with USING:
            for line in self._laid.lines:
                paint_line(canvas, line, self._laid.size, self._style, self._type, self._from_right, paint, self._at)
        return image.astype(np.float32)

    def shadow(self) -> np.ndarray:
        """A soft shadow that falls a little down."""
        size = self._laid.size
        cast = self.strokes("#000000", 2 * self._style.outline * size if self._style.outline else 0.0)
        return soft_shadow(cast[..., 3], size, self._style.shadow)

    def _canvas(self) -> tuple[np.ndarray, skia.Canvas]:
        width, height = self._size
        image = np.zeros((height, width, 4), np.uint8)
        return image, skia.Canvas(image, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType)
