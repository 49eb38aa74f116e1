"""A shared folder, looked into behind the editor's back: what came in is offered, and never taken by itself."""

from __future__ import annotations

import os
import sys

from PyQt6.QtCore import QObject, QProcess, QTimer, pyqtSignal

from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.model import new_id
from ezvar.core.names import readable
from ezvar.core.review import Asked, Offered, SharedFolder, came_in, share

from .exchange import Exchange

_EVERY = 2000  # milliseconds from one look to the next
_HANDED_OUT = 6  # seconds in which decisions are handed out, at the most


class IncomingWork(QObject):
    """Watches the folder that a project's team shares."""

    offers_changed = pyqtSignal()  # other returns are there to be taken in

    def __init__(self, session: Session, exchange: Exchange) -> None:
        super().__init__()
        self._session, self._exchange = session, exchange
        self.offers: list[Offered] = []
        self._folder: SharedFolder | None = None
        self._looking = False
        self._reviewer: QProcess | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_EVERY)
        self._timer.timeout.connect(self.look)
        session.files.opened.connect(lambda _: self._begin_anew())
        session.project.changed.connect(self._keep_to_the_document)

    @property
    def folder(self) -> str:
        """The shared folder of the open project; empty for none."""
        doc = self._session.project.doc
        return doc.shared if doc is not None else ""

    def share_folder(self, folder: str) -> None:
        """Share a folder from now on; none where it is empty."""
        self._session.project.edit(
            "Share a folder" if folder else "Share no folder", edits.set_shared(self._session.project.document, folder)
        )

    def _begin_anew(self) -> None:
        self._folder, self.offers = None, []
        self.offers_changed.emit()
        self._keep_to_the_document()

    def _keep_to_the_document(self) -> None:
        folder = self.folder
        if not folder:
            self._folder = None
            self._timer.stop()
        elif self._folder is None or str(self._folder.folder) != folder:
            self._folder = SharedFolder(folder)
            self._timer.start()

    def stop(self) -> None:
        """Look no more, and let the simulated reviewer go."""
        self._folder = None
        self._timer.stop()
        if self._reviewer is not None:
            self._reviewer.kill()

    def look(self) -> None:
        """Look into the folder, and at what came in since; on a thread."""
        session, folder = self._session, self._folder
        if folder is None or self._looking or session.project.doc is None:
            return
        self._looking, doc = True, session.project.whole

        def done(found: list[Offered]) -> None:
            if folder is self._folder and found:
                session.project.note_returns(f.incoming.digest for f in found if not f.says_anything)
                self.offers += [f for f in found if f.says_anything]
                self.offers_changed.emit()

        def failed(said: str) -> None:
            self._timer.stop()
            session.messages.say_problem(f"The shared folder is not looked into any more: {said}")

        session.jobs.start(
            "Looking into the shared folder", lambda p, c: came_in(doc, folder), done, failed,
            ended=self._ended, shown=False,
        )  # fmt: skip

    def _ended(self) -> None:
        self._looking = False

    def take(self, offer: Offered) -> None:
        """Take a return in."""
        self.leave(offer)
        if offer.taken is not None:
            self._exchange.take(os.fspath(offer.incoming.path))

    def leave(self, offer: Offered) -> None:
        """Leave a return alone; it is not offered again."""
        self._session.project.note_returns([offer.incoming.digest])
        self.offers = [each for each in self.offers if each is not offer]
        self.offers_changed.emit()

    def share(self) -> None:
        """Put what is decided and noted here into the folder, as a file of our own."""
        session, folder, doc = self._session, self.folder, self._session.project.whole

        def done(found: tuple[str, str]) -> None:
            name, digest = found
            session.project.note_returns([digest])
            session.messages.say(f"“{readable(name)}” is in the shared folder.")

        session.jobs.start(
            "Sharing what is decided", lambda p, c: share(doc, folder, session.project.signed), done,
            session.messages.say_problem, stands=True,
        )  # fmt: skip

    def ask_reviewer(self) -> None:
        """Have the simulated reviewer, a program of its own, answer what was handed out into the folder.

        Where no folder is shared yet one of our own is, and what is decided is handed out into it.
        """
        session, waits = self._session, 0
        if self._reviewer is not None:
            session.messages.say("The simulated reviewer is still at it.")
            return
        if not self.folder:
            folder, waits = session.cache.folder / "team" / new_id(), _HANDED_OUT
            folder.mkdir(parents=True, exist_ok=True)
            self.share_folder(str(folder))
            self._exchange.write_handoff(str(folder / "handoff"), Asked(frozenset({"json"})))
        process = self._reviewer = QProcess(self)
        process.finished.connect(self._reviewed)
        seed = str(len(session.project.whole.returns) + 1)
        process.start(
            sys.executable,
            ["-m", "ezvar_reviewer", self.folder, "--seed", seed, "--slowly", "3", "--watch", str(waits)],
        )
        session.messages.say("The simulated reviewer has begun.")

    def _reviewed(self, status: int) -> None:
        process, self._reviewer = self._reviewer, None
        if process is None:
            return
        said = bytes(process.readAllStandardError().data()).decode(errors="replace").strip()
        process.deleteLater()
        if status == 1:
            self._session.messages.say("Nothing was handed out into the shared folder yet: write the handoff first.")
        elif status:
            self._session.messages.say_problem(said or "The simulated reviewer gave up.")
