"""Which framings were played since they last changed; kept with the project, and no step of undo."""

from __future__ import annotations

from ezvar.core.model import Document, Framing, Master, Shot, look_of

from .position import Position
from .project import Project

_MISSED = 4  # frames that may be dropped at the ends of a shot that counts as played


class PlayedMarks:
    """Marks the active master's framings as they are played from a shot's first frame to its last."""

    def __init__(self, project: Project, at: Position) -> None:
        self._project, self._at = project, at
        self._known: dict[tuple[str, str], tuple[Framing | None, Shot, str]] = {}
        self.count = 0  # changes with every mark
        self._run: tuple[str, int] | None = None  # the shot that is being played from its start, and how far

    def begin(self) -> None:
        """Another project is open."""
        self._run = None

    def is_played(self, shot: Shot, master: Master) -> bool:
        """Whether a framing was played since it last changed."""
        look, doc = self._project.looks.get((shot.id, master.id)), self._project.doc
        return look is not None and doc is not None and look == self._look(doc, shot, master)

    def _look(self, doc: Document, shot: Shot, master: Master) -> str:
        """What the master shows of the shot now; worked out anew only where either has changed."""
        framing = doc.framing(shot.id, master.id)
        known = self._known.get((shot.id, master.id))
        if known is None or known[0] is not framing or known[1] is not shot:
            known = framing, shot, look_of(doc, shot.id, master.id)
            self._known[shot.id, master.id] = known
        return known[2]

    def unplayed(self) -> list[Shot]:
        """The shots that were not played in the active master since they last changed."""
        doc, master = self._project.doc, self._at.master
        if doc is None or master is None:
            return []
        return [s for s in doc.shots if not self.is_played(s, master)]

    @property
    def left(self) -> int:
        """How many shots were not played in the active master since they last changed."""
        doc, master = self._project.doc, self._at.master
        if doc is None or master is None:
            return 0
        looks = self._project.looks
        known = {s.id: s for s in doc.shots} if looks else {}
        marked = [known[s] for s, m in looks if m == master.id and s in known]
        return len(doc.shots) - sum(self.is_played(s, master) for s in marked)

    def passed(self, frame: int) -> None:
        """Note that a frame was shown while playing forwards, no faster than real time."""
        doc, master = self._project.doc, self._at.master
        if doc is None or master is None:
            return
        shot = doc.shot_at(frame)
        going = self._run is not None and self._run[0] == shot.id
        if not going:
            if self._run is not None:
                self._finish(doc, *self._run, master)
            self._run = (shot.id, frame) if frame - shot.start <= _MISSED else None
        elif self._run is not None:
            self._run = (shot.id, frame)
            if shot.end - 1 - frame <= 0:
                self._finish(doc, shot.id, frame, master)

    def stopped(self) -> None:
        """Note that playing has ended."""
        doc, master = self._project.doc, self._at.master
        if self._run is not None and doc is not None and master is not None:
            self._finish(doc, *self._run, master)
        self._run = None

    def _finish(self, doc: Document, shot_id: str, frame: int, master: Master) -> None:
        if shot_id not in {s.id for s in doc.shots}:
            return
        shot = doc.shot(shot_id)
        if shot.end - 1 - frame <= _MISSED and not self.is_played(shot, master):
            self.count += 1
            self._project.note_played(shot_id, master.id, look_of(doc, shot_id, master.id))
