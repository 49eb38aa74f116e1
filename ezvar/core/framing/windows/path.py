"""From keyframes to the window of each frame."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ezvar.core.lock import parts_at, used_size
from ezvar.core.model import LEAST_BEND, Document, Ease, Framing, Keyframe, Master, Pane, Shot

from .geometry import Size, Window, fit_zoom, placed_window


def ease_curve(t: np.ndarray, ease: Ease) -> np.ndarray:
    """How far a move has come at times ``t`` (n,), all 0..1."""
    match ease:
        case "hold":
            return np.zeros_like(t)
        case "ease in":
            return np.asarray(t * t)
        case "ease out":
            return np.asarray(1 - (1 - t) * (1 - t))
        case "both":
            return np.asarray(t * t * (3 - 2 * t))
    return t


def eased(t: float, ease: Ease, bend: float = 0.5) -> float:
    """How far a move has come at ``t`` (both 0..1), on a curve that is bent.

    Bending is the "bias" of Schlick, "Fast Alternatives to Perlin's Bias and
    Gain Functions", Graphics Gems IV, 1994: ends and direction stay.
    """
    s = float(ease_curve(np.array([t]), ease)[0])
    return s / ((1 / bend - 2) * (1 - s) + 1)


def bend_through(t: float, wanted: float, ease: Ease) -> float:
    """The bend with which a move has come as far as ``wanted`` at ``t`` (both 0..1), as near as curves are bent.

    >>> round(eased(0.5, "linear", bend_through(0.5, 0.7, "linear")), 6)
    0.7
    """
    s = float(ease_curve(np.array([t]), ease)[0])
    if not 0 < s < 1:
        return 0.5
    y = min(max(wanted, 1e-6), 1 - 1e-6)
    return min(max(1 / ((s / y - 1) / (1 - s) + 2), LEAST_BEND), 1 - LEAST_BEND)


def key_at(pane: Pane, frame: int) -> Keyframe:
    """The values between keyframes at a frame of the shot; outside them the nearest holds.

    Centre and angle go evenly with the ease, zoom goes in equal ratios, so
    that an enlargement looks steady.
    """
    keys = pane.keys
    after = bisect_right([k.frame for k in keys], frame)
    if after == 0 or after == len(keys):
        return replace(keys[max(0, after - 1)], frame=frame)
    a, b = keys[after - 1], keys[after]
    s = eased((frame - a.frame) / (b.frame - a.frame), a.ease, a.bend)
    return Keyframe(
        frame,
        a.cx + (b.cx - a.cx) * s,
        a.cy + (b.cy - a.cy) * s,
        a.zoom * (b.zoom / a.zoom) ** s,
        a.angle + (b.angle - a.angle) * s,
        a.ease,
        a.bend,
    )


def pane_aspect(pane: Pane, master: Master) -> float:
    """The shape of a pane as width over height."""
    return (pane.rect.width * master.width) / (pane.rect.height * master.height)


def pane_window(pane: Pane, master: Master, picture: Size, frame: int) -> Window:
    """The window that a pane shows at a frame of its shot, clamped, in picture pixels."""
    key = key_at(pane, frame)
    return placed_window(picture, pane_aspect(pane, master), key.cx, key.cy, key.zoom, key.angle, pane.trim)


@dataclass(frozen=True)
class CropWindow:
    """One row of the list of windows: a lock frame, the shot's place (from 1), part of a mix, pane, window."""

    frame: int
    shot: int
    part: int
    pane: int
    window: Window


def picture_size(doc: Document, shot: Shot) -> Size:
    """The size of the picture that a shot's windows lie in."""
    return Size(*used_size(doc, shot))


def pane_shot(doc: Document, shot: Shot, pane: Pane) -> Shot:
    """The shot whose picture a pane of ``shot`` shows: its own, unless it names another that is there."""
    return next((s for s in doc.shots if s.id == pane.shot), shot) if pane.shot else shot


def pane_picture_size(doc: Document, shot: Shot, pane: Pane) -> Size:
    """The size of the picture that a pane's windows lie in."""
    return picture_size(doc, pane_shot(doc, shot, pane))


def plain(doc: Document, shot: Shot, master: Master) -> Framing:
    """The master's starting framing, in the middle: filling, or the whole picture."""
    size, aspect = picture_size(doc, shot), master.width / master.height
    zoom = 1.0 if master.start == "fill" else fit_zoom(size, aspect)
    return Framing(shot.id, master.id, (Pane((Keyframe(0, zoom=zoom),)),), why="The middle, nothing is decided yet.")


def framed(doc: Document, shot: Shot, master: Master) -> Framing:
    """The framing of a shot, or the master's plain start where none is decided."""
    return doc.framing(shot.id, master.id) or plain(doc, shot, master)


def crop_windows(doc: Document, master: Master, start: int = 0, end: int | None = None) -> Iterator[CropWindow]:
    """Every window of a master, frame by frame of the lock."""
    for frame in range(start, doc.lock.frames if end is None else min(end, doc.lock.frames)):
        for part, (shot, _) in enumerate(parts_at(doc, frame)):
            place = doc.place_of(shot.id) + 1
            for number, pane in enumerate(framed(doc, shot, master).panes):
                size = pane_picture_size(doc, shot, pane)
                yield CropWindow(frame, place, part, number, pane_window(pane, master, size, frame - shot.start))
