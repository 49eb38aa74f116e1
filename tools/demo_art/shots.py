"""The shots of "Lantern night": what each paints, and what is true of it.

A shot paints frame ``i`` (at ``t`` seconds from its start) and returns the
boxes of its subjects on that frame, in picture pixels: the ground truth.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QImage, QPainter, QPen, QPolygonF

from . import places
from .heads import DUNN, ILMA, MEIRA, TORO, Person
from .props import HEIGHT, WIDTH, Box, blinking, crowd, glow, lantern, painter_on, person, shaded, speech, surface

FPS = 25
Truth = dict[str, dict[str, object]]


@dataclass(frozen=True)
class Shot:
    name: str
    frames: int
    setup: str
    paint: Callable[[QPainter, int, float, Truth], None]
    blur: Callable[[int], float] = lambda i: 0.0  # horizontal motion blur, in pixels
    size: tuple[int, int] = (WIDTH, HEIGHT)
    mix: int = 0  # frames of the mix that begins it
    fade: bool = False  # whether that goes through black
    still: bool = False
    scale: tuple[float, float] = (1.0, 1.0)  # placement at its first and last frame, 1 fits
    drift: tuple[float, float] = (0.0, 0.0)  # sideways, in widths of the frame, at its last frame


def _note(truth: Truth, who: str, kind: str, box: Box) -> None:
    """Record a subject's box as far as it lies in the picture."""
    _note_in(truth, who, kind, box, (WIDTH, HEIGHT))


def _note_in(truth: Truth, who: str, kind: str, box: Box, size: tuple[int, int]) -> None:
    left, top = max(0.0, box[0]), max(0.0, box[1])
    right, foot = min(float(size[0]), box[0] + box[2]), min(float(size[1]), box[1] + box[3])
    if right - left > 2 and foot - top > 2:
        truth[who] = {"kind": kind, "box": [round(v, 1) for v in (left, top, right - left, foot - top)]}


def _type(p: QPainter, size: float, bold: bool = True) -> QFont:
    font = QFont("Atkinson Hyperlegible Next")
    font.setPixelSize(int(size))
    font.setBold(bold)
    p.setFont(font)
    return font


def title_card(p: QPainter, i: int, t: float, truth: Truth) -> None:
    p.drawImage(QPointF(-120 - 0.35 * i, 0), places.valley())
    p.fillRect(QRectF(0, 0, WIDTH, HEIGHT), QColor(10, 12, 28, 120))
    font = _type(p, 164)
    font.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, 20)
    p.setFont(font)
    p.setPen(QColor(255, 226, 172))
    big = p.boundingRect(QRectF(0, 340, WIDTH, 230), Qt.AlignmentFlag.AlignCenter, "LANTERN NIGHT")
    p.drawText(QRectF(0, 340, WIDTH, 230), Qt.AlignmentFlag.AlignCenter, "LANTERN NIGHT")
    _type(p, 58, bold=False)
    p.setPen(QColor(244, 232, 214))
    p.drawText(QRectF(0, 575, WIDTH, 90), Qt.AlignmentFlag.AlignCenter, "the last evening of the harvest in Orrenvale")
    p.setPen(Qt.PenStyle.NoPen)
    _note(truth, "title", "text", (big.left(), big.top() + 30, big.width(), 665 - big.top() - 30))


def valley_pan(p: QPainter, i: int, t: float, truth: Truth) -> None:
    p.drawImage(QPointF(-60 - 3.6 * i, 0), places.valley())
    rng = np.random.default_rng(19)
    for _ in range(9):
        x, y = 500 + rng.uniform(0, 1500) - 3.6 * i, 560 - 20 * t * rng.uniform(0.6, 1.4) + rng.uniform(0, 120)
        lantern(p, x, y, rng.uniform(20, 34))


