"""Merging returned decisions: a comparison of ours, theirs, and what both last had."""

from __future__ import annotations

import os
from dataclasses import dataclass, replace

from ezvar.core.errors import TimelineError
from ezvar.core.model import Document, Exchanged, Framing, edits

from .handoff import digest
from .returned import Returned, read_timeline


@dataclass(frozen=True)
class Taken:
    """What a merge did. ``conflicts`` lists framings that both sides changed; ours stayed."""

    taken: tuple[Framing, ...]
    conflicts: tuple[tuple[Framing, Framing], ...]  # ours, theirs
    same: int
    problems: tuple[str, ...]


def take(doc: Document, path: str | os.PathLike[str]) -> tuple[Document, Taken]:
    """Read a returned timeline and merge it in. Raises `TimelineError` where it belongs to another lock."""
    returned = read_timeline(path)
    if returned.content != doc.lock.content or returned.frames != doc.lock.frames:
        raise TimelineError(
            f"it was made for another lock than {doc.lock.name}", file=path, remedy="Open the project it belongs to"
        )
    return merge(doc, returned)


def merge(doc: Document, returned: Returned) -> tuple[Document, Taken]:
    """Take each of their decisions that they changed and we did not; list where both did.

    Shots are matched by the stretch of the lock that they are; a master by id, or by name and size.
    """
    by_span = {(s.start, s.frames): s.id for s in doc.shots}
    theirs_to_ours = {shot: by_span.get((start, frames)) for shot, start, frames in returned.spans}
    master = next(
        (m for m in doc.masters if m.name == returned.master_name and (m.width, m.height) == returned.master_size), None
    )
    problems = list(returned.problems)
    if master is None:
        width, height = returned.master_size
        problems.append(f"There is no master {returned.master_name} of {width} × {height} here, so nothing was taken.")
        return doc, Taken((), (), 0, tuple(problems))
    taken: list[Framing] = []
    conflicts: list[tuple[Framing, Framing]] = []
    exchanged: list[Exchanged] = []
    same = 0
    for framing, base in returned.framings:
        shot = theirs_to_ours.get(framing.shot)
        if shot is None:
            problems.append("A shot of theirs has other cuts here, its framing was left out.")
            continue
        theirs = replace(framing, shot=shot, master=master.id)
        ours = doc.framing(shot, master.id)
        if (
            ours is None
            or digest(ours) == base
            or digest(replace(ours, shot=framing.shot, master=framing.master)) == base
        ):
            if ours == theirs:
                same += 1
            else:
                taken.append(theirs)
        elif ours == theirs:
            same += 1
        elif digest(framing) == base:
            continue  # only we changed it
        else:
            conflicts.append((ours, theirs))
            continue
        exchanged.append(Exchanged(shot, master.id, digest(theirs)))
    merged = edits.set_exchanged(edits.set_framings(doc, taken), exchanged)
    return merged, Taken(tuple(taken), tuple(conflicts), same, tuple(problems))
