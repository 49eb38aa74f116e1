"""Decisions out to the team and back, and the cuts alone; each on a thread."""

from __future__ import annotations

import os
from collections.abc import Callable, Collection
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.app.session.session import Session
from ezvar.core.edits import settle_versions, take_decisions
from ezvar.core.model import Exchanged, Framing, media_named
from ezvar.core.names import readable
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.review import (
    READ_ME,
    Asked,
    CutsKind,
    Taken,
    compare,
    digests_of,
    exchanged_with,
    returned_of,
    take,
    write_cuts,
    write_handoff,
)
from ezvar.core.store import load_project
from ezvar.core.work import Surroundings


class Exchange(QObject):
    """Writes handoffs and takes returns in."""

    taken = pyqtSignal(str)  # what a return came to, in words
    differs_changed = pyqtSignal()  # of which shots and masters a return differs that were changed here as well
    files_named = pyqtSignal(str, object)  # a return, and files beside the project's media that it names

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._of: tuple[Framing, ...] = ()
        self._differing: dict[tuple[str, str], Framing] = {}
        session.project.changed.connect(self._keep_to_the_document)

    @property
    def differing(self) -> dict[tuple[str, str], Framing]:
        """Theirs by shot and master, the first of several, until they are settled."""
        doc = self._session.project.doc
        versions = doc.versions if doc is not None else ()
        if versions is not self._of:
            self._of, self._differing = versions, {}
            for each in versions:
                self._differing.setdefault((each.shot, each.master), each)
        return self._differing

    def _keep_to_the_document(self) -> None:
        doc = self._session.project.doc
        if (doc.versions if doc is not None else ()) is not self._of:
            self.differs_changed.emit()

    @property
    def theirs(self) -> Framing | None:
        """Their decision on the present shot and master, where it differs from ours and is not settled yet."""
        framing = self._session.at.framing
        return self.differing.get((framing.shot, framing.master)) if framing is not None else None

    def settle(self, label: str, change: Callable[[Framing, Framing], Framing]) -> None:
        """Settle what differs here, or in all chosen shots, by what becomes of ours and theirs: one step of undo, and
        both sides have had theirs. Where it cannot be, both stay, which is said."""
        session, doc = self._session, self._session.project.document
        new, settled, unfit = [], [], ""
        for shot, master in self._to_settle():
            ours, theirs = doc.framing(shot, master), self.differing[shot, master]
            if ours is None:
                continue
            try:
                new.append(change(ours, theirs))
                settled.append((shot, master))
            except ValueError as error:
                unfit = f"That cannot be: {error}."
        if not settled:
            session.messages.say(unfit)
            return
        shot, master = settled[0]
        one = f"shot {doc.place_of(shot) + 1} in {doc.master(master).name}"
        where = one if len(settled) == 1 else f"{len(settled)} framings"
        versions = [self.differing[place] for place in settled]
        session.project.note_exchanged(exchanged_with(each) for each in versions)
        session.project.edit(f"{label}, {where}", settle_versions(doc, new, versions))
        if unfit:
            session.messages.say(unfit)

    def _to_settle(self) -> list[tuple[str, str]]:
        """The shots and masters that differ among the chosen shots where several are, else here."""
        chosen, framing = set(self._session.at.chosen), self._session.at.framing
        if len(chosen) > 1:
            return [(shot, master) for shot, master in self.differing if shot in chosen]
        here = (framing.shot, framing.master) if framing is not None else ("", "")
        return [here] if here in self.differing else []

    def go_to_next(self) -> None:
        """Go to the next shot and master that differ, after the present ones."""
        session, doc = self._session, self._session.project.doc
        if doc is None or not self.differing:
            return
        masters = [m.id for m in doc.masters]
        places = sorted((doc.place_of(s), masters.index(m)) for s, m in self.differing)
        at = session.at
        here = (doc.place_of(at.shot.id), masters.index(at.master.id)) if at.shot and at.master else (-1, -1)
        shot, master = next((place for place in places if place > here), places[0])
        at.set_master(masters[master])
        at.go_to_shot(doc.shots[shot])

    def write_handoff(self, folder: str, asked: Asked) -> None:
        """Write a handoff into a folder."""
        session, doc = self._session, self._session.project.whole
        around = replace(session.around, doc=doc)

        def done(result: tuple[list[Exchanged], list[Path], list[str]]) -> None:
            exchanged, files, digests = result
            session.project.note_exchanged(exchanged)
            session.project.note_returns(digests)
            said = f"{len(files)} files were written to {folder}; {READ_ME} says what they are."
            session.messages.say(said if files else "There is no master to hand off yet.")

        session.jobs.start(
            "Writing the handoff",
            lambda p, c: _written(around, folder, asked, p, c),
            done,
            session.messages.say_problem,
            stands=True,
        )

    def write_cuts(self, folder: str, kind: CutsKind) -> None:
        """Write the cuts alone into a folder."""
        session, doc = self._session, self._session.project.document

        def done(files: list[Path]) -> None:
            session.messages.say(f"Written: {', '.join(map(str, files))}.")

        session.jobs.start(
            "Writing the cuts",
            lambda p, c: write_cuts(doc, folder, kind),
            done,
            session.messages.say_problem,
            stands=True,
        )

    def take(self, path: str, folders: Collection[str] = ()) -> None:
        """Merge a returned timeline in; it may name files in ``folders``.

        Where it names others that lie beside the project's media,
        ``files_named`` is sent in place of ``taken``.
        """
        session, name = self._session, readable(Path(path).name)
        doc, whole = session.project.document, session.project.whole

        def done(taken: Taken) -> None:
            if session.project.doc is not doc:
                session.messages.say_problem("The project changed while the file was read. Take it in again.")
                return
            session.project.note_exchanged(taken.exchanged)
            now = take_decisions(doc, taken.framings, (), taken.notes, taken.versions)
            session.project.edit(f"Take in {name}", now)
            said = [f"{len(taken.taken)} taken, {taken.same} the same, {len(taken.conflicts)} in conflict."]
            if taken.notes:
                said.append(f"{len(taken.notes)} notes are new.")
            for ours, _ in taken.conflicts:
                said.append(f"Shot {doc.place_of(ours.shot) + 1} was changed on both sides, ours is kept.")
            if taken.back:
                said.append(f"{len(taken.back)} of them by two returns: they are as they were before either.")
            self.taken.emit("\n".join([*said, *taken.problems]))
            if not folders and self._all_beside_media(taken.files):
                self.files_named.emit(path, taken.files)

        session.jobs.start(
            f"Taking in {name}", lambda p, c: take(whole, path, folders), done, session.messages.say_problem
        )

    def compare_with(self, path: str) -> None:
        """Show what another saved project of the lock decides otherwise, as a return that is to be settled."""
        session, doc, name = self._session, self._session.project.document, readable(Path(path).name)

        def work(progress: Progress, cancel: CancelToken) -> tuple[dict[tuple[str, str], Framing], list[str]]:
            other = load_project(path)
            compared = [compare(doc, returned_of(other, master)) for master in other.masters]
            differing = {
                (each.ours.shot, each.ours.master): each.theirs
                for found, _ in compared for each in found if each.ours is not None and each.state != "same"
            }  # fmt: skip
            return differing, [problem for _, problems in compared for problem in problems]

        def done(found: tuple[dict[tuple[str, str], Framing], list[str]]) -> None:
            differing, problems = found
            new = take_decisions(session.project.document, (), (), (), differing.values())
            session.project.edit(f"Compare with {name}", new)
            self.taken.emit("\n".join([f"{len(differing)} framings differ in {name}.", *problems]))

        session.jobs.start(f"Comparing with {name}", work, done, session.messages.say_problem)

    def _all_beside_media(self, files: tuple[str, ...]) -> bool:
        own = {Path(path).parent for path in media_named(self._session.project.document)}
        return bool(files) and all(Path(os.path.realpath(file)).parent in own for file in files)


def _written(
    around: Surroundings, folder: str, asked: Asked, progress: Progress, cancel: CancelToken
) -> tuple[list[Exchanged], list[Path], list[str]]:
    """A handoff written: what the other side has now, the files, and the digests by which ours are known again."""
    exchanged, files = write_handoff(around.doc, folder, asked, progress, cancel, around)
    return exchanged, files, digests_of(files)
