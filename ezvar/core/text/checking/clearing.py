"""Finding places for captions where they hide nothing and nothing hides them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ezvar.core import edits
from ezvar.core.evidence import Analysis
from ezvar.core.model import Caption, CaptionTrack, Document, Master

from ..placing import SAFE
from ..setting.layout import lay_out
from ..showing import asked_of, style_of
from .problems import CaptionChecks, in_frame

_STEP = 0.01  # of the frame's height


def cleared(
    doc: Document, track: CaptionTrack, caption: Caption, master: Master, checks: CaptionChecks,
    analysis: Analysis | None = None,
) -> float | None:  # fmt: skip
    """How much higher than its style says a caption must stand to collide with nothing, as a part of the frame's
    height: the least, up before down. ``None`` where no height is free, or it is free as it is."""
    asked = asked_of(doc, track, caption, master)
    own = replace(asked, place=None)

    def free(raised: float) -> bool:
        laid = lay_out(replace(own, raised=raised), master.width, master.height)
        rect = in_frame(laid.rect, master)
        return next(checks.collisions(doc, track, caption, master, rect, analysis), None) is None

    if asked.place is None and free(asked.raised):
        return None
    for k in range(round((1 - 2 * SAFE) / _STEP)):
        for sign in (1, -1) if k else (1,):
            raised = round(sign * k * _STEP, 4)
            if _inside(own.style.margin + raised) and free(raised):
                return raised
    return None


def _inside(margin: float) -> bool:
    return SAFE <= margin <= 1 - SAFE


def raise_clear(
    doc: Document, track: str, master: Master, checks: CaptionChecks, analysis: Analysis | None = None,
    only: Iterable[str] | None = None,
) -> tuple[Document, int]:  # fmt: skip
    """All captions of a track clear of what they collide with in a master, and how many of them stand by themselves.

    One height for all where that serves: that of the style is raised to what
    clears the overlay zones for every caption. Those that would hide a face,
    writing or other captions there stand higher or lower, each by as little as
    it takes. What an editor has let stand, and what is free, stays.
    """
    wanted = set(only) if only is not None else None
    doc = _raised_style(doc, doc.track(track), master, checks) if wanted is None else doc
    of = doc.track(track)
    count = 0
    changes = []
    for caption in of.captions:
        if wanted is not None and caption.id not in wanted:
            continue
        if next(checks.of_caption(doc, of, caption, analysis, masters=[master]), None) is None:
            continue
        raised = cleared(doc, of, caption, master, checks, analysis)
        if raised is not None:
            changes.append(replace(doc.differs(caption.id, master.id), raised=raised, spot=None))
            count += 1
    return edits.differ(doc, changes), count


def _raised_style(doc: Document, track: CaptionTrack, master: Master, checks: CaptionChecks) -> Document:
    """The track's style at the height that clears the zones for all its captions that stand where it says."""
    style = style_of(doc, track, master)
    plain = [c for c in track.captions if asked_of(doc, track, c, master).place is None]
    if not master.zones or style.down != "foot" or not plain:
        return doc
    margin = style.margin
    while margin <= 0.7:
        raised = replace(style, margin=round(margin, 4))
        laid = (
            lay_out(replace(asked_of(doc, track, c, master), style=raised, raised=0.0), master.width, master.height)
            for c in plain
        )
        if not any(checks.behind(in_frame(each.rect, master), master) for each in laid):
            return doc if margin == style.margin else edits.set_style(doc, track.id, [master.id], raised)
        margin += _STEP
    return doc
