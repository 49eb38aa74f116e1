"""What the window works on: the document with its undo, and the present place in it."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.core.errors import EzvarError
from ezvar.core.evidence import Analysis
from ezvar.core.framing import NEEDS_A_LOOK, Tally, framed
from ezvar.core.lock import LockReader, LooseClip, RateNeeded, Search, lock_from_clips, take_lock
from ezvar.core.media import MovieReader
from ezvar.core.model import CutPlace, Document, Framing, History, Master, Media, Shot, cut_places
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.review import Taken, merge_projects
from ezvar.core.store import (
    Cache,
    Journal,
    Leftover,
    ProjectChanged,
    default_cache,
    occupied,
    read_project,
    save_project,
)
from ezvar.core.timing import Rate, can_drop, timecode
from ezvar.core.viewing import Proxy

from .jobs import Jobs
from .played_marks import PlayedMarks


@dataclass(frozen=True)
class _Opened:
    """What was read on opening, and what the search for a timeline's media came to."""

    doc: Document
    path: Path | None
    reader: LockReader
    search: Search = field(default_factory=lambda: Search({}, ()))
    revision: str = ""  # of the project file that it came from


@dataclass(frozen=True)
class InTheWay:
    """What stands where a project was to be saved: another one, in words, or its own, which somebody else has saved."""

    path: Path
    other: str


@dataclass(frozen=True)
class Saved:
    """The project's file as it was read or written last: its revision, and what it held."""

    revision: str
    doc: Document


