"""What is read off the document for a display: timecodes, doubt, cuts; kept until what it is read off changes."""

from __future__ import annotations

from collections.abc import Mapping

from ezvar.core.framing import NEEDS_A_LOOK, Tally
from ezvar.core.model import CutPlace, Framing, Master, Shot, cut_places
from ezvar.core.timing import can_drop, timecode

from .position import Position
from .project import Project


class Readings:
    """Answers of the document and of the position in it."""

    def __init__(self, project: Project, at: Position) -> None:
        self._project, self._at = project, at
        self._tally = Tally()
        self.caption_waits: Mapping[str, int] | None = None
        """How much is wrong with which caption, as whoever looks through them found last; ``None`` without captions."""
        self._places: tuple[tuple[object, object], tuple[CutPlace, ...]] = ((None, None), ())

    def timecode(self, frame: int) -> str:
        """The lock's timecode of a lock frame."""
        lock = self._project.document.lock
        return timecode(lock.start + frame, lock.rate, lock.drop and can_drop(lock.rate))

    def doubt_of(self, shot: Shot, master: Master | None = None) -> int:
        """The doubt of a shot's framing in a master, the active one where none is given; 0 once agreed."""
        chosen = master or self._at.master
        framing = self._project.document.framing(shot.id, chosen.id) if chosen else None
        return framing.doubt if framing and framing.verdict != "agreed" else 0

    def needs_a_look(self, shot: Shot, master: Master | None = None) -> bool:
        return self.doubt_of(shot, master) >= NEEDS_A_LOOK

    def is_missing(self, shot: Shot) -> bool:
        """Whether a shot's media was never found."""
        return self._project.document.media_of(shot).missing

    @property
    def framings_waiting(self) -> tuple[Framing, ...]:
        """The framings that need a look, in all masters."""
        doc = self._project.doc
        return self._tally.count(doc.framings if doc else ()).waiting

    @property
    def captions_waiting(self) -> int | None:
        """How many captions something is wrong with; ``None`` where there are none."""
        return None if self.caption_waits is None else len(self.caption_waits)

    @property
    def waiting_here(self) -> int:
        """How many shots need a look in the active master."""
        return sum(f.master == self._at.master_id for f in self.framings_waiting)

    @property
    def cut_places(self) -> tuple[CutPlace, ...]:
        """All cuts and passed-over changes, in order."""
        doc = self._project.doc
        if doc is None:
            return ()
        of = (doc.shots, doc.passed)
        if not all(a is b for a, b in zip(self._places[0], of, strict=True)):
            self._places = (of, cut_places(doc))
        return self._places[1]

    @property
    def cut_place(self) -> CutPlace | None:
        """The cut (or passed-over change) at the playhead, else the one that begins the present shot."""
        shot = self._at.shot
        here = next((p for p in self.cut_places if p.frame == self._at.frame), None)
        return here or next((p for p in self.cut_places if shot is not None and p.shot == shot.id), None)
