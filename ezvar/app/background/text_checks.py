"""What is wrong with titles and captions, worked out behind the editor's back."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ezvar.app.session.jobs import Job
from ezvar.app.session.session import Session
from ezvar.core.compose import LayersTaken, layers_taken, places_depend_on
from ezvar.core.model import Document, Layer, Master, Rect, layer_key
from ezvar.core.text import CaptionChecks, CaptionProblem, Taken, places_of

_REST = 80  # milliseconds without a change before captions are looked through again


class TextChecks(QObject):
    """Looks through all text of the open project whenever something changes that it depends on."""

    ready = pyqtSignal()  # what is wrong was worked out anew

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.checks = CaptionChecks()
        self.problems: tuple[CaptionProblem, ...] = ()
        self._by: dict[str, tuple[CaptionProblem, ...]] = {}
        self._of: tuple[Any, ...] = ()
        self._taken_of: tuple[Any, ...] = ()
        self._taken_now = LayersTaken({}, {})
        self._job: Job | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_REST)
        self._soon.timeout.connect(self._work)
        for signal in (session.project.changed, session.media.analysed):
            signal.connect(self.look)

    def _now(self) -> tuple[Any, ...]:
        """All that it depends on what is wrong, to be compared by identity."""
        doc = self._session.project.doc
        if doc is None or not (doc.tracks or doc.titles or doc.lock.layers):
            return ()
        return (
            doc.tracks, doc.titles, doc.title_lane, doc.placed, doc.anchorings, doc.styles, doc.differing, doc.masters,
            doc.framings, doc.shots, doc.lock, doc.textless, doc.textless_shots, self._session.media.analysis,
        )  # fmt: skip

    def look(self) -> None:
        """Have the captions looked through, unless nothing has changed."""
        now = self._now()
        if _same(now, self._of):
            return
        if not now:
            self._tell((), ())
            return
        self._soon.start()

    @property
    def busy(self) -> bool:
        """Whether captions are being looked through, or will be in a moment."""
        return self._job is not None or self._soon.isActive()

    def _work(self) -> None:
        now = self._now()
        if self._job is not None or not now:
            return  # where it is busy it looks again when it is done
        doc, analysis = self._session.project.document, self._session.media.analysis

        def failed(said: str) -> None:
            self._of = now  # not again until something changes
            self._session.messages.say_problem(said)

        self._job = self._session.jobs.start(
            "Looking through the captions", lambda p, c: tuple(self.checks.all(doc, analysis, self._taken(doc))),
            lambda found: self._tell(now, found), failed, ended=self._ended, shown=False,
        )  # fmt: skip

    def _taken(self, doc: Document) -> Taken:
        """What layers of the lock take up of masters' frames; looked at again only where that may have changed."""
        of = places_depend_on(doc)
        if not _same(of, self._taken_of):
            self._taken_of, self._taken_now = of, layers_taken(doc)
        return self._taken_now.rects

    def place_of(self, item: str, master: Master) -> Rect | None:
        """What a layer of the lock, by its key, takes up of a master's frame, as far as that is known."""
        return places_of(self._taken_now.rects)(item, master)

    def group_of(self, layer: Layer) -> str:
        """By which key a layer of the lock is placed with those that stay together with it, as far as that is known."""
        return self._taken_now.groups.get(layer_key(layer), layer_key(layer))

    def layers_in(self, master: Master) -> Iterator[tuple[Layer, Rect]]:
        """The layers of the lock that are on at the playhead, the lowest first, with what they take up of a master's
        frame."""
        doc, frame = self._session.project.document, self._session.at.frame
        for layer in doc.lock.layers:
            rect = self._taken_now.rects.get((layer_key(layer), master.id))
            if layer.start <= frame < layer.end and rect is not None:
                yield layer, rect

    def _tell(self, of: tuple[Any, ...], found: tuple[CaptionProblem, ...]) -> None:
        self._of, self.problems = of, found
        by: dict[str, list[CaptionProblem]] = {}
        for problem in found:
            by.setdefault(problem.caption, []).append(problem)
        self._by = {caption: tuple(problems) for caption, problems in by.items()}
        waits = {caption: self.waits(caption) for caption in self._by if caption}
        there = bool(of) and bool(of[0] or of[1])  # layers of the lock alone wait for nothing
        self._session.readings.caption_waits = waits if there else None
        self.ready.emit()

    def _ended(self) -> None:
        self._job = None
        self.look()

    def problems_of(self, caption: str, master: str = "") -> tuple[CaptionProblem, ...]:
        """What is wrong with a caption, in one master where one is named; with "" for the caption, with its track."""
        found = self._by.get(caption, ())
        return tuple(p for p in found if p.master in ("", master)) if master else found

    def waits(self, caption: str) -> int:
        """How many things are wrong with a caption, each counted once for all masters."""
        return len({p.name for p in self._by.get(caption, ())})

    def wrong_now(self) -> tuple[CaptionProblem, ...]:
        """What is wrong with the present caption in the document as it is now, in any master."""
        present, doc = self._session.at.caption, self._session.project.doc
        if doc is not None and (title := self._session.at.title) is not None:
            return tuple(self.checks.of_title(doc, title, self._session.media.analysis, self._taken_now.rects))
        if present is None or doc is None:
            return ()
        return tuple(self.checks.of_caption(doc, *present, self._session.media.analysis, self._taken_now.rects))


def _same(a: tuple[Any, ...], b: tuple[Any, ...]) -> bool:
    return len(a) == len(b) and all(x is y for x, y in zip(a, b, strict=True))
