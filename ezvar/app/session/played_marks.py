"""Which framings were played since they last changed; kept with the project, and no step of undo."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.core.model import Document, Framing, Master, Shot, look_of, noted, set_played

Present = Callable[[], tuple[Document | None, Master | None]]


class PlayedMarks(QObject):
    """Marks the active master's framings as they are played from a shot's first frame to its last.

    ``present`` gives the document and the active master as they are when it is asked.
    """

    changed = pyqtSignal()

    def __init__(self, present: Present) -> None:
        super().__init__()
        self._present = present
        self._looks: dict[tuple[str, str], str] = {}
        self._saved = self._looks.copy()
        self._known: dict[tuple[str, str], tuple[Framing | None, Shot, str]] = {}
        self.count = 0  # changes with every mark
        self._run: tuple[str, int] | None = None  # the shot that is being played from its start, and how far

    def begin(self, doc: Document) -> None:
        """Another project is open."""
        self._looks = noted(doc)
        self._saved = self._looks.copy()
        self._run = None

    def into(self, doc: Document) -> Document:
        """A document with the marks noted in it, to be written."""
        return set_played(doc, self._looks) if self._looks or doc.played else doc

    @property
    def saved(self) -> bool:
        """Whether the marks are those last saved."""
        return self._looks == self._saved

    def mark_saved(self, doc: Document) -> None:
        self._saved = noted(doc)

    def is_played(self, shot: Shot, master: Master) -> bool:
        """Whether a framing was played since it last changed."""
        look, doc = self._looks.get((shot.id, master.id)), self._present()[0]
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
        doc, master = self._present()
        if doc is None or master is None:
            return []
        return [s for s in doc.shots if not self.is_played(s, master)]

    @property
    def left(self) -> int:
        """How many shots were not played in the active master since they last changed."""
        doc, master = self._present()
        if doc is None or master is None:
            return 0
        known = {s.id: s for s in doc.shots} if self._looks else {}
        marked = [known[s] for s, m in self._looks if m == master.id and s in known]
        return len(doc.shots) - sum(self.is_played(s, master) for s in marked)

    def passed(self, frame: int) -> None:
        """Note that a frame was shown while playing forwards, no faster than real time."""
        doc, master = self._present()
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
        doc, master = self._present()
        if self._run is not None and doc is not None and master is not None:
            self._finish(doc, *self._run, master)
        self._run = None

    def _finish(self, doc: Document, shot_id: str, frame: int, master: Master) -> None:
        if shot_id not in {s.id for s in doc.shots}:
            return
        shot = doc.shot(shot_id)
        if shot.end - 1 - frame <= _MISSED and not self.is_played(shot, master):
            self._looks[shot_id, master.id] = look_of(doc, shot_id, master.id)
            self.count += 1
            self.changed.emit()


_MISSED = 4  # frames that may be dropped at the ends of a shot that counts as played
