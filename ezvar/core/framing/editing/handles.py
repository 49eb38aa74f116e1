"""Taking a window by its handles: which one is near a place, and what dragging it makes of the window.

All places are in picture pixels.
"""

from __future__ import annotations

from dataclasses import replace
from math import atan2, degrees, hypot
from typing import Literal

import numpy as np

from ezvar.core.model import Keyframe, Master, Pane

from ..windows.geometry import Size, Window
from .moves import bounded_zoom, placed

Handle = Literal["", "inside", "size", "turn"]


def turn_handle(window: Window, away: float) -> tuple[float, float]:
    """Where the handle that turns a window stands: ``away`` beyond the middle of its foot, where no face is hidden."""
    corners = window.corners()
    foot = (corners[2] + corners[3]) / 2
    out = foot - (window.cx, window.cy)
    x, y = foot + out / max(float(np.linalg.norm(out)), 1e-9) * away
    return float(x), float(y)


def handle_at(window: Window, x: float, y: float, reach: float, away: float) -> Handle:
    """What of a window lies within ``reach`` of a place: its turning handle, a corner, its inside, or nothing."""
    tx, ty = turn_handle(window, away)
    if hypot(x - tx, y - ty) <= reach:
        return "turn"
    if (np.linalg.norm(window.corners() - (x, y), axis=1) <= reach).any():
        return "size"
    c, s = np.cos(np.radians(window.angle)), np.sin(np.radians(window.angle))
    along = (x - window.cx) * c + (y - window.cy) * s
    down = -(x - window.cx) * s + (y - window.cy) * c
    return "inside" if abs(along) <= window.width / 2 and abs(down) <= window.height / 2 else ""


def size_factor(window: Window, start: tuple[float, float], now: tuple[float, float]) -> float:
    """How many times tighter a window becomes when one of its corners is dragged, about its centre."""
    before = hypot(start[0] - window.cx, start[1] - window.cy)
    after = hypot(now[0] - window.cx, now[1] - window.cy)
    return before / max(after, 1e-6)


def turned_by(window: Window, start: tuple[float, float], now: tuple[float, float], step: float = 0.0) -> float:
    """By how many degrees a drag about a window's centre turns it, in steps where ``step`` is not 0."""
    before = atan2(start[1] - window.cy, start[0] - window.cx)
    after = atan2(now[1] - window.cy, now[0] - window.cx)
    angle = (degrees(after - before) + 180) % 360 - 180
    return round(angle / step) * step if step else angle


def with_values(
    key: Keyframe, pane: Pane, master: Master, picture: Size, *, x: float | None = None, y: float | None = None,
    zoom: float | None = None, angle: float | None = None,
) -> Keyframe:  # fmt: skip
    """A keyframe with exact values: its centre in picture pixels, zoom and angle in degrees, clamped."""
    cx = key.cx if x is None else x / picture.width
    cy = key.cy if y is None else y / picture.height
    new = key.zoom if zoom is None else bounded_zoom(zoom, pane, master, picture)
    return placed(
        replace(key, cx=cx, cy=cy, zoom=new, angle=key.angle if angle is None else angle), pane, master, picture
    )
