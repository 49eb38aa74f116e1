"""Where in the project the editor is: stage, frame, shot, master, pane, and the shots that are chosen."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from ezvar.core.framing import Place, framed
from ezvar.core.model import Caption, CaptionTrack, CutPlace, Framing, Layer, Master, Pane, Shot, Title, layer_key

from .project import Project


class Position(QObject):
    """The place that is worked on. A signal says that it is another one.

    None is sent where an edit alone makes the shot, the master or the
    framing at the playhead others: `Project.changed` says so.
    """

    frame_changed = pyqtSignal(int)
    shot_changed = pyqtSignal()
    master_changed = pyqtSignal()
    pane_changed = pyqtSignal()
    stage_changed = pyqtSignal(str)
    chosen_changed = pyqtSignal()
    caption_changed = pyqtSignal()

    def __init__(self, project: Project) -> None:
        super().__init__()
        self._project = project
        self.frame = 0
        self.master_id: str | None = None
        self.stage = ""
        self.chosen: tuple[str, ...] = ()  # shots chosen in the ledger, where it is more than one
        self.chosen_cuts: tuple[CutPlace, ...] = ()  # cuts chosen there, where it is more than one
        self.playing = False
        self._pane = 0
        self._caption, self._title = "", ""
        project.changed.connect(self._keep_to_the_document)

    def begin(self) -> None:
        """Another project is open: at its first frame, in its first master."""
        masters = self._project.document.masters
        self.frame, self.chosen, self.chosen_cuts, self._pane = 0, (), (), 0
        self.master_id = masters[0].id if masters else None

    def _keep_to_the_document(self) -> None:
        masters = self._project.document.masters
        if self.master_id not in {m.id for m in masters}:
            self.master_id = masters[0].id if masters else None

    @property
    def shot(self) -> Shot | None:
        doc = self._project.doc
        return doc.shot_at(self.frame) if doc and doc.shots else None

    @property
    def master(self) -> Master | None:
        doc = self._project.doc
        return doc.master(self.master_id) if doc and self.master_id else None

    @property
    def master_name(self) -> str:
        return self.master.name if self.master else ""

    @property
    def framing(self) -> Framing | None:
        shot, master = self.shot, self.master
        return framed(self._project.document, shot, master) if shot and master else None

    @property
    def pane_number(self) -> int:
        """Which pane of the present framing is worked on, from 0."""
        framing = self.framing
        return min(self._pane, len(framing.panes) - 1) if framing else 0

    @property
    def pane(self) -> Pane | None:
        framing = self.framing
        return framing.panes[min(self._pane, len(framing.panes) - 1)] if framing else None

    @property
    def place(self) -> Place | None:
        """Document, shot, master and pane in one."""
        shot, master = self.shot, self.master
        return Place(self._project.document, shot, master, self.pane_number) if shot and master else None

    @property
    def title(self) -> Title | None:
        """The title that is worked on, as long as the playhead is on it."""
        doc = self._project.doc
        if doc is None or not self._title:
            return None
        return next((t for t in doc.titles if t.id == self._title and t.start <= self.frame < t.end), None)

    @property
    def layer(self) -> Layer | None:
        """The layer of the lock that is worked on, as long as the playhead is on it."""
        doc = self._project.doc
        if doc is None or not self._title:
            return None
        layers = (n for n in doc.lock.layers if n.start <= self.frame < n.end)
        return next((n for n in layers if layer_key(n) == self._title), None)

    @property
    def caption(self) -> tuple[CaptionTrack, Caption] | None:
        """The caption that is worked on, with its track: the one chosen as long as the playhead is on it or on none,
        else the one that the playhead is on."""
        doc = self._project.doc
        if doc is None or self.title is not None or self.layer is not None:
            return None
        chosen = next(((t, t.caption(self._caption)) for t in doc.tracks if self._caption in t), None)
        here = [(t, c) for t in doc.tracks for c in t.at(self.frame, doc.lock.rate)]
        if chosen is not None and (not here or any(c is chosen[1] for _, c in here)):
            return chosen
        return here[0] if here else None

    @property
    def shot_frame(self) -> int:
        """The playhead in frames of the shot."""
        shot = self.shot
        return self.frame - shot.start if shot else 0

    def go(self, frame: int) -> None:
        """Put the playhead on a lock frame; beyond the ends, on the last one there."""
        doc = self._project.doc
        if doc is None:
            return
        before = self.shot
        self.frame = max(0, min(frame, doc.lock.frames - 1))
        self.frame_changed.emit(self.frame)
        if self.shot is not before:
            self.shot_changed.emit()

    def show_frame(self) -> None:
        """Have the present frame shown again, as itself in place of the proxy's picture."""
        self.frame_changed.emit(self.frame)

    def go_to_shot(self, shot: Shot) -> None:
        self.go(shot.start)

    def choose(self, shots: tuple[str, ...]) -> None:
        """Choose several shots to be changed together; one alone is as none."""
        chosen = shots if len(shots) > 1 else ()
        if chosen != self.chosen:
            self.chosen = chosen
            self.chosen_changed.emit()

    def choose_cuts(self, places: tuple[CutPlace, ...]) -> None:
        """Choose several cuts to be settled together; one alone is as none."""
        self.chosen_cuts = places if len(places) > 1 else ()

    def set_master(self, master: str) -> None:
        self.master_id = master
        self.master_changed.emit()

    def choose_pane(self, number: int) -> None:
        """Work on another pane of the present framing from now on."""
        self._pane = number
        self.pane_changed.emit()

    def set_caption(self, caption: str) -> None:
        """Work on a caption, by its id, from now on."""
        self._caption, self._title = caption, ""
        self.caption_changed.emit()

    def set_title(self, title: str) -> None:
        """Work on a title, by its id, or on a layer of the lock, by its key, from now on, in place of a caption."""
        self._title = title
        self.caption_changed.emit()

    def set_stage(self, stage: str) -> None:
        self.stage = stage
        self.stage_changed.emit(stage)
