"""Lit heads for the demo edit: a relief of the face, shaded by a lamp.

A head is a height map (an ellipsoid with nose, brow, sockets, lips) whose
normals are lit by one warm key lamp and a cool fill, so that light and shade
fall as on a real face. Features move with ``yaw``; the mouth opens; the eyes
close. Everything is drawn once per state and kept.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

SIZE = 420  # pixels of the square sprite; the face fills about two thirds of its height


@dataclass(frozen=True)
class Person:
    """How one person looks; colours are linear-ish RGB in 0..1."""

    skin: tuple[float, float, float]
    hair: tuple[float, float, float]
    coat: tuple[int, int, int]
    coat_shade: tuple[int, int, int]
    hair_style: str  # "bun", "short", "cap", "long"
    beard: bool = False
    brow: float = 1.0


ILMA = Person((0.87, 0.64, 0.50), (0.16, 0.10, 0.08), (134, 44, 52), (66, 20, 32), "bun")
TORO = Person((0.66, 0.45, 0.32), (0.07, 0.06, 0.06), (42, 84, 104), (18, 38, 52), "short", beard=True, brow=1.3)
MEIRA = Person((0.93, 0.74, 0.62), (0.48, 0.27, 0.13), (196, 136, 58), (104, 62, 24), "long")
DUNN = Person((0.76, 0.56, 0.43), (0.55, 0.52, 0.50), (74, 92, 60), (34, 44, 30), "cap", brow=1.4)


def _bump(x: np.ndarray, y: np.ndarray, cx: float, cy: float, sx: float, sy: float) -> np.ndarray:
    return np.exp(-(((x - cx) / sx) ** 2) - ((y - cy) / sy) ** 2)


def _soft(value: np.ndarray, edge: float = 0.02) -> np.ndarray:
    """A soft step: 1 where value > 0."""
    return np.clip(value / edge + 0.5, 0.0, 1.0)


@lru_cache(maxsize=512)
def head(who: Person, yaw: float, mouth: float, blink: float, lamp: float) -> np.ndarray:
    """The head as premultiplied RGBA, float32 (SIZE, SIZE, 4), 0..1.

    ``yaw`` -1..1 turns it (positive to the right of the picture), ``mouth``
    0..1 opens the mouth, ``blink`` 0..1 closes the eyes, ``lamp`` -1..1 says
    from which side the key light falls.
    """
    big = SIZE
    grid = (np.arange(big) + 0.5) / big * 2.0 - 1.0
    x, y = np.meshgrid(grid, grid)
    turn = 0.20 * yaw
    u = x - turn * 0.9  # features slide over the skull as it turns

    jaw = 0.53 - 0.13 * np.clip((y + 0.02) / 0.75, 0, 1) ** 1.8
    skull = 1.0 - (x / jaw) ** 2 - ((y + 0.02) / 0.74) ** 2
    z = np.sqrt(np.clip(skull, 0, None)) * 0.55
    z += 0.030 * _bump(u, y, 0, -0.30, 0.34, 0.16)  # forehead
    for side in (-1, 1):
        z -= 0.075 * _bump(u, y, side * 0.205, -0.07, 0.125, 0.085)  # sockets
        z += 0.032 * _bump(u, y, side * 0.21, -0.185, 0.15, 0.045)  # brow ridge
        z += 0.045 * _bump(u, y, side * 0.27, 0.15, 0.14, 0.13)  # cheeks
        z += 0.030 * _bump(u, y, side * 0.075, 0.205, 0.05, 0.045)  # nostrils
    ridge = np.clip((y + 0.12) / 0.32, 0, 1)
    z += (
        (0.05 + 0.10 * ridge)
        * _bump(u, 0 * y, turn * 0.25 * ridge, 0, 0.070, 1)
        * _soft(y + 0.14, 0.16)
        * _soft(0.24 - y, 0.07)
    )
    mouth_y = 0.395
    gape = 0.070 * mouth
    z += 0.030 * _bump(u, y, 0, mouth_y - 0.035 - gape * 0.3, 0.15, 0.032)
    z += 0.034 * _bump(u, y, 0, mouth_y + 0.045 + gape, 0.13, 0.036)
    z += 0.030 * _bump(u, y, 0, 0.62 + gape * 0.6, 0.14, 0.08)  # chin
    z -= 0.020 * _bump(u, y, 0, 0.51 + gape * 0.6, 0.12, 0.03)

    z = cv2.GaussianBlur(z, (0, 0), big / 240)
    gy, gx = np.gradient(z, 2.0 / big)
    norm = np.sqrt(gx**2 + gy**2 + 1.0)
    nx, ny, nz = -gx / norm, -gy / norm, 1.0 / norm
    key = np.clip(0.62 * lamp * nx - 0.42 * ny + 0.66 * nz, 0, None)
    fill = np.clip(-0.65 * lamp * nx - 0.1 * ny + 0.55 * nz, 0, None)
    rim = np.clip(1.0 - nz, 0, 1) ** 3
    light = key[..., None] * np.array([1.12, 0.98, 0.80]) + fill[..., None] * np.array([0.15, 0.17, 0.24])
    light += 0.15 + 0.12 * rim[..., None] * np.array([1.0, 0.75, 0.5])

    albedo = np.ones((big, big, 3)) * np.array(who.skin)
    blush = sum(_bump(u, y, s * 0.27, 0.17, 0.12, 0.10) for s in (-1, 1))
    albedo *= 1 - 0.22 * np.clip(blush, 0, 1)[..., None] * np.array([0.1, 0.75, 0.7])
    lip_top = _soft(1 - (u / 0.170) ** 2 - ((y - mouth_y + 0.022 + gape * 0.3) / 0.034) ** 2, 0.3)
    lip_low = _soft(1 - (u / 0.150) ** 2 - ((y - mouth_y - 0.030 - gape) / 0.040) ** 2, 0.3)
    lips = np.maximum(lip_top, lip_low)[..., None]
    albedo = (
        albedo * (1 - 0.75 * lips)
        + np.array([0.66, 0.26, 0.25]) * (0.35 + 0.65 * np.mean(who.skin)) * 1.25 * 0.75 * lips
    )
    inside = _soft(1 - (u / 0.145) ** 2 - ((y - mouth_y - gape * 0.4) / (0.008 + gape)) ** 2, 0.25)[..., None]
    albedo = albedo * (1 - inside) + np.array([0.16, 0.05, 0.05]) * inside
    if who.beard:
        around = (
            _soft((y - 0.26) / 0.3 + 0.55 * np.abs(u) - 0.12, 0.25)
            * _soft(skull - 0.01, 0.1)
            * (1 - lips[..., 0])
            * (1 - inside[..., 0])
        )
        albedo = albedo * (1 - 0.8 * around[..., None]) + np.array(who.hair) * 0.8 * around[..., None]

    for side in (-1, 1):
        ex, ey = side * 0.205, -0.075
        lid = 0.047 * (1 - blink) + 0.004
        eye = _soft(1 - ((u - ex) / 0.098) ** 2 - ((y - ey) / lid) ** 2, 0.35)[..., None]
        albedo = albedo * (1 - eye) + np.array([0.92, 0.90, 0.86]) * eye
        gaze = ex + 0.035 * yaw
        iris = _soft(0.052 - np.hypot(u - gaze, y - ey + 0.004), 0.014)[..., None] * eye
        albedo = albedo * (1 - iris) + np.array([0.17, 0.10, 0.06]) * iris
        glint = _soft(0.012 - np.hypot(u - gaze - 0.014 * lamp, y - ey + 0.022), 0.010)[..., None] * eye * (blink < 0.6)
        albedo = albedo + 1.2 * glint
        lash = _soft(1 - ((u - ex) / 0.110) ** 2 - ((y - ey + lid * 0.75) / 0.020) ** 2, 0.6)[..., None]
        albedo = albedo * (1 - 0.8 * lash) + np.array([0.06, 0.04, 0.04]) * 0.8 * lash
        arch = ey - 0.128 + 0.30 * (u - ex) ** 2 / 0.12
        brow = _soft(1 - ((u - ex) / 0.135) ** 2 - ((y - arch) / (0.021 * who.brow)) ** 2, 0.6)[..., None]
        albedo = albedo * (1 - 0.85 * brow) + np.array(who.hair) * 0.85 * brow

    colour = np.clip(albedo * light * 1.12, 0, 1) ** (1 / 1.25)
    alpha = _soft(skull, 0.03)
    rgba = np.dstack([colour * alpha[..., None], alpha])
    rgba = _with_hair(rgba, who, x, y, turn, lamp)
    return rgba.astype(np.float32)


def _with_hair(rgba: np.ndarray, who: Person, x: np.ndarray, y: np.ndarray, turn: float, lamp: float) -> np.ndarray:
    """Ears below, hair above, lit by the same lamp."""

    def put(colour: np.ndarray, mask: np.ndarray, below: bool = False) -> None:
        nonlocal rgba
        layer = np.dstack([colour * mask[..., None], mask])
        rgba = rgba + layer * (1 - rgba[..., 3:]) if below else layer + rgba * (1 - mask[..., None])

    strand = 0.5 + 0.5 * np.sin(120 * x + 60 * y * x + 9 * np.sin(3 * y))
    shine = (0.75 + 0.5 * np.clip(0.5 + 0.8 * lamp * x - 0.5 * y, 0, 1.4) + 0.07 * strand)[..., None]
    hair = np.clip(np.array(who.hair) * shine, 0, 1)
    for side in (-1, 1):
        ear = _soft(1 - ((x - side * 0.50 + turn * 0.5) / 0.085) ** 2 - ((y - 0.02) / 0.14) ** 2, 0.2)
        put(np.array(who.skin) * (0.55 + 0.3 * max(0.0, side * lamp)) * np.ones((*x.shape, 1)), ear, below=True)

    cap = 1 - (x / 0.60) ** 2 - ((y + 0.16) / 0.74) ** 2
    line = -0.44 + 2.1 * np.clip(np.abs(x - turn * 0.9 + 0.06), 0, 1) ** 2.3
    top = _soft(cap, 0.04) * _soft(line - y, 0.05)
    if who.hair_style == "cap":
        cloth = np.clip(
            np.array([0.30, 0.34, 0.24]) * (0.7 + 0.6 * np.clip(0.5 + 0.7 * lamp * x - 0.4 * y, 0, 1.3))[..., None],
            0,
            1,
        )
        put(hair, top * _soft(y + 0.36, 0.05))
        put(cloth, _soft(1 - (x / 0.63) ** 2 - ((y + 0.30) / 0.58) ** 2, 0.05) * _soft(-0.36 - y, 0.03))
        put(cloth * 0.7, _soft(1 - ((x - turn) / 0.66) ** 2 - ((y + 0.36) / 0.075) ** 2, 0.2))
        return rgba
    put(hair, top)
    if who.hair_style == "long":
        fall = _soft(1 - (x / 0.66) ** 4 - ((y - 0.18) / 0.80) ** 4, 0.1)
        put(hair * 0.8, fall, below=True)
    if who.hair_style == "bun":
        put(hair * 0.95, _soft(1 - ((x - 0.04) / 0.22) ** 2 - ((y + 0.86) / 0.15) ** 2, 0.1), below=True)
    return rgba
