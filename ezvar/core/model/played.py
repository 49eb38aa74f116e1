"""Which framings were played since they last changed.

A framing is noted by a short digest of all that its master shows of the shot;
a change that is taken back is as played as it was before.
"""

from __future__ import annotations

from hashlib import blake2b

from .document import Document


def look_of(doc: Document, shot: str, master: str) -> str:
    """A digest of what a master shows of a shot, empty where nothing is decided."""
    framing, there = doc.framing(shot, master), doc.shot(shot)
    if framing is None:
        return ""
    shown = (framing.panes, framing.arrangement, framing.sound, there.frames, there.source, there.placement, there.uses)
    return blake2b(repr(shown).encode(), digest_size=8).hexdigest()


def noted(doc: Document) -> dict[tuple[str, str], str]:
    """What was played, by shot and master."""
    return {(p.shot, p.master): p.look for p in doc.played}
