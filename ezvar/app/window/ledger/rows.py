"""The rows of the ledger: shots, or cuts where a stage lists these."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import compress
from operator import is_not

from PyQt6.QtCore import QAbstractListModel, QModelIndex, Qt, pyqtSignal

from ezvar.app.session.session import Session
from ezvar.app.stages import Rows as Kind
from ezvar.core.model import CutPlace, Framing, Shot
from ezvar.core.timing import FrameRange

ROW = Qt.ItemDataRole.UserRole
"""The role under which a row is found."""


@dataclass(frozen=True)
class CaptionRow:
    """A caption or a title by its id and words, a caption's number in its track from 1 (0 for a title), the lock
    frames that it is on, and how many things are wrong."""

    item: str
    words: str
    number: int
    frames: FrameRange
    waits: int


Row = Shot | CutPlace | CaptionRow


class Rows(QAbstractListModel):
    """The shots (or the places of cuts), in the order and with the filter that is chosen."""

    look_changed = pyqtSignal(QModelIndex)  # in place of dataChanged, at which Qt draws the whole list anew

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.kind: Kind = "shots"
        self.by_doubt = False
        self.only_doubtful = False
        self.only_unplayed = False
        self.rows: list[Row] = []
        self._shown: list[tuple[object, ...]] = []

    def reload(self) -> None:
        session = self._session
        rows = self._all()
        if self.only_doubtful:
            rows = [r for r in rows if (session.readings.needs_a_look(r) if isinstance(r, Shot) else r.waits)]
        if self.only_unplayed and self.kind == "shots":
            unplayed = {s.id for s in session.played.unplayed()}
            rows = [r for r in rows if not isinstance(r, Shot) or r.id in unplayed]
        if self.by_doubt:
            rows.sort(key=lambda r: (-self.figure(r), frame_of_row(r)))
        shown = [self._look(r) for r in rows]
        if [identity(r) for r in rows] != [identity(r) for r in self.rows]:
            self.beginResetModel()
            self.rows, self._shown = rows, shown
            self.endResetModel()
            return
        changed = [k for k, (before, now) in enumerate(zip(self._shown, shown, strict=True)) if before != now]
        self.rows, self._shown = rows, shown
        for k in changed:
            self.look_changed.emit(self.index(k))

    def _all(self) -> list[Row]:
        session, doc = self._session, self._session.project.doc
        if doc is None:
            return []
        if self.kind == "cuts":
            return list(session.readings.cut_places)
        if self.kind == "shots":
            return list(doc.shots)
        waits, rate = session.readings.caption_waits or {}, doc.lock.rate
        listed = [
            CaptionRow(caption.id, caption.words, k, caption.frames(rate), waits.get(caption.id, 0))
            for track in doc.tracks
            for k, caption in enumerate(track.captions, 1)
        ]
        listed += [CaptionRow(t.id, " · ".join(t.lines), 0, t.range, waits.get(t.id, 0)) for t in doc.titles]
        return [*sorted(listed, key=lambda r: r.frames.start)]

    def reload_framings(self, before: tuple[Framing, ...]) -> bool:
        """Draw again only the rows whose framings have changed since ``before``; whether that was enough."""
        session = self._session
        doc = session.project.doc
        if doc is None or self.by_doubt or self.only_doubtful or self.only_unplayed or self.kind != "shots":
            return False
        if len(before) != len(doc.framings) or len(self.rows) != len(doc.shots):
            return False
        others = list(compress(zip(before, doc.framings, strict=True), map(is_not, before, doc.framings)))
        if any((old.shot, old.master) != (new.shot, new.master) for old, new in others):
            return False
        for place in {doc.place_of(new.shot) for _, new in others}:
            self._shown[place] = self._look(self.rows[place])
            self.look_changed.emit(self.index(place))
        return True

    def _look(self, row: Row) -> tuple[object, ...]:
        """Whatever a row's drawing depends on: rows are drawn again only where it has changed."""
        session = self._session
        if not isinstance(row, Shot):
            return (row,)
        master = session.at.master
        framing = session.project.document.framing(row.id, master.id) if master else None
        doc = session.project.document
        played = master is not None and session.played.is_played(row, master)
        return row, doc.place_of(row.id), master, doc.masters, framing, session.readings.is_missing(row), played

    def figure(self, row: Row) -> int:
        """The doubt that a row shows; 0 shows none."""
        if isinstance(row, Shot):
            return self._session.readings.doubt_of(row)
        if isinstance(row, CaptionRow):
            return row.waits
        return 0 if row.cut.settled else round(row.cut.doubt)

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == ROW:
            return row
        if role in (Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            if isinstance(row, CaptionRow):
                at = self._session.readings.timecode(row.frames.start)
                what = f"Caption {row.number}" if row.number else "Title"
                return f"{what}, {at}, {row.waits} wrong: {row.words}"
            if isinstance(row, Shot):
                what = f"Shot {self._session.project.document.place_of(row.id) + 1}"
            else:
                what = f"{row.cut.kind.capitalize()}{'' if row.shot else ', passed over'}"
            return f"{what}, {self._session.readings.timecode(frame_of_row(row))}, doubt {self.figure(row)}"
        return None


def frame_of_row(row: Row) -> int:
    """The lock frame at which a row's shot or cut is."""
    if isinstance(row, CaptionRow):
        return (row.frames.start + row.frames.end) // 2
    return row.start if isinstance(row, Shot) else row.frame


def identity(row: Row) -> tuple[object, ...]:
    """What tells a row from all others."""
    if isinstance(row, CaptionRow):
        return (row.item,)
    return (row.id, row.start, row.end) if isinstance(row, Shot) else (row.shot, row.frame, row.cut.kind)
