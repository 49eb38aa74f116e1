"""Looking through the lock in the background, and what follows from it: cuts, framings, the proxy."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import TypeVar

from ezvar.app.session.jobs import Job
from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.errors import EzvarError
from ezvar.core.evidence import Analysis, kept_analysis, look_through
from ezvar.core.model import Document, Framing, Master, new_id
from ezvar.core.planning import resized, with_cuts, with_framings
from ezvar.core.progress import CancelToken, Progress

R = TypeVar("R")


class Analysing:
    """Work on the present lock that is of no use to another."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._jobs: list[Job] = []
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

        Where all that was seen is kept, it is there at once; a proxy that is not is made meanwhile.
        """
        doc, content = self._session.project.document, self._session.media.content

        def told(error: EzvarError) -> None:
            self._session.messages.say_problem(str(error))

        def work(progress: Progress, cancel: CancelToken) -> tuple[Analysis, Document | None]:
            analysis = look_through(doc, self._session.cache, progress, cancel, told)
            return analysis, with_cuts(doc, analysis) if find_cuts else None

        def take_kept(progress: Progress, cancel: CancelToken) -> tuple[Analysis, Document | None] | None:
            kept = kept_analysis(doc, self._session.cache)
            return None if kept is None else (kept, with_cuts(doc, kept) if find_cuts else None)

        def then_read(result: tuple[Analysis, Document | None] | None) -> None:
            if self._session.project.doc is None or content != self._session.media.content:
                return
            if result is not None:
                done(result)
            proxy = self._session.media.proxy
            if result is None or (proxy is not None and not proxy.ready):
                start("Looking through the lock", work, done if result is None else lambda _: proxy_made())

        def proxy_made() -> None:
            if content == self._session.media.content and self._session.media.proxy is not None:
                self._session.media.proxy.look_again()

        def start(said: str, task: Callable[[Progress, CancelToken], R], then: Callable[[R], None]) -> None:
            self._jobs.append(self._session.jobs.start(said, task, then, self._session.messages.say_problem))

        def done(result: tuple[Analysis, Document | None]) -> None:
            if self._session.project.doc is None or content != self._session.media.content:
                return  # the lock shows something else by now
            analysis, cut = result
            self._session.media.put_analysis(analysis)
            if cut is not None:
                self._session.project.edit(
                    "Find the cuts",
                    replace(edits.set_shots(self._session.project.document, cut.shots), passed=cut.passed),
                )
            self.frame_missing()

        start("Taking up what was seen", take_kept, then_read)

    def frame_missing(self) -> None:
        """Solve, on a thread, the framings that no one has decided yet."""
        if self._session.media.analysis is None or self._session.project.doc is None:
            return
        doc, analysis = self._session.project.document, self._session.media.analysis
        missing = [m for m in doc.masters if any(doc.framing(s.id, m.id) is None for s in doc.shots)]
        if not missing:
            return

        def work(progress: Progress, cancel: CancelToken) -> list[Framing]:
            solved = with_framings(doc, analysis, missing, progress=progress, cancel=cancel)
            return [f for f in solved.framings if doc.framing(f.shot, f.master) is None]

        def done(found: list[Framing]) -> None:
            now = self._session.project.document
            if now.lock is not doc.lock:
                return
            known = {s.id for s in now.shots}, {m.id for m in now.masters}
            fit = [
                f
                for f in found
                if f.shot in known[0] and f.master in known[1] and now.framing(f.shot, f.master) is None
            ]
            if fit:
                self._session.project.edit(
                    "Frame the shots", edits.set_framings(now, fit), gesture=("frame", len(now.masters))
                )

        self._session.jobs.start("Framing the shots", work, done, self._session.messages.say_problem)

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
