"""What an editor does to the panes of a framing: how they share the frame, what each shows, and what stands behind."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.evidence import Analysis
from ezvar.core.framing import (
    ARRANGEMENTS,
    ARRANGEMENTS_KEPT,
    Place,
    arranged,
    heard,
    in_one_pane,
    pane_picture_size,
    put_by_hand,
    shows,
    standing,
    stands,
    swapped,
    trim_to,
    trimmed_off,
)
from ezvar.core.model import Arrangement, Backdrop, Framing

from .framing_work import FramingWork

ONE_PANE = "one pane"
_STEP = 0.1  # of the way from the middle to the edge, by which a key moves a picture in the frame


class PanesWork:
    """Changes panes of the present shot, or of all that are chosen, each one step of undo."""

    def __init__(self, session: Session, framings: FramingWork) -> None:
        self._session, self._framings = session, framings

    def _analysis(self) -> Analysis | None:
        analysis = self._session.media.analysis
        if analysis is None:
            self._session.messages.say("The lock is still being looked through; that comes first.")
        return analysis

    # How they share the frame

    def arrangements(self) -> tuple[Arrangement, ...]:
        """Those there are from the beginning, and the user's own."""
        return (*ARRANGEMENTS, *ARRANGEMENTS_KEPT.load())

    def arrange(self, arrangement: Arrangement | None) -> None:
        """Share the frame in another way; ``None`` is one pane."""
        analysis = self._analysis()
        if analysis is None:
            return

        def change(place: Place) -> Framing:
            return in_one_pane(place, analysis) if arrangement is None else arranged(place, arrangement, analysis)

        self._framings.each(f"Panes: {arrangement.name if arrangement else ONE_PANE}", change)

    def space(self, **changes: Any) -> None:
        """Change what is between the panes, by the names of `Arrangement`: gap, border, colour."""
        analysis = self._analysis()
        if analysis is None:
            return

        def change(place: Place) -> Framing:
            used = place.framing.arrangement
            if used is None:
                raise ValueError("there is one pane only")
            return arranged(place, replace(used, **changes), analysis)

        self._framings.each("Between the panes", change, ("between", *changes))

    def arrange_next(self) -> None:
        """The next of all arrangements, and after the last one pane again."""
        framing, known = self._session.at.framing, self.arrangements()
        if framing is None:
            return
        present = framing.arrangement
        at = next((k for k, a in enumerate(known, 1) if present is not None and a.name == present.name), 0)
        self.arrange(known[at] if at < len(known) else None)

    def keep_arrangement(self, name: str) -> Arrangement | None:
        """Keep the present arrangement for the user under a name, in place of another of that name."""
        framing = self._session.at.framing
        if framing is None or framing.arrangement is None:
            return None
        made = replace(framing.arrangement, name=name)
        ARRANGEMENTS_KEPT.keep(made)
        return made

    def forget_arrangement(self, name: str) -> None:
        ARRANGEMENTS_KEPT.save(a for a in ARRANGEMENTS_KEPT.load() if a.name != name)

    def take_arrangements(self, file: str) -> int:
        """Keep the arrangements of a file for the user, in place of others of their names; how many. Raises
        `ProjectError`."""
        new = ARRANGEMENTS_KEPT.load(file)
        ARRANGEMENTS_KEPT.keep(*new)
        return len(new)

    def give_arrangements(self, file: str) -> None:
        """Write the user's arrangements to a file. Raises `ProjectError`."""
        ARRANGEMENTS_KEPT.save(ARRANGEMENTS_KEPT.load(), file)

    # What each shows

    def swap(self, a: int, b: int) -> None:
        if (analysis := self._analysis()) is not None:
            work = self._framings
            work.each("Swap panes", lambda p: swapped(p, a, b, analysis))

    def show(self, number: int, shot: str) -> None:
        """Let a pane show another shot; ``""`` is its own again."""
        if (analysis := self._analysis()) is not None:
            work = self._framings
            work.each("What a pane shows", lambda p: shows(replace(p, number=number), shot, analysis))

    def hear(self, number: int) -> None:
        """Let a pane's shot give the sound; -1 is the lock's."""
        said = f"Sound of pane {number + 1}" if number >= 0 else "Sound of the lock"
        self._framings.each(said, lambda p: heard(p, number))

    def trim(self, side: str, part: float) -> None:
        """Trim a part of the picture (0..1) off its left, right, top or foot in the present pane."""
        analysis = self._analysis()
        if analysis is None:
            return

        self._framings.each(
            f"Trim the {side}",
            lambda p: trim_to(p, trimmed_off(p.pane.trim, **{side: part}), analysis),
            ("trim", side),
        )

    def stand(self, height: float) -> None:
        """Let a picture that is lower than its pane stand at a height, -1 at the foot to 1 at the top."""
        analysis = self._session.media.analysis

        def change(place: Place) -> Framing:
            return put_by_hand(place, standing(place.pane, place.master, place.size, height), analysis)

        self._framings.each("Where the picture stands", change, "stand")

    def stands(self) -> float | None:
        """Where the present picture stands; ``None`` where it fills its pane."""
        session = self._session
        shot, master, pane = session.at.shot, session.at.master, self._session.at.pane
        if shot is None or master is None or pane is None:
            return None
        return stands(
            pane, master, pane_picture_size(session.project.document, shot, pane), session.at.frame - shot.start
        )

    def stand_by(self, steps: int) -> None:
        now = self.stands()
        if now is None:
            self._session.messages.say("The picture fills its frame. Show the whole picture (W) or loosen it first.")
        else:
            self.stand(min(1.0, max(-1.0, round(now + steps * _STEP, 2))))

    # What stands behind

    def backdrop(self) -> Backdrop:
        """The backdrop of the present pane: its own, or the master's."""
        pane, master = self._session.at.pane, self._session.at.master
        return (pane.backdrop if pane else None) or (master.backdrop if master else Backdrop())

    def give_backdrop_to_master(self) -> None:
        """Make the present backdrop the master's, which all shots have that have none of their own."""
        session, master, shot = self._session, self._session.at.master, self._session.at.shot
        if master is None or shot is None:
            return
        doc = edits.change_master(session.project.document, replace(master, backdrop=self.backdrop()))
        framing = doc.framing(shot.id, master.id)
        if framing is not None:
            panes = tuple(replace(p, backdrop=None) for p in framing.panes)
            doc = edits.set_framings(doc, [replace(framing, panes=panes)])
        session.project.edit(f"Backdrop of {master.name}", doc)
