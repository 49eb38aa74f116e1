"""Rows of masters, and ranges of the lock as people write them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ezvar.core.errors import InputError
from ezvar.core.model import Document, Lock, Master, NamedRange, Preset, Row
from ezvar.core.timing import FrameRange, frame_of

from .naming import told_as


def row_of(doc: Document, master: Master, preset: Preset, part: NamedRange | FrameRange | None = None) -> Row:
    """A row for a master: the whole, one of its named ranges, or any frames of the lock. Its id is the same for the
    same master and frames."""
    span = FrameRange(part.start, part.end) if part is not None else FrameRange(0, doc.lock.frames)
    if not len(span) or span.start < 0 or span.end > doc.lock.frames:
        raise InputError("the range lies outside the lock", remedy=f"Choose frames from 0 to {doc.lock.frames}")
    label = part.name if isinstance(part, NamedRange) else ""
    id = master.id if part is None else f"{master.id} {span.start}-{span.end} {label}".strip()
    return Row(id, master.id, span.start, span.end, label, preset)


def rows_named(doc: Document, rows: Sequence[Row], names: Iterable[str]) -> list[Row]:
    """The rows that are named, each by its number in the list from 1, or by what it is called.

    Raises `InputError` for a name that no row has.
    """
    found = []
    for name in names:
        those = [r for k, r in enumerate(rows, 1) if name.strip() in (str(k), told_as(doc, r), r.id)]
        if not those:
            called = "; ".join(f"{k} {told_as(doc, r)}" for k, r in enumerate(rows, 1))
            raise InputError(f"there is no row {name}", remedy=f"Choose some of: {called}")
        found += those
    return list(dict.fromkeys(found))


def parse_range(text: str, lock: Lock) -> FrameRange:
    """A range "IN-OUT" in timecodes of the lock or in its frames; OUT is the first frame left out."""
    first, dash, last = text.partition("-")
    try:
        if not dash:
            raise ValueError("it is not written IN-OUT")
        start, end = (_frame_in(lock, part.strip()) for part in (first, last))
        if not 0 <= start < end <= lock.frames:
            raise ValueError("it lies outside the lock")
    except ValueError as error:
        remedy = f"Write it like 0-{lock.frames}, or with timecodes"
        raise InputError(f"the range {text}: {error}", remedy=remedy) from error
    return FrameRange(start, end)


def frame_named(text: str, lock: Lock) -> int:
    """A lock frame by its timecode or its number. Raises `InputError` for one outside the lock."""
    try:
        frame = _frame_in(lock, text.strip())
        if not 0 <= frame < lock.frames:
            raise ValueError("it lies outside the lock")
    except ValueError as error:
        remedy = f"Write a frame from 0 to {lock.frames - 1}, or a timecode"
        raise InputError(f"{text}: {error}", remedy=remedy) from error
    return frame


def _frame_in(lock: Lock, text: str) -> int:
    return int(text) if text.isdigit() else frame_of(text, lock.rate) - lock.start
