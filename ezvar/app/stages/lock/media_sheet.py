"""What a timeline brought with it: its media and where they are, its notes, and what is not carried."""

from __future__ import annotations

import os
from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QHeaderView, QPushButton, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.commands import Workbench
from ezvar.app.kit import theme
from ezvar.app.kit.controls import label
from ezvar.core.edits import Carried
from ezvar.core.evidence import Damage, damages
from ezvar.core.lock import NotDrawn, missing, not_drawn
from ezvar.core.model import Document, Framing, Layer, Media
from ezvar.core.names import readable

from .commands import look_for_media

_MEDIA = int(Qt.ItemDataRole.UserRole)
_GUESS = _MEDIA + 1
_FRAME = _MEDIA + 2
_COMPARE = _MEDIA + 3
_ASIDE = _MEDIA + 4


_Row = tuple[str, str, dict[int, object]]
"""First and second column, and what the row knows."""


def _aside_rows(doc: Document, framing: Framing) -> list[_Row]:
    """The row of a decision that is kept aside; none where its master is gone too."""
    master = next((m for m in doc.masters if m.id == framing.master), None)
    if master is None:
        return []
    agreed = ", agreed" if framing.verdict == "agreed" else ""
    said = f"{framing.decided}{agreed}. Enter: give it to the present shot"
    return [(f"A framing in {master.name}", said, {_ASIDE: framing})]


