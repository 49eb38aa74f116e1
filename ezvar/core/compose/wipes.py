"""Wipes: one picture taking the place of another along an edge.

Patterns are numbered as in SMPTE ST 258 and W3C's SMIL 2.0, "Transition
Effects". Each is a field over the frame that says how far the wipe has gone,
0..1, when it reaches a place.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

import numpy as np

from ezvar.core.media import Cel, Planes
from ezvar.core.model import WIPES, Wipe

Field = Callable[[np.ndarray, np.ndarray], np.ndarray]


def _clock(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Clockwise from the top."""
    return np.asarray(np.arctan2(x - 0.5, 0.5 - y) / (2 * np.pi) % 1.0)


_FIELDS: dict[int, Field] = {
    1: lambda x, y: x + 0 * y,  # a bar from left to right, from top to foot
    2: lambda x, y: y + 0 * x,
    3: lambda x, y: np.maximum(x, y),  # a box from the corners, clockwise from the upper left
    4: lambda x, y: np.maximum(1 - x, y),
    5: lambda x, y: np.maximum(1 - x, 1 - y),
    6: lambda x, y: np.maximum(x, 1 - y),
    21: lambda x, y: np.abs(2 * x - 1) + 0 * y,  # barn doors
    22: lambda x, y: np.abs(2 * y - 1) + 0 * x,
    41: lambda x, y: (x + y) / 2,  # a diagonal from the upper left, from the upper right
    42: lambda x, y: (1 - x + y) / 2,
    101: lambda x, y: np.maximum(np.abs(2 * x - 1), np.abs(2 * y - 1)),  # an iris: rectangle, diamond, ellipse
    102: lambda x, y: (np.abs(2 * x - 1) + np.abs(2 * y - 1)) / 2,
    119: lambda x, y: np.hypot(2 * x - 1, 2 * y - 1) / np.sqrt(2),
    201: _clock,
}
assert set(_FIELDS) == WIPES


def wiped(outgoing: Planes, incoming: Planes, wipe: Wipe, share: float) -> Planes:
    """The picture when a wipe has come to ``share``, 0..1, of its way. Both are of one size and coding."""
    planes = []
    for a, b in zip((outgoing.y, outgoing.u, outgoing.v), (incoming.y, incoming.u, incoming.v), strict=True):
        cover = covered(wipe, share, a.shape[1], a.shape[0])
        planes.append(np.asarray(a + (b.astype(np.float32) - a) * cover + 0.5).astype(a.dtype))
    y, u, v = planes
    return replace(outgoing, y=y, u=u, v=v)


def wiped_cel(cel: Cel, wipe: Wipe, share: float, size: tuple[int, int], away: bool) -> Cel:
    """A cel over a frame of a size in pixels when a wipe, by which it comes or goes ``away``, has come to ``share``."""
    high, wide = cel.opacity.shape
    cover = covered(wipe, share, *size)[cel.top : cel.top + high, cel.left : cel.left + wide]
    return cel.within(np.asarray(255 * (1 - cover if away else cover) + 0.5, np.uint8))


def covered(wipe: Wipe, share: float, width: int, height: int) -> np.ndarray:
    """How much of each sample the incoming picture has: float32 (height, width), 0..1. Edges are a sample wide."""
    field, steepest = _field(wipe.pattern, wipe.backwards, width, height)
    edge = max(wipe.soft, steepest)
    return np.asarray(np.clip((share * (1 + edge) - field) / edge, 0, 1), np.float32)


@lru_cache(maxsize=8)
def _field(pattern: int, backwards: bool, width: int, height: int) -> tuple[np.ndarray, float]:
    """The field of a pattern at the samples' middles, and how much it changes from one to the next at most."""
    x = ((np.arange(width) + 0.5) / width)[None, :]
    y = ((np.arange(height) + 0.5) / height)[:, None]
    field = np.broadcast_to(_FIELDS.get(pattern, _FIELDS[1])(x, y), (height, width))
    field = np.clip(field, 0, 1).astype(np.float32)  # patterns may reach past either by a rounding
    steps = [np.abs(np.diff(field, axis=axis)) for axis in (0, 1)]
    steepest = max((float(np.percentile(s, 99)) for s in steps if s.size), default=1.0)
    return (1 - field if backwards else field), max(steepest, 1e-6)
