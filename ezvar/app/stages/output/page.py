"""The output stage: make the masters, see them made, read what their check says."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QProgressBar, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit.controls import keyed, label, rule
from ezvar.app.session.jobs import Job
from ezvar.core.model import Master
from ezvar.core.names import readable
from ezvar.core.output import Delivery, Made, deliveries, make_delivery, output_name

from ..base import Stage

_SAID = (
    "H.264 in MP4, with AAC sound where the lock has sound. Size from the master, rate from the lock. "
    "Every movie is opened and checked after it is made."
)


def _short(path: Path) -> str:
    """A path as people write it: the home folder is ~."""
    return readable(f"~/{path.relative_to(Path.home())}" if path.is_relative_to(Path.home()) else path)


@dataclass
class _Row:
    """A delivery's place on the sheet."""

    widget: QWidget
    head: str
    said: QWidget
    bar: QProgressBar
    stop: QPushButton
    job: Job | None = None
    words: list[str] = field(default_factory=list)


class OutputStage(Stage):
    """Making the finished movies, one after the other."""

    name = "Output"

    def __init__(self, session: Desk, run: Callable[[str], object]) -> None:
        super().__init__(session, run)
        self.folder: Path | None = None
        self._queue: list[str] = []
        self._rows: dict[str, _Row] = {}
        self.made: dict[str, Made] = {}
        self.failed: dict[str, str] = {}
        area = QScrollArea()
        area.setWidgetResizable(True)
        sheet = QWidget()
        sheet.setObjectName("paper")
        sheet.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        area.setWidget(sheet)
        self.middle = area
        self._column = QVBoxLayout(sheet)
        self._column.setContentsMargins(28, 22, 28, 22)
        self._column.setSpacing(10)
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
        self._buttons = [self.button("output.make", main=True), self.button("output.make_all")]
        self.card.add(*self._buttons)
        self.card.column.addStretch(1)
        session.opened.connect(self._forget)

    def _forget(self) -> None:
        self.made.clear()
        self.failed.clear()
        self.folder = None

    def _choose(self) -> bool:
        start = str(self.folder or Path(self.session.document.lock.media[0].path).parent)
        chosen = QFileDialog.getExistingDirectory(self.middle, "Where to make the masters", start)
        if chosen:
            self.folder = Path(chosen)
        self.refresh()
        return bool(chosen)

    def target(self) -> Path:
        """The folder that masters go to: the one chosen, or one beside the project or the lock."""
        if self.folder is not None:
            return self.folder
        beside = self.session.path or Path(self.session.document.lock.media[0].path)
        base = beside.parent if os.access(beside.parent, os.W_OK) and self.session.path else Path.home()
        return base / "Ezvar masters"

    def make(self, masters: tuple[Master, ...]) -> None:
        """Make masters or their ranges one after the other; those under way or waiting are left alone."""
        self.refresh()  # a master added a moment ago has its row from now on
        for key in (delivery.key for master in masters for delivery in deliveries(master)):
            row = self._rows.get(key)
            if key not in self._queue and (row is None or row.job is None):
                self.made.pop(key, None)
                self.failed.pop(key, None)
                self._queue.append(key)
        self._next()
        self.refresh()

    def _next(self) -> None:
        if not self._queue or any(row.job for row in self._rows.values()):
            return
        key = self._queue.pop(0)
        doc = self.session.document
        delivery = next((d for d in self._deliveries() if d.key == key), None)
        if delivery is None or key not in self._rows:
            self._next()
            return
        folder = self.target()

        def done(made: Made) -> None:
            self.made[key] = made

        def failed(message: str) -> None:
            self.failed[key] = message

        self._rows[key].job = self.session.jobs.start(
            f"Making {delivery.name}",
            lambda progress, cancel: make_delivery(doc, delivery, folder, progress=progress, cancel=cancel),
            done,
            failed,
            lambda: failed("Stopped, nothing was left behind."),
            lambda: self._ended(key),
        )

    def _deliveries(self) -> tuple[Delivery, ...]:
        return tuple(d for m in self.session.doc.masters for d in deliveries(m)) if self.session.doc else ()

    def _ended(self, key: str) -> None:
        if key in self._rows:
            self._rows[key].job = None
        self._next()
        self.refresh()

    def refresh(self) -> None:
        doc = self.session.doc
        wanted = self._deliveries()
        self._empty.setVisible(not wanted)
        for button in self._buttons:
            button.setEnabled(bool(wanted) and self.session.reader is not None)
        self._where.setText(_short(self.target()) if doc else "")
        heads = [(d.key, self._head(d)) for d in wanted]
        if [(key, row.head) for key, row in self._rows.items()] != heads:
            self._lay_out(wanted)
        for delivery in wanted:
            self._say(delivery)

    def _head(self, delivery: Delivery) -> str:
        master, part = delivery.master, delivery.part
        head = f"{delivery.name}     {master.width} × {master.height}"
        return f"{head}     {self.session.timecode(part.start)} to {self.session.timecode(part.end)}" if part else head

    def _lay_out(self, wanted: tuple[Delivery, ...]) -> None:
        old, self._rows = self._rows, {}
        for key, gone in old.items():
            if gone.job is not None and key not in {d.key for d in wanted}:
                gone.job.cancel()
            gone.widget.deleteLater()
        for delivery in wanted:
            key, name, head = delivery.key, delivery.name, self._head(delivery)
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
            stop.clicked.connect(lambda _, key=key: self._stop(key))
            line.addWidget(bar, 1)
            line.addWidget(stop)
            column.addLayout(line)
            column.addWidget(rule())
            self._column.insertWidget(self._column.count() - 1, sheet)
            job = old[key].job if key in old else None
            self._rows[key] = _Row(sheet, head, said, bar, stop, job)

    def _stop(self, key: str) -> None:
        if (job := self._rows[key].job) is not None:
            job.cancel()
        elif key in self._queue:
            self._queue.remove(key)
            self.refresh()

    def _say(self, delivery: Delivery) -> None:
        key, doc = delivery.key, self.session.document
        row = self._rows[key]
        busy = row.job is not None
        row.bar.setVisible(busy)
        row.stop.setVisible(busy or key in self._queue)
        words = f"{output_name(doc, delivery)}: not made yet."
        kind = "soft"
        if row.job is not None:
            row.bar.setValue(round(row.job.fraction * 1000))
            words = f"{row.job.message}, {row.job.fraction:.0%} {row.job.time_left()}".replace("%", " %")
        elif key in self._queue:
            words = "Waiting for its turn."
        elif key in self.failed:
            words, kind = self.failed[key], "problem"
        elif (made := self.made.get(key)) is not None:
            if made.problems:
                words, kind = " ".join([f"{_short(made.path)}:", *made.problems]), "problem"
            else:
                words = f"{_short(made.path)}: {made.frames} frames, checked, all as it should be."
        if row.said.objectName() != kind:
            row.said.setObjectName(kind)
            row.said.style().polish(row.said)  # type: ignore[union-attr]
        row.said.setText(words)  # type: ignore[attr-defined]
