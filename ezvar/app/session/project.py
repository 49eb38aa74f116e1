"""The open project: its document with undo, the journal behind it, and the file that it was read from."""

from __future__ import annotations

import getpass
from collections.abc import Hashable, Iterable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.core.edits import note_returns, remember, set_exchanged, set_makings, set_played
from ezvar.core.model import Document, Exchanged, History, Makings, noted
from ezvar.core.store import Journal
from ezvar.core.timing import moment_now

from .messages import Messages

Looks = dict[tuple[str, str], str]
"""What of a shot (its id) in a master (its id) was played."""


@dataclass(frozen=True)
class Saved:
    """The project's file as it was read or written last: its revision, and what it held."""

    revision: str
    doc: Document


class Project(QObject):
    """The document, changed by edits that can be taken back. Before one is opened there is none.

    What was played, what was exchanged with reviewers, and what became of movies is kept beside it: it is saved with
    it, and no step of undo.
    """

    changed = pyqtSignal()  # the document: by an edit, one taken back, or another one begun
    saved = pyqtSignal()
    noted = pyqtSignal()  # something is kept beside the document: it was played, exchanged, or made

    def __init__(self, journal: Journal, messages: Messages) -> None:
        super().__init__()
        self.journal = journal
        self._messages = messages
        self.history: History | None = None
        self.path: Path | None = None
        self.file: Saved
        self.looks: Looks = {}
        self.author = ""
        """Who changes it and says notes, as was told; empty for whoever is logged in."""
        self._exchanged: tuple[Exchanged, ...] = ()
        self._returns: tuple[str, ...] = ()
        self.makings = Makings()
        self._saved: tuple[Looks, tuple[Exchanged, ...], tuple[str, ...], Makings] = ({}, (), (), self.makings)

    @property
    def doc(self) -> Document | None:
        return self.history.doc if self.history else None

    @property
    def document(self) -> Document:
        """The document where there surely is one."""
        assert self.history is not None
        return self.history.doc

    def begin(self, doc: Document, path: Path | None, revision: str, unsaved: bool = False) -> None:
        """Another project is open; `tell` says so once everything that belongs to it is in place."""
        self.history = History(doc)
        if unsaved:
            self.history.mark_unsaved()
        self.journal.forget()
        self.path, self.file = path, Saved(revision, doc)
        self.looks, self._exchanged, self._returns = noted(doc), (), ()
        self.makings = doc.makings
        self._saved = noted(doc), (), (), doc.makings

    @property
    def signed(self) -> str:
        """Who changes it: as was told, or else whoever is logged in."""
        return self.author or getpass.getuser()

    def edit(self, label: str, doc: Document, gesture: Hashable = None) -> None:
        """Put a changed document in place, one step of undo; one step for all that share a ``gesture``."""
        assert self.history is not None
        doc = remember(self.history.doc, doc, self.signed, label.partition(",")[0], moment_now())
        self.history.push(label, doc, gesture)
        self.tell()

    def undo(self) -> None:
        if self.history:
            self.history.undo()
            self.tell()

    def redo(self) -> None:
        if self.history:
            self.history.redo()
            self.tell()

    def tell(self) -> None:
        """Keep the document in the journal where it is not saved, and say that it is another one."""
        if self.unsaved:
            self.journal.note(self.whole, self.path, self.file.revision)
        if (problem := self.journal.problem) is not None:
            self.journal.problem = None
            self._messages.say_problem(str(problem))
        self.changed.emit()

    def note_played(self, shot: str, master: str, look: str) -> None:
        """Keep that a shot was played in a master as it looks now."""
        self.looks[shot, master] = look
        self.noted.emit()

    def note_exchanged(self, exchanged: Iterable[Exchanged]) -> None:
        """Keep which decisions reviewers have now, or have sent."""
        self._exchanged = tuple({(e.shot, e.master): e for e in (*self._exchanged, *exchanged)}.values())
        self.noted.emit()

    def note_returns(self, digests: Iterable[str]) -> None:
        """Keep which files of a shared folder were seen to, by their digests, or are our own."""
        self._returns = (*self._returns, *digests)
        self.noted.emit()

    def note_makings(self, makings: Makings) -> None:
        """Keep what became of movies."""
        self.makings = makings
        if self.unsaved:
            self.journal.note(self.whole, self.path, self.file.revision)
        self.noted.emit()

    @property
    def whole(self) -> Document:
        """The document with what is kept beside it, to be written or handed out."""
        doc = self.document
        if self.makings is not doc.makings:
            doc = set_makings(doc, self.makings)
        if self._exchanged:
            doc = set_exchanged(doc, self._exchanged)
        if self._returns:
            doc = note_returns(doc, self._returns)
        return set_played(doc, self.looks) if self.looks or doc.played else doc

    def written(self, whole: Document, doc: Document, path: Path, revision: str) -> None:
        """``doc`` was written as ``whole``."""
        if self.history is not None:
            self.history.mark_saved(doc)
            self._saved = noted(whole), self._exchanged, self._returns, whole.makings
            if not self.unsaved:
                self.journal.forget()
        self.path, self.file = path, Saved(revision, whole)
        self.saved.emit()

    @property
    def unsaved(self) -> bool:
        return self.history is not None and not (
            self.history.saved
            and (self.looks, self._exchanged, self._returns) == self._saved[:3]
            and self.makings is self._saved[3]
        )
