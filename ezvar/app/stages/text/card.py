"""The card of the text stage: the caption's text and time, and how its track looks in the active master."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QGridLayout, QPlainTextEdit, QSizePolicy, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.kit.colour_button import ColourButton
from ezvar.app.kit.controls import choice, fields, label, number
from ezvar.core.errors import EzvarError
from ezvar.core.model import CaptionStyle, ZoneProfile
from ezvar.core.text import known_zones, shipped_zones, tagged, zones_for

from .type_box import TypeBox

_GROUNDS = (("none", "none"), ("lines", "behind each line"), ("block", "one block"))
_DOWN = (
    ("foot", "from the foot"), ("top", "from the top"), ("middle", "in the middle"),
    ("foot band", "below the picture"), ("top band", "above the picture"),
)  # fmt: skip
"""Where captions stand; in the free band below or above the picture where that is shown whole."""
_ACROSS = (("centre", "middle"), ("left", "left"), ("right", "right"))


class TextField(QPlainTextEdit):
    """The caption's text. Escape gives the keys back to the window."""

    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Text of the caption")
        self.setFixedHeight(theme.px(64))
        self.setTabChangesFocus(True)
        self.setToolTip("Words between <i> and </i> are slanted, between <b> and </b> bold")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.clearFocus()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.left.emit()

    def letter(self) -> int:
        """Before which letter of its text the cursor stands."""
        return self.textCursor().position()


class TextPart(QWidget):
    """The present caption's text, to be written in."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        column = QGridLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.field = TextField()
        self.field.textChanged.connect(self._typed)
        column.addWidget(self.field, 0, 0)
        self._of = ""
        self._filling = False

    def _typed(self) -> None:
        if not self._filling:
            self._desk.text_work.type(self.field.toPlainText())

    def refresh(self) -> None:
        present = self._desk.text_work.present
        self.field.setEnabled(present is not None and not present[0].locked)
        said = tagged(present[1].spans, entities=False) if present else ""
        of = present[1].id if present else ""
        if of == self._of and self.field.hasFocus():
            return  # what is being typed is not put right under the fingers
        self._of = of
        if self.field.toPlainText() != said:
            self._filling = True
            self.field.setPlainText(said)
            self._filling = False


class LookPart(QWidget):
    """How the track looks in the active master."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._filling = False
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        self.letters = self._number("Size of the letters", 1, 30, 1, " %", lambda v: {"size": v / 100})
        self.margin = self._number("How far from the edge", 0, 90, 1, " %", lambda v: {"margin": v / 100})
        self.outline = self._number("Outline", 0, 40, 0, " %", lambda v: {"outline": v / 100})
        self.shadow = self._number("Shadow", 0, 100, 0, " %", lambda v: {"shadow": v / 100})
        self.opacity = self._number("How dense the ground is", 0, 100, 0, " %", lambda v: {"ground_opacity": v / 100})
        self.lines = self._number("Lines at most", 1, 3, 0, "", lambda v: {"lines": round(v)})
        self.apart = self._number("From line to line", 0.8, 3, 2, "", lambda v: {"line_spacing": v})
        self.spaced = self._number("Between letters", -10, 100, 0, " %", lambda v: {"letter_spacing": v / 100})
        self.family = TypeBox(
            desk.session.messages,
            lambda family, font, content: desk.text_work.change_style(family=family, font=font, font_content=content),
        )
        self.weight = self._choice("Weight", [(True, "bold"), (False, "regular")], "bold")
        self.ground = self._choice("Ground", _GROUNDS, "ground")
        self.down = self._choice("Stands", _DOWN, "down")
        self.across = self._choice("Set", _ACROSS, "across")
        self.colour, self.dark = (
            self._colour("Colour of the letters", "colour"),
            self._colour("Of the ground", "ground_colour"),
        )
        self.zones = QComboBox()
        self.zones.setAccessibleName("Overlay zones of the master")
        self.zones.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.zones.activated.connect(self._choose_zones)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("Size", self.letters), ("Weight", self.weight), ("Lines", self.lines), ("Edge", self.margin),
            ("Apart", self.apart), ("Spaced", self.spaced), ("Outline", self.outline), ("Shadow", self.shadow),
            ("Letters", self.colour), ("Ground", self.dark),
        )  # fmt: skip
        fields(grid, 0, rows)
        whole: tuple[tuple[str, QWidget], ...] = (
            ("Ground", self.ground), ("Dense", self.opacity), ("Type", self.family), ("Stands", self.down),
            ("Set", self.across), ("Zones", self.zones),
        )  # fmt: skip
        for k, (said, widget) in enumerate(whole, len(rows)):
            grid.addWidget(label(said, "soft"), k, 0)
            grid.addWidget(widget, k, 1, 1, 3)

    def _number(
        self, name: str, low: float, high: float, digits: int, suffix: str, values: Callable[[float], dict[str, float]]
    ) -> QDoubleSpinBox:
        return number(
            name, low, high, digits, suffix,
            lambda v: None if self._filling else self._desk.text_work.change_style(**values(v)),
        )  # fmt: skip

    def _choice(self, name: str, choices: Sequence[tuple[object, str]], key: str) -> QComboBox:
        def chosen(value: Any) -> None:
            if key == "down":
                side, _, band = value.partition(" ")
                self._desk.text_work.change_style(down=side, band=bool(band))
            else:
                self._desk.text_work.change_style(**{key: value})

        return choice(name, choices, chosen)

    def _colour(self, name: str, key: str) -> ColourButton:
        button = ColourButton(name, lambda colour: self._desk.text_work.change_style(**{key: colour}))
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        return button

    def _choose_zones(self) -> None:
        self._desk.text_work.set_zones(self.zones.currentData())

    def refresh(self) -> None:
        style = self._desk.text_work.style()
        self.setVisible(style is not None)
        if style is not None:
            self._filling = True
            self._fill(style)
            self._filling = False

    def _fill(self, style: CaptionStyle) -> None:
        for field, value in (
            (self.letters, 100 * style.size), (self.margin, 100 * style.margin), (self.outline, 100 * style.outline),
            (self.shadow, 100 * style.shadow), (self.opacity, 100 * style.ground_opacity), (self.lines, style.lines),
            (self.apart, style.line_spacing), (self.spaced, 100 * style.letter_spacing),
        ):  # fmt: skip
            if not field.hasFocus() and abs(field.value() - value) > 1e-9:
                field.setValue(value)
        for box, chosen in (
            (self.weight, style.bold), (self.ground, style.ground),
            (self.down, f"{style.down} band" if style.band else style.down), (self.across, style.across),
        ):  # fmt: skip
            box.setCurrentIndex(box.findData(chosen))
        self.family.show_type(style.family, style.font)
        for button, colour in ((self.colour, style.colour), (self.dark, style.ground_colour)):
            button.show_colour(colour)
        self._fill_zones()

    def _profiles(self) -> tuple[ZoneProfile, ...]:
        """Those that can be chosen; where the user's own cannot be read that is told, and the shipped ones stay."""
        try:
            return known_zones()
        except EzvarError as error:
            self._desk.session.messages.say_problem(str(error))
            return shipped_zones()

    def _fill_zones(self) -> None:
        master = self._desk.session.at.master
        known = zones_for(master, self._profiles()) if master else []
        if master is not None and master.zones is not None and master.zones not in known:
            known = [*known, master.zones]
        self.zones.clear()
        self.zones.addItem("none", None)
        for profile in known:
            self.zones.addItem(profile.name, profile)
        chosen = known.index(master.zones) + 1 if master is not None and master.zones is not None else 0
        self.zones.setCurrentIndex(chosen)
