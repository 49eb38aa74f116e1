"""Colour tables and tone mapping, chosen."""

from __future__ import annotations

from dataclasses import replace

from ezvar.core.model import Colouring, Document, MediaTable


def set_table(doc: Document, path: str, media: str | None = None) -> Document:
    """A colour table for all media of the lock, or for one ``media`` alone; an empty path takes it off.

    A media that has none of its own shows the lock's. What is chosen is on.
    """
    asked = doc.colouring
    if media is None:
        return replace(doc, colouring=replace(asked, table=path, on=True))
    others = tuple(each for each in asked.own if each.media != media)
    kept = others if path == asked.table else (*others, MediaTable(media, path))
    return replace(doc, colouring=replace(asked, own=kept, on=True))


def turn_tables(doc: Document) -> Document:
    """Show pictures without their tables, or with them again."""
    return replace(doc, colouring=replace(doc.colouring, on=not doc.colouring.on))


def set_tone_mapped(doc: Document, wanted: bool) -> Document:
    """Bring HDR pictures to SDR, or leave them as they are."""
    return replace(doc, colouring=replace(doc.colouring, tone_mapped=wanted))


def colouring_after(old: Document, new: Document) -> Colouring:
    """What a changed lock keeps of its colours: tables of media that it still has, by their content."""
    ids = {m.content: m.id for m in new.lock.media if m.content}
    was = {m.id: m.content for m in old.lock.media}
    own = ((ids.get(was.get(each.media, "")), each.path) for each in old.colouring.own)
    return replace(old.colouring, own=tuple(MediaTable(media, path) for media, path in own if media is not None))
