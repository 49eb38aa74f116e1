"""The textless version of a lock: linked, let go, and used for shots."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ezvar.core.model import Document, Textless, TextlessShot


def link_textless(doc: Document, textless: Textless | None) -> Document:
    """Link a textless version, which shots that are titled anew then show, or let it go.

    Raises `ValueError` for one that is not as long as the lock.
    """
    if textless is None:
        return replace(doc, textless=None)
    if textless.frames != doc.lock.frames:
        raise ValueError(f"it has {textless.frames} frames, the lock {doc.lock.frames}")
    return replace(doc, textless=textless)


def use_textless(doc: Document, shots: Iterable[str], use: bool = True) -> Document:
    """Let shots be framed without what is written in them, and show the textless version where one is linked, or be as
    they are again; their solved framings go, to be solved anew.

    Raises `ValueError` for a shot whose windows lie in what the edit did not show.
    """
    wanted = set(shots)
    if use and any(doc.shot(s).uses == "the full source" for s in wanted):
        raise ValueError("a shot that is framed in its full source has no textless version")
    kept = tuple(t for t in doc.textless_shots if t.shot not in wanted)
    marked = (*kept, *(TextlessShot(s.id) for s in doc.shots if s.id in wanted)) if use else kept
    stay = tuple(f for f in doc.framings if f.shot not in wanted or f.decided != "solved" or f.verdict == "agreed")
    return replace(doc, textless_shots=marked, framings=stay)
