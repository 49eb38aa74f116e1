"""Looking through the lock in the background, and what follows from it: cuts, framings, the proxy."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.app.session.jobs import Job, later
from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.cuts import Judged
from ezvar.core.evidence import Analysis, kept_analysis, look_through
from ezvar.core.model import Document, Framing, Master, new_id
from ezvar.core.planning import cuts_between, decidable, resized, with_framings
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.store import Piece, gaps

R = TypeVar("R")


_READ = "reading"
"""The gesture that all shares which comes of one reading: it is one step of undo where nobody did anything between."""


_Of = tuple[str, str]
"""The shot and the master of a framing."""


@dataclass(frozen=True)
class _Known:
    """What is known of a lock, with the cuts of the stretches where they were not looked for before."""

    analysis: Analysis
    found: list[tuple[Piece, Judged]]


class _Reading(QObject):
    """One reading of the present lock: what becomes known on its thread is put in place on the interface's."""

    known = pyqtSignal(object)

    def __init__(self, session: Session, then: Callable[[set[_Of]], None], find_cuts: bool) -> None:
        super().__init__()
        self._session, self._then, self._find_cuts = session, then, find_cuts
        self.doc, self._content = session.project.document, session.media.content
        self._decided: list[Piece] = []  # stretches whose cuts were found

    @property
    def stands(self) -> bool:
        """Whether the lock still shows what is being read."""
        return self._session.project.doc is not None and self._content == self._session.media.content

    def read(self, progress: Progress, cancel: CancelToken) -> _Known:
        """Look through the lock, telling what is known on the way; gives what remains."""
        say, at = self._session.messages.say_problem, self._session.at
        analysis = look_through(
            self.doc, self._session.cache, progress, cancel, lambda error: say(str(error)),
            lambda part: self.known.emit(self.found(part)), lambda: at.frame, self._session.machines.runner,
        )  # fmt: skip
        return self.found(analysis)

    def kept(self, progress: Progress, cancel: CancelToken) -> _Known | None:
        """What is there where all that was seen is kept."""
        analysis = kept_analysis(self.doc, self._session.cache)
        return None if analysis is None else self.found(analysis)

    def found(self, analysis: Analysis) -> _Known:
        """An analysis with the cuts in what was read since the last time."""
        if not self._find_cuts:
            return _Known(analysis, [])
        new = [gap for a, b in decidable(analysis) for gap in gaps(a, b, self._decided)]
        self._decided += new
        return _Known(analysis, [(piece, cuts_between(analysis, *piece)) for piece in new])

    def take(self, known: _Known) -> None:
        """Put what is known in place."""
        if not self.stands:
            return
        before = self._session.media.analysis
        self._session.media.put_analysis(known.analysis)
        now = self._session.project.document
        changed = now
        for (start, end), judged in known.found:
            if judged.cuts or judged.passed:
                changed = edits.find_anew(changed, judged.cuts, judged.passed, max(1, start), end)
        if changed is not now:
            self._session.project.edit("Find the cuts", changed, gesture=_READ)
        self._then(self._early(before, known.analysis))

    def _early(self, before: Analysis | None, now: Analysis) -> set[_Of]:
        """The framings that were solved since the reading began of shots that are only known now."""
        doc, old = self._session.project.document, {id(f) for f in self.doc.framings}
        new = {
            s.id for s in doc.shots
            if now.knows(s.start, s.end) and not (before is not None and before.knows(s.start, s.end))
        }  # fmt: skip
        return {
            (f.shot, f.master) for f in doc.framings
            if f.shot in new and id(f) not in old and f.decided == "solved" and f.verdict != "agreed"
        }  # fmt: skip

    def draw(self, progress: Progress, cancel: CancelToken) -> None:
        """Make the proxy of a lock that was looked through before."""
        say = self._session.messages.say_problem
        runner = self._session.machines.runner
        look_through(self.doc, self._session.cache, progress, cancel, lambda error: say(str(error)), runner=runner)

    def drawn(self, _: object) -> None:
        """The proxy was made."""
        if self.stands and self._session.media.proxy is not None:
            self._session.media.proxy.look_again()


