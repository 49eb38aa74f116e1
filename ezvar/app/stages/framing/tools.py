"""What the commands of the framing stage work with."""

from __future__ import annotations

from collections.abc import Callable

from ezvar.app.commands import Workbench
from ezvar.app.viewer.well import Well
from ezvar.core.evidence import Analysis
from ezvar.core.framing import Place, Size, put_by_hand
from ezvar.core.model import Document, Framing, Master, Pane

from .panes_dialog import PanesDialog
from .sweep import SweepChart

PathChange = Callable[[Pane, Master, Size], Pane]


class FramingTools:
    """The session, the work on framings, and the stage's picture and chart."""

    def __init__(self, bench: Workbench, well: Well, sweep: SweepChart) -> None:
        self.bench, self.well, self.sweep = bench, well, sweep
        self.desk, self.session = bench.desk, bench.desk.session
        self.at, self.project, self.messages = self.session.at, self.session.project, self.session.messages
        self.work, self.panes = self.desk.framing_work, self.desk.panes_work
        self.dialog: PanesDialog | None = None

    @property
    def place(self) -> Place:
        """The present place, where there surely is one."""
        place = self.at.place
        assert place is not None
        return place

    @property
    def pane(self) -> Pane:
        return self.place.pane

    def solve(self, label: str, change: Callable[[Place, Analysis], Framing | Document]) -> None:
        """Have the chosen shots changed by something that needs the analysis."""
        analysis = self.session.media.analysis
        if analysis is None:
            self.messages.say("The lock is still being looked through; that comes first.")
            return
        self.work.each(label, lambda place: change(place, analysis))

    def by_hand(self, label: str, change: PathChange, gesture: object | None = None) -> None:
        """Change the present pane's path by hand, or those of all chosen shots."""
        place = self.place
        if len(self.work.targets()) > 1:
            analysis = self.session.media.analysis
            self.work.each(label, lambda p: put_by_hand(p, change(p.pane, p.master, p.size), analysis))
        else:
            self.work.put(label, change(place.pane, place.master, place.size), gesture)


def framing_there(tools: FramingTools) -> bool:
    """Whether there is a shot, and a master to frame it in."""
    return tools.at.framing is not None
