"""What an editor does to the present framing, each one step of undo."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from ezvar.core.framing import picture_size, put_by_hand, resting, shifted
from ezvar.core.model import Pane
from ezvar.core.planning import with_framings

if TYPE_CHECKING:
    from .session import Session


class FramingWork:
    """Changes of the framing of the shot at the playhead in the active master."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def _put(self, label: str, pane: Pane, gesture: object | None = None) -> None:
        shot, master = self._session.shot, self._session.master
        if shot and master:
            doc = put_by_hand(self._session.document, shot, master, pane, self._session.analysis)
            self._session.edit(f"{label}, shot {doc.place_of(shot.id) + 1}", doc, gesture)

    def shift(self, pane: Pane, dx: float, dy: float, gesture: object | None = None) -> None:
        """Shift the active window path, given as it was, by fractions of the picture."""
        shot, master = self._session.shot, self._session.master
        if shot and master:
            self._put("Shift path", shifted(pane, master, picture_size(self._session.document, shot), dx, dy), gesture)

    def put_resting(self, label: str, zoom: float | None) -> None:
        """A window that rests in the middle; ``zoom`` ``None`` shows the whole picture."""
        shot, master, framing = self._session.shot, self._session.master, self._session.framing
        if shot and master and framing:
            self._put(label, resting(framing.panes[0], master, picture_size(self._session.document, shot), zoom))

    def solve_again(self) -> None:
        """Back to what the solver chooses for the present shot."""
        shot, master = self._session.shot, self._session.master
        if shot and master and self._session.analysis:
            rest = tuple(f for f in self._session.document.framings if (f.shot, f.master) != (shot.id, master.id))
            solved = with_framings(
                replace(self._session.document, framings=rest), self._session.analysis, [master], [shot]
            )
            self._session.edit(f"Solve again, shot {solved.place_of(shot.id) + 1}", solved)
