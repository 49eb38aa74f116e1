"""What an editor does to framings, each one step of undo: of the present shot, or of all that are chosen."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable
from dataclasses import replace
from typing import Any

from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.errors import EzvarError
from ezvar.core.framing import (
    Copied,
    Place,
    ask,
    eased_keys,
    follow,
    framed,
    paste,
    put_by_hand,
    resting,
    shifted,
    subjects_in,
)
from ezvar.core.model import Backdrop, Document, Drawn, Ease, Framing, Keyframe, Master, Pane, Rect, Shot, Verdict
from ezvar.core.planning import with_drawn
from ezvar.core.progress import CancelToken, Progress
from ezvar.core.timing import FrameRange

from .changes import Asked, Change, Changes


class FramingWork:
    """Changes framings in the active master: at once where that is quick, on a thread where something is solved."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._changes = Changes(session)
        self.copied: Framing | None = None
        self.copied_keys: tuple[Keyframe, ...] = ()
        self.chosen_keys: frozenset[int] = frozenset()
        """Frames of the shot at which keyframes are chosen in the chart."""
        self.stretch: FrameRange | None = None
        """The stretch of the shot that was marked, in its frames."""
        at = session.at
        for signal in (session.project.changed, at.shot_changed, at.master_changed, at.pane_changed):
            signal.connect(self._forget)

    def _forget(self) -> None:
        pane = self._session.at.pane
        frames = {k.frame for k in pane.keys} if pane else set()
        self.chosen_keys = self.chosen_keys & frames
        shot = self._session.at.shot
        if self.stretch is not None and (shot is None or self.stretch.end > shot.frames):
            self.stretch = None

    @property
    def busy(self) -> bool:
        """Whether something is being solved."""
        return self._changes.busy

    def targets(self) -> list[Shot]:
        """The shots that are chosen in the ledger, or the present one."""
        session = self._session
        if session.project.doc is None:
            return []
        chosen = [
            session.project.doc.shot(s) for s in session.at.chosen if s in {x.id for x in session.project.doc.shots}
        ]
        return chosen if len(chosen) > 1 else [session.at.shot] if session.at.shot else []

    def say_verdict(self, verdict: Verdict, of: Iterable[Shot]) -> None:
        """What a reviewer says of shots' framings in the active master; those decided alone."""
        master, doc = self._session.at.master, self._session.project.document
        shots = [s for s in of if master is not None and doc.framing(s.id, master.id) is not None]
        if master is None or not shots:
            return
        for shot in shots:
            doc = edits.set_verdict(doc, shot.id, master.id, verdict)
        where = f"{len(shots)} shots" if len(shots) > 1 else f"shot {doc.place_of(shots[0].id) + 1}"
        self._session.project.edit(f"Say “{verdict}”, {where}", doc)

    def is_agreed(self) -> bool:
        """Whether the present framing is agreed, and so stays as it is until it is opened again; which is then said."""
        session, framing = self._session, self._session.at.framing
        if framing is None or framing.verdict != "agreed":
            return False
        where = f"Shot {session.project.document.place_of(framing.shot) + 1} is agreed in {session.at.master_name}"
        session.messages.say(f"{where}, and stays as it is. “Open again” lets it be changed.")
        return True

    # By hand, at once

    def put(self, label: str, pane: Pane, gesture: Hashable = None) -> None:
        """The present pane's path as an editor has made it."""
        place = self._session.at.place
        if place is not None and not self.is_agreed():
            doc = edits.set_framings(place.doc, [put_by_hand(place, pane, self._session.media.analysis)])
            self._session.project.edit(f"{label}, shot {doc.place_of(place.shot.id) + 1}", doc, gesture)

    def shift(self, pane: Pane, dx: float, dy: float, gesture: Hashable = None) -> None:
        """Shift the active window path, given as it was, by fractions of the picture."""
        place = self._session.at.place
        if place is not None:
            self.put("Shift path", shifted(pane, place.master, place.size, dx, dy), gesture)

    def put_resting(self, label: str, zoom: float | None) -> None:
        """Windows that rest in the middle; ``zoom`` ``None`` shows the whole picture."""
        analysis = self._session.media.analysis
        self.each(label, lambda p: put_by_hand(p, resting(p.pane, p.master, p.size, zoom), analysis))

    def run_ease(self, ease: Ease) -> None:
        """Set the curves of the chosen keyframes, or of the one at or before the playhead, to an ease."""
        frames = self.eased()
        shot, pane = self._session.at.shot, self._session.at.pane
        if shot is not None and pane is not None:
            self.put(f"Ease: {ease}", eased_keys(pane, frames, ease))

    def eased(self) -> set[int]:
        """The keyframes whose curve an ease is for."""
        shot, pane = self._session.at.shot, self._session.at.pane
        at = self._session.at.frame - shot.start if shot else 0
        frames = [k.frame for k in pane.keys if k.frame <= at] if pane else []
        return set(self.chosen_keys) or set(frames[-1:])

    def ask(self, label: str, gesture: Hashable = None, **choices: Any) -> None:
        """Ask something of the solver, by the names of `Choices`, for the chosen shots."""
        analysis = self._session.media.analysis
        if analysis is None:
            self._session.messages.say("The lock is still being looked through; that comes first.")
            return
        self.each(label, lambda p: ask(p, analysis, **choices), gesture)

    def set_backdrop(self, name: str, made: Callable[[Backdrop], Backdrop | None], gesture: Hashable = None) -> None:
        """Another backdrop for the chosen shots, made of the one each has; ``None`` is the master's."""

        def change(place: Place) -> Framing:
            panes = tuple(replace(p, backdrop=made(p.backdrop or place.master.backdrop)) for p in place.framing.panes)
            return replace(place.framing, panes=panes, verdict="open")

        self.each(f"Backdrop: {name}", change, gesture)

    # Solved, on a thread

    def each(self, label: str, change: Change, gesture: Hashable = None) -> None:
        """Change the framing of each chosen shot in the active master, in one step of undo.

        Agreed ones are skipped, and that is said.
        Of changes that wait and share a ``gesture`` only the last is done.
        """
        shots = self.targets()
        if len(shots) > 1 or not self.is_agreed():
            self._ask_for(label, change, shots, gesture)

    def _ask_for(self, label: str, change: Change, shots: list[Shot], gesture: Hashable = None) -> None:
        """Have shots changed in the active master, all but agreed ones."""
        session, master = self._session, self._session.at.master
        if master is None:
            return
        agreed = [s for s in shots if framed(session.project.document, s, master).verdict == "agreed"]
        if agreed:
            shots = [s for s in shots if s not in agreed]
            session.messages.say(f"{len(agreed)} agreed, and left as they are.")
        if not shots:
            return
        self._changes.ask(
            Asked(label, change, tuple(s.id for s in shots), master.id, gesture, len(agreed), session.at.pane_number)
        )

    def give(self, source: Framing, to: tuple[str, ...], copied: Copied, label: str) -> None:
        """Give a framing to shots of the active master, in one step of undo; agreed ones are skipped."""
        analysis, doc = self._session.media.analysis, self._session.project.document

        def change(place: Place) -> Framing:
            (given,) = paste(place.doc, source, place.master, [place.shot.id], copied, analysis).framings
            return given

        self._ask_for(label, change, [doc.shot(s) for s in to])

    def bring_back(self, framing: Framing) -> None:
        """Give a decision that was kept aside, its shot being gone, to the present shot; one step of undo."""
        session, shot = self._session, self._session.at.shot
        if shot is None or self.is_agreed():
            return
        analysis = session.media.analysis

        def change(place: Place) -> Document:
            given = paste(place.doc, framing, place.master, [place.shot.id], "everything", analysis)
            return edits.let_go_aside(edits.set_framings(place.doc, given.framings), framing)

        self._changes.ask(Asked("Bring back", change, (shot.id,), framing.master))

    def draw(self, box: Rect, frame: int) -> None:
        """Track what lies in a box (fractions of the picture) at a lock frame, and follow it."""
        session, shot, master = self._session, self._session.at.shot, self._session.at.master
        analysis, doc = session.media.analysis, session.project.doc
        if self.is_agreed():
            return
        if shot is None or master is None or analysis is None or doc is None:
            session.messages.say("The lock is still being looked through; draw the subject again when that is done.")
            return

        def work(progress: Progress, cancel: CancelToken) -> Drawn:
            try:
                return with_drawn(doc, shot, frame, box, progress, cancel)[1]
            except ValueError as error:
                raise EzvarError(f"the subject cannot be tracked: {error}", remedy="Draw it larger") from error

        def done(drawn: Drawn) -> None:
            now = session.project.document
            if shot.id not in {s.id for s in now.shots}:
                return
            said = " ".join(part for part in (drawn.before, drawn.after) if part)
            session.messages.say(f"Tracked over {len(drawn.frames)} frames. {said}".strip())
            self._follow_drawn(drawn, shot, master)

        session.jobs.start("Tracking the subject", work, done, session.messages.say_problem)

    def _follow_drawn(self, drawn: Drawn, shot: Shot, master: Master) -> None:
        analysis = self._session.media.analysis
        assert analysis is not None

        def change(place: Place) -> Document:
            now = place.now(edits.draw_subject(place.doc, drawn))
            number = next(s.number for s in subjects_in(now.doc, now.shot, analysis) if s.kind == "drawn")
            return edits.set_framings(now.doc, [follow(now.first, [number], analysis)])

        self._changes.ask(Asked("Draw a subject", change, (shot.id,), master.id))
