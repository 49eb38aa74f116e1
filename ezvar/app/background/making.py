"""The movies that are being made, wait to be made, or were made: rows of the output list, together where they can."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import cast

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ezvar.app.session.jobs import Job, later
from ezvar.app.session.session import Session
from ezvar.core.encoding import DELIVERY, default_preset
from ezvar.core.errors import EzvarError
from ezvar.core.media import ColourTags
from ezvar.core.model import Document, Finished, MadePart, Making, Makings, Ordered, OrderState, Preset, Revision, Row
from ezvar.core.output import (
    Doing,
    Expected,
    Live,
    Made,
    Order,
    RowLook,
    before_making,
    colours_of,
    file_stamp,
    forget_parts,
    listed_rows,
    parts_of,
    row_look,
    row_tasks,
    targets,
    told_as,
)
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.store import forget_later, keep_later, later_of, packed, unpacked
from ezvar.core.text import CaptionProblem
from ezvar.core.timing import moment_now
from ezvar.core.work import Plain, Surroundings, Task, run_here

from .text_checks import TextChecks

_REST = 300  # milliseconds without a change before finished movies are compared with the document again


@dataclass
class _Run:
    """Rows of one document that are made together. ``makings`` is what becomes of them, for a project that is left."""

    project: str
    orders: dict[str, Ordered]
    doc: Document | None  # None where it is to be unpacked
    revision: Revision | None
    before: dict[str, Making]
    makings: Makings
    away: bool = False  # another project is open now
    tokens: dict[str, CancelToken] = field(default_factory=dict)
    live: dict[str, Live] = field(default_factory=dict)
    forgotten: set[str] = field(default_factory=set)  # rows whose parts are not kept
    job: Job | None = None


class RowMaking(QObject):
    """Makes rows, known by their ids, and notes in the project what became of them.

    It goes on where another project is opened; what comes of it then is kept
    for the project until it is open again. A row that is listed no more is
    made no more.
    """

    changed = pyqtSignal()
    ended = pyqtSignal(str)  # nothing is being made any more, in a sentence
    _packed = pyqtSignal(object, object, object)
    _part = pyqtSignal(object, str, object)
    _came = pyqtSignal(object, str, object)

    def __init__(self, session: Session, text: TextChecks) -> None:
        super().__init__()
        self._session, self._project, self._text = session, session.project, text
        self._run: _Run | None = None
        self._docs: dict[str, Document] = {}  # of rows that wait, as it was when they were ordered
        self._default: Preset | None = None
        self._of: tuple[Document | None, Makings | None] = (None, None)
        self._now: dict[str, tuple[MadePart, ...]] = {}
        self._tags: tuple[object, ColourTags] | None = None
        self._comparing = False
        later(self._packed, self._note_packed)
        later(self._part, self._note_part)
        later(self._came, self._note_made)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_REST)
        self._soon.timeout.connect(self._compare)
        session.files.opened.connect(self._opened)
        session.project.changed.connect(self._follow)
        session.project.saved.connect(self._saved)

    # The list

    @property
    def default(self) -> Preset:
        """The preset of rows that have none of their own."""
        if self._default is None:
            try:
                self._default = default_preset()
            except EzvarError as error:
                self._session.messages.say_problem(str(error))
                self._default = DELIVERY
        return self._default

    def presets_changed(self) -> None:
        """Presets were kept, or another one is the default."""
        self._default = None
        self._follow()
        self.changed.emit()

    def rows(self) -> tuple[Row, ...]:
        """All that there is to make."""
        doc = self._project.doc
        return listed_rows(doc, self.default) if doc is not None else ()

    def row(self, id: str) -> Row | None:
        return next((row for row in self.rows() if row.id == id), None)

    @property
    def folder(self) -> Path:
        """The folder of rows that have none of their own: beside the project, or in the home folder."""
        path = self._project.path
        there = path is not None and os.access(path.parent, os.W_OK)
        return (path.parent if path is not None and there else Path.home()) / "Ezvar masters"

    def look(self, row: Row, coming: Expected | None = None) -> RowLook:
        """What is told of a row that is expected to come to so much."""
        run = self._run
        live = run.live.get(row.id) if run is not None and not run.away else None
        return row_look(self._project.document, row, self._project.makings, live, self._now.get(row.id), coming)

    def job_of(self, row: str) -> Job | None:
        """The work under way on a row."""
        run = self._run
        return run.job if run is not None and not run.away and row in run.live else None

    @property
    def busy(self) -> bool:
        """Whether something is being made, of whatever project."""
        return self._run is not None

    def unfinished(self) -> list[str]:
        """The rows that were ordered and are neither made nor being made."""
        makings = self._project.makings
        known = {row.id for row in self.rows()}
        return [o.row.id for o in makings.ordered if o.row.id in known and o.state != "waits"]

    # Orders

    def make(self, rows: Iterable[str]) -> None:
        """Make rows of the document as it is now; those under way or waiting are left alone. What waits is noted with
        what is made anyway."""
        doc, every, orders = self._project.document, self.rows(), []
        for id in rows:
            row = next((each for each in every if each.id == id), None)
            if row is None or self._is_on(id):
                continue
            try:
                target = targets(doc, every, self.folder, [row])[id]
            except EzvarError as error:
                orders.append(Ordered(row, "", state="failed", said=str(error)))
                continue
            self._docs[id] = doc
            orders.append(Ordered(row, str(target)))
        self._order(orders)

    def go_on(self, rows: Iterable[str]) -> None:
        """Go on with rows that were stopped, as the project was when they were ordered; those that never began are made
        as it is now."""
        makings, orders, anew = self._project.makings, [], []
        for id in rows:
            ordered = makings.ordered_of(id)
            if ordered is None or self._is_on(id):
                continue
            if makings.revision(ordered.revision) is None:
                anew.append(id)
            else:
                orders.append(Ordered(ordered.row, ordered.target, ordered.revision, anyway=ordered.anyway))
        self._order(orders)
        self.make(anew)

    def stop(self, rows: Iterable[str] | None = None) -> None:
        """Stop making rows, all where none are named, or have them wait no more. What is whole of them is kept."""
        run, makings = self._run, self._project.makings
        wanted = set(rows) if rows is not None else {o.row.id for o in makings.ordered}
        if run is not None and not run.away:
            for id in wanted if rows is not None else set(run.tokens):
                if id in run.tokens:
                    run.tokens[id].cancel()
        waiting = [
            o for o in makings.ordered if o.row.id in wanted and o.state == "waits" and not self._in_run(o.row.id)
        ]
        self._note(lambda m: m.with_ordered([_with(o, "stopped") for o in waiting]))

    def forget(self, rows: Iterable[str]) -> None:
        """Have rows not made after all: what is whole of unfinished ones is removed."""
        for id in rows:
            ordered = self._project.makings.ordered_of(id)
            if self._in_run(id) and self._run is not None:
                self._run.forgotten.add(id)
                self._run.tokens[id].cancel()
            elif ordered is not None:
                if ordered.target:
                    forget_parts(Path(ordered.target))
                self._note(lambda m, id=id: m.without_ordered(id))  # type: ignore[misc]

    def stop_all(self) -> None:
        """Stop at once, since the program ends."""
        if self._run is not None and self._run.job is not None:
            self._run.job.cancel()
            if self._run.away:
                self._keep_away(self._run)
        self._project.note_makings(self._project.makings.ended())

    def leave(self) -> None:
        """The program ends: nothing is compared or told any more."""
        self._soon.stop()
        self.blockSignals(True)

    def _is_on(self, id: str) -> bool:
        ordered = self._project.makings.ordered_of(id)
        return self._in_run(id) or (ordered is not None and ordered.state == "waits")

    def _in_run(self, id: str) -> bool:
        return self._run is not None and not self._run.away and id in self._run.live

    def _order(self, orders: Sequence[Ordered]) -> None:
        self._note(lambda m: m.with_ordered(orders))
        self._next()

    def _note(self, change: Callable[[Makings], Makings]) -> None:
        self._project.note_makings(change(self._project.makings))
        self._soon.start()
        self.changed.emit()

    # Making

    def _next(self) -> None:
        """Begin with the orders that wait, those of one document together."""
        makings = self._project.makings
        waiting = [o for o in makings.ordered if o.state == "waits"]
        if self._run is not None or not waiting:
            return
        first = waiting[0]
        doc = self._docs.get(first.row.id) if not first.revision else None
        those = [o for o in waiting if o.revision == first.revision and self._docs.get(o.row.id) is doc]
        those = [o for o in those if o.revision or self._docs.get(o.row.id) is not None]
        if not those:
            return
        before = {f.row.id: f.made for o in those if (f := makings.finished_of(o.row.id)) and f.made.file == o.target}
        orders = {o.row.id: o for o in those}
        run = _Run(
            self._project.document.project, orders, doc, makings.revision(first.revision), before,
            Makings().with_ordered(those),
        )  # fmt: skip
        run.tokens = {id: CancelToken() for id in orders}
        run.live = {id: Live() for id in orders}
        for id in orders:
            self._docs.pop(id, None)
        self._run = run
        names = [told_as(self._project.document, o.row) for o in those]
        title = f"Making {names[0]}" if len(names) == 1 else f"Making {len(names)} movies"
        whole, problems, around = self._project.whole, self._text.problems, self._session.around
        run.job = self._session.jobs.start(
            title,
            lambda p, c: self._work(run, whole, problems, around, p, c),
            None,
            lambda said: self._rest(run, "failed", said),
            lambda: self._rest(run, "stopped", ""),
            lambda: self._ended(run),
            stands=True,
        )
        self.changed.emit()

    def _work(
        self,
        run: _Run,
        whole: Document,
        problems: Sequence[CaptionProblem],
        around: Surroundings,
        progress: Progress,
        cancel: CancelToken,
    ) -> None:
        """Make the rows of a run; on a thread."""
        doc = run.doc
        if doc is None:
            assert run.revision is not None
            doc = unpacked(run.revision, whole)
        else:
            waits = {
                id: tuple(concern.said for concern in before_making(whole, [o.row], problems))
                for id, o in run.orders.items()
            }
            self._packed.emit(run, packed(doc), waits)
        orders = [Order(doc, o.row, Path(o.target), run.before.get(id), run.tokens[id]) for id, o in run.orders.items()]
        tasks = row_tasks(doc, orders)
        ids = {str(order.target): order.row.id for order in orders}

        def heard(task: Task, said: Plain) -> None:
            self._part.emit(run, ids[str(task["target"])], said)

        surroundings = Surroundings(
            doc, around.cache, around.tell, heard, lambda task: run.tokens[ids[str(task["target"])]],
            around.others,
        )  # fmt: skip
        for order, made in zip(orders, run_here(tasks, surroundings, progress, cancel), strict=True):
            self._came.emit(run, order.row.id, made)

    def _note_packed(self, run: _Run, revision: Revision, waits: Mapping[str, tuple[str, ...]]) -> None:
        run.revision = revision
        run.orders = {id: replace(o, revision=revision.name, anyway=waits[id]) for id, o in run.orders.items()}
        self._note_in(run, lambda m: m.with_ordered([o for id, o in run.orders.items() if id in run.live], revision))

    def _note_part(self, run: _Run, id: str, said: list[Plain]) -> None:
        start, end, doing = said
        if id in run.live and isinstance(start, int) and isinstance(end, int):
            run.live[id].doing[start, end] = cast(Doing, doing)
            self.changed.emit()

    def _note_made(self, run: _Run, id: str, made: Made) -> None:
        ordered = run.orders[id]
        run.live.pop(id, None)
        if made.error is not None:
            self._note_in(run, lambda m: m.with_ordered([_with(ordered, "failed", str(made.error))]))
        elif made.stopped and id in run.forgotten:
            forget_parts(Path(ordered.target))
            self._note_in(run, lambda m: m.without_ordered(id))
        elif made.stopped:
            self._note_in(run, lambda m: m.with_ordered([_with(ordered, "stopped")]))
        else:
            file = str(made.path)
            what = Making(file, file_stamp(file), made.parts, made.sound, not made.report.flaws)
            done = Finished(ordered.row, ordered.revision, what, moment_now(), made.report, ordered.anyway)
            self._note_in(run, lambda m: m.with_finished(done))

    def _note_in(self, run: _Run, change: Callable[[Makings], Makings]) -> None:
        run.makings = change(run.makings)
        if run.away:
            self._keep_away(run)
        else:
            self._note(change)

    def _keep_away(self, run: _Run) -> None:
        try:
            keep_later(self._session.cache.folder, run.project, run.makings)
        except EzvarError as error:
            self._session.messages.say_problem(str(error))

    def _rest(self, run: _Run, state: OrderState, said: str) -> None:
        """What has not come of a run failed, or was stopped, with all of it."""
        left = [run.orders[id] for id in run.live]
        ended = [_with(o, state, said) for o in left]
        run.live.clear()
        self._note_in(run, lambda m: m.with_ordered(ended))

    def _ended(self, run: _Run) -> None:
        self._run = None
        self._next()
        if self._run is None:
            self.ended.emit(_told(run))
        self.changed.emit()

    # Following the project

    def _opened(self) -> None:
        """Another project is open, or the same one again: take up what became of its movies meanwhile."""
        project, run = self._project, self._run
        self._docs.clear()
        self._now, self._of, self._tags = {}, (None, None), None
        name = project.document.project
        makings = project.makings
        if name:
            makings = makings.with_later(later_of(self._session.cache.folder, name))
        if run is not None:
            run.away = not name or run.project != name
            if run.away:
                self._keep_away(run)
        if run is None or run.away:
            makings = makings.ended()
        if makings != project.makings:
            project.note_makings(makings)
        if left := self.unfinished():
            what = "1 movie is" if len(left) == 1 else f"{len(left)} movies are"
            self._session.messages.say(f"{what} not finished. The output stage goes on with them.")
        self.changed.emit()

    def _saved(self) -> None:
        if self._project.document.project and not (self._run is not None and self._run.away):
            forget_later(self._session.cache.folder, self._project.document.project)

    def _follow(self) -> None:
        if self._project.doc is None:
            return
        known = {row.id for row in self.rows()}
        gone = [o.row.id for o in self._project.makings.ordered if o.row.id not in known]
        if gone:
            self.forget(gone)
        self._soon.start()

    def _compare(self) -> None:
        """Find out, on a thread, which parts of finished movies would be made again now."""
        doc, makings = self._project.doc, self._project.makings
        if doc is None or self._comparing or not makings.finished or (self._of[0] is doc and self._of[1] is makings):
            return
        rows = [row for row in self.rows() if makings.finished_of(row.id) is not None]
        of = doc.lock, doc.shots[0], doc.colouring
        known = self._tags[1] if self._tags is not None and self._tags[0] == of else None

        def work(progress: Progress, cancel: CancelToken) -> tuple[ColourTags, dict[str, tuple[MadePart, ...]]]:
            tags = known or colours_of(doc)
            return tags, parts_of(doc, rows, tags)

        def done(found: tuple[ColourTags, dict[str, tuple[MadePart, ...]]]) -> None:
            if self._project.doc is doc:
                self._tags, self._now, self._of = (of, found[0]), found[1], (doc, makings)
                self.changed.emit()

        def ended() -> None:
            self._comparing = False
            if self._project.doc is not doc or self._project.makings is not makings:
                self._soon.start()

        self._comparing = True
        failed = self._session.messages.say_problem
        self._session.jobs.start("Comparing what was made", work, done, failed, ended=ended, shown=False)


def _with(ordered: Ordered, state: OrderState, said: str = "") -> Ordered:
    """An order in another state."""
    return replace(ordered, state=state, said=said)


def _told(run: _Run) -> str:
    """What a run came to, in a sentence."""
    made = run.makings.finished
    flawed = sum(bool(f.report.flaws) for f in made)
    failed = sum(o.state == "failed" for o in run.makings.ordered)
    said = "1 movie is made" if len(made) == 1 else f"{len(made)} movies are made"
    if flawed:
        said += f", {flawed} failed the check"
    if failed:
        said += f", {failed} could not be made"
    return f"{said}."
