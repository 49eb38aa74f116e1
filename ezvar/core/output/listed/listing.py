"""The rows of the output list as they would be made now, and what of a finished one is not as it would be made now."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ezvar.core.compose import LockPictures
from ezvar.core.lock import LockReader
from ezvar.core.media import ColourTags
from ezvar.core.model import Document, Finished, Listed, MadePart, Preset, Row, listing
from ezvar.core.timing import FrameRange

from ..segments import file_stamp, named_parts


def listed_rows(doc: Document, default: Preset) -> tuple[Row, ...]:
    """The rows of the list, those without a preset of their own by the ``default`` one. Ranges are cut at the ends of
    the lock; what lies outside it is left out."""
    return tuple(row for each in listing(doc) if (row := row_of_listed(doc, each, default)) is not None)


def row_of_listed(doc: Document, listed: Listed, default: Preset) -> Row | None:
    """One row of the list; ``None`` where its range lies outside the lock."""
    start, end = listed.start, listed.end
    if start is None or end is None:
        named = {r.name: (r.start, r.end) for r in doc.master(listed.master).ranges}
        start, end = named.get(listed.label, (0, doc.lock.frames))
    start, end = max(0, start), min(doc.lock.frames, end)
    if start >= end:
        return None
    preset = listed.preset or default
    preset = replace(preset, captions=listed.captions or preset.captions, sound=listed.sound or preset.sound)
    return Row(
        listed.id,
        listed.master,
        start,
        end,
        listed.label,
        preset,
        listed.pattern,
        listed.folder,
        listed.exists,
        listed.receiver,
        listed.heard,
    )


def colours_of(doc: Document) -> ColourTags:
    """The colours that masters of a lock have. Opens its media.

    Raises `MediaError` where a flat lock cannot be read.
    """
    with LockReader(doc, lambda media, error: None) as reader, LockPictures(reader) as pictures:
        return pictures.coding.stated


def parts_of(doc: Document, rows: Sequence[Row], tags: ColourTags) -> dict[str, tuple[MadePart, ...]]:
    """The parts that rows, by their ids, would consist of if they were made now."""
    return {row.id: named_parts(doc, row, tags) for row in rows}


def changed_since(finished: Finished, row: Row, parts: Sequence[MadePart]) -> tuple[FrameRange, ...] | None:
    """The lock frames that would be made again, of the ``parts`` that a row would consist of now; ``None`` where all
    would be, since the file is not there any more as it was made."""
    if finished.made.stamp != file_stamp(finished.made.file):
        return None
    known = {part.name for part in finished.made.parts}
    return tuple(FrameRange(p.start, p.end) for p in parts if p.name not in known)


def is_as_ordered(finished: Finished, row: Row) -> bool:
    """Whether what was ordered is what the list says now, but for the name and place of the file."""
    one, other = ((r.master, r.start, r.end, r.preset, r.heard) for r in (finished.row, row))
    return one == other
