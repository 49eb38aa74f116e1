"""The backdrop of a framing: what it shows, and how."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QPushButton, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit.colour_button import ColourButton
from ezvar.app.kit.controls import fields, label, spin
from ezvar.core.media import STILL_SUFFIXES
from ezvar.core.model import Backdrop

_KINDS = ("the master's", "the picture", "a colour", "a movie or an image")
_FILES = f"Movies and images (*.mp4 *.mov *.mkv *.webm *.mxf *.m4v *.avi {' '.join(f'*{s}' for s in STILL_SUFFIXES)})"
_FIGURES: tuple[tuple[str, str, int, int, Callable[[Backdrop], float]], ...] = (
    ("Blur", "blur", 0, 30, lambda b: b.blur), ("Darker", "darken", 0, 100, lambda b: b.darken),
    ("Zoom", "zoom", 100, 2000, lambda b: b.zoom), ("Tint", "tint", 0, 100, lambda b: b.tint),
    ("Strength", "strength", 0, 100, lambda b: b.strength), ("Shadow", "shadow", 0, 100, lambda b: b.shadow),
)  # fmt: skip
"""Title, name in `Backdrop`, least and most in per cent, and the value itself."""


class BackdropPart(QWidget):
    """Changes the backdrop of the chosen shots as its fields are changed."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._session, self._showing = desk, desk.session, False
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.addWidget(label("Backdrop", "heading"), 0, 0, 1, 4)
        self.kind = QComboBox()
        self.kind.addItems(_KINDS)
        self.kind.setAccessibleName("What the backdrop shows")
        self.kind.activated.connect(self._choose)
        grid.addWidget(self.kind, 1, 0, 1, 2)
        self.file = QPushButton("Choose a file…")
        self.file.clicked.connect(lambda: self._choose(3))
        grid.addWidget(self.file, 1, 2, 1, 2)
        self.fields = {name: spin(low, most, 0, " %") for _, name, low, most, _ in _FIGURES}
        fields(grid, 2, [(title, self.fields[name]) for title, name, *_ in _FIGURES])
        for title, name, *_ in _FIGURES:
            self.fields[name].setAccessibleName(f"Backdrop: {title.lower()}")
            self.fields[name].valueChanged.connect(lambda value, name=name: self._change(name, **{name: value / 100}))
        self.colour = ColourButton("Colour of the backdrop", lambda c: self._change("colour", colour=c))
        grid.addWidget(label("Colour", "soft"), 5, 0)
        grid.addWidget(self.colour, 5, 1)
        self.for_all = QPushButton("Make it the master's")
        self.for_all.setToolTip("All shots of this master have it that have no backdrop of their own")
        self.for_all.clicked.connect(desk.panes_work.give_backdrop_to_master)
        grid.addWidget(self.for_all, 5, 2, 1, 2)

    def _choose(self, kind: int) -> None:
        work = self._desk.framing_work
        if kind == 0:
            work.set_backdrop(_KINDS[0], lambda _: None)
        elif kind == 3:
            path, _ = QFileDialog.getOpenFileName(self, "A movie or an image as backdrop", "", _FILES)
            if path:
                work.set_backdrop(Path(path).name, lambda b: replace(b, kind="media", media=path))
            else:
                self.refresh()
        elif kind == 1:
            work.set_backdrop(_KINDS[1], lambda b: replace(b, kind="picture", media=""))
        else:
            work.set_backdrop(_KINDS[2], lambda b: replace(b, kind="colour", media=""))

    def _change(self, what: str, **changes: Any) -> None:
        if not self._showing:
            self._desk.framing_work.set_backdrop(what, lambda b: replace(b, **changes), ("backdrop", what))

    def refresh(self) -> None:
        pane = self._session.at.pane
        if pane is None:
            return
        self._showing = True
        shown = self._desk.panes_work.backdrop()
        kind = {"picture": 1, "colour": 2, "media": 3}[shown.kind] if pane.backdrop else 0
        self.kind.setCurrentIndex(kind)
        self.file.setText(Path(shown.media).name if shown.media else "Choose a file…")
        for _, name, _, _, value in _FIGURES:
            field = self.fields[name]
            field.setValue(100 * value(shown))
            field.setEnabled(shown.kind != "colour" or name == "shadow")
        self.colour.show_colour(shown.colour)
        self.for_all.setEnabled(pane.backdrop is not None)
        self._showing = False
