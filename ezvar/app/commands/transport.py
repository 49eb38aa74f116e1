"""Going about: the playhead by keys, playing, and the next that needs a look."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from ezvar.core.model import Shot

if TYPE_CHECKING:
    from ezvar.app.window.main_window import MainWindow

_LEAD = 1.5  # seconds before and after a cut that is played across


class Going:
    """The commands of the "go" menu, a method each."""

    def __init__(self, window: MainWindow) -> None:
        self._window = window
        self._session = window.session

    def of(self, what: str) -> Callable[[], object]:
        """The method that runs a command."""
        method: Callable[[], object] = getattr(self, what)
        return method

    def play(self) -> None:
        if self._window.player.speed:
            self._window.player.stop()
        else:
            self._window.player.play(self._session.frame)

    def back(self) -> None:
        self._window.player.play(self._session.frame, -1)

    def stop(self) -> None:
        self._window.player.stop()

    def forward(self) -> None:
        self._window.player.play(self._session.frame, 2 if self._window.player.speed == 1 else 1)

    def half(self) -> None:
        self._window.player.play(self._session.frame, 0.5)

    def play_shot(self) -> None:
        shot = self._session.shot
        if shot is not None:
            self._window.player.play_parts([(shot.start, shot.end)])

    def loop(self) -> None:
        shot = self._session.shot
        if shot is not None:
            self._window.player.play_parts([(shot.start, shot.end)], loop=True)

    def _across(self, frame: int) -> None:
        lead = round(self._session.document.lock.rate.fraction * _LEAD)
        last = self._session.document.lock.frames
        self._window.player.play_parts([(max(0, frame - lead), min(last, frame + lead))])

    def across_before(self) -> None:
        if self._session.shot is not None:
            self._across(self._session.shot.start)

    def across_after(self) -> None:
        if self._session.shot is not None:
            self._across(self._session.shot.end)

    def unplayed(self) -> None:
        shots = self._session.played.unplayed()
        if shots:
            self._window.player.play_parts([(s.start, s.end) for s in shots])
        else:
            self._window.say("Every shot of this master was played since it last changed.")

    def _step(self, by: int) -> None:
        self._window.player.stop()
        self._session.go(self._session.frame + by)

    def frame_back(self) -> None:
        self._step(-1)

    def frame_on(self) -> None:
        self._step(1)

    def first(self) -> None:
        self._step(-self._session.frame)

    def last(self) -> None:
        self._step(self._session.document.lock.frames)

    def _shot_by(self, by: int) -> None:
        self._window.player.stop()
        shot, doc = self._session.shot, self._session.document
        if shot is not None:
            place = doc.place_of(shot.id) + by
            self._session.go_to_shot(doc.shots[max(0, min(place, len(doc.shots) - 1))])

    def shot_back(self) -> None:
        self._shot_by(-1)

    def shot_on(self) -> None:
        self._shot_by(1)

    def doubt(self) -> None:
        """Go to the next shot (in the cuts stage: cut) that needs a look, round the end and on into other masters."""
        session = self._session
        shot, doc = session.shot, session.document
        if shot is None:
            return
        if session.stage == "Cuts":
            waiting = [p for p in session.places if p.waits]
            if waiting:
                self._window.player.stop()
                session.go(next((p for p in waiting if p.frame > session.frame), waiting[0]).frame)
            else:
                self._window.say("Every cut is settled.")
            return
        at = doc.place_of(shot.id)
        for candidate in (*doc.shots[at + 1 :], *doc.shots[: at + 1]):
            if session.needs_a_look(candidate):
                self._look_at(candidate)
                return
        for master in doc.masters:
            waits = next((s for s in doc.shots if session.needs_a_look(s, master)), None)
            if waits is not None:
                self._window.say(f"Nothing more in {session.master_name}; on in {master.name}.")
                session.set_master(master.id)
                self._look_at(waits)
                return
        self._window.say("Nothing needs a look any more.")

    def _look_at(self, shot: Shot) -> None:
        """Go to the middle of a shot, where no fade or mix hides what there is to see."""
        self._window.player.stop()
        self._session.go((shot.start + shot.end) // 2)

    def master(self) -> None:
        masters = [m.id for m in self._session.document.masters]
        if masters and self._session.master_id:
            self._session.set_master(masters[(masters.index(self._session.master_id) + 1) % len(masters)])
