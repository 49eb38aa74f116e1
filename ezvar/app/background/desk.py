"""The session with all that works on it: what the parts of the window are handed."""

from __future__ import annotations

from ezvar.app.session.jobs import Jobs
from ezvar.app.session.session import Session
from ezvar.core.errors import EzvarError
from ezvar.core.store import Cache, load_sets, sets_file

from .analysing import Analysing
from .framing_work import FramingWork
from .known_of_shot import Insight
from .lock_work import LockWork
from .panes_work import PanesWork


class Desk(Session):
    """A session, and the work on it; each work knows the session alone, or works below its own."""

    def __init__(self, jobs: Jobs, cache: Cache | None = None) -> None:
        super().__init__(jobs, cache)
        self.settled.connect(self._begin_with_default_set)  # before the reading begins, so that all are framed at once
        self.analysing = Analysing(self)
        self.lock_work = LockWork(self, self.analysing)
        self.framing_work = FramingWork(self)
        self.panes_work = PanesWork(self, self.framing_work)
        self.insight = Insight(self, lambda: self.framing_work.number)

    def _begin_with_default_set(self) -> None:
        if self.document.masters or self.path is not None:
            return
        try:
            first = load_sets(sets_file()).first
        except EzvarError as error:
            self.problem.emit(str(error))
            return
        if first is not None:
            self.analysing.add_masters(first.masters)