def _talker(who: Person, side: str, x: float) -> Callable[[QPainter, float, Truth, float], None]:
    def paint(p: QPainter, t: float, truth: Truth, seed: float) -> None:
        p.drawImage(QPointF(0, 0), places.workshop(side))
        nod = 9 * math.sin(1.4 * t + seed)
        face, _ = person(
            p,
            who,
            x + 12 * math.sin(0.7 * t + seed),
            430 + nod * 0.5,
            430,
            yaw=0.35 + 0.25 * math.sin(0.9 * t),
            mouth=speech(t, seed),
            blink=blinking(t, seed),
            lamp=1.0,
        )
        _note(truth, "Ilma" if who is ILMA else "Dunn", "face", face)

    return paint


_ilma = _talker(ILMA, "left", 660)


def ilma_lower_third(p: QPainter, i: int, t: float, truth: Truth) -> None:
    _ilma(p, t, truth, 0.3)
    lower_third(p, i, truth)


def lower_third(p: QPainter, i: int, truth: Truth) -> None:
    """The graphic of the upper track: comes, stays and goes."""
    come = min(1.0, max(0.0, (i - 15) / 12)) * min(1.0, max(0.0, (112 - i) / 8))
    if come <= 0:
        return
    p.setOpacity(come)
    p.fillRect(QRectF(120, 850, 760, 132), QColor(20, 26, 44, 216))
    p.fillRect(QRectF(120, 850, 12, 132), QColor(238, 160, 70))
    _type(p, 54)
    p.setPen(QColor(250, 240, 220))
    p.drawText(QPointF(164, 911), "Ilma Varrel")
    _type(p, 36, bold=False)
    p.drawText(QPointF(164, 962), "lantern maker, Orrenvale")
    p.setPen(Qt.PenStyle.NoPen)
    p.setOpacity(1)
    _note(truth, "lower third", "text", (120, 850, 760, 132))


def ilma_second(p: QPainter, i: int, t: float, truth: Truth) -> None:
    _ilma(p, t + 7, truth, 1.9)


def ilma_third(p: QPainter, i: int, t: float, truth: Truth) -> None:
    _ilma(p, t + 31, truth, 4.2)


