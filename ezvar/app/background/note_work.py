"""Notes of reviewers: what is said of the present shot in the active master, answered, withdrawn."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.model import Document, Mark, ReviewNote, new_id, threads
from ezvar.core.timing import FrameRange, moment_now


class NoteWork(QObject):
    """Says notes, each a step of undo."""

    drawn_changed = pyqtSignal()  # what is drawn for the next note

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.drawn: tuple[Mark, ...] = ()
        """What was drawn on the picture, that goes with the next note."""
        session.at.shot_changed.connect(self.forget_drawn)
        session.at.master_changed.connect(self.forget_drawn)

    @property
    def signed(self) -> str:
        """Who notes are said by."""
        return self._session.project.signed

    def threads(self) -> list[tuple[ReviewNote, ...]]:
        """The threads on the present shot in the active master."""
        doc, shot, master = self._session.project.doc, self._session.at.shot, self._session.at.master
        return threads(doc.notes_on(shot.id, master.id)) if doc is not None and shot and master else []

    def marks_at_playhead(self) -> tuple[Mark, ...]:
        """What was drawn on the frame at the playhead, and what is being drawn."""
        session, shot = self._session, self._session.at.shot
        at = session.at.frame - shot.start if shot is not None else 0
        there = (n for thread in self.threads() for n in thread if n.start <= at < n.end)
        return (*(mark for note in there for mark in note.marks), *self.drawn)

    def draw(self, points: Iterable[tuple[float, float]]) -> None:
        """Draw a line on the picture, fractions of the active master's frame, for the next note."""
        self.drawn = (*self.drawn, Mark(tuple(points)))
        self.drawn_changed.emit()

    def forget_drawn(self) -> None:
        if self.drawn:
            self.drawn = ()
            self.drawn_changed.emit()

    def say(self, text: str, stretch: FrameRange | None = None, answers: str = "", everywhere: bool = False) -> bool:
        """Note a text, and what was drawn, at the playhead or over a ``stretch`` of the shot, in the active master or
        ``everywhere``; whether it was noted."""
        session, shot, master = self._session, self._session.at.shot, self._session.at.master
        if shot is None or master is None or not (text.strip() or self.drawn):
            return False
        at = min(max(0, session.at.frame - shot.start), shot.frames - 1)
        span = stretch or FrameRange(at, at + 1)
        try:
            note = ReviewNote(
                new_id(),
                shot.id,
                "" if everywhere else master.id,
                span.start,
                span.end,
                self.signed,
                moment_now(),
                text.strip(),
                answers,
                self.drawn,
            )
        except ValueError as error:
            session.messages.say(f"That cannot be noted: {error}.")
            return False
        self._edit("Note", lambda doc: edits.say_note(doc, note))
        self.forget_drawn()
        return True

    def own_last(self) -> ReviewNote | None:
        """What was noted last on the present shot in the active master by whoever works here."""
        doc, shot, master = self._session.project.doc, self._session.at.shot, self._session.at.master
        notes = doc.notes_on(shot.id, master.id) if doc is not None and shot and master else ()
        return next((note for note in reversed(notes) if note.author == self.signed), None)

    def withdraw(self, note: ReviewNote) -> None:
        self._edit("Withdraw a note", lambda doc: edits.withdraw_note(doc, note))

    def _edit(self, label: str, change: Callable[[Document], Document]) -> None:
        session, shot = self._session, self._session.at.shot
        if shot is not None:
            doc = change(session.project.document)
            session.project.edit(f"{label}, shot {doc.place_of(shot.id) + 1}", doc)
