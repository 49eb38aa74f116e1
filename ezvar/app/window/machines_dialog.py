"""Who does the work: this machine, more processes on it, or the machines of a scheduler."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QRadioButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.kit import theme
from ezvar.app.kit.controls import keyed, label
from ezvar.app.session.jobs import Job, Jobs
from ezvar.core.errors import EzvarError
from ezvar.core.machines import HERE, Machine, Way, described, reached, unprotected

_MOST = 64


class MachinesDialog(QDialog):
    """Chooses machines. ``address``, ``paths`` and ``then_here`` are what was chosen once it is accepted."""

    def __init__(self, parent: QWidget, jobs: Jobs, address: str, paths: tuple[str, ...], then_here: bool) -> None:
        super().__init__(parent)
        self._jobs = jobs
        self._trying: Job | None = None
        self.setWindowTitle("Machines")
        self.resize(theme.px(520), theme.px(460))
        column = QVBoxLayout(self)
        column.setSpacing(8)
        column.addWidget(label("Reading the lock, making movies and checking them are done by:", "soft"))
        self.alone = QRadioButton("This machine")
        self.processes = QRadioButton("Workers on this machine")
        self.others = QRadioButton("The machines of a Dask scheduler")
        self.number, self.field = QSpinBox(), QLineEdit()
        self.number.setRange(1, _MOST)
        self.number.setAccessibleName("Number of workers on this machine")
        self.field.setPlaceholderText("tcp://host:8786")
        self.field.setAccessibleName("Address of the scheduler")
        self.paths_field = QPlainTextEdit("\n".join(paths))
        self.paths_field.setAccessibleName("Beginnings of paths on other machines")
        self.paths_field.setPlaceholderText("/media/rushes=/mnt/rushes")
        self.paths_field.setTabChangesFocus(True)
        self.goes_on = QCheckBox("Go on on this machine where the others fail")
        self.goes_on.setChecked(then_here)
        form = QFormLayout()
        form.addRow(self.alone)
        form.addRow(self.processes, self.number)
        form.addRow(self.others, self.field)
        column.addLayout(form)
        column.addWidget(label("Paths that are called otherwise there, one a line, as here=there:", "soft"))
        column.addWidget(self.paths_field, 1)
        column.addWidget(self.goes_on)
        self.said = label("", "soft")
        self.said.setAccessibleName("What was found")
        column.addWidget(self.said)
        self.try_them = QPushButton("Try them")
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        self.buttons.addButton(self.try_them, QDialogButtonBox.ButtonRole.ActionRole)
        column.addWidget(self.buttons)
        self._show(address)
        for choice in (self.alone, self.processes, self.others):
            choice.toggled.connect(self._refresh)
        self.field.textEdited.connect(lambda _: self.others.setChecked(True))
        self.field.textChanged.connect(self._refresh)
        self.number.valueChanged.connect(lambda _: self.processes.setChecked(True))
        self.try_them.clicked.connect(self._try)
        self.buttons.accepted.connect(self._accept)
        self.buttons.rejected.connect(self.reject)
        self.finished.connect(lambda _: jobs.stop(self._trying))
        for button in self.findChildren(QPushButton):
            keyed(button)
        self._refresh()

    @property
    def address(self) -> str:
        if self.processes.isChecked():
            return f"{HERE}:{self.number.value()}"
        return self.field.text().strip() if self.others.isChecked() else ""

    @property
    def paths(self) -> tuple[str, ...]:
        return tuple(line.strip() for line in self.paths_field.toPlainText().splitlines() if line.strip())

    @property
    def then_here(self) -> bool:
        return self.goes_on.isChecked()

    def _show(self, address: str) -> None:
        kind, _, number = address.partition(":")
        chosen = self.processes if kind == HERE else self.others if address else self.alone
        chosen.setChecked(True)
        if kind == HERE:
            self.number.setValue(int(number) if number.isdecimal() else 2)
        else:
            self.number.setValue(2)
            self.field.setText(address)

    def _refresh(self, *_: object) -> None:
        away = not self.alone.isChecked()
        self.try_them.setEnabled(away and self._trying is None)
        self.goes_on.setEnabled(away)
        self._say("doubt", unprotected(self.address, by_name=False) if self.others.isChecked() else "")

    def _ways(self) -> list[Way] | None:
        """What the paths say; told where they cannot be understood."""
        try:
            return [Way.parse(line) for line in self.paths]
        except EzvarError as error:
            self._say("problem", str(error))
            return None

    def _try(self) -> None:
        ways, address = self._ways(), self.address
        if ways is None:
            return
        self._say("soft", "Looking for them…")
        self._trying = self._jobs.start(
            "Looking for machines",
            lambda _, cancel: (reached(address, ways, cancel), unprotected(address)), self._found,
            lambda said: self._say("problem", said), ended=self._tried, shown=False,
        )  # fmt: skip
        self.try_them.setEnabled(False)

    def _found(self, found: tuple[list[Machine], str]) -> None:
        machines, warning = found
        doubtful = warning or any(machine.refused for machine in machines)
        self._say("doubt" if doubtful else "soft", f"{described(machines)} {warning}".strip())

    def _tried(self) -> None:
        self._trying = None
        self.try_them.setEnabled(not self.alone.isChecked())

    def _say(self, kind: str, text: str) -> None:
        self.said.setText(text)
        self.said.setVisible(bool(text))
        self.said.setObjectName(kind)
        self.said.style().polish(self.said)  # type: ignore[union-attr]

    def _accept(self) -> None:
        if self._ways() is None:
            return
        if self.others.isChecked() and not self.address:
            self._say("problem", "Write the address of a scheduler, or choose this machine.")
            return
        self.accept()
