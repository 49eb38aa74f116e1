"""The places of "Lantern night", painted once each: valley, workshop, bench, street, square."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache

import cv2
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF

from .props import HEIGHT, WARM, WIDTH, dusk, glow, house, lantern, painter_on, ridge, shaded, surface


def blurred(image: QImage, sigma: float) -> QImage:
    """The image out of focus."""
    view = image.bits()
    assert view is not None
    view.setsize(image.sizeInBytes())
    pixels = np.frombuffer(view, np.uint8).reshape(image.height(), image.width(), 4)
    soft = np.ascontiguousarray(cv2.GaussianBlur(pixels, (0, 0), sigma))
    return QImage(soft.data, image.width(), image.height(), image.width() * 4, image.format()).copy()


def _painted(width: int, height: int, paint: Callable[[QPainter], None]) -> QImage:
    image = surface(width, height)
    image.fill(QColor(10, 12, 24))
    painter = painter_on(image)
    paint(painter)
    painter.end()
    return image


def _festoon(
    p: QPainter, x1: float, y1: float, x2: float, y2: float, sag: float, count: int, size: float, seed: int
) -> None:
    rng = np.random.default_rng(seed)
    cord = QPainterPath(QPointF(x1, y1))
    cord.quadTo((x1 + x2) / 2, (y1 + y2) / 2 + 2 * sag, x2, y2)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(QColor(20, 16, 24), 3))
    p.drawPath(cord)
    p.setPen(Qt.PenStyle.NoPen)
    for k in range(count):
        at = cord.pointAtPercent((k + 0.5) / count)
        hue = QColor.fromHsv(int(rng.integers(14, 48)), int(rng.integers(120, 205)), 255)
        lantern(p, at.x(), at.y() + size * 0.6, size * rng.uniform(0.85, 1.15), hue)


@lru_cache(maxsize=4)
def valley(width: int = 2700) -> QImage:
    """The town in its valley at dusk, wider than the frame so that a camera can pan over it."""

    def paint(p: QPainter) -> None:
        rng = np.random.default_rng(41)
        dusk(p, width, HEIGHT, 660, 7, stars=260)
        ridge(p, rng, width, 620, 300, HEIGHT, shaded(0, 320, 0, 700, (0, (58, 56, 98)), (1, (116, 84, 112))))
        ridge(p, rng, width, 690, 210, HEIGHT, shaded(0, 460, 0, 760, (0, (42, 42, 76)), (1, (78, 62, 92))))
        glow(p, width * 0.55, 760, 900, WARM, 0.22)
        for row in range(4):
            depth = 1 - row / 3.2
            floor = 735 + row * 78
            x = -60.0
            while x < width:
                w = rng.uniform(70, 130) * (0.75 + 0.33 * row)
                house(p, rng, x, floor, w, w * rng.uniform(0.75, 1.25), max(0.0, depth))
                x += w * rng.uniform(1.0, 1.5)
            glow(p, width * rng.uniform(0.2, 0.8), floor - 10, 360, WARM, 0.12)
        ridge(p, rng, width, 1060, 90, HEIGHT, shaded(0, 940, 0, HEIGHT, (0, (30, 26, 40)), (1, (12, 12, 20))))
        for _ in range(26):
            lantern(p, rng.uniform(0, width), rng.uniform(880, 1010), rng.uniform(16, 34), WARM, 0.8)
        river = QPolygonF([QPointF(width * a, b) for a, b in ((0.42, 1080), (0.50, 965), (0.505, 965), (0.50, 1080))])
        p.setBrush(shaded(0, 960, 0, 1080, (0, (232, 160, 110, 190)), (1, (60, 56, 92, 190))))
        p.drawPolygon(river)

    return _painted(width, HEIGHT, paint)


@lru_cache(maxsize=4)
def workshop(side: str = "left") -> QImage:
    """Inside the workshop: boards, shelves of paper, lanterns; soft, as behind a talker."""

    def paint(p: QPainter) -> None:
        rng = np.random.default_rng(11 if side == "left" else 23)
        p.fillRect(
            QRectF(0, 0, WIDTH, HEIGHT),
            shaded(0, 0, WIDTH, 0, (0, (70, 44, 34)), (0.5, (44, 30, 28)), (1, (24, 20, 26))),
        )
        for k in range(16):
            tone = int(rng.integers(-7, 8))
            p.setBrush(QColor(62 + tone, 41 + tone, 33 + tone, 150))
            p.drawRect(QRectF(k * 122, 0, 117, HEIGHT))
        for y in (250, 520):
            p.setBrush(shaded(0, y, 0, y + 30, (0, (110, 74, 50)), (1, (44, 28, 22))))
            p.drawRect(QRectF(980 if side == "left" else 80, y, 860, 24))
            for k in range(13):
                h = rng.uniform(70, 170)
                hue = QColor.fromHsv(int(rng.integers(0, 60)), int(rng.integers(60, 170)), int(rng.integers(80, 170)))
                p.setBrush(shaded(0, y - h, 0, y, (0, hue.lighter(120)), (1, hue.darker(150))))
                p.drawRoundedRect(
                    QRectF((990 if side == "left" else 90) + k * 65, y - h, rng.uniform(30, 58), h), 10, 10
                )
        for x, y, s in ((1130, 770, 190), (1480, 800, 240), (1730, 740, 170)):
            lantern(p, x if side == "left" else WIDTH - x, y, s)
        window = QRectF(190 if side == "left" else 1340, 110, 330, 430)
        p.fillRect(window, shaded(0, 110, 0, 540, (0, (24, 34, 70)), (1, (126, 92, 116))))
        p.setBrush(QColor(40, 26, 24))
        p.drawRect(QRectF(window.center().x() - 7, 110, 14, 430))
        p.drawRect(QRectF(window.left(), 318, 330, 14))

    return blurred(_painted(WIDTH, HEIGHT, paint), 9)


@lru_cache(maxsize=2)
def bench() -> QImage:
    """The folding bench: a sharp board in front, a soft row of lanterns behind."""

    def back(p: QPainter) -> None:
        p.fillRect(QRectF(0, 0, WIDTH, HEIGHT), shaded(0, 0, 0, 700, (0, (28, 20, 24)), (1, (74, 44, 34))))
        for k in range(8):
            hue = QColor.fromHsv(16 + 5 * k, 175, 255)
            lantern(p, 130 + 245 * k, 300 + 26 * math.sin(k * 2.1), 205, hue)

    image = blurred(_painted(WIDTH, HEIGHT, back), 22)
    p = painter_on(image)
    p.fillRect(
        QRectF(0, 640, WIDTH, 440),
        shaded(0, 640, 0, HEIGHT, (0, (118, 76, 50)), (0.25, (140, 92, 60)), (1, (62, 38, 28))),
    )
    rng = np.random.default_rng(5)
    p.setPen(QPen(QColor(70, 42, 28, 90), 2))
    for k in range(30):
        y = 650 + k * 15 + rng.uniform(-3, 3)
        grain = QPainterPath(QPointF(0, y))
        grain.cubicTo(600, y + rng.uniform(-16, 16), 1300, y + rng.uniform(-16, 16), WIDTH, y + rng.uniform(-9, 9))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(grain)
    p.end()
    return image


@lru_cache(maxsize=4)
def street(width: int = 2700, seed: int = 3) -> QImage:
    """A street of house fronts hung with lanterns, wider than the frame."""

    def paint(p: QPainter) -> None:
        rng = np.random.default_rng(seed)
        dusk(p, width, HEIGHT, 720, seed + 1)
        ridge(p, rng, width, 560, 220, HEIGHT, shaded(0, 340, 0, 640, (0, (40, 40, 76)), (1, (84, 64, 94))))
        x = -80.0
        while x < width:
            w = rng.uniform(230, 380)
            house(p, rng, x, 800, w, rng.uniform(300, 430), 0.12)
            x += w * rng.uniform(1.02, 1.16)
        p.fillRect(
            QRectF(0, 800, width, 280),
            shaded(0, 800, 0, HEIGHT, (0, (72, 54, 58)), (0.35, (44, 36, 46)), (1, (18, 17, 26))),
        )
        for k in range(int(width / 640) + 1):
            _festoon(p, k * 640 - 60, 330, k * 640 + 580, 340, 60, 6, 74, seed * 10 + k)
            glow(p, k * 640 + 260, 850, 420, WARM, 0.16)

    return _painted(width, HEIGHT, paint)


@lru_cache(maxsize=1)
def blurred_street() -> QImage:
    """The street out of focus, as behind a close figure."""
    return blurred(street(2700, 14), 13)


@lru_cache(maxsize=2)
def square() -> QImage:
    """The square before the stage, with the crowd's backs along the foot."""

    def paint(p: QPainter) -> None:
        rng = np.random.default_rng(77)
        dusk(p, WIDTH, HEIGHT, 760, 9)
        for k in range(7):
            house(p, rng, -40 + k * 290, 790, 230, 250, 0.45)
        glow(p, 960, 790, 800, WARM, 0.22)
        p.fillRect(
            QRectF(0, 790, WIDTH, 290),
            shaded(0, 790, 0, HEIGHT, (0, (96, 66, 58)), (0.3, (52, 40, 46)), (1, (16, 15, 24))),
        )
        _festoon(p, -50, 240, 980, 250, 90, 9, 76, 5)
        _festoon(p, 940, 250, 1980, 230, 90, 9, 76, 6)

    return _painted(WIDTH, HEIGHT, paint)


def drum(p: QPainter, x: float, y: float, size: float, beat: float) -> None:
    """A barrel drum with its two sticks; ``beat`` 0..1 lifts the near one."""
    p.setBrush(shaded(x - size, 0, x + size, 0, (0, (66, 20, 22)), (0.4, (176, 58, 44)), (1, (58, 18, 22))))
    p.drawRoundedRect(QRectF(x - size, y, 2 * size, size * 1.35), size * 0.22, size * 0.22)
    p.setBrush(QBrush(QColor(232, 214, 182)))
    p.drawEllipse(QPointF(x, y), size, size * 0.28)
    p.setPen(QPen(QColor(206, 170, 118), size * 0.07, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    p.drawLine(
        QPointF(x - size * 0.75, y - size * (0.2 + 0.75 * beat)),
        QPointF(x - size * 0.1, y - size * 0.04 - size * 0.35 * beat),
    )
    p.drawLine(
        QPointF(x + size * 0.75, y - size * (0.95 - 0.75 * beat)),
        QPointF(x + size * 0.1, y - size * 0.39 + size * 0.35 * beat),
    )
    p.setPen(Qt.PenStyle.NoPen)
