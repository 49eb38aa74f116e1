"""The output stage: make the masters, see them made, read what their check says."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QProgressBar, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ezvar.app.commands import Workbench
from ezvar.app.kit.controls import keyed, label, paper, rule
from ezvar.core.model import Row
from ezvar.core.names import readable
from ezvar.core.output import row_names, told_as

from ..stage import Page
from . import commands
from .commands import OutputTools
from .making import Making

_SAID = (
    "H.264 in MP4, with AAC sound where the lock has sound. Size from the master, rate from the lock. "
    "Every movie is opened and checked after it is made."
)


def _short(path: Path) -> str:
    """A path as people write it: the home folder is ~."""
    return readable(f"~/{path.relative_to(Path.home())}" if path.is_relative_to(Path.home()) else path)


@dataclass
class _Row:
    """The place of a movie that is made on the sheet."""

    widget: QWidget
    head: str
    said: QWidget
    bar: QProgressBar
    stop: QPushButton


class OutputPage(Page[OutputTools]):
    """Making the finished movies, one after the other."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self.making = Making(self.session)
        self.tools = OutputTools(bench, self.making, self.show)
        self._rows: dict[str, _Row] = {}
        area = QScrollArea()
        area.setWidgetResizable(True)
        sheet, self._column = paper((28, 22, 28, 22), 10)
        area.setWidget(sheet)
        self.middle = area
        self._column.addWidget(label("Masters to make", "title"))
        self._empty = label("There is no master yet. Choose the shapes to deliver in the lock stage.", "soft")
        self._column.addWidget(self._empty)
        self._column.addStretch(1)
        self._title = label("Output", "title")
        self._where = label("", "soft")
        choose = QPushButton("Choose the folder…")
        choose.clicked.connect(self._choose)
        self.card.add(
            self._title,
            label(_SAID),
            rule(), label("Folder", "heading"), self._where, choose, rule(),
        )  # fmt: skip
        self.card.add(self.button(commands.make, main=True), self.button(commands.make_all))
        self.card.column.addStretch(1)
        self.making.changed.connect(self.refresh)
        self.session.jobs.changed.connect(lambda: self.refresh() if self.is_shown else None)

    def _choose(self) -> None:
        start = str(self.making.folder or Path(self.session.project.document.lock.media[0].path).parent)
        chosen = QFileDialog.getExistingDirectory(self.middle, "Where to make the masters", start)
        if chosen:
            self.making.folder = Path(chosen)
        self.refresh()

    def refresh(self) -> None:
        doc = self.session.project.doc
        wanted = self.making.rows()
        self._empty.setVisible(not wanted)
        self._where.setText(_short(self.making.target()) if doc else "")
        heads = [(row.id, self._head(row)) for row in wanted]
        if [(key, row.head) for key, row in self._rows.items()] != heads:
            self._lay_out(wanted)
        for row, name in zip(wanted, row_names(doc, wanted) if doc else (), strict=True):
            self._say(row, name.name)

    def _head(self, row: Row) -> str:
        doc, readings = self.session.project.document, self.session.readings
        master = doc.master(row.master)
        head = f"{told_as(doc, row)}     {master.width} × {master.height}"
        if not row.label:
            return head
        return f"{head}     {readings.timecode(row.start)} to {readings.timecode(row.end)}"

    def _lay_out(self, wanted: list[Row]) -> None:
        for gone in self._rows.values():
            gone.widget.deleteLater()
        self._rows = {}
        for each in wanted:
            key, name, head = each.id, told_as(self.session.project.document, each), self._head(each)
            sheet = QWidget()
            column = QVBoxLayout(sheet)
            column.setContentsMargins(0, 6, 0, 0)
            column.setSpacing(5)
            column.addWidget(label(head, "heading"))
            said = label("", "soft", selectable=True)
            column.addWidget(said)
            line = QHBoxLayout()
            bar = QProgressBar()
            bar.setTextVisible(False)
            bar.setRange(0, 1000)
            bar.setFixedHeight(8)
            bar.setAccessibleName(f"Progress of {name}")
            stop = QPushButton("Stop")
            keyed(stop)
            stop.setAccessibleName(f"Stop making {name}")
            stop.clicked.connect(lambda _, key=key: self.making.stop(key))
            line.addWidget(bar, 1)
            line.addWidget(stop)
            column.addLayout(line)
            column.addWidget(rule())
            self._column.insertWidget(self._column.count() - 1, sheet)
            self._rows[key] = _Row(sheet, head, said, bar, stop)

    def _say(self, of: Row, name: str) -> None:
        key = of.id
        row, making = self._rows[key], self.making
        job = making.job_of(key)
        row.bar.setVisible(job is not None)
        row.stop.setVisible(job is not None or making.is_waiting(key))
        words = f"{name}: not made yet."
        kind = "soft"
        if job is not None:
            row.bar.setValue(round(job.fraction * 1000))
            words = f"{job.message}, {job.fraction:.0%} {job.time_left()}".replace("%", " %")
        elif making.is_waiting(key):
            words = "Waiting for its turn."
        elif key in making.failed:
            words, kind = making.failed[key], "problem"
        elif (made := making.made.get(key)) is not None:
            if made.problems:
                words, kind = " ".join([f"{_short(made.path)}:", *made.problems]), "problem"
            else:
                words = f"{_short(made.path)}: {made.frames} frames, checked, all as it should be."
        if row.said.objectName() != kind:
            row.said.setObjectName(kind)
            row.said.style().polish(row.said)  # type: ignore[union-attr]
        row.said.setText(words)  # type: ignore[attr-defined]
