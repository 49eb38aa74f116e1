"""Merging returned decisions: a comparison of ours, theirs, and what both last had."""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

from ezvar.core.edits import past_of
from ezvar.core.errors import TimelineError
from ezvar.core.model import Document, Exchanged, Framing, ReviewNote, backdrops_named, lock_identity, media_named
from ezvar.core.names import readable

from ..decision import digest
from ..decision import same as same_decision
from .comparing import Compared, compare, placed, returned_of
from .decisions import read_decisions, read_table
from .lists import read_list
from .notes import notes_of
from .returned import Returned, read_timeline

Side = Literal["ours", "theirs"]


@dataclass(frozen=True)
class Taken:
    """What a merge found. ``taken`` are theirs to be put in place; of ``conflicts``, which both changed, ours stay.

    ``versions`` are all decisions of others on framings that several changed,
    to be listed until they are settled; ``back`` are those framings, as they
    were before either, that had been taken from one of them.
    """

    taken: tuple[Framing, ...]
    exchanged: tuple[Exchanged, ...]  # what both sides have now
    conflicts: tuple[tuple[Framing, Framing], ...]  # ours, theirs
    same: int
    problems: tuple[str, ...]
    files: tuple[str, ...] = ()  # named by decisions that were not taken because of them
    notes: tuple[ReviewNote, ...] = ()  # theirs that are new here, or withdrawn there
    versions: tuple[Framing, ...] = ()
    back: tuple[Framing, ...] = ()

    @property
    def framings(self) -> tuple[Framing, ...]:
        """What is to be put in place."""
        return (*self.taken, *self.back)


def take(
    doc: Document, path: str | os.PathLike[str], folders: Iterable[str | os.PathLike[str]] = (), prefer: Side = "ours"
) -> Taken:
    """What `merge` finds of all that came back in a file. Raises `TimelineError` as `read_return` does."""
    return merge_all(doc, read_return(doc, path), folders, prefer)


def merge_all(
    doc: Document, returned: Iterable[Returned], folders: Iterable[str | os.PathLike[str]] = (), prefer: Side = "ours"
) -> Taken:
    """What `merge` finds of all that came back in a file, master by master."""
    return _together([merge(doc, each, folders, prefer) for each in returned])


def read_return(doc: Document, path: str | os.PathLike[str]) -> list[Returned]:
    """What came back in a file, a timeline, the decisions as JSON or their table, an edit decision list, by master.

    Raises `TimelineError` where it belongs to another lock, of which nothing is shown in this one.
    """
    match Path(path).suffix.lower():
        case ".json":
            returned = read_decisions(path)
        case ".csv":
            returned = read_table(path, doc)
        case ".edl":
            returned = read_list(path, doc)
        case _:
            returned = [read_timeline(path)]
    identity, found = lock_identity(doc), []
    for each in returned:
        said, own = (each.identity, identity) if each.identity else (each.content, doc.lock.content)
        if said == own and each.frames == doc.lock.frames:
            found.append(each)
        elif placed(doc, elsewhere := replace(each, elsewhere=True)):
            found.append(elsewhere)
        else:
            raise TimelineError(
                f"it was made for another lock than {doc.lock.name}", file=path, remedy="Open the project it belongs to"
            )
    return found


def _together(several: Sequence[Taken]) -> Taken:
    """What merges of several masters came to."""
    return Taken(
        tuple(f for t in several for f in t.taken), tuple(e for t in several for e in t.exchanged),
        tuple(c for t in several for c in t.conflicts), sum(t.same for t in several),
        tuple(dict.fromkeys(p for t in several for p in t.problems)),
        tuple(sorted({f for t in several for f in t.files})),
        tuple({(n.shot, n.master, n.id): n for t in several for n in t.notes}.values()),
        tuple(v for t in several for v in t.versions), tuple(b for t in several for b in t.back),
    )  # fmt: skip


