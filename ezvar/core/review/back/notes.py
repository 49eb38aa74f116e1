"""Notes that come back, under our ids."""

from __future__ import annotations

from dataclasses import replace

from ezvar.core.model import Document, ReviewNote

from .comparing import placed
from .returned import Returned


def notes_of(doc: Document, returned: Returned) -> tuple[list[ReviewNote], list[str]]:
    """Those notes of a return that are new here or withdrawn there, on our shots and masters; and what is to be told
    of the others.

    Shots and masters are matched as those of decisions are. A note with an id that is known here is
    that one, whatever it says now.
    """
    places = placed(doc, returned)
    master = next(
        (m.id for m in doc.masters if m.name == returned.master_name and (m.width, m.height) == returned.master_size),
        None,
    )
    known = {(n.shot, n.master, n.id): n for n in doc.notes}
    found, lost = [], 0
    for note in returned.notes:
        whose = master if note.master else ""
        if whose is None or not places.get(note.shot):
            lost += 1
            continue
        for shot, later in places[note.shot]:
            carried = replace(note.later(later), shot=shot, master=whose)
            if carried.end <= 0 or carried.start >= doc.shot(shot).frames:
                continue  # another part of what they show
            own = known.get((shot, whose, note.id))
            if own is None or (own.stands and not note.stands):
                found.append(carried)
    return found, [f"{lost} notes are about shots or masters that are not here."] if lost else []
