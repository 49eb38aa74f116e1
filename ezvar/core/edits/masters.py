"""The masters: added, removed, duplicated, changed, in their order."""

from __future__ import annotations

from dataclasses import replace

from ezvar.core.model import Document, Master, hanging, new_id


def add_master(doc: Document, master: Master) -> Document:
    """Add a master after the others. Raises `ValueError` for a name that is taken."""
    if any(m.name == master.name for m in doc.masters):
        raise ValueError(f"there is a master named {master.name} already")
    return replace(doc, masters=(*doc.masters, master))


def remove_master(doc: Document, master: str) -> Document:
    """Remove a master with all that hangs on it."""
    return replace(hanging.without_master(doc, master), masters=tuple(m for m in doc.masters if m.id != master))


def duplicate_master(doc: Document, master: str) -> tuple[Document, Master]:
    """A copy of a master with all its decisions, right after it, under a name that is free."""
    old = doc.master(master)
    names = {m.name for m in doc.masters}
    name = next(n for k in range(2, len(names) + 3) if (n := f"{old.name} {k}") not in names)
    new = replace(old, id=new_id(), name=name)
    at = doc.masters.index(old) + 1
    masters = (*doc.masters[:at], new, *doc.masters[at:])
    return hanging.duplicated(replace(doc, masters=masters), master, new.id), new


def change_master(doc: Document, changed: Master) -> Document:
    """Put a master in place of the one with its id: another name, size, start or ranges. Decisions stay.

    Raises `ValueError` for a name that another master has.
    """
    if any(m.name == changed.name and m.id != changed.id for m in doc.masters):
        raise ValueError(f"there is a master named {changed.name} already")
    return replace(doc, masters=tuple(changed if m.id == changed.id else m for m in doc.masters))


def set_poster(doc: Document, master: str, frame: int | None) -> Document:
    """Let a lock frame stand for a master, or none. Raises `ValueError` for one outside the lock."""
    if frame is not None and not 0 <= frame < doc.lock.frames:
        raise ValueError("the poster lies outside the lock")
    changed = replace(doc.master(master), poster=frame)
    return replace(doc, masters=tuple(changed if m.id == master else m for m in doc.masters))


def move_master(doc: Document, master: str, by: int) -> Document:
    """Move a master ``by`` places in their order; at the ends it stays."""
    masters = list(doc.masters)
    at = masters.index(doc.master(master))
    masters.insert(max(0, min(len(masters) - 1, at + by)), masters.pop(at))
    return replace(doc, masters=tuple(masters))
