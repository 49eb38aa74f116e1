"""The type that text is set in: the families that are shipped, font files that a project names, and nothing else.

What the machine happens to have is never used, so that a project looks the
same everywhere. Shaping, and the choice among families for each script, are
Skia's.
"""

from __future__ import annotations

import threading
import unicodedata
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path

import numpy as np
import skia
from skia import textlayout

FOLDER = Path(__file__).resolve().parents[3] / "type"
_FILES = {
    "Atkinson Hyperlegible Next": "AtkinsonHyperlegibleNext-*.ttf",
    "Atkinson Hyperlegible Mono": "AtkinsonHyperlegibleMono-*.ttf",
    "Noto Sans Arabic": "NotoSansArabic-*.ttf", "Noto Sans Hebrew": "NotoSansHebrew-*.ttf",
    "Noto Sans Devanagari": "NotoSansDevanagari-*.ttf", "Noto Sans Thai": "NotoSansThai-*.ttf",
    "Noto Sans JP": "NotoSansJP-*.otf", "Noto Sans SC": "NotoSansSC-*.otf", "Noto Sans KR": "NotoSansKR-*.otf",
}  # fmt: skip
SHIPPED = tuple(_FILES)
"""Families that can be chosen. Where one lacks a letter the others are asked, in this order."""
_FIRST = {"zh": "Noto Sans SC", "ko": "Noto Sans KR"}
"""Which family comes first for a language whose letters several have."""
Pieces = list[tuple[str, "Writing", bool]]
"""A line: each piece of text in its writing, and underlined or not."""
USING = threading.RLock()
"""Held while Skia sets or draws text: its collections of type serve one thread at a time."""
FROM_RIGHT, FROM_LEFT, ENDS = "\u2067", "\u2066", "\u2069"  # isolates, UAX #9
_EM = 100.0  # the size at which is measured
_LATIN = "\u0300"  # from here on marks and other scripts
_LOOK, _AROUND = 48, 3  # pixels of a size, and sizes around a text, when its reach is looked at


@dataclass(frozen=True, slots=True)
class Face:
    """Type to be used: a shipped family, or a font file with the digest of its content; and the text's language."""

    family: str = SHIPPED[0]
    font: str = ""
    font_content: str = ""
    language: str = ""


@dataclass(frozen=True, slots=True)
class Writing:
    """In which of a face's styles."""

    bold: bool = False
    italic: bool = False


def typeface(data: bytes) -> skia.Typeface | None:
    """A typeface from bytes, by a manager that knows no fonts of the machine."""
    with USING:
        return skia.FontMgr.New_Custom_Empty().makeFromData(skia.Data.MakeWithCopy(data))


@cache
def _shipped(family: str) -> tuple[skia.Typeface | None, ...]:
    """The typefaces of a shipped family, loaded once for all faces."""
    return tuple(typeface(file.read_bytes()) for file in sorted(FOLDER.glob(_FILES[family])))


def _in_turn(face: Face) -> list[str]:
    """The shipped families: the face's own first, then those of Latin letters, then that of its language."""
    latin, wanted = SHIPPED[:2], _FIRST.get(face.language[:2])
    return sorted(SHIPPED, key=lambda name: (name != face.family, name not in latin, name != wanted))


