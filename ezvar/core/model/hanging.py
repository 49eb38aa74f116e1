"""What hangs on shots and masters, declared once: with what becomes of it where those are cut, joined or removed.

A kind of thing that is added to the document (captions, notes) is declared
in `KINDS` and nowhere else.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Any, Generic, Literal, TypeVar

from .document import Document
from .framings import Drawn, Exchanged, Framing, Past, Played
from .ids import new_id
from .notes import ReviewNote
from .output.rows import Listed, listed_id
from .written.captions import Differing, TrackStyle
from .written.textless import TextlessShot
from .written.titles import Placed

T = TypeVar("T")


@dataclass(frozen=True)
class Kind(Generic[T]):
    """A kind of thing that hangs on shots, and on masters where it knows one.

    ``of`` and ``put`` read and write all of them. ``on_shot`` is a thing as
    it hangs on another shot that begins so many frames later in the same
    clip; as it is where the shot stays and begins later. ``master`` and
    ``on_master`` are ``None`` where it hangs on shots alone.

    Where a shot is split, its second half gets "a copy" or "nothing"; where
    two are joined, the things of "the longer", of "both" or of "the first"
    shot hold; a master that is duplicated gives its things on as "a copy" or
    "nothing". What hangs on a shot or a master that is removed goes with it;
    a master that is resized keeps all.
    """

    name: str
    of: Callable[[Document], tuple[T, ...]]
    put: Callable[[Document, tuple[T, ...]], Document]
    shot: Callable[[T], str]
    on_shot: Callable[[T, str, int], T]
    master: Callable[[T], str] | None
    on_master: Callable[[T, str], T] | None
    split: Literal["a copy", "nothing"]
    joined: Literal["the longer", "both", "the first"]
    duplicated: Literal["a copy", "nothing"]
    nameless: Callable[[T], T] = lambda thing: thing
    """A thing without the id that tells a copy of it from it: where shots are joined again one of the two is enough."""


def _row_on(row: Listed, master: str) -> Listed:
    """A row of another master; one that a master has by itself stays such a one."""
    own = row.id == listed_id(row.master, row.label)
    return replace(row, master=master, id=listed_id(master, row.label) if own else new_id())


def _framing_on(framing: Framing, shot: str, later: int) -> Framing:
    return replace(framing.later(later), shot=shot)


def _drawn_on(drawn: Drawn, shot: str, later: int) -> Drawn:
    """On another shot it is a subject of its own."""
    return replace(drawn.later(later), shot=shot, id=drawn.id if shot == drawn.shot else new_id())


KINDS: tuple[Kind[Any], ...] = (
    Kind[Framing](
        "framings", lambda d: d.framings, lambda d, v: replace(d, framings=v), lambda f: f.shot, _framing_on,
        lambda f: f.master, lambda f, m: replace(f, master=m), "a copy", "the longer", "a copy",
    ),
    Kind[Drawn](
        "drawn subjects", lambda d: d.drawn, lambda d, v: replace(d, drawn=v), lambda s: s.shot, _drawn_on,
        None, None, "a copy", "both", "nothing", lambda s: replace(s, id=""),
    ),
    Kind[TextlessShot](
        "shots that are textless", lambda d: d.textless_shots, lambda d, v: replace(d, textless_shots=v),
        lambda t: t.shot, lambda t, s, later: replace(t, shot=s), None, None, "a copy", "both", "nothing",
    ),
    Kind[ReviewNote](
        "notes", lambda d: d.notes, lambda d, v: replace(d, notes=v), lambda n: n.shot,
        lambda n, s, later: replace(n.later(later), shot=s), lambda n: n.master, lambda n, m: replace(n, master=m),
        "a copy", "both", "nothing",
    ),
    Kind[Past](
        "earlier framings", lambda d: d.past, lambda d, v: replace(d, past=v), lambda p: p.framing.shot,
        lambda p, s, later: replace(p, framing=_framing_on(p.framing, s, later)), lambda p: p.framing.master,
        lambda p, m: replace(p, framing=replace(p.framing, master=m)), "a copy", "the first", "nothing",
    ),
    Kind[Framing](
        "versions of others", lambda d: d.versions, lambda d, v: replace(d, versions=v), lambda f: f.shot,
        _framing_on, lambda f: f.master, lambda f, m: replace(f, master=m), "a copy", "the first", "nothing",
    ),
    Kind[Exchanged](
        "what was exchanged", lambda d: d.exchanged, lambda d, v: replace(d, exchanged=v), lambda e: e.shot,
        lambda e, s, later: replace(e, shot=s), lambda e: e.master, lambda e, m: replace(e, master=m),
        "nothing", "the first", "nothing",
    ),
    Kind[Played](
        "what was played", lambda d: d.played, lambda d, v: replace(d, played=v), lambda p: p.shot,
        lambda p, s, later: replace(p, shot=s), lambda p: p.master, lambda p, m: replace(p, master=m),
        "nothing", "the first", "nothing",
    ),
)  # fmt: skip


@dataclass(frozen=True)
class OnMaster(Generic[T]):
    """A kind of thing that hangs on masters alone: it goes with a master that is removed, a duplicate gets a copy."""

    of: Callable[[Document], tuple[T, ...]]
    put: Callable[[Document, tuple[T, ...]], Document]
    master: Callable[[T], str]
    on_master: Callable[[T, str], T]


ON_MASTERS: tuple[OnMaster[Any], ...] = (
    OnMaster[TrackStyle](
        lambda d: d.styles, lambda d, v: replace(d, styles=v), lambda s: s.master, lambda s, m: replace(s, master=m)
    ),
    OnMaster[Differing](
        lambda d: d.differing, lambda d, v: replace(d, differing=v), lambda s: s.master,
        lambda s, m: replace(s, master=m),
    ),
    OnMaster[Placed](
        lambda d: d.placed, lambda d, v: replace(d, placed=v), lambda p: p.master, lambda p, m: replace(p, master=m)
    ),
    OnMaster[Listed](
        lambda d: d.listed, lambda d, v: replace(d, listed=v), lambda r: r.master, _row_on
    ),
)  # fmt: skip


def split(doc: Document, shot: str, new: str, later: int) -> Document:
    """The document, in which a shot is split, with what hangs on its second half, ``new``, ``later`` frames on."""
    return carried(doc, shot, new, later, doc)


def joined(doc: Document, before: str, gone: str, later: int, longer: str) -> Document:
    """The document with all that hangs on two shots on the first; the second begins ``later`` frames on."""
    for kind in KINDS:
        first = tuple(t for t in kind.of(doc) if kind.shot(t) == before)
        second = tuple(kind.on_shot(t, before, -later) for t in kind.of(doc) if kind.shot(t) == gone)
        known = [kind.nameless(t) for t in first]
        others = tuple(t for t in second if kind.nameless(t) not in known)
        held = {"the longer": second if longer == gone else first, "both": first + others, "the first": first}
        kept = held[kind.joined]
        if kind.joined == "the longer" and kind.master is not None:  # of masters that only the other decides on, that
            masters = {kind.master(t) for t in kept}
            kept += tuple(t for t in (first if longer == gone else second) if kind.master(t) not in masters)
        elsewhere = tuple(t for t in kind.of(doc) if kind.shot(t) not in (before, gone))
        doc = kind.put(doc, elsewhere + kept)
    return doc


def moved(doc: Document, shot: str, later: int) -> Document:
    """The document with what hangs on a shot that begins ``later`` frames on where it is in time."""
    for kind in KINDS:
        if any(kind.shot(t) == shot for t in kind.of(doc)):
            things = (kind.on_shot(t, shot, later) if kind.shot(t) == shot else t for t in kind.of(doc))
            doc = kind.put(doc, tuple(things))
    return doc


def with_shots_only(doc: Document, shots: Iterable[str]) -> Document:
    """The document without what hangs on other shots than these."""
    ids = set(shots)
    for kind in KINDS:
        doc = _kept(doc, kind, lambda t, k=kind: k.shot(t) in ids)  # type: ignore[misc]
    return doc


def without_master(doc: Document, master: str) -> Document:
    """The document without what hangs on a master."""
    for kind in KINDS:
        if (of := kind.master) is not None:
            doc = _kept(doc, kind, lambda t, of=of: of(t) != master)  # type: ignore[misc]
    for hung in ON_MASTERS:
        doc = hung.put(doc, tuple(t for t in hung.of(doc) if hung.master(t) != master))
    return doc


def duplicated(doc: Document, master: str, new: str) -> Document:
    """The document with what hangs on a master on its duplicate, too."""
    for kind in KINDS:
        if kind.duplicated == "a copy" and kind.master is not None and kind.on_master is not None:
            copies = tuple(kind.on_master(t, new) for t in kind.of(doc) if kind.master(t) == master)
            doc = kind.put(doc, kind.of(doc) + copies)
    for hung in ON_MASTERS:
        copies = tuple(hung.on_master(t, new) for t in hung.of(doc) if hung.master(t) == master)
        doc = hung.put(doc, hung.of(doc) + copies)
    return doc


def carried(old: Document, shot: str, new: str, later: int, into: Document) -> Document:
    """``into`` with what hangs on a shot of an old document on a new one that shows it from frame ``later`` on.

    What says of the old shot itself that it was handed out or played is not carried.
    """
    for kind in KINDS:
        if kind.split == "a copy":
            more = tuple(kind.on_shot(t, new, later) for t in kind.of(old) if kind.shot(t) == shot)
            into = kind.put(into, kind.of(into) + more)
    return into


def _kept(doc: Document, kind: Kind[T], keeps: Callable[[T], bool]) -> Document:
    kept = tuple(t for t in kind.of(doc) if keeps(t))
    return doc if len(kept) == len(kind.of(doc)) else kind.put(doc, kept)
