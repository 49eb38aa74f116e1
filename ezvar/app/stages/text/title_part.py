"""The part of the card that is there for a title: its lines, its design, and where it stands in the active master."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QDoubleSpinBox, QGridLayout, QSizePolicy, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit.colour_button import ColourButton
from ezvar.app.kit.controls import choice, fields, label, number
from ezvar.core.model import DESIGNS, Title

from .card import TextField
from .type_box import TypeBox

_KINDS = tuple((kind, kind) for kind in DESIGNS)
ACROSS = (("left", "at the left"), ("centre", "in the middle"), ("right", "at the right"))
DOWN = (
    ("top", "at the top"), ("middle", "half-way"), ("foot", "at the foot"), ("foot band", "below the picture"),
    ("top band", "above the picture"),
)  # fmt: skip
SIDES = (("above", "above"), ("below", "below"), ("left", "to the left"), ("right", "to the right"))
_MOVES = (("none", "at once"), ("fade", "fading"), ("rise", "rising"), ("slide", "sliding"), ("open", "opening"))


class TitlePart(QWidget):
    """Changes the present title as its fields are changed."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._work = desk.title_work
        self._filling = False
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        self.field = TextField()
        self.field.setAccessibleName("Lines of the title")
        self.field.setToolTip("One line below the other, the first the largest")
        self.field.textChanged.connect(self._typed)
        grid.addWidget(self.field, 0, 0, 1, 4)
        self._of = ""
        change = self._work.change_design
        self.kind = choice("Kind of title", _KINDS, lambda v: self._work.set_kind(v))
        self.family = TypeBox(
            desk.session.messages, lambda family, font, content: change(family=family, font=font, font_content=content)
        )
        self.across = choice("Which side", ACROSS, lambda v: change(across=v))
        self.down = choice("How high", DOWN, self._stand)
        self.beside = choice("What it stands beside", (), lambda _: self._stand_beside())
        self.side = choice("At which side of that", SIDES, lambda _: self._stand_beside())
        self.comes = choice("How it comes", _MOVES, lambda v: change(comes=v))
        self.goes = choice("How it goes", _MOVES, lambda v: change(goes=v))
        self.letters = self._number("Size of the first line", 1, 40, 1, " %", lambda v: change(size=v / 100))
        self.second = self._number("Size of the others beside it", 20, 200, 0, " %", lambda v: change(second=v / 100))
        self.margin = self._number("How far from the edge", 0, 45, 1, " %", lambda v: change(margin=v / 100))
        self.wide = self._number("How wide at most", 10, 100, 0, " %", lambda v: change(width=v / 100))
        self.angle = self._number("Turned, with the clock", -180, 180, 1, "°", lambda v: change(angle=v))
        self.shadow = self._number("Shadow", 0, 100, 0, " %", lambda v: change(shadow=v / 100))
        self.dense = self._number("How dense the bar is", 0, 100, 0, " %", lambda v: change(ground_opacity=v / 100))
        self.length = self._number("Frames to come and to go", 0, 250, 0, "", lambda v: change(frames=round(v)))
        self.across_by = self._number("Moved across, here", -100, 100, 1, " %", self._move_across)
        self.down_by = self._number("Moved down, here", -100, 100, 1, " %", self._move_down)
        self.colour = self._colour("Colour of the first line", "colour")
        self.bar = self._colour("Colour of the bar", "ground")
        for k, (said, widget) in enumerate(
            (("Kind", self.kind), ("Type", self.family), ("Side", self.across), ("Height", self.down),
             ("Beside", self.beside), ("Comes", self.comes), ("Goes", self.goes)), 1
        ):  # fmt: skip
            grid.addWidget(label(said, "soft"), k, 0)
            grid.addWidget(widget, k, 1, 1, 2 if widget is self.beside else 3)
        grid.addWidget(self.side, grid.rowCount() - 3, 3)
        fields(
            grid, 8,
            (("Size", self.letters), ("Others", self.second), ("Edge", self.margin), ("Width", self.wide),
             ("Turned", self.angle), ("Shadow", self.shadow), ("Dense", self.dense), ("Frames", self.length),
             ("Letters", self.colour), ("Bar", self.bar), ("Across", self.across_by), ("Down", self.down_by)),
        )  # fmt: skip

    def _stand(self, chosen: str) -> None:
        side, _, band = chosen.partition(" ")
        self._work.change_design(down=side, band=bool(band))

    def _stand_beside(self) -> None:
        self._work.stand_beside(self.beside.currentData(), self.side.currentData())

    def _typed(self) -> None:
        if not self._filling:
            self._work.set_lines(self.field.toPlainText())

    def _move_across(self, value: float) -> None:
        self._work.put(value / 100, self._work.stands().y, "across")

    def _move_down(self, value: float) -> None:
        self._work.put(self._work.stands().x, value / 100, "down")

    def _number(
        self, name: str, low: float, high: float, digits: int, suffix: str, changed: Callable[[float], object]
    ) -> QDoubleSpinBox:
        return number(name, low, high, digits, suffix, lambda v: None if self._filling else changed(v))

    def _colour(self, name: str, key: str) -> ColourButton:
        button = ColourButton(name, lambda colour: self._work.change_design(**{key: colour}))
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        return button

    def refresh(self) -> None:
        title = self._work.present
        self.setVisible(title is not None)
        if title is not None:
            self._filling = True
            self._fill(title)
            self._filling = False

    def _fill(self, title: Title) -> None:
        said = "\n".join(title.lines)
        if self._of != title.id or not self.field.hasFocus():
            if self.field.toPlainText() != said:
                self.field.setPlainText(said)
            self._of = title.id
        design, stands = title.design, self._work.stands()
        self.family.show_type(design.family, design.font)
        self.beside.clear()
        for item, called in (("", "nothing"), *self._work.others()):
            self.beside.addItem(called, item)
        beside = title.beside
        self.side.setEnabled(beside is not None)
        for box, chosen in (
            (self.beside, beside.item if beside is not None else ""),
            (self.side, beside.side if beside is not None else "above"),
            (self.kind, title.kind), (self.across, design.across),
            (self.down, f"{design.down} band" if design.band else design.down), (self.comes, design.comes),
            (self.goes, design.goes),
        ):  # fmt: skip
            box.setCurrentIndex(box.findData(chosen))
        for field, value in (
            (self.letters, 100 * design.size), (self.second, 100 * design.second), (self.margin, 100 * design.margin),
            (self.wide, 100 * design.width), (self.angle, design.angle), (self.shadow, 100 * design.shadow),
            (self.dense, 100 * design.ground_opacity), (self.length, design.frames), (self.across_by, 100 * stands.x),
            (self.down_by, 100 * stands.y),
        ):  # fmt: skip
            if not field.hasFocus():
                field.setValue(value)
        self.colour.show_colour(design.colour)
        self.bar.show_colour(design.ground)
