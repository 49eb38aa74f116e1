"""The strip below a picture of a review movie: shot, timecode, name."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import skia

from ezvar.core.model import Document, Shot
from ezvar.core.names import readable
from ezvar.core.text.setting.fonts import families
from ezvar.core.text.setting.type import USING, Face, Writing
from ezvar.core.timing import timecode

STRIP = 28
"""Its height, in pixels."""
_SIZE, _EDGE = 17.0, 6
_GROUND, _INK = (32, 34, 34), 0xFFF1EBDF


class Strip:
    """Strips of a document's shots, put together from words and figures that are drawn once."""

    def __init__(self, doc: Document) -> None:
        self._doc = doc

    def below(self, wide: int, shot: Shot, frame: int, name: str) -> np.ndarray:
        """The strip below a picture so many pixels wide, uint8 (`STRIP`, wide, 3); what has no room is left out."""
        lock = self._doc.lock
        made = np.full((STRIP, wide, 3), _GROUND, np.uint8)
        number = _words(f"{self._doc.place_of(shot.id) + 1}", True, False)
        at = _EDGE + _lay(made, _EDGE, number) + 2 * _EDGE
        for sign in timecode(lock.start + frame, lock.rate, lock.drop):
            at += _lay(made, at, _words(sign, False, True))
        _lay(made, max(at + 2 * _EDGE, wide - _EDGE - (words := _words(readable(name), False, False)).shape[1]), words)
        return made


def _lay(onto: np.ndarray, at: int, words: np.ndarray) -> int:
    """Lay words onto a strip, as far as it reaches; how wide they are."""
    room = max(0, min(words.shape[1], onto.shape[1] - at))
    onto[:, at : at + room] = words[:, :room]
    return int(words.shape[1])


@lru_cache(maxsize=2048)
def _words(text: str, bold: bool, figures: bool) -> np.ndarray:
    """Words on the strip's ground, uint8 (`STRIP`, wide, 3)."""
    face = Face(family="Atkinson Hyperlegible Mono") if figures else Face()
    with USING:
        paragraph = families(face).paragraph(
            [(text, Writing(bold), False)], _SIZE, 0.0, skia.Paint(Color=_INK, AntiAlias=True)
        )
        wide = max(1, round(float(paragraph.MaxIntrinsicWidth)))
        image = np.zeros((STRIP, wide, 4), np.uint8)
        canvas = skia.Canvas(image, skia.kRGBA_8888_ColorType)
        canvas.clear(skia.Color(*_GROUND))
        paragraph.paint(canvas, 0, (STRIP - paragraph.Height) / 2)
    return np.ascontiguousarray(image[..., :3])
