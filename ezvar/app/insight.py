"""The subjects of the shot at the playhead, known before anyone asks for them."""

from __future__ import annotations

import threading
from collections.abc import Hashable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.core.evidence import Analysis, Subject
from ezvar.core.framing import framed, judged, subjects_in
from ezvar.core.model import Document, Master, Shot

from .jobs import later, stand_back

if TYPE_CHECKING:
    from .session import Session


class Insight(QObject):
    """Joins the subjects of the present shot on a thread, and works out what a first change of it would wait for."""

    ready = pyqtSignal()
    _found = pyqtSignal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.subjects: tuple[Subject, ...] = ()
        self._wanted: Hashable = None
        self._known: Hashable = None
        self._busy = False
        later(self._found, self._take)
        for signal in (session.shot_changed, session.document_changed, session.master_changed):
            signal.connect(self.look)

    def look(self) -> None:
        """Have what the present shot asks for worked out, unless it is known."""
        session = self._session
        shot, master, analysis = session.shot, session.master, session.analysis
        if shot is None or master is None or analysis is None:
            self._wanted, self.subjects = None, ()
            return
        doc = session.document
        drawn = tuple(d for d in doc.drawn if d.shot == shot.id)
        self._wanted = (analysis, shot.id, shot.start, shot.end, drawn)
        if self._wanted != self._known:
            self.subjects = ()
            if not self._busy:
                self._begin(self._wanted, doc, shot, master, analysis)

    def _begin(self, key: Hashable, doc: Document, shot: Shot, master: Master, analysis: Analysis) -> None:
        def work() -> None:
            stand_back()
            subjects: tuple[Subject, ...] = ()
            try:
                subjects = subjects_in(doc, shot, analysis)
                judged(doc, shot, master, framed(doc, shot, master).panes, subjects)  # keeps what it is judged by
            finally:
                self._found.emit(key, subjects)

        self._busy = True
        threading.Thread(target=work, name="subjects", daemon=True).start()

    def _take(self, key: Hashable, subjects: tuple[Subject, ...]) -> None:
        self._busy = False
        if key == self._wanted:
            self._known, self.subjects = key, subjects
            self.ready.emit()
        else:
            self.look()
