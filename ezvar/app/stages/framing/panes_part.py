"""The panes of a framing: their arrangement, what is between them, and a row for each."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QPushButton,
    QRadioButton,
    QSpinBox,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.background.desk import Desk
from ezvar.app.background.panes_work import ONE_PANE
from ezvar.app.kit.colour_button import ColourButton
from ezvar.app.kit.controls import clear, fields, label, spin
from ezvar.core.errors import EzvarError
from ezvar.core.framing import ARRANGEMENTS
from ezvar.core.model import Arrangement, Framing

_FILES = "Arrangements of panes (*.json);;All files (*)"


class PanesPart(QWidget):
    """Changes show at once; arrangements are kept for the user, and go out and come in as files."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        session = desk.session
        self._session, self._work, self._showing = session, desk.panes_work, False
        self._known: tuple[Arrangement, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(label("Panes", "heading"))
        self.arrangement = QComboBox()
        self.arrangement.setAccessibleName("Arrangement of panes")
        self.arrangement.activated.connect(self._choose)
        column.addWidget(self.arrangement)
        self.keep, self.forget = self._button("Keep as…", self._keep), self._button("Forget", self._forget)
        self.take, self.give = self._button("Take in…", self._take), self._button("Give out…", self._give)
        keeping = QHBoxLayout()
        keeping.setSpacing(4)
        for button in (self.keep, self.forget, self.take, self.give):
            keeping.addWidget(button)
        column.addLayout(keeping)
        self.gap, self.border = spin(0, 20, 1, " %"), spin(0, 10, 1, " %")
        self.colour = ColourButton("Colour between panes", lambda c: self._space(colour=c))
        self.sound = QComboBox()
        self.sound.setAccessibleName("Sound")
        self.sound.activated.connect(lambda k: self._work.hear(k - 1))
        grid = QGridLayout()
        fields(grid, 0, (("Gap", self.gap), ("Border", self.border), ("Colour", self.colour), ("Sound", self.sound)))
        self.gap.setAccessibleName("Gap between panes")
        self.gap.valueChanged.connect(lambda value: self._space(gap=value / 100))
        self.border.setAccessibleName("Border around panes")
        self.border.valueChanged.connect(lambda value: self._space(border=value / 100))
        column.addLayout(grid)
        self._rows = QGridLayout()
        self._rows.setColumnStretch(1, 1)
        column.addLayout(self._rows)
        self._chosen = QButtonGroup(self)
        self.panes: list[QRadioButton] = []
        self.shots: list[QSpinBox] = []
        self.later: list[QToolButton] = []
        self._load()

    def _button(self, text: str, run: Callable[[], None]) -> QPushButton:
        made = QPushButton(text)
        made.clicked.connect(lambda: self._doing(run))
        return made

    def _doing(self, run: Callable[[], object]) -> None:
        """Do what reads or writes files, and say what goes wrong."""
        try:
            run()
        except (EzvarError, ValueError) as error:
            self._session.messages.say_problem(str(error))

    # Arrangements

    def _load(self) -> None:
        self._known = ARRANGEMENTS
        self._doing(self._read)
        self.arrangement.clear()
        self.arrangement.addItems([ONE_PANE, *(a.name for a in self._known)])

    def _read(self) -> None:
        self._known = self._work.arrangements()

    def _choose(self, place: int) -> None:
        self._work.arrange(self._known[place - 1] if place else None)
        self._again()  # it shows what is, until the other is there

    def _keep(self) -> None:
        name, given = QInputDialog.getText(self, "Keep the arrangement", "Under the name:")
        if given and name.strip():
            self._work.keep_arrangement(name.strip())
            self._load()
            self._again()

    def _forget(self) -> None:
        self._work.forget_arrangement(self.arrangement.currentText())
        self._load()
        self._again()

    def _take(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Take arrangements in", "", _FILES)
        if path:
            count = self._work.take_arrangements(path)
            self._load()
            self._again()
            self._session.messages.say(f"{count} arrangement{'s' if count > 1 else ''} taken in.")

    def _give(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Give your arrangements out", "arrangements.json", _FILES)
        if path:
            self._work.give_arrangements(path)

    def _again(self) -> None:
        if self._session.at.framing is not None:
            self.refresh(self._session.at.framing)

    def _space(self, **changes: object) -> None:
        if not self._showing:
            self._work.space(**changes)

    # Rows

    def refresh(self, framing: Framing) -> None:
        self._showing = True
        used, count = framing.arrangement, len(framing.panes)
        names = [ONE_PANE, *(a.name for a in self._known)]
        name = used.name if used else ONE_PANE
        self.arrangement.setCurrentIndex(names.index(name) if name in names else -1)
        self.arrangement.setPlaceholderText(name)
        for widget in (self.gap, self.border, self.colour, self.keep, self.sound):
            widget.setEnabled(used is not None)
        self.gap.setValue(100 * used.gap if used else 0)
        self.border.setValue(100 * used.border if used else 0)
        self.colour.show_colour(used.colour if used else "#000000")
        own = {a.name for a in self._known[len(ARRANGEMENTS) :]}
        self.forget.setEnabled(name in own)
        self.give.setEnabled(bool(own))
        self.sound.clear()
        self.sound.addItems(["the lock's", *(f"pane {k + 1}'s shot" for k in range(count if used else 0))])
        self.sound.setCurrentIndex(framing.sound + 1)
        if len(self.panes) != (count if count > 1 else 0):
            self._make_rows(count if count > 1 else 0)
        doc = self._session.project.document
        for k, (pane, row, shot) in enumerate(zip(framing.panes, self.panes, self.shots, strict=False)):
            row.setChecked(k == self._session.at.pane_number)
            shot.setMaximum(len(doc.shots))
            shot.setValue(doc.place_of(pane.shot) + 1 if any(s.id == pane.shot for s in doc.shots) else 0)
        self._showing = False

    def _make_rows(self, count: int) -> None:
        clear(self._rows)
        for row in self.panes:
            self._chosen.removeButton(row)
        self.panes, self.shots, self.later = [], [], []
        for k in range(count):
            pane, shot, later = QRadioButton(f"Pane {k + 1} shows"), QSpinBox(), QToolButton()
            pane.clicked.connect(lambda _, k=k: self._session.at.choose_pane(k))
            pane.setToolTip("Choose the pane that is worked on")
            shot.setPrefix("shot ")
            shot.setSpecialValueText("this shot")
            shot.setKeyboardTracking(False)
            shot.setAccessibleName(f"Shot in pane {k + 1}")
            shot.valueChanged.connect(lambda place, k=k: self._show(k, place))
            later.setText("Swap")
            later.setToolTip("Swap with the next pane")
            later.setAccessibleName(f"Swap pane {k + 1} with the next")
            later.clicked.connect(lambda _, k=k: self._work.swap(k, k + 1))
            later.setVisible(k < count - 1)
            self._chosen.addButton(pane)
            for column, widget in enumerate((pane, shot, later)):
                self._rows.addWidget(widget, k, column)
            self.panes.append(pane)
            self.shots.append(shot)
            self.later.append(later)

    def _show(self, number: int, place: int) -> None:
        if not self._showing:
            self._work.show(number, self._session.project.document.shots[place - 1].id if place else "")
