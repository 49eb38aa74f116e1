"""The part of the card that is there for a layer of the lock: to what it is anchored, and where it stands."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QDoubleSpinBox, QGridLayout, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit.controls import choice, fields, label, number
from ezvar.core.text import SAFE

from .title_part import ACROSS, DOWN, SIDES

_ACROSS = (("", "as in the edit"), *ACROSS)
_DOWN = (("", "as in the edit"), *DOWN)


class LayerPart(QWidget):
    """Changes to what the present layer is anchored in all masters, and where it stands in the active one."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        work = self._work = desk.title_work
        self._filling = False
        self.across = choice("Which side of the frame", _ACROSS, lambda v: work.anchor(across=v or None))
        self.down = choice("How high in the frame", _DOWN, self._stand)
        self.beside = choice("What the layer stands beside", (), lambda _: self._stand_beside())
        self.side = choice("At which side", SIDES, lambda _: self._stand_beside())
        self.margin = self._number("How far from there", 0, lambda v: work.anchor(margin=v / 100))
        self.across_by = self._number("Moved across in this master", -100, self._move_across)
        self.down_by = self._number("Moved down in this master", -100, self._move_down)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        for k, (said, widget) in enumerate((("Side", self.across), ("Height", self.down), ("Beside", self.beside))):
            grid.addWidget(label(said, "soft"), k, 0)
            grid.addWidget(widget, k, 1, 1, 2 if widget is self.beside else 3)
        grid.addWidget(self.side, 2, 3)
        fields(grid, 3, (("Edge", self.margin),))
        fields(grid, 4, (("Across", self.across_by), ("Down", self.down_by)))

    def _number(self, name: str, low: float, changed: Callable[[float], object]) -> QDoubleSpinBox:
        high = 45 if low == 0 else 100
        return number(name, low, high, 1, " %", lambda v: None if self._filling else changed(v))

    def _stand(self, chosen: str) -> None:
        side, _, band = chosen.partition(" ")
        self._work.anchor(down=side or None, band=bool(band))

    def _stand_beside(self) -> None:
        self._work.stand_beside(self.beside.currentData(), self.side.currentData())

    def _move_across(self, value: float) -> None:
        self._work.put(value / 100, self._work.stands().y, "across")

    def _move_down(self, value: float) -> None:
        self._work.put(self._work.stands().x, value / 100, "down")

    def refresh(self) -> None:
        """Show how the present layer stands; nothing where there is none."""
        self._filling = True
        work, anchoring, stands = self._work, self._work.anchoring(), self._work.stands()
        self.beside.clear()
        for item, called in (("", "nothing"), *work.others()):
            self.beside.addItem(called, item)
        beside = anchoring.beside
        self.side.setEnabled(beside is not None)
        for box, chosen in (
            (self.across, anchoring.across or ""),
            (self.down, f"{anchoring.down} band" if anchoring.band else anchoring.down or ""),
            (self.beside, beside.item if beside is not None else ""),
            (self.side, beside.side if beside is not None else "above"),
        ):
            box.setCurrentIndex(box.findData(chosen))
        margin = SAFE if anchoring.margin is None else anchoring.margin
        for field, value in ((self.margin, margin), (self.across_by, stands.x), (self.down_by, stands.y)):
            if not field.hasFocus():
                field.setValue(100 * value)
        self._filling = False
