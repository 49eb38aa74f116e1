"""What is done to a lock once it is open: its media found, compared with a reference, locked again."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.cuts import judge
from ezvar.core.lock import (
    Conformed,
    Estimated,
    Search,
    conform,
    estimate_placements,
    find_media,
    link,
    missing,
)
from ezvar.core.model import Document
from ezvar.core.names import readable
from ezvar.core.planning import relocked
from ezvar.core.progress import CancelToken, Progress

from .analysing import Analysing
from .media_watch import MediaWatch


class LockWork(QObject):
    """Work on the session's lock, and what it came to. ``changed`` says that there is something new to show."""

    changed = pyqtSignal()

    def __init__(self, session: Session, analysing: Analysing) -> None:
        super().__init__()
        self._session, self._analysing = session, analysing
        self.search = Search({}, ())
        self.reference = Path()
        self.conformed: Conformed | None = None
        self.carried: tuple[edits.Carried, ...] = ()
        self.rounds = 0  # how often media came or went
        self.watch = MediaWatch(self._media_came_or_went)
        session.files.opened.connect(self._begin)
        session.media.changed.connect(self._watch)

    def _start(self, title: str, work: Callable[[Progress, CancelToken], Any], done: Callable[[Any], object]) -> None:
        self._session.jobs.start(title, work, done, self._session.messages.say_problem)

    def _begin(self, search: Search) -> None:
        """Another lock is open; ``search`` is what the search for its media came to."""
        self.search, self.conformed, self.carried = search, None, ()
        self._watch()

    def _watch(self) -> None:
        self.watch.watch(frozenset(m.path for m in self._session.project.document.lock.media if m.content))

    def search_media(self, folders: Iterable[str | os.PathLike[str]]) -> None:
        """Look for missing media in folders, on a thread, and take what is found for sure."""
        doc, chosen = self._session.project.document, [Path(f) for f in folders]

        def done(result: tuple[tuple[edits.MediaLink, ...], Search]) -> None:
            links, self.search = result
            found = edits.link_media(doc, links) if links else doc
            before, after = len(missing(doc)), len(missing(found))
            if self._session.project.doc is doc and found is not doc:
                self._session.project.edit("Find media", found)
            self._session.messages.say(f"{before - after} found, {after} still missing.")
            self.changed.emit()

        self._session.jobs.start(
            "Looking for media", lambda p, c: find_media(doc, chosen, p, c), done, self._session.messages.say_problem
        )

    def compare(self, reference: str | os.PathLike[str]) -> None:
        """Compare the lock with a flat reference movie, on a thread."""
        doc = self._session.project.document

        def done(found: Conformed) -> None:
            self.reference, self.conformed = Path(reference), found
            count = len(found.facts) + len(found.shots)
            self._session.messages.say(
                f"{count} differences." if count else "The lock and the reference show the same."
            )
            self.changed.emit()

        self._session.jobs.start(
            "Comparing", lambda p, c: conform(doc, reference, p, c), done, self._session.messages.say_problem
        )

    def find_placements(self, reference: str | os.PathLike[str]) -> None:
        """Estimate where the edit placed the pictures, from a flat reference movie, on a thread."""
        doc = self._session.project.document

        def done(found: Estimated) -> None:
            if self._session.project.doc is not doc:
                self._session.messages.say_problem("The project changed meanwhile. Look for the placements again.")
                return
            if found.placements:
                self._session.project.edit("Find placements", edits.place_shots(doc, found.placements))
            numbers = [str(doc.place_of(id) + 1) for id in found.unclear]
            unclear = f" Shot {', '.join(numbers)} could not be matched." if numbers else ""
            self._session.messages.say(f"{len(found.placements)} placements found.{unclear}")
            self.changed.emit()

        self._start("Finding placements", lambda p, c: estimate_placements(doc, reference, p, c), done)

    def find_cuts(self, sensitivity: float, start: int = 0, end: int | None = None) -> None:
        """Judge anew where the cuts are, from frame ``start`` to ``end``; what an editor has settled stays."""
        doc, analysis = self._session.project.document, self._session.media.analysis
        last = doc.lock.frames if end is None else end
        if analysis is None:
            self._session.messages.say("The lock is still being read; the cuts come when that is done.")
            return

        def work(progress: Progress, cancel: CancelToken) -> Document:
            judged = judge(analysis.signals, sensitivity, start, last, analysis.candidates)
            return edits.find_anew(doc, judged.cuts, judged.passed, start, last)

        def done(found: Document) -> None:
            if self._session.project.doc is doc:
                self._session.project.edit("Find the cuts", found, gesture=("cuts", start, last))
                self._analysing.frame_missing()

        self._start("Looking for cuts", work, done)

    def relock(self, path: str | os.PathLike[str]) -> None:
        """Take a changed lock in, carrying all decisions over, on a thread. One step of undo."""
        old = self._session.project.document

        def done(result: tuple[Document, list[edits.Carried]]) -> None:
            if self._session.project.doc is not old:
                self._session.messages.say_problem("The project changed while the new lock was read. Take it in again.")
                return
            new, listed = result
            self.carried = tuple(listed)
            self._session.project.edit("Take a changed lock in", new)
            self._session.at.go(0)
            changed = sum(c.change != "unchanged" for c in listed)
            self._session.messages.say(
                f"{len(listed) - changed} shots as they were, {changed} changed; they are listed."
            )
            self.changed.emit()

        cache = self._session.cache
        self._start(f"Taking {readable(Path(path).name)} in", lambda p, c: relocked(old, path, cache, p, c), done)

    def link_media(self, media: str, path: str | os.PathLike[str]) -> None:
        """Let a media be a file, read on a thread."""
        doc = self._session.project.document

        def done(found: edits.MediaLink) -> None:
            if self._session.project.doc is doc:
                linked = edits.link_media(doc, [found])
                self._session.project.edit(f"Link {readable(Path(path).name)}", linked)
                self.changed.emit()

        self._session.jobs.start(
            f"Reading {readable(Path(path).name)}",
            lambda p, c: link(doc, media, path),
            done,
            self._session.messages.say_problem,
        )

    def _media_came_or_went(self, gone: frozenset[str], back: frozenset[str]) -> None:
        """Media vanished, or are there again, while the program runs."""
        if self._session.media.reader is None or self._session.project.doc is None:
            return
        self.rounds += 1
        known = {m.path: m for m in self._session.project.document.lock.media}
        for path in (p for p in gone if p in known):
            self._session.messages.say_problem(
                f"{readable(Path(path).name)} is no longer where it was. Its shots stay; put it back or look for it."
            )
        for path in (p for p in back if p in known):
            self._session.messages.say(f"{readable(Path(path).name)} is there again.")
            self._session.media.reader.forget(known[path].id)
        if back & set(known):
            self._session.media.show_again()
        self.changed.emit()
