"""A window path at many frames at once, for drawing: the same as `pane_window` frame by frame, in arrays."""

from __future__ import annotations

import numpy as np

from ezvar.core.model import EASES, Master, Pane

from .geometry import Size
from .path import ease_curve, pane_aspect


def band(pane: Pane, master: Master, picture: Size, frames: np.ndarray) -> np.ndarray:
    """What a pane's window reaches over at frames (n,) of its shot, (n, 4): left, top, right and foot of the upright
    box around it, as fractions of the picture."""
    cx, cy, zoom, angle = _values(pane, frames)
    aspect, trim = pane_aspect(pane, master), pane.trim
    inside = np.array([trim.width * picture.width, trim.height * picture.height])
    c, s = np.abs(np.cos(np.radians(angle))), np.abs(np.sin(np.radians(angle)))
    unit = np.stack([aspect * c + s, aspect * s + c], axis=1)
    height = (inside / unit).min(axis=1) / zoom
    size = unit * height[:, None]
    corner = np.array([trim.x * picture.width, trim.y * picture.height])
    centre = np.stack([cx * picture.width, cy * picture.height], axis=1) - corner
    ends = np.sort(np.stack([size / 2, inside - size / 2]), axis=0)
    centre = np.clip(centre, ends[0], ends[1]) + corner
    whole = np.array([picture.width, picture.height])
    return np.concatenate([(centre - size / 2) / whole, (centre + size / 2) / whole], axis=1)


def _values(pane: Pane, frames: np.ndarray) -> tuple[np.ndarray, ...]:
    """Centre, zoom and angle between keyframes, as `key_at`, each (n,)."""
    keys = pane.keys
    at = np.array([k.frame for k in keys], float)
    values = np.array([(k.cx, k.cy, np.log(k.zoom), k.angle) for k in keys])
    before = np.clip(np.searchsorted(at, frames, side="right") - 1, 0, len(keys) - 1)
    after = np.minimum(before + 1, len(keys) - 1)
    length = np.maximum(at[after] - at[before], 1)
    t = np.clip((frames - at[before]) / length, 0, 1) * (after > before)
    come = np.zeros(len(frames))
    eases = np.array([EASES.index(k.ease) for k in keys])[before]
    for k, ease in enumerate(EASES):
        here = eases == k
        come[here] = ease_curve(t[here], ease)
    bend = np.array([k.bend for k in keys])[before]
    come = come / ((1 / bend - 2) * (1 - come) + 1)
    mixed = values[before] + (values[after] - values[before]) * come[:, None]
    return mixed[:, 0], mixed[:, 1], np.exp(mixed[:, 2]), mixed[:, 3]
