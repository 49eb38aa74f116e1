"""Opening and saving: projects, timelines, movies, clips, and work that a crash left behind; each on a thread."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.core.edits import take_decisions
from ezvar.core.lock import LockReader, LooseClip, RateNeeded, Search, lock_from_clips, take_lock
from ezvar.core.media import Picture, fit_within
from ezvar.core.model import Document
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.review import Taken, merge_projects
from ezvar.core.store import Cache, Hold, Leftover, ProjectChanged, holder_of, occupied, read_project, save_project
from ezvar.core.timing import Rate

from .jobs import Jobs
from .messages import Messages
from .open_media import OpenMedia
from .played_marks import PlayedMarks
from .position import Position
from .project import Project, Saved

_GLANCE = (1280, 720)  # pixels within which the first picture is shown while its movie is read


@dataclass(frozen=True)
class _Opened:
    """What was read on opening, and what the search for a timeline's media came to."""

    doc: Document
    path: Path | None
    reader: LockReader
    search: Search = field(default_factory=lambda: Search({}, ()))
    revision: str = ""  # of the project file that it came from
    unsaved: bool = False
    told: str = ""  # of who else has it


@dataclass(frozen=True)
class Beginning:
    """The first picture, RGB uint8 (height, width, 3), of a movie that is being read through before it can open."""

    name: str
    picture: np.ndarray


@dataclass(frozen=True)
class InTheWay:
    """What stands where a project was to be saved: another one, in words, or its own, which somebody else has saved."""

    path: Path
    other: str


