"""What is known of the shot at the playhead before anyone asks: subjects, what is not kept, the solved path."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ezvar.app.session.jobs import Job
from ezvar.app.session.session import Session
from ezvar.core.evidence import Analysis, Subject
from ezvar.core.framing import (
    Place,
    Remedy,
    active_rect,
    judged,
    not_kept,
    remedies,
    reset,
    setups,
    subjects_in,
    worth_showing,
)
from ezvar.core.model import Document, Pane
from ezvar.core.timing import FrameRange

_REST = 60  # milliseconds


@dataclass(frozen=True, eq=False)
class Known:
    """What was worked out of one framing.

    ``subjects`` are those that are worth showing.
    ``lost`` are the stretches, in frames of the shot, in which a must-keep is
    broken, ``ghost`` the solved path behind one by hand, ``offers`` what would
    put the framing right. ``barred`` says that black bars are part of the shot's picture.
    """

    subjects: tuple[Subject, ...] = ()
    lost: tuple[FrameRange, ...] = ()
    ghost: Pane | None = None
    offers: tuple[Remedy, ...] = ()
    barred: bool = False


class KnownOfShot(QObject):
    """Works out, on a thread, what the framing stage shows of the present shot; the latest shot and framing win."""

    ready = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.known = Known()
        self.setups: tuple[tuple[str, ...], ...] = ()
        self._under_way: Job | None = None
        self._soon = QTimer(self)  # shots that are only passed by are not looked into
        self._soon.setSingleShot(True)
        self._soon.setInterval(_REST)
        self._soon.timeout.connect(self._work)
        self._of: tuple[Any, ...] = ()
        self._setups_of: tuple[Any, ...] = ()
        self._job: Job | None = None
        at = session.at
        for signal in (
            at.shot_changed, at.master_changed, at.pane_changed, session.project.changed, session.media.analysed
        ):  # fmt: skip
            signal.connect(self.look)

    @property
    def subjects(self) -> tuple[Subject, ...]:
        """The present shot's subjects; none while they are being worked out."""
        return self.known.subjects

    @property
    def setup(self) -> tuple[str, ...]:
        """The shots of the present shot's set-up, itself among them; none where it stands alone."""
        shot = self._session.at.shot
        return next((group for group in self.setups if shot is not None and shot.id in group), ())

    def look(self) -> None:
        """Have what the present shot and framing ask for worked out, unless it is known."""
        session = self._session
        shot, master, analysis, framing = session.at.shot, session.at.master, session.media.analysis, session.at.framing
        if shot is None or master is None or analysis is None or framing is None:
            self._of, self.known = (), Known()
            return
        self._look_for_setups(analysis, session.project.document)
        doc = session.project.document
        drawn = tuple(d for d in doc.drawn if d.shot == shot.id)
        of = (analysis, shot, drawn, master, framing, session.at.pane_number)
        if of == self._of:
            return
        if of[:3] != self._of[:3]:
            self._of, self.known = (), Known()  # another shot: nothing of it is known yet
        self._soon.start()

    @property
    def busy(self) -> bool:
        """Whether something is being worked out, or will be in a moment."""
        return self._under_way is not None or self._soon.isActive()

    def _work(self) -> None:
        session = self._session
        shot, master, analysis, framing = session.at.shot, session.at.master, session.media.analysis, session.at.framing
        if self._under_way is not None or shot is None or master is None or analysis is None or framing is None:
            return  # where it is busy it looks again when it is done
        doc, number = session.project.document, session.at.pane_number
        of = (analysis, shot, tuple(d for d in doc.drawn if d.shot == shot.id), master, framing, number)

        def done(result: Known) -> None:
            if session.at.shot == shot and session.media.analysis is analysis:
                self._of, self.known = of, result
                self.ready.emit()

        def failed(said: str) -> None:
            self._of = of  # not again until something changes
            session.messages.say_problem(said)

        self._under_way = session.jobs.start(
            "Looking into the shot", lambda p, c: _worked_out(Place(doc, shot, master, number), analysis), done,
            failed, ended=self._ended, shown=False,
        )  # fmt: skip

    def _ended(self) -> None:
        self._under_way = None
        self.look()

    def _look_for_setups(self, analysis: Analysis, doc: Document) -> None:
        of = (analysis, tuple((s.id, s.start, s.end) for s in doc.shots))
        if of == self._setups_of:
            return
        self._setups_of = of
        self._session.jobs.stop(self._job)

        def done(found: list[tuple[str, ...]]) -> None:
            if of == self._setups_of:
                self.setups = tuple(found)
                self.ready.emit()

        self._job = self._session.jobs.start(
            "Finding set-ups", lambda p, c: setups(analysis, doc.shots, p, c), done, self._session.messages.say_problem
        )


def _worked_out(place: Place, analysis: Analysis) -> Known:
    framing, subjects = place.framing, subjects_in(place.doc, place.shot, analysis)
    judged(place, framing.panes, subjects)  # keeps what a first drag is judged by
    ghost = None
    if framing.decided != "solved" and framing.verdict != "agreed":
        (freed,) = reset(place.doc, [place.shot], [place.master], "solved", analysis).framings
        ghost = freed.panes[place.at] if freed.panes[place.at].keys != place.pane.keys else None
    return Known(
        worth_showing(place, subjects), not_kept(place, subjects), ghost, tuple(remedies(place, analysis)),
        active_rect(place.shot, analysis) is not None,
    )  # fmt: skip
