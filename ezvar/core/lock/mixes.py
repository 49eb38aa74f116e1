"""Which shots a lock frame shows, and how two of them share it."""

from __future__ import annotations

from dataclasses import dataclass

from ezvar.core.model import Cut, Document, Shot, Wipe


@dataclass(frozen=True)
class Mix:
    """Two shots on screen at once. ``share`` 0..1 is how far the incoming one has come."""

    cut: Cut
    outgoing: Shot
    incoming: Shot
    share: float

    @property
    def wipe(self) -> Wipe | None:
        """How one wipes the other away; ``None`` where they are mixed."""
        return self.cut.wipe


def mix_at(doc: Document, frame: int) -> Mix | None:
    """The mix that a lock frame lies in; ``None`` where one shot has it to itself."""
    place = doc.place_of(doc.shot_at(frame).id)
    for second in (place, place + 1):
        if not 0 < second < len(doc.shots):
            continue
        cut = mix_of(doc.shots[second])
        if cut is not None and cut.start <= frame < cut.end:
            share = (frame - cut.start + 1) / (cut.end - cut.start + 1)
            return Mix(cut, doc.shots[second - 1], doc.shots[second], share)
    return None


def mix_of(shot: Shot) -> Cut | None:
    """The mix that begins a shot; ``None`` for a hard cut."""
    return shot.cut if shot.cut is not None and shot.cut.end > shot.cut.start else None


def parts_at(doc: Document, frame: int) -> list[tuple[Shot, float]]:
    """The shots on screen at a lock frame with their shares, the one that owns the frame first."""
    mix = mix_at(doc, frame)
    if mix is None:
        return [(doc.shot_at(frame), 1.0)]
    both = [(mix.outgoing, 1 - mix.share), (mix.incoming, mix.share)]
    return both if both[0][0] is doc.shot_at(frame) else both[::-1]
