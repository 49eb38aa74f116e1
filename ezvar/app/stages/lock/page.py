"""The lock stage: open a movie, read its facts, choose the masters."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QSplitter,
    QStackedWidget,
    QWidget,
)

from ezvar.app.commands import Workbench, open_demo, open_file
from ezvar.app.kit.controls import clear, label, paper, rule
from ezvar.app.session.jobs import later
from ezvar.app.session.project_files import Beginning
from ezvar.app.viewer.pictures import Viewer
from ezvar.app.viewer.well import Well
from ezvar.core import edits
from ezvar.core.errors import InputError
from ezvar.core.framing import bars_said
from ezvar.core.media import known_interlaced
from ezvar.core.model import Document, Master, make_master, master_from_text

from ..stage import Page
from .colour_rows import ColourRows
from .compare_view import CompareView
from .master_rows import MasterRows
from .media_sheet import MediaSheet

_OFFERED = ("9:16", "4:5", "1:1")


class LockPage(Page[Workbench]):
    """What was locked, and what is to be made of it."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self.tools = bench
        session, desk = self.session, self.desk
        self.pages = self.middle = QStackedWidget()
        self.well = Well(desk, windows=False)
        self.sheet = MediaSheet(desk, bench)
        self.sheet.choose_file.connect(self._choose_file)
        both = QSplitter(Qt.Orientation.Vertical)
        self.compare = CompareView(desk)
        self.shown = QStackedWidget()
        self.shown.addWidget(self.well)
        self.shown.addWidget(self.compare)
        self.sheet.compare.connect(self._compare)
        session.at.frame_changed.connect(lambda _: self.shown.setCurrentIndex(0))
        both.addWidget(self.shown)
        both.addWidget(self.sheet)
        both.setSizes([360, 300])
        both.setChildrenCollapsible(False)
        self.pages.addWidget(self._empty())
        self.pages.addWidget(both)
        self._title = label("", "title")
        self._where = label("", "soft")
        self._facts = QGridLayout()
        self._facts.setColumnStretch(1, 1)
        self._facts.setVerticalSpacing(3)
        self.card.add(self._title, self._where)
        self.card.column.addLayout(self._facts)
        self._barred = label("", "soft")
        self.card.add(self._barred, rule(), label("Masters", "heading"))
        self.masters = MasterRows(desk)
        self.card.add(self.masters)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.offers: dict[str, QPushButton] = {}
        for shape in _OFFERED:
            button = QPushButton(f"+ {shape}")
            button.setAccessibleName(f"Add a master {shape}")
            button.clicked.connect(lambda _, s=shape: self.add(lambda: master_from_text(s)))
            self.offers[shape] = button
            row.addWidget(button)
        self.card.column.addLayout(row)
        self.card.column.addLayout(self._any_size())
        self.card.add(self.masters.sets)
        self.colours = ColourRows(bench)
        self.card.add(rule(), label("Colours", "heading"), self.colours)
        self._shown: object = ()
        desk.lock_work.changed.connect(self.sheet.refresh)
        session.media.analysed.connect(self.refresh)
        later(session.files.beginning, self._show_beginning)
        self.problem = label("", "problem")
        self.card.add(self.problem)
        self.card.column.addStretch(1)

    def set_viewer(self, viewer: Viewer | None) -> None:
        self.well.set_viewer(viewer)

    def _empty(self) -> QWidget:
        sheet, column = paper((70, 60, 70, 60), 12)
        column.addStretch(1)
        column.addWidget(label("Begin with a locked edit", "title"))
        column.addWidget(
            label(
                "Open the finished horizontal movie, or its timeline (OTIO, EDL, AAF). Ezvar finds its shots, places a "
                "window in each for the shapes you choose, and shows you which of them deserve a look. The lock "
                "itself is never changed."
            )
        )
        for button in (self.button(open_file, main=True), self.button(open_demo)):
            button.setMaximumWidth(320)
            column.addWidget(button)
        column.addWidget(label("You can also drop a movie, a timeline or a project on this window.", "soft"))
        column.addStretch(2)
        return sheet

    def _any_size(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        self.name_field = QLineEdit()
        self.name_field.setPlaceholderText("name of another size")
        self.name_field.setAccessibleName("Name of the master")
        self.width_field, self.height_field = QSpinBox(), QSpinBox()
        for field, name, value in ((self.width_field, "Width", 1920), (self.height_field, "Height", 1080)):
            field.setRange(16, 16384)
            field.setSingleStep(2)
            field.setValue(value)
            field.setAccessibleName(f"{name} of the master in pixels")
            field.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.add_button = QPushButton("Add")
        self.add_button.setAccessibleName("Add a master of this size")
        self.add_button.clicked.connect(self._add_any)
        self.name_field.returnPressed.connect(self._add_any)
        grid.addWidget(self.name_field, 0, 0, 1, 4)
        grid.addWidget(self.width_field, 1, 0)
        grid.addWidget(label("×"), 1, 1)
        grid.addWidget(self.height_field, 1, 2)
        grid.addWidget(self.add_button, 1, 3)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(2, 1)
        return grid

    def _add_any(self) -> None:
        width, height = self.width_field.value(), self.height_field.value()
        name = self.name_field.text().strip() or f"{width}×{height}"
        self.add(lambda: make_master(name, width, height))

    def add(self, make: Callable[[], Master]) -> None:
        """Add a master and frame the shots for it."""
        try:
            master = make()
            if not self.masters.meant(master.name, master.width, master.height):
                return
            doc = edits.add_master(self.session.project.document, master)
        except InputError as error:
            self.problem.setText(str(error))
            return
        except ValueError as error:
            self.problem.setText(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        self.problem.setText("")
        self.session.project.edit(f"Add master {master.name}", doc)
        self.session.at.set_master(master.id)
        self.desk.analysing.frame_missing()

    def _compare(self, frame: int, what: str) -> None:
        self.shown.setCurrentIndex(1 if what else 0)
        if what:
            self.compare.show_frame(frame, what)

    def _choose_file(self, media: str) -> None:
        name = next((m.name or m.path for m in self.session.project.document.lock.media if m.id == media), "")
        path, _ = QFileDialog.getOpenFileName(self.middle, f"Choose the file for {name}")
        if path:
            self.desk.lock_work.link_media(media, path)

    def _show_beginning(self, found: Beginning | None) -> None:
        """Let the well be seen while it shows how a movie begins, also where nothing is open yet."""
        self.sheet.setVisible(False)
        self.pages.setCurrentIndex(0 if found is None and self.session.project.doc is None else 1)
        if found is None:
            self.refresh()

    def refresh(self) -> None:
        doc = self.session.project.doc
        self.pages.setCurrentIndex(0 if doc is None else 1)
        work = self.desk.lock_work
        told = bool(work.carried) or work.conformed is not None
        analysis = self.session.media.analysis
        told = told or (analysis is not None and bool(len(analysis.damaged)))
        self.sheet.setVisible(doc is not None and (not doc.lock.flat or told or bool(doc.aside)))
        self.sheet.refresh()
        barred = bars_said(doc, analysis) if doc is not None and analysis is not None else ""
        self._barred.setText(barred)
        self._barred.setVisible(bool(barred))
        self.colours.refresh(doc)
        shown = (doc.lock, doc.masters, self.session.media.reader) if doc else None
        if shown == self._shown:
            return
        self._shown = shown
        clear(self._facts)
        self.masters.refresh(doc)
        for control in (*self.offers.values(), self.add_button, self.name_field, self.width_field, self.height_field):
            control.setEnabled(doc is not None)
        if doc is None:
            self._title.setText("No lock yet")
            self._where.setText("Facts about it will stand here.")
            return
        self._title.setText(doc.lock.name)
        where = doc.lock.file or doc.lock.media[0].path
        self._where.setText(Path(where).name)
        self._where.setToolTip(where)
        for row, (name, value) in enumerate(self._said(doc)):
            self._facts.addWidget(label(name, "soft"), row, 0, Qt.AlignmentFlag.AlignTop)
            self._facts.addWidget(label(value, selectable=True), row, 1)

    def _said(self, doc: Document) -> list[tuple[str, str]]:
        lock, reader = doc.lock, self.session.media.reader
        last = self.session.readings.timecode(lock.frames - 1)
        said = [
            ("Picture", f"{lock.width} × {lock.height}"),
            ("Rate", f"{lock.rate} frames a second"),
            ("Length", f"{lock.frames} frames, {float(lock.rate.seconds(lock.frames)):.2f} s"),
            ("First", self.session.readings.timecode(0)),
            ("Last", last),
        ]
        if not doc.lock.flat:
            tracks = len({c.track for c in lock.sounds})
            return [
                *said,
                ("Sound", "none" if not tracks else "1 track" if tracks == 1 else f"{tracks} tracks"),
                ("Layers", str(len(lock.layers))),
                ("Other rates", lock.rule),
            ]
        facts = reader.facts if reader is not None else None
        if facts is None:
            return [*said, ("Media", "cannot be read")]
        said.append(("Codec", f"{facts.codec}, {facts.pixel_format}"))
        if facts.rotation:
            said.append(("Turned", f"by {facts.rotation}°, shown upright"))
        if facts.pixel_aspect != 1:
            said.append(("Pixels", f"{float(facts.pixel_aspect):.4g} : 1, shown square"))
        if known_interlaced(facts):
            said.append(("Fields", "interlaced, shown deinterlaced"))
        if facts.tags.hdr:
            said.append(("Light", "HDR, " + ("PQ" if facts.tags.transfer == 16 else "HLG")))
        if not facts.steady:
            said.append(("Times", "uneven, laid on an even rate"))
        audio = facts.audio
        said.append(("Sound", f"{audio.codec}, {audio.channels} channels, {audio.rate} Hz" if audio else "none"))
        return said
