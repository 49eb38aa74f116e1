"""The session, and all that works on it: what the parts of the window are handed."""

from __future__ import annotations

from ezvar.app.session.jobs import Jobs
from ezvar.app.session.session import Session
from ezvar.core.errors import EzvarError
from ezvar.core.store import Cache, load_sets, sets_file

from .analysing import Analysing
from .before_making import BeforeMaking
from .exchange import Exchange
from .expecting import Expecting
from .framing_work import FramingWork
from .incoming import IncomingWork
from .known_of_shot import KnownOfShot
from .lock_work import LockWork
from .making import RowMaking
from .note_work import NoteWork
from .panes_work import PanesWork
from .sending import RowSending
from .text_checks import TextChecks
from .text_work import TextWork
from .title_work import TitleWork


class Desk:
    """A session, and the work on it; each work knows the session alone, or works below its own."""

    def __init__(self, jobs: Jobs, cache: Cache | None = None) -> None:
        session = self.session = Session(jobs, cache)
        session.files.settled.connect(self._begin_with_default_set)  # before the reading begins: all are framed at once
        self.analysing = Analysing(session)
        self.lock_work = LockWork(session, self.analysing)
        self.framing_work = FramingWork(session)
        self.panes_work = PanesWork(session, self.framing_work)
        self.of_shot = KnownOfShot(session)
        self.text_checks = TextChecks(session)
        self.text_work = TextWork(session, self.text_checks)
        self.note_work = NoteWork(session)
        self.exchange = Exchange(session)
        self.making = RowMaking(session, self.text_checks)
        self.expecting = Expecting(session, self.making)
        self.before_making = BeforeMaking(session, self.making, self.text_checks)
        self.sending = RowSending(session)
        self.incoming = IncomingWork(session, self.exchange)
        self.title_work = TitleWork(session, self.text_work, self.text_checks, self.analysing.frame_missing)

    def _begin_with_default_set(self) -> None:
        project = self.session.project
        if project.document.masters or project.path is not None:
            return
        try:
            first = load_sets(sets_file()).first
        except EzvarError as error:
            self.session.messages.say_problem(str(error))
            return
        if first is not None:
            self.analysing.add_masters(first.masters)
