"""Titles made here, and where titles and layers of the lock stand in each master."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import TypeVar

from ezvar.core.model import Anchoring, Beside, Document, Placed, Title, TitleLane


def put_title(doc: Document, title: Title) -> Document:
    """Put a title in place of the one with its id, or add it over the others. Raises `ValueError` outside the lock."""
    if not 0 <= title.start < title.end <= doc.lock.frames:
        raise ValueError("a title lies inside the lock")
    kept = tuple(title if t.id == title.id else t for t in doc.titles)
    return replace(doc, titles=kept if any(t.id == title.id for t in doc.titles) else (*kept, title))


def remove_title(doc: Document, title: str) -> Document:
    """Remove a title with its places, and what was let stand of it; what stood beside it stands by itself."""
    return replace(
        doc,
        differing=tuple(d for d in doc.differing if d.caption != title),
        titles=tuple(_without(t, title) for t in doc.titles if t.id != title),
        anchorings=tuple(a for a in (_without(a, title) for a in doc.anchorings) if not a.nothing),
        placed=tuple(p for p in doc.placed if p.item != title),
    )


def set_title_lane(doc: Document, shown: bool | None = None, locked: bool | None = None) -> Document:
    """Show or hide, lock or unlock all titles; what is not said stays."""
    lane = doc.title_lane
    return replace(doc, title_lane=TitleLane(
        lane.shown if shown is None else shown, lane.locked if locked is None else locked
    ))  # fmt: skip


_T = TypeVar("_T", Title, Anchoring)


def _without(thing: _T, item: str) -> _T:
    return replace(thing, beside=None) if thing.beside is not None and thing.beside.item == item else thing


def stand_beside(doc: Document, title: str, beside: Beside | None) -> Document:
    """Let a title stand beside another item, or by itself. Raises `ValueError` where that one would then stand, at one
    remove or more, beside this."""
    _check_beside(doc, title, beside)
    return put_title(doc, replace(doc.title(title), beside=beside))


def anchor_layer(doc: Document, layer: str, change: Callable[[Anchoring], Anchoring]) -> Document:
    """Change to what a layer of the lock is anchored, with its group, by the `layer_key` of the first of that. Raises
    `ValueError` where it would stand beside what stands beside it."""
    new = change(doc.anchoring(layer))
    _check_beside(doc, layer, new.beside)
    kept = [a for a in doc.anchorings if a.item != layer]
    return replace(doc, anchorings=tuple(kept if new.nothing else [*kept, new]))


def _check_beside(doc: Document, item: str, beside: Beside | None) -> None:
    known = {t.id: t.beside for t in doc.titles} | {a.item: a.beside for a in doc.anchorings}
    at, past = beside, {item}
    while at is not None:
        if at.item in past:
            raise ValueError("that stands beside it itself")
        past.add(at.item)
        at = known.get(at.item)


def place_items(
    doc: Document, items: Iterable[str], masters: Iterable[str], change: Callable[[Placed], Placed]
) -> Document:
    """Change where items stand in masters, each by the same function; a place that says nothing is let go."""
    chosen = tuple(masters)
    new = {(i, m): change(doc.stands(i, m)) for i in items for m in chosen}
    kept = [new.pop((p.item, p.master), p) for p in doc.placed]
    return replace(doc, placed=tuple(p for p in (*kept, *new.values()) if not p.nothing))


def retime_title(doc: Document, title: str, start: int, end: int) -> Document:
    """Let a title stand from and to these lock frames: at least one, inside the lock."""
    start = max(0, min(start, doc.lock.frames - 1))
    return put_title(doc, replace(doc.title(title), start=start, end=min(doc.lock.frames, max(end, start + 1))))
