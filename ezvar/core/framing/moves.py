"""Changing a window path by hand, kept inside the picture."""

from __future__ import annotations

from dataclasses import replace

from ezvar.core.model import Keyframe, Master, Pane

from .geometry import Size, clamped, window
from .path import pane_aspect


def placed(key: Keyframe, aspect: float, picture: Size) -> Keyframe:
    """A keyframe whose stated centre is where its clamped window really is."""
    at = clamped(window(picture, aspect, key.cx, key.cy, key.zoom, key.angle), picture)
    return replace(key, cx=at.cx / picture.width, cy=at.cy / picture.height)


def shifted(pane: Pane, master: Master, picture: Size, dx: float, dy: float) -> Pane:
    """The whole path moved by a constant, given in fractions of the picture; each keyframe clamps by itself."""
    aspect = pane_aspect(pane, master)
    return replace(
        pane, keys=tuple(placed(replace(k, cx=k.cx + dx, cy=k.cy + dy), aspect, picture) for k in pane.keys)
    )
