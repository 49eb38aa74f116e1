"""What reviewers say, what both sides of a handoff have, and what was played."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from ezvar.core.model import Document, Exchanged, Framing, Played, Verdict

from .framings import framing_of, set_framings


def set_verdict(doc: Document, shot: str, master: str, verdict: Verdict) -> Document:
    """Say what a reviewer says of a framing."""
    return set_framings(doc, [replace(framing_of(doc, shot, master), verdict=verdict)])


def take_decisions(doc: Document, framings: Iterable[Framing], exchanged: Iterable[Exchanged]) -> Document:
    """Put decisions of others in place, and note what both sides now have."""
    return set_exchanged(set_framings(doc, framings), exchanged)


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
