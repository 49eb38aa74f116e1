"""The one place where work under way is shown, with time left and a way to stop it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from ezvar.app.kit import theme
from ezvar.app.kit.controls import keyed
from ezvar.app.session.jobs import Job, Jobs
from ezvar.core.machines import Machine, counted, doings

_MOMENT = 0.7  # seconds
_WORDS = 222  # pixels that a job's words may take
_LINES = 4  # of what machines do; the rest is in the tip


class JobsPanel(QFrame):
    """Up to three jobs at the foot of the card's column; hidden when nothing is under way."""

    def __init__(self, jobs: Jobs, machines: Callable[[], list[Machine]] = list) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setFixedWidth(theme.px(252))
        self._jobs, self._machines = jobs, machines
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(14, 8, 14, 10)
        self._column.setSpacing(6)
        self.others = QLabel()
        self.others.setObjectName("soft")
        self.others.setAccessibleName("Machines at work")
        self.others.hide()
        self._column.addWidget(self.others)
        self._rows: dict[Job, tuple[QWidget, QLabel, QProgressBar]] = {}
        jobs.changed.connect(self.refresh)
        self._timer = QTimer(self)
        self._timer.setInterval(250)
        self._timer.timeout.connect(self.refresh)
        self.hide()

    def refresh(self) -> None:
        """Show what has been under way for a moment; what is done at once does not flicker by."""
        long = [j for j in self._jobs.running if j.seconds_gone() > _MOMENT][:3]
        if bool(self._jobs.running) != self._timer.isActive():
            (self._timer.start if self._jobs.running else self._timer.stop)()
        for job in [j for j in self._rows if j not in long]:
            self._rows.pop(job)[0].deleteLater()
        for job in long:
            if job not in self._rows:
                self._rows[job] = self._row(job)
            _, words, bar = self._rows[job]
            left = job.time_left()
            text = f"{job.message}{', ' + left if left else ''}"
            words.setText(words.fontMetrics().elidedText(text, Qt.TextElideMode.ElideMiddle, _WORDS))
            words.setToolTip(text)
            bar.setValue(round(job.fraction * 1000))
        self._show_machines()
        self.setVisible(bool(self._rows))

    def _show_machines(self) -> None:
        """How many machines work for this one, and what each does."""
        machines = self._machines()
        self.others.setVisible(bool(machines))
        if machines:
            lines = [counted(machines), *doings(machines)]
            shown = lines if len(lines) <= _LINES else [*lines[: _LINES - 1], f"and {len(lines) - _LINES + 1} more"]
            fits = self.others.fontMetrics()
            self.others.setText("\n".join(fits.elidedText(x, Qt.TextElideMode.ElideRight, _WORDS) for x in shown))
            self.others.setToolTip("\n".join(lines))

    def _row(self, job: Job) -> tuple[QWidget, QLabel, QProgressBar]:
        row = QWidget()
        column = QVBoxLayout(row)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        words = QLabel()
        bar = QProgressBar()
        bar.setRange(0, 1000)
        bar.setTextVisible(False)
        bar.setFixedHeight(6)
        stop = QPushButton("Stop")
        keyed(stop)
        stop.setAccessibleName(f"Stop: {job.title}")
        stop.clicked.connect(job.cancel)
        line = QHBoxLayout()
        line.addWidget(bar, 1)
        line.addWidget(stop)
        column.addWidget(words)
        column.addLayout(line)
        self._column.addWidget(row)
        return row, words, bar