def merge(
    doc: Document, returned: Returned, folders: Iterable[str | os.PathLike[str]] = (), prefer: Side = "ours"
) -> Taken:
    """Which of their decisions they changed and we did not, to be taken; and where both did, ours stay unless theirs
    are preferred.

    What is whose is `compare`'s to say. A decision that names a file is taken
    only where the document draws on that file already, or it lies in one of
    the ``folders`` that somebody has allowed; nothing is opened here.
    """
    allowed = _Allowed(doc, folders)
    compared, problems = compare(doc, returned)
    notes, told = notes_of(doc, returned)
    problems += told
    taken: list[Framing] = []
    conflicts: list[tuple[Framing, Framing]] = []
    versions: list[Framing] = []
    back: list[Framing] = []
    exchanged: list[Exchanged] = []
    files: list[str] = []
    for each in compared:
        if each.state in ("ours", "not placed"):
            continue
        others = doc.versions_of(each.theirs.shot, each.theirs.master)
        if prefer == "ours" and any(same_decision(each.theirs, other) for other in others):
            continue  # it is listed already
        if each.ours is not None and prefer == "ours" and (each.state == "both" or (others and each.state == "theirs")):
            first = _before_either(doc, each)
            if first is not None:  # what is here was taken from another return: nobody here has decided
                back.append(first)
                versions.append(each.ours)
                exchanged.append(exchanged_with(first))
            conflicts.append((first or each.ours, each.theirs))
            versions.append(each.theirs)
            continue
        if each.state != "same":
            if foreign := allowed.not_by(each.theirs):
                files += foreign
                continue
            taken.append(each.theirs)
        exchanged.append(exchanged_with(each.theirs))
    files = sorted(set(files))
    problems += [f"{readable(f)} was not opened, and what names it not taken: it is not this project's." for f in files]
    same = sum(each.state == "same" for each in compared)
    return Taken(tuple(taken), tuple(exchanged), tuple(conflicts), same, tuple(problems), tuple(files), tuple(notes),
                 tuple(versions), tuple(back))  # fmt: skip


def _before_either(doc: Document, found: Compared) -> Framing | None:
    """What a framing was before it was taken from another return, where it still is as it was taken, and that is what
    this return had too; ``None`` else."""
    ours = found.ours
    if ours is None or not found.base:
        return None
    if digest(ours) == found.base or doc.sent(ours.shot, ours.master) != digest(ours):
        return None
    past = (p.framing for p in past_of(doc, ours.shot, ours.master))
    return next((replace(f, held=ours.held) for f in past if digest(f) == found.base), None)


def exchanged_with(theirs: Framing) -> Exchanged:
    """That both sides have had a decision of theirs, whether it was taken or not: what differs from it is ours."""
    return Exchanged(theirs.shot, theirs.master, digest(theirs))


def merge_projects(ours: Document, base: Document, theirs: Document) -> Taken:
    """Which of their decisions on all masters, in a project that both began as ``base``, are to be taken, as `merge`.

    Taken are framings only: of their cuts, masters and media nothing. The
    files that they name may be opened, as when their project is.
    """
    folders = {os.path.dirname(path) for path in backdrops_named(theirs.framings)}
    found = _together([merge(ours, returned_of(theirs, m, base), folders) for m in theirs.masters])
    theirs_now = {(f.shot, f.master) for f in found.taken}
    return replace(found, exchanged=tuple(e for e in theirs.exchanged if (e.shot, e.master) in theirs_now))


class _Allowed:
    """Which files a return may name."""

    def __init__(self, doc: Document, folders: Iterable[str | os.PathLike[str]]) -> None:
        self._named = {os.path.realpath(path) for path in media_named(doc)}
        self._folders = [Path(os.path.realpath(folder)) for folder in folders]

    def not_by(self, framing: Framing) -> list[str]:
        """The files that a framing names and must not."""
        return [path for path in backdrops_named([framing]) if not self._is(path)]

    def _is(self, path: str) -> bool:
        real = os.path.realpath(path)
        inside = os.path.isabs(path) and any(Path(real).is_relative_to(folder) for folder in self._folders)
        return real in self._named or inside
