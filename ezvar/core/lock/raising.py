"""Clips of upper tracks that hide the edit below them: there, they are the edit's picture.

Editors lay cutaways over a speaker on the track above. Such a clip is a shot
like any other, to be framed; only what is seen through, or stands in a part of
the frame, is a layer.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

from ezvar.core.errors import EzvarError
from ezvar.core.media import probe, read_cel
from ezvar.core.model import Cut, Document, Layer, Media, Placement, Shot, new_id

_SAME = 0.01  # by which a media's shape may differ from the lock's and fill its frame


def opaque_media(doc: Document) -> set[str]:
    """The media of layers that would fill the frame and through which nothing can be seen. Opens them; what cannot be
    read is none of these."""
    media, size = {each.id: each for each in doc.lock.media}, (doc.lock.width, doc.lock.height)
    pairs = ((layer, media[layer.source.media]) for layer in doc.lock.layers if layer.source.media in media)
    fill = {known.id: known for layer, known in pairs if _fills(layer, known, size)}
    return {id for id, known in fill.items() if _opaque(known)}


def _opaque(media: Media) -> bool:
    try:
        if media.missing or media.kind not in ("movie", "still", "sequence"):
            return False
        return probe(media.path).opaque if media.kind == "movie" else read_cel(media.path).opaque
    except EzvarError:  # is told when it is to be drawn
        return False


def raised(doc: Document, opaque: Collection[str]) -> Document:
    """The document with those layers of ``opaque`` media that hide the edit put into it as shots.

    They fill the lock's frame, are seen wholly and at once, and hide no other layer. Mixes that such a clip lies over
    become hard cuts where they are still seen.
    """
    media, size = {each.id: each for each in doc.lock.media}, (doc.lock.width, doc.lock.height)
    shots, kept = list(doc.shots), list[Layer]()
    for layer in sorted(doc.lock.layers, key=lambda each: each.track):
        known = media.get(layer.source.media)
        hides = known is not None and known.id in opaque and _fills(layer, known, size)
        if not hides or any(each.start < layer.end and layer.start < each.end for each in kept):
            kept.append(layer)
        else:
            shots = _with_clip(shots, layer, min(layer.end, doc.lock.frames))
    if len(kept) == len(doc.lock.layers):
        return doc
    return replace(doc, lock=replace(doc.lock, layers=tuple(kept)), shots=tuple(shots))


def _fills(layer: Layer, media: Media, size: tuple[int, int]) -> bool:
    whole = layer.placement == Placement() and layer.opacity == 1 and not layer.comes and not layer.goes
    return whole and abs(media.width * size[1] / (media.height * size[0]) - 1) < _SAME


def _with_clip(shots: list[Shot], clip: Layer, end: int) -> list[Shot]:
    """The edit's shots with a clip in place of what it hides."""
    start = clip.start
    if start >= end:
        return shots
    made = [s if s.end <= start else replace(s, end=start) for s in shots if s.start < start]
    made.append(Shot(new_id(), start, end, clip.source, cut=_hard(start) if start else None))
    for shot in (s for s in shots if s.end > end):
        if shot.start >= end:
            made.append(shot)
        else:
            by = end - shot.start
            rest = replace(shot, id=shot.id if shot.start >= start else new_id(), start=end, cut=_hard(end))
            made.append(replace(rest, source=shot.source.later(by), placement=shot.placement.later(by)))
    return [replace(s, cut=_hard(s.start)) if _touched(s.cut, start, end) else s for s in made]


def _touched(cut: Cut | None, start: int, end: int) -> bool:
    """Whether a mix reaches into frames."""
    return cut is not None and cut.start < cut.end and cut.start < end and start < cut.end


def _hard(frame: int) -> Cut:
    return Cut("cut", frame, frame, settled=True)
