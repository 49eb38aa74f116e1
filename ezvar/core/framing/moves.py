"""Changing a window path by hand, kept inside the picture."""

from __future__ import annotations

from dataclasses import replace

from ezvar.core.evidence import Analysis
from ezvar.core.model import Document, Keyframe, Master, Pane, Shot, edits

from .doubts import reasons_for
from .geometry import Size, clamped, fit_zoom, window
from .path import framed, pane_aspect, picture_size
from .solver import judged_by


def placed(key: Keyframe, aspect: float, picture: Size) -> Keyframe:
    """A keyframe whose stated centre is where its clamped window really is."""
    at = clamped(window(picture, aspect, key.cx, key.cy, key.zoom, key.angle), picture)
    return replace(key, cx=at.cx / picture.width, cy=at.cy / picture.height)


def shifted(pane: Pane, master: Master, picture: Size, dx: float, dy: float) -> Pane:
    """The whole path moved by a constant, given in fractions of the picture; each keyframe clamps by itself."""
    aspect = pane_aspect(pane, master)
    return replace(pane, keys=tuple(placed(replace(k, cx=k.cx + dx, cy=k.cy + dy), aspect, picture) for k in pane.keys))


def resting(pane: Pane, master: Master, picture: Size, zoom: float | None = None) -> Pane:
    """A pane whose window rests in the middle at a zoom; ``None`` shows the whole picture."""
    aspect = pane_aspect(pane, master)
    return replace(pane, keys=(Keyframe(0, zoom=fit_zoom(picture, aspect) if zoom is None else zoom),))


def put_by_hand(doc: Document, shot: Shot, master: Master, pane: Pane, analysis: Analysis | None) -> Document:
    """The document with an editor's own window for a shot, in its first pane.

    The doubt is reckoned anew where there is an analysis, and stays where
    there is none.
    """
    framing = framed(doc, shot, master)
    reasons = framing.reasons
    if analysis is not None:
        seen = judged_by(doc, shot, master, analysis.subjects(shot.start, shot.end))
        reasons = reasons_for(pane, picture_size(doc, shot), master, shot, seen)
    if doc.framing(shot.id, master.id) is None:
        doc = edits.set_framings(doc, [framing])
    return edits.set_panes(doc, shot.id, master.id, (pane, *framing.panes[1:]), reasons)
