"""One place in a document: a pane of how a shot sits in a master."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ezvar.core.model import Document, Framing, Master, Pane, Shot

from .geometry import Size, Window
from .path import framed, pane_aspect, pane_picture_size, pane_window


@dataclass(frozen=True, eq=False)
class Place:
    """A shot in a master, and which of its panes, from 0; beyond the last one, that one.

    It is handed on whole, so that nothing of it is forgotten on the way.
    """

    doc: Document
    shot: Shot
    master: Master
    number: int = 0

    @property
    def framing(self) -> Framing:
        """How the shot sits in the master, its plain start where nothing is decided."""
        return framed(self.doc, self.shot, self.master)

    @property
    def at(self) -> int:
        """The pane's number among those that are there."""
        return min(self.number, len(self.framing.panes) - 1)

    @property
    def pane(self) -> Pane:
        return self.framing.panes[self.at]

    @property
    def size(self) -> Size:
        """The size of the picture that the pane's windows lie in, in its pixels."""
        return pane_picture_size(self.doc, self.shot, self.pane)

    @property
    def aspect(self) -> float:
        """The shape of the pane: width over height."""
        return pane_aspect(self.pane, self.master)

    @property
    def first(self) -> Place:
        """The same shot and master, in the first pane."""
        return replace(self, number=0)

    def window(self, frame: int) -> Window:
        """The pane's window at a frame of the shot, in picture pixels."""
        return pane_window(self.pane, self.master, self.size, frame)

    def with_pane(self, pane: Pane) -> Framing:
        """The framing with another pane in this one's place."""
        panes, at = self.framing.panes, self.at
        return replace(self.framing, panes=(*panes[:at], pane, *panes[at + 1 :]))

    def now(self, doc: Document) -> Place:
        """The same place in a changed document, which still has its shot and its master."""
        return Place(doc, doc.shot(self.shot.id), doc.master(self.master.id), self.number)