class MediaSheet(QWidget):
    """A list to go through by keys: Enter takes a guess, chooses a file for a media, or goes to a note."""

    choose_file = pyqtSignal(str)  # for the media of this id
    compare = pyqtSignal(int, str)  # show this lock frame beside the reference's; empty words: only go there

    def __init__(self, desk: Desk, bench: Workbench) -> None:
        super().__init__()
        self.desk, self.session = desk, desk.session
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 14, 8)
        column.setSpacing(6)
        row = QHBoxLayout()
        self._said = label("", "soft")
        row.addWidget(self._said, 1)
        self.look = QPushButton("Look in a folder…")
        self.look.setToolTip("Look for missing media in a folder and below it (Ctrl+L)")
        self.look.clicked.connect(lambda: look_for_media.run(bench))
        row.addWidget(self.look)
        column.addLayout(row)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("Media, notes and what is not carried")
        self.tree.setColumnCount(2)
        self.tree.setHeaderHidden(True)
        self.tree.setRootIsDecorated(True)
        self.tree.setUniformRowHeights(True)
        header = self.tree.header()
        assert header is not None
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Interactive)
        header.resizeSection(0, 300)
        self.tree.itemActivated.connect(lambda item, _: self._activate(item))
        column.addWidget(self.tree, 1)
        self._shown: object = None

    def refresh(self) -> None:
        doc, work = self.session.project.doc, self.desk.lock_work
        torn = damages(analysis.damaged) if (analysis := self.session.media.analysis) is not None else []
        shown = (doc.lock, doc.aside, work.rounds, work.search, work.conformed, work.carried, torn) if doc else None
        if shown == self._shown:
            return
        self._shown = shown
        self.tree.clear()
        if doc is None:
            return
        gone = missing(doc)
        found = [m for m in doc.lock.media if m.kind != "black" and m not in gone]
        all_there = "Its media are there" if len(found) == 1 else f"All {len(found)} media are there"
        self._said.setText(f"{len(gone)} media missing, {len(found)} found" if gone else all_there)
        self.look.setVisible(bool(gone))
        self._add_missing(doc, gone)
        if work.conformed is not None:
            found_different: list[_Row] = [(text, "", {}) for text in work.conformed.facts]
            for d in work.conformed.shots:
                number = doc.place_of(d.shot) + 1 if any(s.id == d.shot for s in doc.shots) else 0
                found_different.append(
                    (f"Shot {number}", d.what, {_FRAME: d.frame, _COMPARE: f"Shot {number}: {d.what}"})
                )
            self._section("Differs from the reference", found_different, True)
        self._section("Damaged pictures", [self._damage_row(each) for each in torn], True)
        changed = [c for c in work.carried if c.change != "unchanged"]
        self._section("Changed with the new lock", [self._carried_row(doc, c) for c in changed], True)
        self._section("Kept aside from shots that are gone", [r for f in doc.aside for r in _aside_rows(doc, f)], True)
        self._section("Layers that are not drawn", [self._not_drawn_row(each) for each in not_drawn(doc)], True)
        self._section("Not carried", [(text, "", {}) for text in doc.lock.left_out], True)
        self._section("Titles and graphics", [self._layer_row(each) for each in doc.lock.layers])
        self._section(
            "Notes",
            [(n.text or "note", self.session.readings.timecode(n.start), {_FRAME: n.start}) for n in doc.lock.notes],
        )
        self._section("Found", [(m.name or os.path.basename(m.path), _facts(m), {_MEDIA: m.id}) for m in found])
        if gone:
            first = self.tree.topLevelItem(0)
            assert first is not None
            self.tree.setCurrentItem(first.child(0))
            self.tree.scrollToItem(first)
            if self.isVisible():
                self.tree.setFocus()  # so that the next key answers what is asked here

    def _damage_row(self, damage: Damage) -> _Row:
        first, last = (self.session.readings.timecode(n) for n in (damage.start, damage.end - 1))
        where = first if first == last else f"{first} to {last}"
        return where, "The last good picture is held where none can be decoded. Enter: go there", {_FRAME: damage.start}

    @staticmethod
    def _carried_row(doc: Document, carried: Carried) -> _Row:
        there = carried.new is not None and carried.new <= len(doc.shots)
        frame = doc.shots[carried.new - 1].start if there and carried.new else None
        return carried.said, "", {} if frame is None else {_FRAME: frame}

    @staticmethod
    def _not_drawn_row(each: NotDrawn) -> _Row:
        return each.said(), "", {_FRAME: each.layer.start}

    def _layer_row(self, layer: Layer) -> _Row:
        start = self.session.readings.timecode(layer.start)
        where = f"{start}, {layer.end - layer.start} frames, picture track {layer.track}"
        return layer.name, where, {_FRAME: layer.start}

    def _add_missing(self, doc: Document, gone: tuple[Media, ...]) -> None:
        rows: list[_Row] = []
        for media in gone:
            shots = [str(k) for k, s in enumerate(doc.shots, 1) if s.source.media == media.id]
            many = len(shots) > 6
            titled = any(each.source.media == media.id for each in doc.lock.layers)
            used = f"used by shot {', '.join(shots[:6])}{' and others' if many else ''}"
            used = used if shots else "used by a title" if titled else "used by the sound"
            rows.append((media.name or media.path, f"{used}. Enter: choose its file", {_MEDIA: media.id}))
        section = self._section("Missing", rows, True)
        for place, media in enumerate(gone):
            parent = section.child(place) if section else None
            for guess in self.desk.lock_work.search.guesses.get(media.id, ()):
                item = QTreeWidgetItem(parent, [f"perhaps {readable(guess.path.name)}", f"{guess.why}. Enter: take it"])
                item.setData(0, _MEDIA, media.id)
                item.setData(0, _GUESS, str(guess.path))
                item.setToolTip(0, str(guess.path))

    def _section(self, title: str, rows: Sequence[_Row], marked: bool = False) -> QTreeWidgetItem | None:
        if not rows:
            return None
        top = QTreeWidgetItem(self.tree, [f"{title}: {len(rows)}", ""])
        if marked:
            top.setForeground(0, theme.PROBLEM)
        for first, second, data in rows:
            item = QTreeWidgetItem(top, [first, second])
            item.setToolTip(0, first)
            for role, value in data.items():
                item.setData(0, role, value)
            if not second:
                item.setFirstColumnSpanned(True)
        self.tree.expandItem(top)
        for k in range(top.childCount()):
            self.tree.expandItem(top.child(k))
        return top

    def _activate(self, item: QTreeWidgetItem) -> None:
        media, guess, frame, aside = (item.data(0, role) for role in (_MEDIA, _GUESS, _FRAME, _ASIDE))
        if aside is not None:
            self.desk.framing_work.bring_back(aside)
        elif guess:
            self.desk.lock_work.link_media(media, guess)
        elif media:
            self.choose_file.emit(media)
        elif frame is not None:
            self.session.at.go(frame)
            self.compare.emit(frame, item.data(0, _COMPARE) or "")


def _facts(media: Media) -> str:
    if media.kind == "sound":
        return "sound"
    if media.kind == "still":
        return f"still, {media.width} × {media.height}"
    if media.kind == "sequence":
        return f"{media.width} × {media.height}, {media.frames} images in order"
    return f"{media.width} × {media.height}, {media.rate} frames a second, {media.frames} frames"