class ProjectFiles(QObject):
    """Brings projects in and writes them. What is open stays until something else was read whole."""

    opened = pyqtSignal(object)  # another lock, with what the search for its media came to
    settled = pyqtSignal()  # another lock is open, and everybody has taken it up
    beginning = pyqtSignal(object)  # how a movie that is being read begins, a `Beginning`; ``None`` once that has ended
    in_the_way = pyqtSignal(object)  # what stands where the project was to be saved, an `InTheWay`
    rate_needed = pyqtSignal(object, object)  # a timeline's path, the rates that its timecodes allow

    def __init__(
        self, jobs: Jobs, cache: Cache, messages: Messages,
        project: Project, at: Position, media: OpenMedia, played: PlayedMarks,
    ) -> None:  # fmt: skip
        super().__init__()
        self._jobs, self._cache, self._messages = jobs, cache, messages
        self._project, self._at, self._media, self._played = project, at, media, played
        self._hold: Hold | None = None

    def open(self, file: str | os.PathLike[str], template: bool = False, rate: Rate | None = None) -> None:
        """Open a project, a timeline or a movie. What was open stays until that has worked.

        A timeline that states no rate is asked about through ``rate_needed``.
        """
        path = Path(file)

        def begun(picture: Picture) -> None:
            seen = picture.glance(*fit_within(picture.width, picture.height, *_GLANCE))
            self.beginning.emit(Beginning(readable(path.name), seen))

        def work(progress: Progress, cancel: CancelToken) -> _Opened | RateNeeded:
            if path.suffix.lower() == ".ezvar":
                doc, revision = read_project(path)
                reader = self._media.reader_of(doc)
                if (other := holder_of(path)) is not None and not template:
                    said = f"{readable(path.name)} is open: {other}. This is a copy; save it under another name."
                    return _Opened(doc, None, reader, told=said)
                return _Opened(doc, None, reader) if template else _Opened(doc, path, reader, revision=revision)
            try:
                taken = take_lock(path, rate, (), self._cache.folder, progress, cancel, begun)
            except RateNeeded as needed:
                return needed
            return _Opened(taken.doc, None, self._media.reader_of(taken.doc), taken.search)

        def done(found: _Opened | RateNeeded) -> None:
            if isinstance(found, RateNeeded):
                self.rate_needed.emit(path, found.choices)
            else:
                self._show(found)

        self._jobs.start(
            f"Opening {readable(path.name)}", work, done, self._messages.say_problem,
            ended=lambda: self.beginning.emit(None),
        )  # fmt: skip

    def _show(self, found: _Opened) -> None:
        self._media.leave()
        self._project.begin(found.doc, found.path, found.revision, found.unsaved)
        self._hold_here(found.path)
        self._at.begin()
        self._played.begin()
        self._media.begin(found.reader)
        self.opened.emit(found.search)
        self._project.tell()
        self._at.show_frame()
        for problem in (*found.search.problems[:3], *([found.told] if found.told else ())):
            self._messages.say_problem(problem)
        self.settled.emit()

    def _hold_here(self, path: Path | None) -> None:
        """Say beside a project's file that it is open here, and of the one before no more."""
        if self._hold is not None and self._hold.path == path:
            return
        self.leave()
        self._hold = Hold(path) if path is not None else None

    def leave(self) -> None:
        """The project is not open here any more, as far as others are concerned."""
        if self._hold is not None:
            self._hold.release()
            self._hold = None

    def open_clips(self, clips: Sequence[LooseClip]) -> None:
        """Open loose clips as a small lock."""

        def work(progress: Progress, cancel: CancelToken) -> _Opened:
            doc = lock_from_clips(clips)
            return _Opened(doc, None, self._media.reader_of(doc))

        self._jobs.start("Opening clips", work, self._show, self._messages.say_problem)

    def recover(self, left: Leftover) -> None:
        """Take up work that a program which ended without closing left behind."""

        def work(progress: Progress, cancel: CancelToken) -> _Opened:
            doc = left.document()
            path = Path(left.project) if left.project else None
            return _Opened(doc, path, self._media.reader_of(doc), revision=left.revision, unsaved=True)

        def done(found: _Opened) -> None:
            self._show(found)
            left.discard()
            self._messages.say(f"Unsaved work on {left.name} is back.")

        self._jobs.start(f"Taking up {left.name}", work, done, self._messages.say_problem)

    def save(self, path: str | os.PathLike[str], replacing: bool = False) -> None:
        """Write the project.

        Where somebody else has saved it since it was read, or another project is there, nothing is written and
        ``in_the_way`` sent, unless it is ``replacing`` what is there.
        """
        project, target = self._project, Path(path)
        doc, whole = project.document, project.whole
        own, read = target == project.path, project.file.revision

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
            project.written(whole, doc, target, revision)
            self._hold_here(target)
            self._messages.say(f"Saved as {readable(target.name)}.")

        self._jobs.start(f"Saving {readable(target.name)}", work, saved, self._messages.say_problem, stands=True)

    def take_theirs(self) -> None:
        """Take in what somebody else has saved in the project's file since it was read, to save then."""
        project = self._project
        doc, path, base = project.document, project.path, project.file.doc
        assert path is not None

        def work(progress: Progress, cancel: CancelToken) -> tuple[Document, str, Taken]:
            theirs, revision = read_project(path)
            return theirs, revision, merge_projects(doc, base, theirs)

        def done(found: tuple[Document, str, Taken]) -> None:
            theirs, revision, taken = found
            if project.doc is not doc:
                self._messages.say_problem("The project changed while theirs was read. Save it again.")
                return
            project.file = Saved(revision, theirs)
            project.edit(
                "Take in what others saved", take_decisions(doc, taken.framings, (), taken.notes, taken.versions)
            )
            project.note_exchanged(taken.exchanged)
            said = (
                f"{len(taken.taken)} of their decisions taken, {len(taken.conflicts)} changed on both sides: ours stay."
            )
            if taken.problems:
                self._messages.say_problem(" ".join([said, *taken.problems]))
            else:
                self._messages.say(said)
            self.save(path)

        self._jobs.start(f"Taking in {readable(path.name)}", work, done, self._messages.say_problem)
