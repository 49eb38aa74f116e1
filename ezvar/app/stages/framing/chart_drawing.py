"""What is drawn in the sweep chart."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from ezvar.app.kit import theme
from ezvar.core.evidence import Subject
from ezvar.core.timing import FrameRange

from .chart_places import LEFT, TOP, Chart

_BEAD = 6.0
_BLANK = QColor("#393b3b")


def ground(painter: QPainter, chart: Chart, scan: QImage | None) -> None:
    """The slit scan, or an even ground while it is being made."""
    area = chart.area
    if scan is None:
        painter.fillRect(area, _BLANK)
        return
    first, length = chart.span.first * scan.width(), chart.span.length * scan.width()
    painter.drawImage(area, scan, QRectF(first, 0, length, scan.height()))
    painter.fillRect(area, QColor(44, 46, 46, 24))


def edges(painter: QPainter, low: QPolygonF, high: QPolygonF, line: theme.Line, faint: bool = False) -> None:
    """A band's two edges."""
    pen = line.pen(1.0 if faint else 1.8)
    if faint:
        colour = QColor(pen.color())
        colour.setAlpha(150)
        pen.setColor(colour)
    _curve(painter, low, pen)
    _curve(painter, high, pen)


def _curve(painter: QPainter, points: QPolygonF, pen: QPen) -> None:
    """A line through many points, as wide as its pen: thin ones beside each other are drawn many times quicker."""
    thin, width = QPen(pen), pen.widthF()
    thin.setWidthF(1.0)
    thin.setDashPattern([d * width for d in pen.dashPattern()])
    painter.setPen(thin)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    off = (width - 1) / 2
    for x, y in ((-off, 0), (off, 0), (0, -off), (0, off)) if off > 0 else ((0, 0),):
        painter.drawPolyline(points.translated(x, y))


def faint_band(painter: QPainter, chart: Chart, frames: np.ndarray, reach: np.ndarray, line: theme.Line) -> None:
    """The edges of a band that is not the active one; ``reach`` (n, 4) as `band` gives it."""
    low, high = chart.axis(reach)
    edges(painter, chart.line(frames, low), chart.line(frames, high), line, faint=True)


def filled_band(painter: QPainter, chart: Chart, frames: np.ndarray, reach: np.ndarray, line: theme.Line) -> None:
    """The active window's band, with its middle: the curve between beads is the ease."""
    a, b = chart.axis(reach)
    low, high = chart.points(frames, a), chart.points(frames, b)
    fill = QColor(line.on_well)
    fill.setAlpha(64)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(fill)
    painter.drawPolygon(QPolygonF(low + high[::-1]))
    edges(painter, QPolygonF(low), QPolygonF(high), line)
    _curve(painter, chart.line(frames, (a + b) / 2), QPen(line.on_well, 1.0))


def ghost(painter: QPainter, chart: Chart, frames: np.ndarray, reach: np.ndarray, line: theme.Line) -> None:
    """The middle of the solved path behind one by hand."""
    low, high = chart.axis(reach)
    _curve(painter, chart.line(frames, (low + high) / 2), QPen(line.on_well, 1.4, Qt.PenStyle.DotLine))


def theirs(painter: QPainter, chart: Chart, frames: np.ndarray, reach: np.ndarray) -> None:
    """The edges and the middle of a returned path, dashed, over ours."""
    low, high = chart.axis(reach)
    for values, width in ((low, 1.6), (high, 1.6), ((low + high) / 2, 1.0)):
        _curve(painter, chart.line(frames, values), QPen(theme.WELL_INK, width, Qt.PenStyle.DashLine))


def lost(
    painter: QPainter, chart: Chart, frames: np.ndarray, reach: np.ndarray, stretches: Sequence[FrameRange]
) -> None:
    """Marks on the band where it does not hold what must be kept."""
    painter.setPen(QPen(theme.LOST, 4, cap=Qt.PenCapStyle.FlatCap))
    _, high = chart.axis(reach)
    for s in stretches:
        here = (frames >= s.start) & (frames < s.end)
        if here.sum() > 1:
            painter.drawPolyline(chart.line(frames[here], high[here]))


