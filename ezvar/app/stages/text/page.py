"""The text stage: says what comes there."""

from __future__ import annotations

from ezvar.app.commands import Workbench
from ezvar.app.kit.controls import label, paper

from ..stage import Page


class TextPage(Page[Workbench]):
    """Titles and captions will be laid out again here."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self.tools = bench
        self.middle, column = paper((70, 60, 70, 60), 12)
        column.addStretch(1)
        column.addWidget(label("Titles and captions", "title"))
        column.addWidget(
            label(
                "Titles and captions will be laid out again for each shape here, kept together and clear of what "
                "a viewing app draws over the picture. This stage is not built yet: text that is part of the "
                "picture is cropped with it, and captions in files are not read."
            )
        )
        column.addStretch(2)
        self.card.add(label("Text", "title"), label("Nothing can be done here yet.", "soft"))
        self.card.column.addStretch(1)
