"""Bars in the picture's own colours over writing that is titled anew."""

from __future__ import annotations

from dataclasses import replace
from math import ceil, floor

import numpy as np

from ezvar.core.framing import Size, framed, pane_window
from ezvar.core.media import Planes
from ezvar.core.model import Document, Master, Rect, Shot

_BESIDE = 0.02  # of the bar's height and more: the strip around it that its colour is taken from


def covered(doc: Document, shot: Shot, master: Master, at: int, drawn: Planes, size: Size, box: Rect) -> Planes:
    """A master's picture with a bar over ``box``, fractions of a shot's picture of a ``size``, where its panes show it.

    The bar has the median colour of what lies around it. It reaches to whole
    samples of colour. Pictures that are turned are covered by the upright bar
    around the box.
    """
    for pane in framed(doc, shot, master).panes:
        if pane.shot:
            continue
        window = pane_window(pane, master, size, at - shot.start)
        bounds = window.bounds()
        left, top = window.cx - bounds.width / 2, window.cy - bounds.height / 2
        x, right = _edges(box.x, box.width, size.width, (left, bounds.width), pane.rect.x, pane.rect.width, drawn.width)
        y, foot = _edges(
            box.y, box.height, size.height, (top, bounds.height), pane.rect.y, pane.rect.height, drawn.height
        )
        if right > x and foot > y:
            drawn = _filled(drawn, floor(x / 2) * 2, floor(y / 2) * 2, ceil(right / 2) * 2, ceil(foot / 2) * 2)
    return drawn


def _edges(
    low: float, long: float, whole: float, window: tuple[float, float], first: float, part: float, drawn: int
) -> tuple[float, float]:
    """Where a stretch of the picture, in fractions of it, begins and ends in a pane that takes up a part of a drawn
    side, in its pixels; cut at the pane's edges."""
    start, length = window
    begins, ends = first * drawn, (first + part) * drawn
    a, b = (begins + (value * whole - start) / length * (ends - begins) for value in (low, low + long))
    return max(begins, a), min(ends, b)


def _filled(drawn: Planes, left: int, top: int, right: int, foot: int) -> Planes:
    right, foot = min(right, drawn.width), min(foot, drawn.height)
    margin = max(2, round(_BESIDE * drawn.height / 2) * 2)
    planes = []
    for plane, by in ((drawn.y, 1), (drawn.u, 2), (drawn.v, 2)):
        a, b, c, d, m = left // by, top // by, -(-right // by), -(-foot // by), margin // by
        around = plane[max(0, b - m) : d + m, max(0, a - m) : c + m]
        inside = np.zeros(around.shape, bool)
        inside[min(b, m) : min(b, m) + d - b, min(a, m) : min(a, m) + c - a] = True
        beside = around[~inside]
        made = plane.copy()
        made[b:d, a:c] = round(float(np.median(beside))) if beside.size else drawn.form.grey
        planes.append(made)
    y, u, v = planes
    return replace(drawn, y=y, u=u, v=v)
