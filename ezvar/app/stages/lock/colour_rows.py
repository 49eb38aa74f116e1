"""The colours of the lock in its stage: tables and tone mapping, as they are, and what can be done about them."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ezvar.app.commands import Workbench
from ezvar.app.kit.controls import label
from ezvar.core.model import Document
from ezvar.core.names import readable

from .commands import choose_table, take_table_off, turn_tables, turn_tone_mapping


class ColourRows(QWidget):
    """What is done to the colours of the lock's pictures."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__()
        self._session = bench.session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.said = label("", "soft")
        self.said.setWordWrap(True)
        column.addWidget(self.said)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.choose = QPushButton("Colour table…")
        self.choose.setToolTip("A .cube file for the pictures of all media")
        self.choose.clicked.connect(lambda: choose_table.run(bench))
        self.off = QPushButton("Take it off")
        self.off.setAccessibleName("Take the colour table off")
        self.off.clicked.connect(lambda: take_table_off.run(bench))
        row.addWidget(self.choose)
        row.addWidget(self.off)
        row.addStretch(1)
        column.addLayout(row)
        self.on = QCheckBox("Tables are on")
        self.on.setToolTip(f"Pictures with their tables, or without, in previews and masters ({turn_tables.key})")
        self.on.clicked.connect(lambda: turn_tables.run(bench))
        self.tone = QCheckBox("HDR pictures as SDR")
        self.tone.setToolTip("Tone-mapped by the curve of ITU-R BT.2390; white is 203 cd/m²")
        self.tone.clicked.connect(lambda: turn_tone_mapping.run(bench))
        column.addWidget(self.on)
        column.addWidget(self.tone)

    def refresh(self, doc: Document | None) -> None:
        """Show what a document says."""
        self.setVisible(doc is not None)
        if doc is None:
            return
        asked, reader = doc.colouring, self._session.media.reader
        facts = reader.facts if reader is not None else None
        hdr = facts is not None and facts.tags.hdr
        known = {m.id: m.name or Path(m.path).name for m in doc.lock.media}
        said = [f"Table {readable(Path(asked.table).name)}" if asked.table else "As the media have them"]
        for each in asked.own:
            table = readable(Path(each.path).name) if each.path else "none"
            said.append(f"{readable(known.get(each.media, each.media))}: {table}")
        if hdr and not asked.tone_mapped:
            said.append("HDR, shown as it is coded")
        self.said.setText(". ".join(said) + ".")
        self.off.setVisible(bool(asked.table))
        self.on.setVisible(asked.any)
        self.on.setChecked(asked.on)
        self.tone.setVisible(not doc.lock.flat or hdr or asked.tone_mapped)
        self.tone.setChecked(asked.tone_mapped)