class Analysing:
    """Work on the present lock that is of no use to another."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._jobs: list[Job] = []
        self._framing = 0  # jobs under way that frame what is missing
        self._more = False  # whether more was read since they began
        self._early: set[_Of] = set()  # framings solved before their shots were read
        session.media.leaving.connect(self.stop)
        session.files.settled.connect(self._opened)
        session.media.changed.connect(lambda: self.begin(find_cuts=False))

    def _opened(self) -> None:
        doc = self._session.project.document
        self.begin(find_cuts=doc.lock.flat and len(doc.shots) == 1 and not doc.framings)

    def stop(self) -> None:
        """Stop what is under way: the lock shows something else by now."""
        for job in self._jobs:
            job.cancel()
        self._jobs.clear()

    def begin(self, find_cuts: bool) -> None:
        """Read the lock once, or take what is kept of it; then find cuts and frame what is not framed yet.

        Where all that was seen is kept, it is there at once; a proxy that is not is made meanwhile. Else shots,
        subjects and windows come as the reading goes, and nothing that was decided meanwhile is touched.
        """
        reading = _Reading(self._session, self._frame_more, find_cuts)
        later(reading.known, reading.take)

        def start(said: str, task: Callable[[Progress, CancelToken], R], then: Callable[[R], object]) -> None:
            self._jobs.append(self._session.jobs.start(said, task, then, self._session.messages.say_problem))

        def then_read(kept: _Known | None) -> None:
            if not reading.stands:
                return
            if kept is not None:
                reading.take(kept)
            proxy = self._session.media.proxy
            if kept is None:
                start("Looking through the lock", reading.read, reading.take)
            elif proxy is not None and not proxy.ready:
                start("Making small pictures of the lock", reading.draw, reading.drawn)

        start("Taking up what was seen", reading.kept, then_read)

    def _frame_more(self, early: Iterable[_Of] = ()) -> None:
        """Frame what was read meanwhile, and anew what was solved before (``early``); where framing is under way, once
        that has ended, however it did."""
        self._early.update(early)
        self._more = self._framing > 0
        if not self._more:
            self.frame_missing(gesture=_READ)

    def frame_missing(self, gesture: str = "") -> None:
        """Solve, on a thread, the framings that no one has decided yet, of shots that were read."""
        analysis = self._session.media.analysis
        if analysis is None or self._session.project.doc is None:
            return
        doc = self._session.project.document
        wanted = {(s.id, m.id) for s in doc.shots for m in doc.masters if doc.framing(s.id, m.id) is None}
        wanted |= {(f.shot, f.master) for f in doc.framings} & self._early
        self._early.clear()
        shots = [
            s for s in doc.shots
            if analysis.knows(s.start, s.end) and any((s.id, m.id) in wanted for m in doc.masters)
        ]  # fmt: skip
        masters = [m for m in doc.masters if any((s.id, m.id) in wanted for s in shots)]
        if not masters:
            return

        def work(progress: Progress, cancel: CancelToken) -> list[Framing]:
            solved = with_framings(doc, analysis, masters, shots, progress=progress, cancel=cancel)
            return [f for f in solved.framings if (f.shot, f.master) in wanted]

        def done(found: list[Framing]) -> None:
            now = self._session.project.document
            if now.lock is not doc.lock:
                return
            known = {s.id: s for s in now.shots}, {m.id for m in now.masters}
            fit = [
                f
                for f in found
                if known[0].get(f.shot) == doc.shot(f.shot)
                and f.master in known[1]
                and now.framing(f.shot, f.master) == doc.framing(f.shot, f.master) != f
            ]
            if fit:
                self._session.project.edit(
                    "Frame the shots", edits.set_framings(now, fit), gesture=gesture or ("frame", len(now.masters))
                )

        def ended() -> None:
            self._framing -= 1
            if self._more and not self._framing:
                self._frame_more()

        self._framing += 1
        self._session.jobs.start("Framing the shots", work, done, self._session.messages.say_problem, ended=ended)

    def solve_master(self, master: str) -> None:
        """Solve a master's framings anew, on a thread; agreed ones and those by hand stay."""
        analysis = self._session.media.analysis
        if analysis is not None:
            self._solve(
                "Solve", master,
                lambda doc, p, c: with_framings(doc, analysis, [doc.master(master)], progress=p, cancel=c),
            )  # fmt: skip

    def resize_master(self, master: str, width: int, height: int) -> None:
        """Give a master another size and solve its solved framings again, on a thread."""
        analysis = self._session.media.analysis
        self._solve("Resize", master, lambda doc, p, c: resized(doc, master, width, height, analysis, p, c))

    def _solve(self, verb: str, master: str, change: Callable[[Document, Progress, CancelToken], Document]) -> None:
        """Change a whole master on a thread, in one step of undo; again where the document has changed meanwhile."""
        doc = self._session.project.document
        name = next((m.name for m in doc.masters if m.id == master), None)
        if name is None:
            return  # it was removed meanwhile

        def done(changed: Document) -> None:
            if self._session.project.doc is doc:
                self._session.project.edit(f"{verb} {name}", changed)
            elif self._session.project.doc is not None:
                self._solve(verb, master, change)

        self._session.jobs.start(
            f"Framing the shots for {name}", lambda p, c: change(doc, p, c), done, self._session.messages.say_problem
        )

    def add_masters(self, masters: Iterable[Master]) -> None:
        """Add masters in one step, those whose names are free, and frame the shots for them."""
        doc = self._session.project.document
        names = {m.name for m in doc.masters}
        new = [replace(m, id=new_id()) for m in masters if m.name not in names]
        for master in new:
            doc = edits.add_master(doc, master)
        if new:
            self._session.project.edit(f"Add {len(new)} masters", doc)
            self._session.at.set_master(new[0].id)
            self.frame_missing()
