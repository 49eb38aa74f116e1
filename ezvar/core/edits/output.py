"""The output list: rows added, changed, removed, in their order."""

from __future__ import annotations

from dataclasses import replace

from ezvar.core.model import Document, Listed, Makings, listed_id, listing, new_id


def change_row(doc: Document, changed: Listed) -> Document:
    """Put a row in place of the one with its id."""
    return replace(doc, listed=tuple(changed if r.id == changed.id else r for r in listing(doc)))


def add_row(doc: Document, master: str, label: str = "") -> tuple[Document, str]:
    """One more row of a master, or of a named range of it, after its others, and its id."""
    rows, own = list(listing(doc)), listed_id(master, label)
    id = own if all(r.id != own for r in rows) else new_id()
    at = max((k + 1 for k, r in enumerate(rows) if r.master == master), default=len(rows))
    rows.insert(at, Listed(id, master, label))
    return replace(doc, listed=tuple(rows), unlisted=tuple(u for u in doc.unlisted if u != id)), id


def remove_row(doc: Document, row: str) -> Document:
    """Without a row; what was made of it stays where it is."""
    kept = tuple(r for r in listing(doc) if r.id != row)
    return replace(doc, listed=kept, unlisted=tuple(dict.fromkeys((*doc.unlisted, row))))


def move_row(doc: Document, row: str, by: int) -> Document:
    """Move a row ``by`` places in the order; at the ends it stays."""
    rows = list(listing(doc))
    at = next(k for k, r in enumerate(rows) if r.id == row)
    rows.insert(max(0, min(len(rows) - 1, at + by)), rows.pop(at))
    return replace(doc, listed=tuple(rows))


def set_row_range(doc: Document, row: str, start: int, end: int) -> Document:
    """Have a row made of lock frames ``start`` to ``end``: of a named range that range is changed, for all that show
    it; the row of a whole master gets frames of its own, or none where it is the whole again.

    Raises `ValueError` for frames outside the lock.
    """
    if not 0 <= start < end <= doc.lock.frames:
        raise ValueError("the range lies outside the lock")
    listed = next(r for r in listing(doc) if r.id == row)
    if listed.label:
        master = doc.master(listed.master)
        ranges = tuple(
            replace(r, start=start, end=end) if r.name == listed.label else r for r in master.ranges
        )  # fmt: skip
        changed = replace(master, ranges=ranges)
        doc = replace(doc, masters=tuple(changed if m.id == master.id else m for m in doc.masters))
        return change_row(doc, replace(listed, start=None, end=None)) if listed.start is not None else doc
    whole = (start, end) == (0, doc.lock.frames)
    return change_row(doc, replace(listed, start=None if whole else start, end=None if whole else end))


def set_makings(doc: Document, makings: Makings) -> Document:
    """The document with what became of rows."""
    return replace(doc, makings=makings)