def subjects(painter: QPainter, chart: Chart, start: int, frames: np.ndarray, known: Sequence[Subject]) -> None:
    """A numbered line through each subject's middle, where it is there; ``start`` is the shot's first lock frame."""
    painter.setFont(theme.sans(12, bold=True))
    taken: list[float] = []
    for s in known:
        if s.number > 9:
            continue
        low, high = chart.axis(s.at(frames + start))
        there = s.there(frames + start)
        first = None
        pen = QPen(theme.WELL_INK, 1.4 if s.number == known[0].number else 1.0)
        for k in np.split(np.flatnonzero(there), np.flatnonzero(np.diff(np.flatnonzero(there)) > 1) + 1):
            if len(k) > 1:
                _curve(painter, chart.line(frames[k], (low[k] + high[k]) / 2), pen)
                first = int(k[0]) if first is None else first
        if first is not None:
            y = chart.y(float(low[first] + high[first]) / 2)
            while any(abs(y - other) < 13 for other in taken):
                y += 13
            taken.append(y)
            painter.drawText(QPointF(chart.x(frames[first]) + 6, y - 3), str(s.number))


def beads(
    painter: QPainter, chart: Chart, places: Sequence[tuple[int, float]], chosen: Collection[int], line: theme.Line
) -> None:
    """The keyframes; chosen ones are filled with their master's colour."""
    for frame, place in places:
        painter.setPen(QPen(theme.WELL_INK if frame in chosen else line.on_well, 3))
        painter.setBrush(line.on_well if frame in chosen else theme.WELL_INK)
        painter.drawEllipse(QPointF(chart.x(frame), chart.y(place)), _BEAD, _BEAD)


def playhead(painter: QPainter, chart: Chart, frame: int) -> None:
    x = chart.x(frame)
    if chart.area.left() - 1 <= x <= chart.area.right() + 1:
        painter.setPen(QPen(QColor("#ffffff"), 2))
        painter.drawLine(QPointF(x, chart.area.top() - 4), QPointF(x, chart.area.bottom() + 4))


def stretch(painter: QPainter, chart: Chart, marked: FrameRange | None) -> None:
    """The stretch that is marked, as a bar beneath the chart."""
    if marked is not None:
        left, right = (
            max(chart.area.left(), min(chart.area.right(), chart.x(f - 0.5))) for f in (marked.start, marked.end)
        )
        painter.fillRect(QRectF(left, chart.area.bottom() + 3, right - left, 5), theme.ACCENT_ON_WELL)


def choosing(painter: QPainter, box: QRectF) -> None:
    """The box that is being dragged over beads."""
    painter.setPen(QPen(theme.WELL_INK, 1, Qt.PenStyle.DashLine))
    painter.setBrush(QColor(255, 255, 255, 26))
    painter.drawRect(box)


def words(painter: QPainter, chart: Chart, place: int, lost: Sequence[FrameRange], snapping: bool) -> None:
    """What the chart shows, what is lost, and which end is which."""
    area = chart.area
    painter.setFont(theme.sans(12))
    above = QRectF(area.left(), 2, area.width(), theme.px(TOP) - 4)
    count = sum(len(s) for s in lost)
    said = f"a must-keep is outside for {count} frames" if count else ""
    if said:
        painter.setPen(theme.LOST)
        painter.drawText(above, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, said)
    painter.setPen(theme.WELL_SOFT)
    room = area.width() - painter.fontMetrics().horizontalAdvance(said) - 16
    across = "height" if chart.along_y else "width"
    text = f"sweep of shot {place}: {across} over time"
    if not snapping:
        text += ", no snapping"
    text = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room))
    painter.drawText(above, Qt.AlignmentFlag.AlignVCenter, text)
    ends = ("top", "bottom") if chart.along_y else ("right", "left")
    wide, tall = theme.px(LEFT) - 8, theme.px(18)
    right = Qt.AlignmentFlag.AlignRight
    painter.drawText(QRectF(0, area.top(), wide, tall), right | Qt.AlignmentFlag.AlignTop, ends[0])
    painter.drawText(QRectF(0, area.bottom() - tall, wide, tall), right | Qt.AlignmentFlag.AlignBottom, ends[1])
