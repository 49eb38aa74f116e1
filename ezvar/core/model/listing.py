"""The output list: which rows there are."""

from __future__ import annotations

from .document import Document
from .output.rows import Listed, listed_id


def listing(doc: Document) -> tuple[Listed, ...]:
    """The rows of the list, in their order.

    By itself each master has a row for each of its named ranges, or one for
    the whole; those that were changed, added or put elsewhere stand first in
    the order that they were given. A row of a range that is no more is not
    listed.
    """
    ranges = {m.id: {r.name for r in m.ranges} for m in doc.masters}
    kept = [r for r in doc.listed if not r.label or r.start is not None or r.label in ranges[r.master]]
    known = {*(r.id for r in kept), *doc.unlisted}
    for master in doc.masters:
        for label in [r.name for r in master.ranges] or [""]:
            if (id := listed_id(master.id, label)) not in known:
                known.add(id)
                kept.append(Listed(id, master.id, label))
    return tuple(kept)