def hands(p: QPainter, i: int, t: float, truth: Truth) -> None:
    """Two hands fold a sheet; the fold comes down, is pressed and opens again."""
    p.drawImage(QPointF(0, 0), places.bench())
    x, y = 1180.0, 800.0
    fold = 0.5 - 0.5 * math.cos(2.1 * t)
    sheet = QPolygonF([QPointF(x + a, y + b) for a, b in ((-330, 40), (-190, -120), (270, -110), (350, 60), (10, 130))])
    p.setBrush(shaded(x - 300, 0, x + 340, 0, (0, (255, 236, 196)), (1, (222, 174, 118))))
    p.drawPolygon(sheet)
    lift = 120 * (1 - fold)
    flap = QPolygonF(
        [
            QPointF(x - 190, y - 120),
            QPointF(x + 270, y - 110),
            QPointF(x + 160 - 60 * fold, y - 30 - 1.5 * lift + 80 * fold),
            QPointF(x - 120 + 40 * fold, y - 50 - 1.5 * lift + 90 * fold),
        ]
    )
    p.setBrush(shaded(0, y - 250, 0, y + 60, (0, (255, 244, 214)), (1, (206, 150, 96))))
    p.drawPolygon(flap)
    for side in (-1, 1):
        hx, hy = x + side * (250 - 120 * fold), y - 20 - 0.8 * lift + 50 * fold
        p.setPen(QPen(QColor(104, 36, 44), 128, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        p.drawLine(QPointF(hx + side * 150, hy + 60), QPointF(hx + side * 460, hy + 330))
        skin = QColor(216, 158, 124)
        for k in range(4):
            p.setPen(QPen(skin.darker(104 + 7 * k), 40 - 3 * k, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            spread = k * 33 - 40
            p.drawLine(
                QPointF(hx + side * 66, hy + 20 + spread * 0.7),
                QPointF(hx - side * (62 - 8 * k), hy + 14 + spread + 16 * fold),
            )
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(shaded(hx, hy - 60, hx, hy + 90, (0, skin.lighter(112)), (1, skin.darker(150))))
        p.drawEllipse(QPointF(hx + side * 92, hy + 28), 88, 70)
    _note(truth, "hands", "hands", (x - 400, y - 250, 810, 400))


def two_shot(p: QPainter, i: int, t: float, truth: Truth, offset: float = 0.0) -> None:
    """Dunn on the left and Meira on the right speak in turn."""
    p.drawImage(QPointF(0, 0), places.workshop("right"))
    turn = int((t + offset) / 2.0) % 2
    left, _ = person(
        p,
        DUNN,
        470,
        470 + 6 * math.sin(t),
        340,
        yaw=0.7,
        mouth=speech(t, 1) if turn == 0 else 0,
        blink=blinking(t),
        lamp=1.0,
    )
    right, _ = person(
        p,
        MEIRA,
        1450,
        480 + 6 * math.sin(t + 2),
        340,
        yaw=-0.7,
        mouth=speech(t, 5) if turn else 0,
        blink=blinking(t, 1.4),
        lamp=-0.8,
    )
    _note(truth, "Dunn", "face", left)
    _note(truth, "Meira", "face", right)


def two_shot_again(p: QPainter, i: int, t: float, truth: Truth) -> None:
    two_shot(p, i, t + 0.9, truth, 2.0)


def _bearer(p: QPainter, x: float, y: float, size: float, t: float, truth: Truth, yaw: float) -> None:
    hand = QPointF(x + size * 0.75, y + size * 0.5)
    swing = 0.06 * math.sin(2.6 * t) * size
    p.setPen(QPen(QColor(74, 48, 34), size * 0.055, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    p.drawLine(QPointF(x + size * 0.70, y + size * 1.7), QPointF(x + size * 0.86 + swing * 0.3, y - size * 1.0))
    p.setPen(Qt.PenStyle.NoPen)
    lantern(p, x + size * 0.86 + swing, y - size * 0.9, size * 0.85)
    face, figure = person(p, MEIRA, x, y, size, yaw=yaw, blink=blinking(t, 0.5), lamp=1.0, legs=True)
    p.setPen(QPen(QColor(*MEIRA.coat).darker(116), size * 0.26, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    p.drawLine(QPointF(x + size * 0.5, y + size * 1.05), hand)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(214, 164, 134))
    p.drawEllipse(hand, size * 0.13, size * 0.12)
    _note(truth, "bearer's face", "face", face)
    _note(truth, "bearer", "figure", figure)


def crossing(p: QPainter, i: int, t: float, truth: Truth) -> None:
    p.drawImage(QPointF(-300, 0), places.street())
    x = -160 + 2260 * (i / 149)
    _bearer(p, x, 520 + 9 * abs(math.sin(5 * t)), 170, t, truth, 0.75)
    crowd(p, 31, -60, WIDTH + 80, HEIGHT + 90, 190, t, lamps=False)


def drummer(p: QPainter, i: int, t: float, truth: Truth) -> None:
    """The drummer stands at the very edge; the middle of the square is empty."""
    p.drawImage(QPointF(0, 0), places.square())
    beat = 0.5 + 0.5 * math.sin(2 * math.pi * 2.5 * t)
    face, figure = person(p, TORO, 1735, 440 + 10 * beat, 230, yaw=-0.5, blink=blinking(t), lamp=-1.0, legs=True)
    places.drum(p, 1700, 790, 160, beat)
    crowd(p, 51, -60, 1350, HEIGHT + 40, 150, t, lamps=False)
    _note(truth, "drummer's face", "face", face)
    _note(truth, "drummer", "figure", (figure[0], figure[1], figure[2], HEIGHT - figure[1]))


def _whip(i: int) -> float:
    """Place of the camera over the street, in pixels, for the whip pan."""
    s = min(1.0, max(0.0, (i - 30) / 13))
    return 40 + 1640 * s * s * (3 - 2 * s) + 0.6 * i


def whip_pan(p: QPainter, i: int, t: float, truth: Truth) -> None:
    p.drawImage(QPointF(-_whip(i), 0), places.street(3700, 8))
    p.save()
    p.translate(-_whip(i), 0)
    crowd(p, 61, -60, 3700, HEIGHT + 60, 230, t)
    p.restore()


BURSTS = ((0.9, 620, 260, 32), (2.2, 1290, 220, 200), (3.1, 930, 330, 300))
FLASH = (20, 22)  # frames of the shot that are lit up whole


def fireworks(p: QPainter, i: int, t: float, truth: Truth) -> None:
    p.drawImage(QPointF(0, 0), places.square())
    rng = np.random.default_rng(90)
    for start, x, y, hue in BURSTS:
        age = t - start
        if not 0 <= age < 1.7:
            continue
        colour = QColor.fromHsv(hue, 150, 255)
        glow(p, x, y, 520 * min(1, age * 4), colour, 0.6 * (1 - age / 1.7))
        for _ in range(70):
            angle, reach = rng.uniform(0, 2 * math.pi), rng.uniform(0.35, 1) * 340 * (1 - math.exp(-3 * age))
            fall = 70 * age * age
            spark = QColor(colour.lighter(120))
            spark.setAlphaF(max(0.0, 1 - age / 1.7))
            p.setPen(QPen(spark, 4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            cx, cy = x + reach * math.cos(angle), y + reach * math.sin(angle) + fall
            p.drawLine(QPointF(cx, cy), QPointF(cx - 22 * math.cos(angle), cy - 22 * math.sin(angle)))
        p.setPen(Qt.PenStyle.NoPen)
    crowd(p, 71, -60, WIDTH + 80, HEIGHT + 20, 260, t)
    if FLASH[0] <= i < FLASH[1]:
        p.fillRect(QRectF(0, 0, WIDTH, HEIGHT), QColor(255, 246, 226, 205))


def bearer_close(p: QPainter, i: int, t: float, truth: Truth) -> None:
    """The camera goes along with the bearer, who stays right of the middle."""
    p.drawImage(QPointF(-80 - 5.2 * i, 0), places.blurred_street())
    x = 1180 + 70 * math.sin(1.1 * t)
    _bearer(p, x, 430 + 14 * abs(math.sin(5 * t)), 380, t, truth, 0.5)


def procession(p: QPainter, i: int, t: float, truth: Truth) -> None:
    """The last wide picture: the whole town, lanterns rising over the valley."""
    p.drawImage(QPointF(-390, 0), places.valley())
    rng = np.random.default_rng(28)
    for k in range(60):
        x, speed, size = rng.uniform(0, WIDTH), rng.uniform(30, 75), rng.uniform(14, 46)
        y = 1120 + rng.uniform(0, 420) - 2.2 * speed * t - 240 * rng.random()
        lantern(p, x + 16 * math.sin(t + k), y, size, QColor.fromHsv(int(rng.integers(16, 44)), 150, 255), 0.9)
    crowd(p, 83, -60, WIDTH + 80, HEIGHT + 30, 120, t)


def old_map(p: QPainter, i: int, t: float, truth: Truth) -> None:
    """A still: the valley as an old engraved map, 2400 by 1350."""
    rng = np.random.default_rng(55)
    p.fillRect(QRectF(0, 0, 2400, 1350), shaded(0, 0, 2400, 1350, (0, (226, 204, 160)), (1, (186, 150, 104))))
    for _ in range(900):
        spot = QColor(120, 84, 50, int(rng.uniform(4, 22)))
        p.setBrush(spot)
        size = rng.uniform(6, 90)
        p.drawEllipse(QPointF(rng.uniform(0, 2400), rng.uniform(0, 1350)), size, size * 0.7)
    ink = QColor(70, 44, 30)
    for k in range(34):
        height = 60 + 26 * k
        line = QPolygonF()
        for x in range(120, 2300, 12):
            hill = 190 * math.exp(-(((x - 800) / 420) ** 2)) + 250 * math.exp(-(((x - 1720) / 300) ** 2))
            line.append(QPointF(x, 260 + height - hill * (1 - k / 40) + 8 * math.sin(x / 60 + k * 1.7)))
        p.setPen(QPen(ink, 2.2 if k % 5 else 4.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPolyline(line)
    p.setPen(QPen(QColor(58, 92, 110), 16, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    for x in range(140, 2260, 8):
        p.drawPoint(QPointF(x, 1020 + 70 * math.sin(x / 260)))
    p.setPen(Qt.PenStyle.NoPen)
    for _ in range(60):
        x, y = rng.uniform(900, 1500), rng.uniform(820, 1010)
        p.setBrush(QColor(132, 48, 36))
        p.drawPolygon(QPolygonF([QPointF(x, y), QPointF(x + 15, y - 17), QPointF(x + 30, y)]))
        p.setBrush(QColor(96, 64, 46))
        p.drawRect(QRectF(x + 3, y, 24, 20))
    font = _type(p, 92)
    font.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, 22)
    p.setFont(font)
    p.setPen(ink)
    p.drawText(QPointF(860, 1240), "ORRENVALE")
    p.setPen(QPen(ink, 9))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawRect(QRectF(60, 60, 2280, 1230))
    p.setPen(Qt.PenStyle.NoPen)


def phone(p: QPainter, i: int, t: float, truth: Truth) -> None:
    """Upright, 1080 by 1920, held in the hand: Dunn between the lanterns of the street."""
    sway = QPointF(14 * math.sin(1.9 * t), 9 * math.cos(2.7 * t))
    p.save()
    p.scale(1.78, 1.78)
    p.drawImage(QPointF(-700, 0) + sway, places.street())
    p.restore()
    x, y = 520 + sway.x() + 40 * math.sin(0.9 * t), 760 + sway.y()
    face, _ = person(
        p, DUNN, x, y, 400, yaw=0.3 * math.sin(1.1 * t), mouth=speech(t, 8), blink=blinking(t, 2.0), lamp=1.0
    )
    lantern(p, 860 + sway.x() * 1.6, 520 + sway.y() * 1.6, 330)
    _note(truth, "Dunn", "face", face)


def flame(p: QPainter, i: int, t: float, truth: Truth) -> None:
    """A close-up in 3840 by 2160: one lantern's paper, its flame, its shadow-cut birds."""
    p.fillRect(QRectF(0, 0, 3840, 2160), shaded(0, 0, 0, 2160, (0, (24, 16, 26)), (1, (58, 30, 24))))
    rng = np.random.default_rng(12)
    for _ in range(26):
        x, y, size = rng.uniform(0, 3840), rng.uniform(0, 2160), rng.uniform(60, 260)
        glow(p, x, y, size, QColor(255, 170, 80), 0.22)
    flicker = 1 + 0.06 * math.sin(9 * t) + 0.04 * math.sin(23 * t)
    lantern(p, 2480, 1120, 1700, lit=0.9 * flicker)
    glow(p, 2480, 1380, 620 * flicker, QColor(255, 226, 150), 0.8)
    p.setBrush(QColor(116, 44, 24, 190))
    for k in range(5):
        a = 0.5 * k + 0.35 * t
        x, y = 2480 + 430 * math.sin(a), 700 + 190 * k + 24 * math.sin(2 * t + k)
        wing = 60 + 26 * math.sin(6 * t + k)
        p.drawPolygon(QPolygonF([
            QPointF(x, y), QPointF(x - 130, y - wing), QPointF(x - 40, y + 26), QPointF(x + 40, y + 26),
            QPointF(x + 130, y - wing),
        ]))  # fmt: skip
    _note_in(truth, "lantern", "thing", (1870, 270, 1220, 1700), (3840, 2160))


SHOTS = (
    Shot("title", 75, "valley", title_card),
    Shot("valley pan", 110, "valley pan", valley_pan),
    Shot("Ilma, lower third", 125, "Ilma", ilma_lower_third),
    Shot("folding hands", 100, "bench", hands),
    Shot("Ilma again", 85, "Ilma", ilma_second),
    Shot("Dunn and Meira", 150, "two", two_shot),
    Shot("crossing", 150, "street", crossing),
    Shot("Ilma, third", 80, "Ilma", ilma_third),
    Shot("drummer at the edge", 100, "square", drummer),
    Shot("whip pan", 75, "whip", whip_pan, lambda i: _whip(i + 1) - _whip(i)),
    Shot("fireworks", 110, "square wide", fireworks),
    Shot("bearer, close", 110, "along", bearer_close),
    Shot("Dunn and Meira again", 100, "two", two_shot_again, mix=20),
    Shot("old map", 75, "map", old_map, size=(2400, 1350), still=True, scale=(1.05, 1.3), drift=(0.0, -0.06)),
    Shot("phone", 75, "phone", phone, size=(1080, 1920), scale=(1.7, 1.7)),
    Shot("flame", 85, "flame", flame, size=(3840, 2160), scale=(1.0, 1.12)),
    Shot("procession", 130, "valley end", procession, mix=28, fade=True),
)


def render(shot: Shot, i: int, graphics: bool = True) -> tuple[np.ndarray, Truth]:
    """Frame ``i`` of a shot in its own size as BGRA pixels (height, width, 4), and its truth.

    Without ``graphics`` the lower third is left to the upper track.
    """
    width, height = shot.size
    image = surface(width, height)
    p = painter_on(image)
    truth: Truth = {}
    paint = ilma_plain if shot.paint is ilma_lower_third and not graphics else shot.paint
    paint(p, i, i / FPS, truth)
    p.end()
    pixels = pixels_of(image)
    reach = shot.blur(i)
    if reach > 4:
        pixels = cv2.blur(pixels, (int(reach * 0.6) | 1, 1))
    return pixels, truth


def ilma_plain(p: QPainter, i: int, t: float, truth: Truth) -> None:
    _ilma(p, t, truth, 0.3)


def graphic() -> np.ndarray:
    """The lower third by itself, BGRA with what is transparent (1080, 1920, 4)."""
    image = surface()
    image.fill(Qt.GlobalColor.transparent)
    p = painter_on(image)
    lower_third(p, 60, {})
    p.end()
    return pixels_of(image)


def pixels_of(image: QImage) -> np.ndarray:
    """An image's pixels, BGRA, in memory of their own."""
    view = image.bits()
    assert view is not None
    view.setsize(image.sizeInBytes())
    return np.frombuffer(view, np.uint8).reshape(image.height(), image.width(), 4).copy()


def placed(shot: Shot, pixels: np.ndarray, i: int) -> np.ndarray:
    """What the edit showed of a frame: the picture placed in the lock's frame, (1080, 1920, 4)."""
    scale, x = placement(shot, i)
    if (scale, x) == (1.0, 0.0) and shot.size == (WIDTH, HEIGHT):
        return pixels
    factor = min(WIDTH / shot.size[0], HEIGHT / shot.size[1]) * scale
    left = WIDTH * (0.5 + x) - shot.size[0] * factor / 2
    top = HEIGHT / 2 - shot.size[1] * factor / 2
    if factor < 1:  # averaged first, so that it does not shimmer
        pixels = cv2.GaussianBlur(pixels, (0, 0), 0.45 / factor)
    move = np.array([[factor, 0, left], [0, factor, top]], np.float32)
    shown = cv2.warpAffine(pixels, move, (WIDTH, HEIGHT), flags=cv2.INTER_LINEAR, borderValue=(0, 0, 0, 255))
    return np.asarray(shown)


def placement(shot: Shot, i: int) -> tuple[float, float]:
    """Scale and sideways shift at a frame; outside the shot its ends hold."""
    t = min(1.0, max(0.0, i / max(1, shot.frames - 1)))
    return shot.scale[0] + (shot.scale[1] - shot.scale[0]) * t, shot.drift[0] + (shot.drift[1] - shot.drift[0]) * t
