"""Drawing how one shot sits in a master: its panes, each over its backdrop.

Works on the 4:2:0 planes that movies hold, so that a picture goes from source
to master without a turn through RGB and keeps its colour tags.
"""

from __future__ import annotations

from dataclasses import replace
from math import ceil, floor

from ezvar.core.framing import Size, pane_window
from ezvar.core.media import Planes
from ezvar.core.model import Framing, Master, Pane, Rect, Shot

from .backdrops import behind, coloured
from .pictures import Pictures
from .sampling import chroma_window, sample


def draw_framing(
    framing: Framing, master: Master, frame: int, picture: Planes, scale: float = 1.0, shot: Shot | None = None,
    pictures: Pictures | None = None,
) -> Planes:  # fmt: skip
    """A master's picture at a frame of the shot; ``scale`` below 1 draws it smaller, for previews.

    Without ``pictures`` panes show their own shot, and backdrops that are
    movies or images their plain colour.
    Returns even-sized 4:2:0 planes with the picture's colour tags; pictures of
    other panes and backdrops are brought to its matrix and range.
    """
    width, height = _even(master.width * scale), _even(master.height * scale)
    if len(framing.panes) == 1 and framing.panes[0].rect == Rect():
        return _pane(framing.panes[0], master, frame, picture, (width, height), shot, pictures)
    arrangement = framing.arrangement
    between = arrangement.colour if arrangement else master.backdrop.colour
    surface = coloured(between, width, height, picture)
    border = _even(arrangement.border * min(width, height), 0) if arrangement else 0
    for pane in framing.panes:
        left, top = _even(pane.rect.x * width, 0) + border, _even(pane.rect.y * height, 0) + border
        right = min(width, _even((pane.rect.x + pane.rect.width) * width)) - border
        foot = min(height, _even((pane.rect.y + pane.rect.height) * height)) - border
        if right - left < 2 or foot - top < 2:
            continue
        drawn = _pane(pane, master, frame, picture, (right - left, foot - top), shot, pictures)
        surface.y[top:foot, left:right] = drawn.y
        surface.u[top // 2 : foot // 2, left // 2 : right // 2] = drawn.u
        surface.v[top // 2 : foot // 2, left // 2 : right // 2] = drawn.v
    return surface


def _even(length: float, least: int = 2) -> int:
    return max(least, round(length / 2) * 2)


def _rests(pane: Pane) -> bool:
    """Whether the window never moves."""
    return len({replace(key, frame=0, ease="both") for key in pane.keys}) == 1


def _pane(
    pane: Pane, master: Master, frame: int, own: Planes, size: tuple[int, int], shot: Shot | None,
    pictures: Pictures | None,
) -> Planes:  # fmt: skip
    """One pane, of a size in pixels."""
    other = pictures.of_pane(shot, pane, shot.start + frame) if pictures and shot else None
    whole, backdrop = other.coded_as(own) if other else own, pane.backdrop or master.backdrop
    # Unsaid colours are meant by the picture's size, which is lost from here on.
    whole = replace(whole, tags=replace(whole.tags, matrix=whole.tags.matrix_for(whole.height)))
    window = pane_window(pane, master, Size(whole.width, whole.height), frame)
    picture, left, top = _trimmed(whole, pane.trim)
    window = replace(window, cx=window.cx - left, cy=window.cy - top)
    ground = None
    if not window.covers(Size(picture.width, picture.height), 0.01 if picture is whole else _TRIMMED_BY):
        media = None
        if backdrop.kind == "media" and pictures and shot:
            media = pictures.of_backdrop(backdrop.media, shot.start + frame)
        ground = behind(picture, window, backdrop, *size, media)
    width, height = size
    small, resting = chroma_window(window), _rests(pane)
    y = sample(picture.y, window, width, height, ground.y if ground else None, resting)
    u = sample(picture.u, small, width // 2, height // 2, ground.u if ground else None, resting)
    v = sample(picture.v, small, width // 2, height // 2, ground.v if ground else None, resting)
    return replace(picture, y=y, u=u, v=v)


_TRIMMED_BY = 2.0  # pixels, by which what is left of a picture is less than was asked


def _trimmed(picture: Planes, trim: Rect) -> tuple[Planes, int, int]:
    """What a trim leaves of a picture, in whole samples of its colour, and where that begins.

    It is cut off before anything is sampled, so that nothing of it bleeds in.
    """
    if trim == Rect():
        return picture, 0, 0
    left, top = 2 * ceil(trim.x * picture.width / 2), 2 * ceil(trim.y * picture.height / 2)
    right = max(left + 2, 2 * floor((trim.x + trim.width) * picture.width / 2 + 1e-6))
    foot = max(top + 2, 2 * floor((trim.y + trim.height) * picture.height / 2 + 1e-6))
    return picture.cut(left, top, right, foot), left, top
