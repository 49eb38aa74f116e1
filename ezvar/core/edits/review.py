"""What reviewers say, what both sides of a handoff have, and what was played."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from ezvar.core.model import Document, Exchanged, Framing, Played, ReviewNote, Verdict

from .framings import framing_of, set_framings


def set_verdict(doc: Document, shot: str, master: str, verdict: Verdict) -> Document:
    """Say what a reviewer says of a framing."""
    return set_framings(doc, [replace(framing_of(doc, shot, master), verdict=verdict)])


def say_note(doc: Document, note: ReviewNote) -> Document:
    """Add a note. Raises `ValueError` where it is about no shot or no master, or answers nothing that is there."""
    if note.answers and not any(n.id == note.answers and n.shot == note.shot for n in doc.notes):
        raise ValueError("the note that it answers is not there")
    return replace(doc, notes=(*doc.notes, note))


def withdraw_note(doc: Document, note: ReviewNote) -> Document:
    """Withdraw a note: it is kept without its words, so that it does not come back with the next return."""
    return replace(doc, notes=tuple(n.withdrawn() if n == note else n for n in doc.notes))


def take_notes(doc: Document, notes: Iterable[ReviewNote]) -> Document:
    """Add notes of others; one that is withdrawn on either side is. What is noted already stays as it is."""
    known = {(n.shot, n.master, n.id): n for n in doc.notes}
    for note in notes:
        key = note.shot, note.master, note.id
        if key not in known:
            known[key] = note
        elif not note.stands:
            known[key] = known[key].withdrawn()
    return replace(doc, notes=tuple(known.values()))


def take_decisions(
    doc: Document, framings: Iterable[Framing], exchanged: Iterable[Exchanged], notes: Iterable[ReviewNote] = (),
    versions: Iterable[Framing] = (),
) -> Document:  # fmt: skip
    """Put decisions and notes of others in place, list ``versions`` of theirs that are to be settled, and note what
    both sides now have. Versions of what is put in place are settled by that."""
    listed, taken = tuple(dict.fromkeys(versions)), tuple(framings)
    settled = {(f.shot, f.master) for f in taken} - {(v.shot, v.master) for v in listed}
    doc = take_notes(set_exchanged(set_framings(doc, taken), exchanged), notes)
    kept = tuple(v for v in doc.versions if (v.shot, v.master) not in settled)
    now = (*kept, *(v for v in listed if v not in kept))
    return doc if now == doc.versions else replace(doc, versions=now)


def settle_versions(doc: Document, framings: Iterable[Framing], settled: Iterable[Framing]) -> Document:
    """Put framings in place, and settle versions of others: they are listed no more."""
    gone = set(settled)
    return replace(set_framings(doc, framings), versions=tuple(v for v in doc.versions if v not in gone))


def set_exchanged(doc: Document, exchanged: Iterable[Exchanged]) -> Document:
    """Note the decisions that both sides of a handoff now have."""
    known = {(e.shot, e.master): e for e in doc.exchanged}
    known.update({(e.shot, e.master): e for e in exchanged})
    return replace(doc, exchanged=tuple(known.values()))


def set_played(doc: Document, played: Mapping[tuple[str, str], str]) -> Document:
    """The document with what was played noted in it, for shots and masters that it has."""
    shots, masters = {s.id for s in doc.shots}, {m.id for m in doc.masters}
    kept: Iterable[Played] = (
        Played(shot, master, look) for (shot, master), look in played.items() if shot in shots and master in masters
    )
    return replace(doc, played=tuple(kept))