class Session(QObject):
    """The open project. Widgets read it, change it through its methods, and listen to its signals.

    Each signal says what changed and is sent by this class only; one edit
    sends one, ``document_changed``, with which shot, master and framing at
    the playhead may be others. The rest are for changes of the place alone.
    """

    document_changed = pyqtSignal()
    leaving = pyqtSignal()  # what the lock shows is about to be another
    opened = pyqtSignal(object)  # another lock, with what the search for its media came to
    settled = pyqtSignal()  # another lock is open, and everybody has taken it up
    lock_changed = pyqtSignal()  # the same lock shows other pictures now
    media_back = pyqtSignal()  # media that were gone are there again
    frame_changed = pyqtSignal(int)
    shot_changed = pyqtSignal()
    master_changed = pyqtSignal()
    stage_changed = pyqtSignal(str)
    chosen_changed = pyqtSignal()
    in_the_way = pyqtSignal(object)  # what stands where the project was to be saved, an `InTheWay`
    rate_needed = pyqtSignal(object, object)  # a timeline's path, the rates that its timecodes allow
    problem = pyqtSignal(str)
    notice = pyqtSignal(str)

    def __init__(self, jobs: Jobs, cache: Cache | None = None) -> None:
        super().__init__()
        self.jobs = jobs
        self.cache = cache or default_cache()
        self.journal = Journal(self.cache.folder)
        self.history: History | None = None
        self.path: Path | None = None
        self.file: Saved
        self.reader: LockReader | None = None
        self.proxy: Proxy | None = None
        self.analysis: Analysis | None = None
        self._places: tuple[tuple[object, object], tuple[CutPlace, ...]] = ((None, None), ())
        self._tally = Tally()
        self._waits: tuple[tuple[CutPlace, ...], int] = ((), 0)  # places of cuts, and how many of them wait
        self.content = ""  # what the analysis and the proxy are of
        self.chosen: tuple[str, ...] = ()  # shots chosen in the ledger, where it is more than one
        self.played = PlayedMarks(lambda: (self.doc, self.master))
        self.playing = False
        self.frame = 0
        self.master_id: str | None = None
        self.stage = "Lock"

    # The document

    @property
    def doc(self) -> Document | None:
        return self.history.doc if self.history else None

    @property
    def document(self) -> Document:
        """The document where there surely is one."""
        assert self.history is not None
        return self.history.doc

    def edit(self, label: str, doc: Document, gesture: object | None = None) -> None:
        """Go on to a changed document as one step of undo."""
        assert self.history is not None
        self.history.push(label, doc, gesture)
        self._document_replaced()

    def undo(self) -> None:
        if self.history:
            self.history.undo()
            self._document_replaced()

    def redo(self) -> None:
        if self.history:
            self.history.redo()
            self._document_replaced()

    def _document_replaced(self) -> None:
        doc = self.document
        if self.unsaved:
            self.journal.note(self.played.into(doc), self.path, self.file.revision)
        if (problem := self.journal.problem) is not None:
            self.journal.problem = None
            self.problem.emit(str(problem))
        self._follow_lock(doc)
        if self.master_id not in {m.id for m in doc.masters}:
            self.master_id = doc.masters[0].id if doc.masters else None
        self.document_changed.emit()

    def put_analysis(self, analysis: Analysis) -> None:
        """What was seen in the lock is known now."""
        self.analysis = analysis
        self.document_changed.emit()

    # Opening and saving

    def open(self, file: str | os.PathLike[str], template: bool = False, rate: Rate | None = None) -> None:
        """Open a project, a timeline or a movie, read on a thread. What was open stays until that has worked.

        A timeline that states no rate is asked about through ``rate_needed``.
        """
        path = Path(file)

        def work(progress: Progress, cancel: CancelToken) -> _Opened | RateNeeded:
            if path.suffix.lower() == ".ezvar":
                doc, revision = read_project(path)
                reader = self._reader_of(doc)
                return _Opened(doc, None, reader) if template else _Opened(doc, path, reader, revision=revision)
            try:
                taken = take_lock(path, rate, (), self.cache.folder, progress, cancel)
            except RateNeeded as needed:
                return needed
            return _Opened(taken.doc, None, self._reader_of(taken.doc), taken.search)

        def done(found: _Opened | RateNeeded) -> None:
            if isinstance(found, RateNeeded):
                self.rate_needed.emit(path, found.choices)
            else:
                self._show(found)

        self.jobs.start(f"Opening {readable(path.name)}", work, done, self.problem.emit)

    def _show(self, found: _Opened) -> None:
        doc = found.doc
        self.leaving.emit()
        self.history = History(doc)
        self.journal.forget()
        self.path = found.path
        self.file = Saved(found.revision, doc)
        self.reader = found.reader
        self.content = ""
        self.chosen = ()
        self.frame = 0
        self.master_id = doc.masters[0].id if doc.masters else None
        self.played.begin(doc)
        self._follow_lock(doc, opening=True)
        self.opened.emit(found.search)
        self._document_replaced()
        self.frame_changed.emit(0)
        for problem in found.search.problems[:3]:
            self.problem.emit(problem)
        self.settled.emit()

    def _reader_of(self, doc: Document) -> LockReader:
        """A reader with its facts read; to be called on a thread."""
        reader = LockReader(doc, self.media_failed)
        if doc.lock.flat and reader.facts is None:
            for media in doc.lock.media:
                self._tell_of(media)
        return reader

    def _tell_of(self, media: Media) -> None:
        try:
            MovieReader(media.path).close()
        except EzvarError as error:
            self.problem.emit(str(error))

    def media_failed(self, media: str, error: EzvarError) -> None:
        """Called on a reading thread: a media cannot be read."""
        self.problem.emit(str(error))

    def _follow_lock(self, doc: Document, opening: bool = False) -> None:
        """Keep reader, proxy and analysis with what the document's lock shows now."""
        if self.reader is None:
            return
        old = self.reader.doc
        if self.content and old.shots is doc.shots and old.lock is doc.lock:
            return
        self.reader.show(doc)
        if self.reader.name == self.content:
            return
        if not opening:
            self.leaving.emit()
        self.content = self.reader.name
        if self.proxy is not None:
            self.proxy.close()
        self.proxy = Proxy(self.cache.folder, self.content, doc.lock.frames)
        self.analysis = None
        if not opening:
            self.lock_changed.emit()

    def show_again(self) -> None:
        """Have what the lock shows read anew: media are there again."""
        self.media_back.emit()

    def open_clips(self, clips: Sequence[LooseClip]) -> None:
        """Open loose clips as a small lock, read on a thread."""

        def work(progress: Progress, cancel: CancelToken) -> _Opened:
            doc = lock_from_clips(clips)
            return _Opened(doc, None, self._reader_of(doc))

        self.jobs.start("Opening clips", work, self._show, self.problem.emit)

    def recover(self, left: Leftover) -> None:
        """Take up work that a program which ended without closing left behind."""

        def work(progress: Progress, cancel: CancelToken) -> _Opened:
            doc = left.document()
            project = Path(left.project) if left.project else None
            return _Opened(doc, project, self._reader_of(doc), revision=left.revision)

        def done(found: _Opened) -> None:
            self._show(found)
            assert self.history is not None
            self.history.mark_unsaved()
            self._document_replaced()
            left.discard()
            self.notice.emit(f"Unsaved work on {left.name} is back.")

        self.jobs.start(f"Taking up {left.name}", work, done, self.problem.emit)

    def save(self, path: str | os.PathLike[str], replacing: bool = False) -> None:
        """Write the project on a thread.

        Where somebody else has saved it since it was read, or another project is there, nothing is written and
        ``in_the_way`` sent, unless it is ``replacing`` what is there.
        """
        doc, target = self.document, Path(path)
        whole = self.played.into(doc)
        own, read = target == self.path, self.file.revision

        def work(progress: Progress, cancel: CancelToken) -> str | InTheWay:
            if replacing:
                return save_project(whole, target)
            if not own and (standing := occupied(target)):
                return InTheWay(target, standing)
            try:
                return save_project(whole, target, read if own else "")
            except ProjectChanged:
                return InTheWay(target, "")

        def saved(revision: str | InTheWay) -> None:
            if isinstance(revision, InTheWay):
                self.in_the_way.emit(revision)
                return
            if self.history is not None:
                self.history.mark_saved(doc)
                self.played.mark_saved(whole)
                if not self.unsaved:
                    self.journal.forget()
            self.path, self.file = target, Saved(revision, whole)
            self.document_changed.emit()
            self.notice.emit(f"Saved as {readable(target.name)}.")

        self.jobs.start(f"Saving {readable(target.name)}", work, saved, self.problem.emit)

    def take_theirs(self) -> None:
        """Take in what somebody else has saved in the project's file since it was read, on a thread, to save then."""
        doc, path, base = self.document, self.path, self.file.doc
        assert path is not None

        def work(progress: Progress, cancel: CancelToken) -> tuple[Document, str, Document, Taken]:
            theirs, revision = read_project(path)
            return theirs, revision, *merge_projects(doc, base, theirs)

        def done(found: tuple[Document, str, Document, Taken]) -> None:
            theirs, revision, merged, taken = found
            if self.doc is not doc:
                self.problem.emit("The project changed while theirs was read. Save it again.")
                return
            self.file = Saved(revision, theirs)
            self.edit("Take in what others saved", merged)
            said = (
                f"{len(taken.taken)} of their decisions taken, {len(taken.conflicts)} changed on both sides: ours stay."
            )
            self.problem.emit(" ".join([said, *taken.problems])) if taken.problems else self.notice.emit(said)
            self.save(path)

        self.jobs.start(f"Taking in {readable(path.name)}", work, done, self.problem.emit)

    @property
    def unsaved(self) -> bool:
        return self.history is not None and not (self.history.saved and self.played.saved)

    # The present place

    @property
    def shot(self) -> Shot | None:
        return self.document.shot_at(self.frame) if self.doc and self.document.shots else None

    @property
    def master(self) -> Master | None:
        return self.document.master(self.master_id) if self.doc and self.master_id else None

    @property
    def framing(self) -> Framing | None:
        shot, master = self.shot, self.master
        return framed(self.document, shot, master) if shot and master else None

    def go(self, frame: int) -> None:
        """Put the playhead on a lock frame; beyond the ends, on the last one there."""
        if self.doc is None:
            return
        before = self.shot
        self.frame = max(0, min(frame, self.document.lock.frames - 1))
        self.frame_changed.emit(self.frame)
        if self.shot is not before:
            self.shot_changed.emit()

    def choose(self, shots: tuple[str, ...]) -> None:
        """Choose several shots to be changed together; one alone is as none."""
        chosen = shots if len(shots) > 1 else ()
        if chosen != self.chosen:
            self.chosen = chosen
            self.chosen_changed.emit()

    def go_to_shot(self, shot: Shot) -> None:
        self.go(shot.start)

    def set_master(self, master: str) -> None:
        self.master_id = master
        self.master_changed.emit()

    def look_at_pane(self) -> None:
        """Another pane of the present framing is worked on."""
        self.master_changed.emit()

    def show_frame(self) -> None:
        """Have the present frame shown again, as itself in place of the proxy's picture."""
        self.frame_changed.emit(self.frame)

    def set_stage(self, stage: str) -> None:
        self.stage = stage
        self.stage_changed.emit(stage)

    # Readings

    def timecode(self, frame: int) -> str:
        """The lock's timecode of a lock frame."""
        lock = self.document.lock
        return timecode(lock.start + frame, lock.rate, lock.drop and can_drop(lock.rate))

    def doubt_of(self, shot: Shot, master: Master | None = None) -> int:
        """The doubt of a shot's framing in a master, the active one where none is given; 0 once agreed."""
        chosen = master or self.master
        framing = self.document.framing(shot.id, chosen.id) if chosen else None
        return framing.doubt if framing and framing.verdict != "agreed" else 0

    def is_missing(self, shot: Shot) -> bool:
        """Whether a shot's media was never found."""
        return self.document.media_of(shot).missing

    @property
    def asking(self) -> tuple[Framing, ...]:
        """The framings that need a look, in all masters."""
        return self._tally.count(self.doc.framings if self.doc else ()).asking

    @property
    def needing(self) -> int:
        """How many shots need a look in the active master."""
        return sum(f.master == self.master_id for f in self.asking)

    def needs_a_look(self, shot: Shot, master: Master | None = None) -> bool:
        return self.doubt_of(shot, master) >= NEEDS_A_LOOK

    @property
    def master_name(self) -> str:
        return self.master.name if self.master else ""

    @property
    def places(self) -> tuple[CutPlace, ...]:
        """All cuts and passed-over changes, in order."""
        doc = self.doc
        if doc is None:
            return ()
        of = (doc.shots, doc.passed)
        if not all(a is b for a, b in zip(self._places[0], of, strict=True)):
            self._places = (of, cut_places(doc))
        return self._places[1]

    @property
    def place(self) -> CutPlace | None:
        """The cut (or passed-over change) at the playhead, else the one that begins the present shot."""
        shot = self.shot
        here = next((p for p in self.places if p.frame == self.frame), None)
        return here or next((p for p in self.places if shot is not None and p.shot == shot.id), None)

    def waiting(self, stage: str) -> int | None:
        """How much waits in a stage; ``None`` where nothing can be said yet."""
        doc = self.doc
        if doc is None:
            return None
        match stage:
            case "Lock":
                return 0 if doc.masters else None
            case "Cuts":
                if self.places is not self._waits[0]:
                    self._waits = self.places, sum(p.waits for p in self.places)
                return self._waits[1] if self.analysis or len(doc.shots) > 1 else None
            case "Framing":
                if not doc.framings:
                    return None
                return len(self.asking)
            case "Review":
                tally = self._tally.count(doc.framings)
                return tally.changes or (0 if tally.all_agreed else None)
        return None
