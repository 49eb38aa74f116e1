"""The colours of a lock's pictures as they were asked for: tone mapping and colour tables."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ezvar.core.errors import EzvarError, MediaError
from ezvar.core.media import PEAK, ColourTable, ColourTags, Planes, known_cube, probe, tabled, tone_table
from ezvar.core.model import Document, Media, Shot

Note = Callable[[EzvarError], object]


def _unheard(error: EzvarError) -> None:
    """What is wrong with a table is told where the document's problems are."""


def tables_for(doc: Document, shot: Shot, tags: ColourTags, note: Note = _unheard) -> tuple[ColourTable, ...]:
    """The tables that pictures of a shot go through, of colours that are coded as ``tags`` say: tone mapping of HDR
    where it was asked for, then the table of its media. One that cannot be read is told to ``note`` and left out."""
    asked, found = doc.colouring, []
    if asked.tone_mapped and tags.hdr:
        found.append(tone_table(tags.transfer, _peak(doc.media_of(shot))))
    if path := asked.table_of(shot.source.media):
        try:
            found.append(known_cube(path))
        except MediaError as error:
            note(error)
    return tuple(found)


def coloured(doc: Document, shot: Shot, planes: Planes, note: Note = _unheard) -> Planes:
    """A picture of a shot with the colours that were asked for."""
    if doc.colouring.plain:
        return planes
    return tabled(planes, tables_for(doc, shot, planes.tags, note))


def coloured_proxy(doc: Document, shot: Shot, rgb: np.ndarray) -> Planes:
    """A proxy's picture of a shot, RGB uint8 (height, width, 3), as planes with the colours that were asked for. It has
    lost what its media says of them."""
    planes = Planes.glimpsed(rgb)
    if doc.colouring.tone_mapped and (tags := media_tags(doc.media_of(shot))).hdr:
        planes = replace(planes, tags=replace(planes.tags, transfer=tags.transfer))
    return coloured(doc, shot, planes)


def media_tags(media: Media) -> ColourTags:
    """What a media says of its colours: nothing where it is no movie, or cannot be read."""
    if media.kind != "movie" or media.missing:
        return ColourTags()
    try:
        return probe(media.path).tags
    except EzvarError:
        return ColourTags()  # its pictures are not there either, which is told


def hdr_media(doc: Document) -> list[Media]:
    """The media of a lock whose pictures are HDR."""
    shown = {shot.source.media for shot in doc.shots}
    return [m for m in doc.lock.media if m.id in shown and media_tags(m).hdr]


def _peak(media: Media) -> float:
    light = media_tags(media).light
    return PEAK if light is None else max(PEAK / 10, light.peak)
