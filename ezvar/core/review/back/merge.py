"""Merging returned decisions: a comparison of ours, theirs, and what both last had."""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from ezvar.core.errors import TimelineError
from ezvar.core.model import Document, Exchanged, Framing, backdrops_named, lock_identity, media_named
from ezvar.core.names import readable

from ..decision import digest, is_as
from .decisions import read_decisions, read_table
from .returned import Returned, read_timeline


@dataclass(frozen=True)
class Taken:
    """What a merge found. ``taken`` are theirs to be put in place; of ``conflicts``, which both changed, ours stay."""

    taken: tuple[Framing, ...]
    exchanged: tuple[Exchanged, ...]  # what both sides have now
    conflicts: tuple[tuple[Framing, Framing], ...]  # ours, theirs
    same: int
    problems: tuple[str, ...]
    files: tuple[str, ...] = ()  # named by decisions that were not taken because of them


def take(doc: Document, path: str | os.PathLike[str], folders: Iterable[str | os.PathLike[str]] = ()) -> Taken:
    """Read what came back, a timeline, the decisions as JSON or their table, and `merge` it. Raises `TimelineError`
    where it belongs to another lock."""
    suffix = Path(path).suffix.lower()
    returned = (
        read_decisions(path) if suffix == ".json" else read_table(path, doc) if suffix == ".csv"
        else [read_timeline(path)]
    )  # fmt: skip
    identity = lock_identity(doc)
    for each in returned:
        said, own = (each.identity, identity) if each.identity else (each.content, doc.lock.content)
        if said != own or each.frames != doc.lock.frames:
            raise TimelineError(
                f"it was made for another lock than {doc.lock.name}", file=path, remedy="Open the project it belongs to"
            )
    return _together([merge(doc, each, folders) for each in returned])


def _together(several: Sequence[Taken]) -> Taken:
    """What merges of several masters came to."""
    return Taken(
        tuple(f for t in several for f in t.taken), tuple(e for t in several for e in t.exchanged),
        tuple(c for t in several for c in t.conflicts), sum(t.same for t in several),
        tuple(dict.fromkeys(p for t in several for p in t.problems)),
        tuple(sorted({f for t in several for f in t.files})),
    )  # fmt: skip


def merge(doc: Document, returned: Returned, folders: Iterable[str | os.PathLike[str]] = ()) -> Taken:
    """Which of their decisions they changed and we did not, to be taken; and where both did.

    Shots are matched by the stretch of the lock that they are; a master by name and size. A decision
    that names a file is taken only where the document draws on that file
    already, or it lies in one of the ``folders`` that somebody has allowed;
    nothing is opened here.
    """
    allowed = _Allowed(doc, folders)
    by_span = {(s.start, s.frames): s.id for s in doc.shots}
    theirs_to_ours = {shot: by_span.get((start, frames)) for shot, start, frames in returned.spans}
    master = next(
        (m for m in doc.masters if m.name == returned.master_name and (m.width, m.height) == returned.master_size), None
    )
    problems = list(returned.problems)
    if master is None:
        width, height = returned.master_size
        problems.append(f"There is no master {returned.master_name} of {width} × {height} here, so nothing was taken.")
        return Taken((), (), (), 0, tuple(problems))
    taken: list[Framing] = []
    conflicts: list[tuple[Framing, Framing]] = []
    exchanged: list[Exchanged] = []
    files: list[str] = []
    same = 0
    for framing, base in returned.framings:
        shot = theirs_to_ours.get(framing.shot)
        if shot is None:
            problems.append("A shot of theirs has other cuts here, its framing was left out.")
            continue
        theirs = replace(framing, shot=shot, master=master.id)
        ours = doc.framing(shot, master.id)
        if ours is not None and digest(ours) == digest(theirs):
            same += 1
        elif ours is None or _unchanged(ours, framing, base):
            if foreign := allowed.not_by(theirs):
                files += foreign
                continue
            taken.append(theirs)
        elif is_as(framing, base):
            continue  # only we changed it
        else:
            conflicts.append((ours, theirs))
            continue
        exchanged.append(Exchanged(shot, master.id, digest(theirs)))
    files = sorted(set(files))
    problems += [f"{readable(f)} was not opened, and what names it not taken: it is not this project's." for f in files]
    return Taken(tuple(taken), tuple(exchanged), tuple(conflicts), same, tuple(problems), tuple(files))


def _unchanged(ours: Framing, theirs: Framing, base: str) -> bool:
    """Whether our decision is the one that both sides had, under our ids or theirs."""
    return is_as(ours, base) or is_as(replace(ours, shot=theirs.shot, master=theirs.master), base)


def merge_projects(ours: Document, base: Document, theirs: Document) -> Taken:
    """Which of their decisions on all masters, in a project that both began as ``base``, are to be taken, as `merge`.

    Taken are framings only: of their cuts, masters and media nothing. The
    files that they name may be opened, as when their project is.
    """
    spans = tuple((s.id, s.start, s.frames) for s in theirs.shots)
    begun = {(f.shot, f.master): digest(f) for f in base.framings}
    folders = {os.path.dirname(path) for path in backdrops_named(theirs.framings)}
    several = []
    for master in theirs.masters:
        framings = tuple((f, begun.get((f.shot, f.master), "")) for f in theirs.framings if f.master == master.id)
        size = (master.width, master.height)
        returned = Returned(theirs.lock.content, "", theirs.lock.frames, master.name, size, framings, spans, ())
        several.append(merge(ours, returned, folders))
    found = _together(several)
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
