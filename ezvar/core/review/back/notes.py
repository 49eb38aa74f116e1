"""Notes that come back, under our ids."""

from __future__ import annotations

from dataclasses import replace

from ezvar.core.model import Document, ReviewNote

from .returned import Returned


def notes_of(doc: Document, returned: Returned) -> tuple[list[ReviewNote], list[str]]:
    """Those notes of a return that are new here or withdrawn there, on our shots and masters; and what is to be told
    of the others.

    Shots are matched by the stretch of the lock that they are, a master by
    name and size, as decisions are. A note with an id that is known here is
    that one, whatever it says now.
    """
    by_span = {(s.start, s.frames): s.id for s in doc.shots}
    ours = {shot: by_span.get((start, frames)) for shot, start, frames in returned.spans}
    master = next(
        (m.id for m in doc.masters if m.name == returned.master_name and (m.width, m.height) == returned.master_size),
        None,
    )
    known = {(n.shot, n.master, n.id): n for n in doc.notes}
    found, lost = [], 0
    for note in returned.notes:
        shot, whose = ours.get(note.shot), master if note.master else ""
        if shot is None or whose is None:
            lost += 1
            continue
        note = replace(note, shot=shot, master=whose)
        own = known.get((shot, whose, note.id))
        if own is None or (own.stands and not note.stands):
            found.append(note)
    return found, [f"{lost} notes are about shots or masters that are not here."] if lost else []
