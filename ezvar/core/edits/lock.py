"""What the shots of a lock show of their media."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import replace

from ezvar.core.model import Document, FrameRule, Placement, Uses


def turn_uses(doc: Document, shot: str) -> Document:
    """Let a shot's windows lie in the full source instead of what the edit showed, or the reverse.

    Its solved framings go, to be solved anew; those by hand and agreed ones stay.
    """
    old = doc.shot(shot)
    uses: Uses = "what the edit showed" if old.uses == "the full source" else "the full source"
    kept = tuple(f for f in doc.framings if f.shot != shot or f.decided != "solved" or f.verdict == "agreed")
    shots = tuple(replace(s, uses=uses) if s.id == shot else s for s in doc.shots)
    return replace(doc, shots=shots, framings=kept)


def place_shots(doc: Document, placements: Mapping[str, Placement]) -> Document:
    """Let shots be placed in the lock's frame as given, by their ids.

    Their solved framings go, to be solved anew; those by hand and agreed ones stay.
    """
    kept = tuple(f for f in doc.framings if f.shot not in placements or f.decided != "solved" or f.verdict == "agreed")
    shots = tuple(replace(s, placement=placements.get(s.id, s.placement)) for s in doc.shots)
    return replace(doc, shots=shots, framings=kept)


def turn_rule(doc: Document) -> Document:
    """Show the nearest frame of media of another rate instead of blending two, or the reverse."""
    rule: FrameRule = "nearest" if doc.lock.rule == "blended" else "blended"
    return replace(doc, lock=replace(doc.lock, rule=rule))


def size_by_media(doc: Document) -> Document:
    """Take the lock's frame from its media: the size that most of it has."""
    lock = doc.lock
    sizes = Counter[tuple[int, int]]()
    known = {m.id: m for m in lock.media}
    for shot in doc.shots:
        media = known[shot.source.media]
        if not media.missing and media.kind in ("movie", "sequence"):
            sizes[media.width, media.height] += shot.frames
    if not sizes:
        return doc
    width, height = sizes.most_common(1)[0][0]
    media_of = tuple(replace(m, width=width, height=height) if m.kind == "black" else m for m in lock.media)
    return replace(doc, lock=replace(lock, width=width, height=height, media=media_of))
