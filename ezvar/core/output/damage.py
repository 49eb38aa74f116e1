"""What a finished movie shows of damaged media, named."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ezvar.core.errors import EzvarError
from ezvar.core.evidence import damages
from ezvar.core.media import probe
from ezvar.core.model import Document, Flaw, MadePart, Shot
from ezvar.core.timing import FrameRange

_BEFORE = 8  # pictures before a damaged one that may be drawn on from it, where pictures are drawn from later ones


def damage_in(doc: Document, span: FrameRange, parts: Iterable[MadePart]) -> tuple[Flaw, ...]:
    """The stretches of a row's lock frames whose media are damaged.

    Pictures that are shown shortly before a damaged one may be drawn on from it, and nothing in them says so: they are
    named with it, unless each picture of the media stands by itself.
    """
    found: set[int] = set()
    by_itself: dict[str, bool] = {}
    for frame in sorted(frame for part in parts for frame in part.damaged):
        shot = doc.shot_at(frame)
        media = shot.source.media
        if media not in by_itself:
            by_itself[media] = _stands_by_itself(doc, shot)
        first = max(span.start, frame if by_itself[media] else frame - _BEFORE)
        found.update(range(first if doc.lock.flat else max(first, shot.start), frame + 1))
    named = damages(np.array(sorted(found), np.int64))
    return tuple(Flaw(damage.said(doc.lock), damage.start, damage.end) for damage in named)


def _stands_by_itself(doc: Document, shot: Shot) -> bool:
    """Whether each picture of a shot's media is coded by itself."""
    try:
        index = probe(doc.media_of(shot).path).index
    except EzvarError:
        return False
    return len(index.key_pts) == len(index.pts)
