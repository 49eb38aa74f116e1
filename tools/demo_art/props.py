"""Things that several places of the demo share: light, lanterns, houses, crowds, people.

Everything is drawn with Qt's raster painter, whose results are the same on
every machine. Coordinates are pixels of the surface being painted.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QImage,
    QLinearGradient,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QRadialGradient,
)

from .heads import SIZE, Person, head

WIDTH, HEIGHT = 1920, 1080
WARM = QColor(255, 188, 96)


def surface(width: int = WIDTH, height: int = HEIGHT) -> QImage:
    return QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)


def painter_on(image: QImage) -> QPainter:
    painter = QPainter(image)
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
    painter.setPen(Qt.PenStyle.NoPen)
    return painter


def shaded(x1: float, y1: float, x2: float, y2: float, *stops: tuple[float, QColor | tuple[int, ...]]) -> QBrush:
    gradient = QLinearGradient(x1, y1, x2, y2)
    for place, colour in stops:
        gradient.setColorAt(place, colour if isinstance(colour, QColor) else QColor(*colour))
    return QBrush(gradient)


def glow(p: QPainter, x: float, y: float, radius: float, colour: QColor, strength: float) -> None:
    """Light that adds to what is there."""
    gradient = QRadialGradient(x, y, radius)
    for place, part in ((0, 1.0), (0.25, 0.5), (0.55, 0.16), (1, 0.0)):
        tint = QColor(colour)
        tint.setAlphaF(min(1.0, strength * part))
        gradient.setColorAt(place, tint)
    p.save()
    p.setCompositionMode(QPainter.CompositionMode.CompositionMode_Plus)
    p.fillRect(QRectF(x - radius, y - radius, 2 * radius, 2 * radius), QBrush(gradient))
    p.restore()


def lantern(
    p: QPainter, x: float, y: float, size: float, tint: QColor = WARM, lit: float = 1.0, shine: bool = True
) -> None:
    """A paper lantern whose middle is at (x, y); ``size`` is its height."""
    width = size * 0.72
    if shine:
        glow(p, x, y, size * 1.9, tint, 0.42 * lit)
    core = QRadialGradient(x, y + size * 0.12, size * 0.62)
    core.setColorAt(0, QColor(255, 246, 214))
    core.setColorAt(0.45, tint.lighter(112))
    core.setColorAt(1, tint.darker(185))
    p.setBrush(QBrush(core))
    body = QPainterPath(QPointF(x - width * 0.28, y - size / 2))
    body.cubicTo(x - width * 0.75, y - size * 0.3, x - width * 0.7, y + size * 0.35, x - width * 0.22, y + size / 2)
    body.lineTo(x + width * 0.22, y + size / 2)
    body.cubicTo(x + width * 0.7, y + size * 0.35, x + width * 0.75, y - size * 0.3, x + width * 0.28, y - size / 2)
    p.drawPath(body)
    rib = tint.darker(150)
    rib.setAlpha(95)
    p.setPen(QPen(rib, max(1.0, size / 70)))
    for k in range(-4, 5):
        yy = y + k * size / 10
        half = width * 0.5 * math.sqrt(max(0.05, 1 - (k / 6.4) ** 2))
        p.drawArc(QRectF(x - half, yy - size * 0.04, 2 * half, size * 0.09), 180 * 16, 180 * 16)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(48, 26, 22))
    p.drawRoundedRect(QRectF(x - width * 0.3, y - size * 0.55, width * 0.6, size * 0.07), 3, 3)
    p.drawRoundedRect(QRectF(x - width * 0.24, y + size * 0.48, width * 0.48, size * 0.06), 3, 3)


def ridge(
    p: QPainter, rng: np.random.Generator, width: int, base: float, height: float, floor: float, brush: QBrush
) -> None:
    """A mountain line from sums of octaves."""
    xs = np.linspace(0, width, 160)
    line = np.zeros_like(xs)
    for octave in range(1, 7):
        phase = rng.uniform(0, 2 * np.pi, 2)
        line += np.sin(xs / width * np.pi * 2.3 * 1.8**octave + phase[0]) / 1.75**octave
    points = [QPointF(float(a), float(base - height * (0.5 + 0.5 * b))) for a, b in zip(xs, line, strict=True)]
    p.setBrush(brush)
    p.drawPolygon(QPolygonF([QPointF(0, floor), *points, QPointF(width, floor)]))


def house(
    p: QPainter, rng: np.random.Generator, x: float, floor: float, width: float, height: float, depth: float
) -> None:
    """A timbered house front; ``depth`` 0 near to 1 far, which pales and blues it."""
    wall = QColor(int(30 + 26 * depth), int(27 + 26 * depth), int(40 + 38 * depth))
    p.setBrush(shaded(0, floor - height, 0, floor, (0, wall.darker(125)), (1, wall.lighter(125))))
    p.drawRect(QRectF(x, floor - height, width, height))
    roof = height * 0.42
    p.setBrush(shaded(x, 0, x + width, 0, (0, wall.darker(190)), (1, wall.darker(140))))
    eave = width * 0.12
    p.drawPolygon(
        QPolygonF(
            [
                QPointF(x - eave, floor - height),
                QPointF(x + width * 0.22, floor - height - roof),
                QPointF(x + width * 0.78, floor - height - roof),
                QPointF(x + width + eave, floor - height),
            ]
        )
    )
    columns, rows = max(2, int(width / 52)), max(1, int(height / 78))
    for i in range(columns):
        for j in range(rows):
            if rng.random() > 0.62:
                continue
            wx, wy = x + width * (i + 0.5) / columns, floor - height * (j + 0.55) / rows
            w, h = width / columns * 0.42, height / rows * 0.42
            warm = QColor(255, int(rng.integers(170, 215)), int(rng.integers(90, 140)), int(235 - 110 * depth))
            p.setBrush(warm)
            p.drawRect(QRectF(wx - w / 2, wy - h / 2, w, h))
            p.setBrush(wall.darker(170))
            p.drawRect(QRectF(wx - w * 0.05, wy - h / 2, w * 0.1, h))
            glow(p, wx, wy, h * 2.1, WARM, 0.16 * (1 - 0.6 * depth))


def dusk(p: QPainter, width: int, height: int, horizon: float, seed: int, stars: int = 170) -> None:
    """An evening sky down to the horizon, with stars in its upper part."""
    p.fillRect(
        QRectF(0, 0, width, height),
        shaded(0, 0, 0, horizon, (0, (15, 22, 48)), (0.45, (38, 44, 88)), (0.78, (104, 74, 108)), (1, (196, 122, 96))),
    )
    rng = np.random.default_rng(seed)
    for _ in range(stars):
        x, y = rng.uniform(0, width), rng.uniform(0, horizon * 0.62) * rng.uniform(0.2, 1)
        p.setBrush(QColor(232, 236, 255, int(rng.uniform(40, 190))))
        r = rng.uniform(0.7, 1.9)
        p.drawEllipse(QPointF(x, y), r, r)


def crowd(
    p: QPainter, seed: int, left: float, right: float, floor: float, size: float, t: float, lamps: bool = True
) -> None:
    """A row of people seen from behind, dark against the light, swaying a little at ``t`` seconds."""
    rng = np.random.default_rng(seed)
    x = left
    while x < right:
        s = size * rng.uniform(0.82, 1.15)
        sway = 4 * math.sin(t * rng.uniform(1.2, 2.2) + rng.uniform(0, 6.3))
        y = floor - s * rng.uniform(0.9, 1.1) + sway * 0.5
        body = QColor(17, 17, 27)
        p.setBrush(shaded(0, y - s * 0.4, 0, y + s * 0.9, (0, (66, 45, 44)), (0.22, body), (1, body)))
        shoulders = QPainterPath(QPointF(x - s * 0.52 + sway, floor + 8))
        shoulders.cubicTo(x - s * 0.5 + sway, y + s * 0.3, x - s * 0.3 + sway, y + s * 0.24, x + sway, y + s * 0.22)
        shoulders.cubicTo(
            x + s * 0.3 + sway, y + s * 0.24, x + s * 0.5 + sway, y + s * 0.3, x + s * 0.52 + sway, floor + 8
        )
        p.drawPath(shoulders)
        p.drawEllipse(QPointF(x + sway, y), s * 0.21, s * 0.27)
        if lamps and rng.random() < 0.28:
            hue = QColor.fromHsv(int(rng.integers(18, 46)), int(rng.integers(120, 190)), 255)
            lantern(p, x + s * 0.4 + sway, y - s * rng.uniform(0.5, 0.9) + sway, s * 0.42, hue)
        x += s * rng.uniform(0.72, 1.0)


@lru_cache(maxsize=256)
def _sprite(who: Person, yaw: float, mouth: float, blink: float, lamp: float) -> QImage:
    rgba = (np.clip(head(who, yaw, mouth, blink, lamp), 0, 1) * 255 + 0.5).astype(np.uint8)
    bgra = np.ascontiguousarray(rgba[..., [2, 1, 0, 3]])
    return QImage(bgra.data, SIZE, SIZE, SIZE * 4, QImage.Format.Format_ARGB32_Premultiplied).copy()


def speech(t: float, seed: float = 0.0) -> float:
    """How far a speaking mouth is open at ``t`` seconds."""
    return max(0.0, 0.5 * math.sin(t * 15.1 + seed) + 0.35 * math.sin(t * 9.3 + 2 * seed) + 0.2 * math.sin(t * 3.1))


def blinking(t: float, seed: float = 0.0) -> float:
    return 1.0 if (t + seed) % 3.1 < 0.13 else 0.0


Box = tuple[float, float, float, float]


def person(
    p: QPainter,
    who: Person,
    x: float,
    y: float,
    size: float,
    *,
    yaw: float = 0.0,
    mouth: float = 0.0,
    blink: float = 0.0,
    lamp: float = 1.0,
    legs: bool = False,
) -> tuple[Box, Box]:
    """A person whose head's middle is at (x, y); ``size`` is the head's height.

    Returns the face's and the whole figure's box (left, top, width, height).
    """
    yaw, mouth = round(yaw * 8) / 8, round(mouth * 5) / 5
    lit, shade = QColor(*who.coat), QColor(*who.coat_shade)
    left, right = (shade, lit) if lamp > 0 else (lit, shade)
    shoulder, foot = y + size * 0.62, y + size * (3.9 if legs else 3.1)
    width = size * (0.78 if legs else 1.05)
    p.setBrush(
        shaded(x - width, 0, x + width, 0, (0.05, left), (0.55 if lamp > 0 else 0.45, lit.darker(118)), (0.95, right))
    )
    body = QPainterPath(QPointF(x - width * (1.0 if legs else 1.08), foot))
    body.cubicTo(
        x - width * 1.05, shoulder + size * 0.9, x - width * 1.0, shoulder + size * 0.12, x - size * 0.2, shoulder
    )
    body.lineTo(x + size * 0.2, shoulder)
    body.cubicTo(
        x + width * 1.0,
        shoulder + size * 0.12,
        x + width * 1.05,
        shoulder + size * 0.9,
        x + width * (1.0 if legs else 1.08),
        foot,
    )
    p.drawPath(body)
    p.setBrush(QColor.fromRgbF(*(c * 0.48 for c in who.skin)))
    p.drawRoundedRect(QRectF(x - size * 0.16, y + size * 0.22, size * 0.32, size * 0.5), size * 0.12, size * 0.12)
    collar = QPainterPath(QPointF(x - size * 0.24, shoulder - size * 0.04))
    collar.quadTo(x, shoulder + size * 0.42, x + size * 0.24, shoulder - size * 0.04)
    collar.quadTo(x, shoulder + size * 0.2, x - size * 0.24, shoulder - size * 0.04)
    p.setBrush(shade.darker(130))
    p.drawPath(collar)
    side = size * 1.32
    p.drawImage(QRectF(x - side / 2, y - side / 2, side, side), _sprite(who, yaw, mouth, blink, lamp))
    drift = 0.1 * yaw * size
    face = (x - size * 0.33 + drift, y - size * 0.36, size * 0.66, size * 0.86)
    return face, (x - width * 1.05, y - size * 0.66, width * 2.1, foot - y + size * 0.66)
