"""Sheets of a PDF: text in any script, pictures, lines. Drawn by Skia, which shapes all scripts and embeds its type."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
import skia

from ezvar.core.names import readable
from ezvar.core.text.setting.fonts import families
from ezvar.core.text.setting.type import USING, Face, Writing

WIDTH, HEIGHT = 595.0, 842.0
"""Of a sheet of A4, in points."""
_BODY = Face()
_FIGURES = Face(family="Atkinson Hyperlegible Mono")


def colour(text: str) -> int:
    """A colour written as #rrggbb."""
    return int(skia.Color(*(int(text[k : k + 2], 16) for k in (1, 3, 5))))


class Paper:
    """A PDF being drawn, sheet after sheet; places and sizes in points from a sheet's upper left."""

    def __init__(self, title: str) -> None:
        self._stream = skia.DynamicMemoryWStream()
        facts = skia.PDF.Metadata()
        facts.fTitle, facts.fProducer = title, "Ezvar"
        self._doc = skia.PDF.MakeDocument(self._stream, facts)
        self._canvas: skia.Canvas | None = None

    @contextmanager
    def sheet(self) -> Iterator[None]:
        """Draw a sheet."""
        with USING:
            self._canvas = self._doc.beginPage(WIDTH, HEIGHT)
            yield
            self._doc.endPage()
            self._canvas = None

    def whole(self) -> bytes:
        """The finished PDF."""
        self._doc.close()
        return bytes(self._stream.detachAsData())

    @property
    def _on(self) -> skia.Canvas:
        assert self._canvas is not None, "nothing is drawn beside a sheet"
        return self._canvas

    def write(
        self, text: str, x: float, y: float, width: float, size: float = 9.0, ink: str = "#20302d", bold: bool = False,
        figures: bool = False,
    ) -> float:  # fmt: skip
        """Write a text from a place on in lines of a width; how high it is."""
        high = 0.0
        paint = skia.Paint(AntiAlias=True, Color=colour(ink))
        for line in readable(text).split("\n"):
            block = families(_FIGURES if figures else _BODY).block(line, Writing(bold), size, paint, width)
            block.paint(self._on, x, y + high)
            high += block.Height
        return high

    def picture(self, data: bytes, x: float, y: float, width: float, height: float) -> None:
        """Lay a JPEG picture into a rectangle."""
        image = skia.Image.MakeFromEncoded(skia.Data.MakeWithCopy(data))
        self._on.drawImageRect(image, skia.Rect.MakeXYWH(x, y, width, height), skia.SamplingOptions())

    def rule(self, x: float, y: float, width: float, ink: str = "#d8cfbc") -> None:
        """A line across."""
        self._on.drawLine(x, y, x + width, y, skia.Paint(AntiAlias=True, Color=colour(ink), StrokeWidth=0.6))

    def box(self, x: float, y: float, side: float, ticked: bool) -> None:
        """A box to be ticked by hand, or ticked already."""
        paint = skia.Paint(AntiAlias=True, Color=colour("#20302d"), Style=skia.Paint.kStroke_Style, StrokeWidth=0.8)
        self._on.drawRect(skia.Rect.MakeXYWH(x, y, side, side), paint)
        if ticked:
            paint.setStrokeWidth(1.4)
            self._on.drawLine(x + 0.2 * side, y + 0.5 * side, x + 0.45 * side, y + 0.8 * side, paint)
            self._on.drawLine(x + 0.45 * side, y + 0.8 * side, x + 0.9 * side, y + 0.1 * side, paint)

    def outline(
        self, corners: np.ndarray, ink: str, dash: tuple[float, ...], within: tuple[float, float, float, float]
    ) -> None:
        """A closed line through corners (n, 2), as far as it lies in a rectangle ``within``."""
        path = skia.Path()
        path.addPoly([skia.Point(float(x), float(y)) for x, y in corners], True)
        self._on.save()
        self._on.clipRect(skia.Rect.MakeXYWH(*within))
        for width, shade in ((2.4, "#20302d"), (1.2, ink)):  # dark around it, to be seen over any picture
            paint = skia.Paint(AntiAlias=True, Color=colour(shade), Style=skia.Paint.kStroke_Style, StrokeWidth=width)
            if dash:
                paint.setPathEffect(skia.DashPathEffect.Make([1.2 * d for d in _even(dash)], 0.0))
            self._on.drawPath(path, paint)
        self._on.restore()


def _even(dash: tuple[float, ...]) -> tuple[float, ...]:
    return dash if len(dash) % 2 == 0 else dash * 2


def height_of(text: str, width: float, size: float = 9.0, bold: bool = False) -> float:
    """How high a text is in lines of a width."""
    paint = skia.Paint()
    with USING:
        blocks = (families(_BODY).block(line, Writing(bold), size, paint, width) for line in readable(text).split("\n"))
        return float(sum(block.Height for block in blocks))
