"""Changing a window path by hand, kept inside the picture."""

from __future__ import annotations

from dataclasses import replace

from ezvar.core.evidence import Analysis
from ezvar.core.model import LOOSEST, TIGHTEST, Framing, Keyframe, Master, Pane, Rect

from ..keeping.whom_to_follow import subjects_in
from ..paths.hand_stretches import marked
from ..solver.solve import judged
from ..windows.geometry import Size, fit_zoom, placed_window, trimmed_size
from ..windows.path import key_at, pane_aspect
from ..windows.place import Place


def placed(key: Keyframe, pane: Pane, master: Master, picture: Size) -> Keyframe:
    """A keyframe whose stated centre is where its clamped window really is."""
    at = placed_window(picture, pane_aspect(pane, master), key.cx, key.cy, key.zoom, key.angle, pane.trim)
    return replace(key, cx=at.cx / picture.width, cy=at.cy / picture.height)


def shifted(pane: Pane, master: Master, picture: Size, dx: float, dy: float) -> Pane:
    """The whole path moved by a constant, given in fractions of the picture; each keyframe clamps by itself."""
    keys = (replace(k, cx=k.cx + dx, cy=k.cy + dy) for k in pane.keys)
    return replace(pane, keys=tuple(placed(k, pane, master, picture) for k in keys))


def zoomed(pane: Pane, master: Master, picture: Size, factor: float) -> Pane:
    """The whole path ``factor`` times tighter, no looser than the whole picture needs, its movement kept as far as the
    picture's edges let it."""
    keys = (replace(k, zoom=bounded_zoom(k.zoom * factor, pane, master, picture)) for k in pane.keys)
    return replace(pane, keys=tuple(placed(k, pane, master, picture) for k in keys))


def bounded_zoom(zoom: float, pane: Pane, master: Master, picture: Size) -> float:
    """A zoom no looser than the whole picture needs, and no tighter than can be."""
    part = trimmed_size(picture, pane.trim)
    return min(max(zoom, min(1.0, fit_zoom(part, pane_aspect(pane, master))), LOOSEST), TIGHTEST)


def turned(pane: Pane, master: Master, picture: Size, by: float) -> Pane:
    """The whole path turned by some degrees, clockwise."""
    keys = (replace(k, angle=(k.angle + by + 180) % 360 - 180) for k in pane.keys)
    return replace(pane, keys=tuple(placed(k, pane, master, picture) for k in keys))


def with_key(pane: Pane, master: Master, picture: Size, key: Keyframe) -> Pane:
    """A keyframe set by hand, in place of another at its frame; the path from the one before to the one after it is
    the editor's from now on."""
    keys = [k for k in pane.keys if k.frame != key.frame]
    before = max((k.frame for k in keys if k.frame < key.frame), default=key.frame)
    after = min((k.frame for k in keys if k.frame > key.frame), default=key.frame)
    keys = sorted([*keys, placed(key, pane, master, picture)], key=lambda k: k.frame)
    return marked(replace(pane, keys=tuple(keys)), before, after)


def without_keys(pane: Pane, first: int, last: int) -> Pane:
    """Without the keyframes from frame ``first`` to ``last``, both included: the path goes straight on over the gap.

    Where none is left, the window rests where it was at ``first``. The gap is
    the editor's from now on.
    """
    keys = tuple(k for k in pane.keys if not first <= k.frame <= last)
    if len(keys) == len(pane.keys):
        return pane
    before = max((k.frame for k in keys if k.frame < first), default=first)
    after = min((k.frame for k in keys if k.frame > last), default=last)
    return marked(replace(pane, keys=keys or (key_at(pane, first),)), before, after)


def resting(pane: Pane, master: Master, picture: Size, zoom: float | None = None) -> Pane:
    """A pane whose window rests in the middle at a zoom; ``None`` shows the whole picture."""
    part = trimmed_size(picture, pane.trim)
    fit = fit_zoom(part, pane_aspect(pane, master))
    middle = (pane.trim.x + pane.trim.width / 2, pane.trim.y + pane.trim.height / 2)
    return replace(pane, keys=(Keyframe(0, *middle, fit if zoom is None else zoom),), by_hand=())


def standing(pane: Pane, master: Master, picture: Size, height: float) -> Pane:
    """A path whose picture, where it is lower than the frame, stands at a height: -1 at the foot, 0 in the middle, 1 at
    the top. Where it fills the frame nothing changes."""
    aspect = pane_aspect(pane, master)
    keys = []
    for key in pane.keys:
        w = placed_window(picture, aspect, key.cx, key.cy, key.zoom, key.angle, pane.trim)
        tall, top = pane.trim.height * picture.height, pane.trim.y * picture.height
        spare = w.bounds().height - tall
        cy = (top + tall / 2 + height * spare / 2) / picture.height if spare > 0 else key.cy
        keys.append(replace(key, cy=cy))
    return replace(pane, keys=tuple(keys))


def stands(pane: Pane, master: Master, picture: Size, frame: int) -> float | None:
    """The height at which the picture stands at a frame of its shot, as for `standing`; ``None`` where it fills."""
    key = key_at(pane, frame)
    w = placed_window(picture, pane_aspect(pane, master), key.cx, key.cy, key.zoom, key.angle, pane.trim)
    tall = pane.trim.height * picture.height
    spare = w.bounds().height - tall
    if spare < 1:
        return None
    return 2 * (w.cy - pane.trim.y * picture.height - tall / 2) / spare


def trimmed(pane: Pane, master: Master, picture: Size, trim: Rect) -> Pane:
    """A path through ``trim`` (fractions) of the picture; where the whole picture showed, all that is left shows."""
    aspect = pane_aspect(pane, master)
    was, now = (fit_zoom(trimmed_size(picture, t), aspect) for t in (pane.trim, trim))
    keys = [replace(k, zoom=now) if was < 1 and abs(k.zoom - was) < 1e-4 else k for k in pane.keys]
    new = replace(pane, trim=trim)
    return replace(new, keys=tuple(placed(k, new, master, picture) for k in keys))


def trimmed_off(
    trim: Rect, left: float | None = None, right: float | None = None, top: float | None = None,
    foot: float | None = None,
) -> Rect:  # fmt: skip
    """A trim with other parts (0..1) taken off some of the picture's sides; ``None`` leaves a side as it is.

    >>> trimmed_off(Rect(0.25, 0.0, 0.75, 1.0), right=0.5)
    Rect(x=0.25, y=0.0, width=0.25, height=1.0)
    """
    x, y = trim.x if left is None else left, trim.y if top is None else top
    end = trim.x + trim.width if right is None else 1 - right
    floor = trim.y + trim.height if foot is None else 1 - foot
    return Rect(x, y, end - x, floor - y)


def put_by_hand(place: Place, pane: Pane, analysis: Analysis | None) -> Framing:
    """The framing with an editor's own window path for a pane; an agreed one is open again.

    Where the pane names no stretch that is set by hand, the whole path is.
    The doubt is reckoned anew where there is an analysis, and stays where
    there is none.
    """
    shot = place.shot
    if not pane.by_hand:
        frames = [0, shot.frames - 1, *(k.frame for k in pane.keys)]
        pane = marked(pane, min(frames), max(frames))
    made = replace(place.with_pane(pane), decided="by hand", why="Set by hand.", verdict="open")
    if analysis is None:
        return made
    subjects = subjects_in(place.doc, shot, analysis)
    return replace(made, reasons=judged(place, made.panes, subjects))