class Families:
    """The families of a face, in the order in which they are asked for a letter."""

    def __init__(self, face: Face, own: bytes = b"") -> None:
        """``own`` is the content of a font file that is asked first."""
        self._provider = textlayout.TypefaceFontProvider()
        self._faces: list[skia.Typeface] = []
        self.names: list[str] = []
        with USING:
            if own:
                self._register("the project's own", typeface(own))
            for family in _in_turn(face):
                for shipped in _shipped(family):
                    self._register(family, shipped)
            self.collection = textlayout.FontCollection()
            self.collection.setDefaultFontManager(self._provider)
        self._unicode = skia.Unicodes.ICU.Make()

    def _register(self, family: str, face: skia.Typeface | None) -> None:
        if face is None:
            return
        self._provider.registerTypeface(face, family)
        self._faces.append(face)
        if family not in self.names:
            self.names.append(family)

    def lacks(self, text: str) -> str:
        """The letters of a text that no family has, each once."""
        return "".join(dict.fromkeys(sign for sign in text if not self._has(sign)))

    @lru_cache(maxsize=4096)  # noqa: B019 - there is one for each face, and it stays
    def _has(self, sign: str) -> bool:
        if unicodedata.category(sign) in ("Cc", "Cf", "Zs", "Zl", "Zp") or sign in "\ufe0e\ufe0f":
            return True  # signs that are not drawn
        with USING:
            return any(face.unicharToGlyph(ord(sign)) for face in self._faces)

    def paragraph(self, pieces: Pieces, size: float, spacing: float, paint: skia.Paint) -> textlayout.Paragraph:
        """One line of pieces of text, each in its writing and underlined or not, at a size in pixels.

        To be called, laid out and drawn while `USING` is held.
        """
        base = self._style(Writing(), size, spacing, paint, False)
        whole = textlayout.ParagraphStyle()
        whole.setTextStyle(base)
        builder = textlayout.ParagraphBuilder(whole, self.collection, self._unicode)
        for text, writing, underline in pieces:
            builder.pushStyle(self._style(writing, size, spacing, paint, underline))
            builder.addText(text)
            builder.pop()
        made = builder.Build()
        made.layout(1e6)
        return made

    def paint(
        self, canvas: skia.Canvas, pieces: Pieces, size: float, spacing: float, paint: skia.Paint,
        place: tuple[float, float],
    ) -> None:  # fmt: skip
        """Paint a line as `paragraph` sets it, around its middle and from its top in the canvas."""
        line = self.paragraph(pieces, size, spacing, paint)
        middle, top = place
        line.paint(canvas, middle - float(line.MaxIntrinsicWidth) / 2, top - line.AlphabeticBaseline)

    def block(self, text: str, writing: Writing, size: float, paint: skia.Paint, width: float) -> textlayout.Paragraph:
        """A text in as many lines of a width as it needs, in the direction of its script; as `paragraph` otherwise."""
        whole = textlayout.ParagraphStyle()
        whole.setTextStyle(self._style(writing, size, 0.0, paint, False))
        from_right = right_to_left(text)
        whole.setTextAlign(textlayout.TextAlign.kRight if from_right else textlayout.TextAlign.kLeft)
        builder = textlayout.ParagraphBuilder(whole, self.collection, self._unicode)
        mixed = from_right or any(unicodedata.bidirectional(sign) in ("R", "AL") for sign in text)
        builder.addText(f"{FROM_RIGHT if from_right else FROM_LEFT}{text}{ENDS}" if mixed else text)
        made = builder.Build()
        made.layout(width)
        return made

    def _style(
        self, writing: Writing, size: float, spacing: float, paint: skia.Paint, underline: bool
    ) -> textlayout.TextStyle:
        style = textlayout.TextStyle()
        style.setFontFamilies(self.names)
        style.setFontSize(size)
        style.setLetterSpacing(spacing)
        slant = skia.FontStyle.kItalic_Slant if writing.italic else skia.FontStyle.kUpright_Slant
        style.setFontStyle(skia.FontStyle(700 if writing.bold else 400, 5, slant))
        style.setForegroundPaint(paint)
        if underline:
            style.setDecoration(textlayout.TextDecoration.kUnderline)
            style.setDecorationColor(paint.getColor())
            style.setDecorationThicknessMultiplier(1.0)
        return style

    @lru_cache(maxsize=16384)  # noqa: B019
    def reach(self, text: str, writing: Writing) -> Reach:
        """How far a text reaches past its own box; of Latin letters, which keep near it, nothing is said."""
        if all(sign < _LATIN for sign in text):
            return Reach()
        wide = self.width(text, writing)
        margin = _LOOK * _AROUND
        image = np.zeros((2 * margin, int(wide * _LOOK) + 2 * margin, 4), np.uint8)
        with USING:
            paragraph = self.paragraph([(text, writing, False)], _LOOK, 0.0, skia.Paint(AntiAlias=True))
            paragraph.paint(skia.Canvas(image), margin, margin - paragraph.AlphabeticBaseline)
        rows, columns = (np.flatnonzero(image[..., 3].any(axis=axis)) for axis in (1, 0))
        if not len(rows):
            return Reach()
        left, right = margin - columns[0], columns[-1] + 1 - margin - wide * _LOOK
        up, down = margin - rows[0], rows[-1] + 1 - margin
        return Reach(*(max(0.0, float(v) / _LOOK) for v in (left, right, up, down)))

    @lru_cache(maxsize=65536)  # noqa: B019
    def width(self, text: str, writing: Writing) -> float:
        """How wide a text is in one line, in sizes of its type."""
        with USING:
            return float(self.paragraph([(text, writing, False)], _EM, 0.0, skia.Paint()).MaxIntrinsicWidth) / _EM


@dataclass(frozen=True, slots=True)
class Reach:
    """How far letters reach: past their width at the left and the right, above their baseline and below, in sizes."""

    left: float = 0.0
    right: float = 0.0
    up: float = 0.0
    down: float = 0.0

    def joined(self, other: Reach) -> Reach:
        """What holds both."""
        return Reach(
            max(self.left, other.left), max(self.right, other.right), max(self.up, other.up), max(self.down, other.down)
        )


def right_to_left(text: str) -> bool:
    """Whether a text runs from right to left, after its first strong letter (Unicode UAX #9, P2 and P3)."""
    for sign in text:
        kind = unicodedata.bidirectional(sign)
        if kind in ("R", "AL"):
            return True
        if kind == "L":
            return False
    return False
