"""The card of the output stage: how the chosen rows are to be made, and what was checked of the first."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QGridLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.background.making import RowMaking
from ezvar.app.kit.controls import choice, clear, label
from ezvar.app.session.session import Session
from ezvar.core import edits
from ezvar.core.encoding import known_presets, wrong_with
from ezvar.core.errors import EzvarError
from ezvar.core.media import MOVIE_SUFFIXES, SOUND_SUFFIXES
from ezvar.core.model import CaptionsGo, Document, Heard, Listed, Preset, Receiving, Row, SoundCoding, listing
from ezvar.core.names import readable
from ezvar.core.output import FIELDS, choices_heard, known_receivers, named, parse_range

_CAPTIONS: tuple[tuple[CaptionsGo, str], ...] = (
    ("burnt in", "burnt in"), ("beside", "beside, as a file"), ("embedded", "in the file"), ("none", "none"),
)  # fmt: skip
_A_FILE = "a file"
_LOUD = (-16.0, -23.0)  # LUFS: of what is heard on small devices, and EBU R 128
_MIDDLE = Qt.TextElideMode.ElideMiddle
_PLAIN = "{lock} {master} {range}"
_EXISTS = (("replace", "is replaced"), ("number", "stays, this is numbered"), ("leave", "stays, this is not made"))


def short(path: Path) -> str:
    """A path as people write it: the home folder is ~."""
    return readable(f"~/{path.relative_to(Path.home())}" if path.is_relative_to(Path.home()) else path)


class RowCard(QWidget):
    """Fields for the rows that are chosen; each change is a step of undo, for all of them."""

    def __init__(self, session: Session, making: RowMaking, chosen: Callable[[], tuple[Row, ...]]) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session, self._making, self._chosen = session, making, chosen
        self._presets: tuple[Preset, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        self.title, self.story = label("", "title"), label("", "soft", selectable=True)
        column.addWidget(self.title)
        column.addWidget(self.story)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(1, 1)
        self.preset = choice("Preset", (), self._set_preset)
        self.captions = choice("Captions", (), self._set_captions)
        self.sound = choice("Sound", (), self._set_sound)
        self.heard = choice("What is heard", (), self._set_heard)
        self.exists = choice("What is there already", _EXISTS, lambda v: self._change("If it is there", exists=v))
        self.receiver = choice("Receiver", (), lambda v: self._change("Receiver of a movie", receiver=v))
        self.range, self.name = self._field("Range", self._set_range), self._field("Name", self._set_name)
        self.folder = QPushButton()
        self.folder.setAccessibleName("Folder")
        self.folder.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.folder.clicked.connect(self.choose_folder)
        for k, (said, widget) in enumerate(
            (
                ("Preset", self.preset), ("Range", self.range), ("Captions", self.captions), ("Heard", self.heard),
                ("Sound", self.sound), ("Folder", self.folder), ("Name", self.name),
            )
        ):  # fmt: skip
            grid.addWidget(label(said, "soft"), k, 0)
            grid.addWidget(widget, k, 1)
        self.example = label("", "soft")
        grid.addWidget(self.example, 7, 1)
        for k, (said, widget) in enumerate((("If there", self.exists), ("For", self.receiver)), 8):
            grid.addWidget(label(said, "soft"), k, 0)
            grid.addWidget(widget, k, 1)
        column.addLayout(grid)
        self.heading = label("Checked", "heading")
        column.addWidget(self.heading)
        self._checks = QVBoxLayout()
        self._checks.setSpacing(0)
        column.addLayout(self._checks)
        column.addStretch(1)
        self._shown: object = None

    def _field(self, name: str, done: Callable[[str], object]) -> QLineEdit:
        field = QLineEdit()
        field.setAccessibleName(name)
        field.editingFinished.connect(lambda: done(field.text()) if field.isModified() else None)
        field.returnPressed.connect(field.clearFocus)
        return field

    # Showing

    def refresh(self) -> None:
        rows, doc = self._chosen(), self._session.project.doc
        self.setVisible(bool(rows))
        if not rows or doc is None:
            return
        row = rows[0]
        own = next(r for r in listing(doc) if r.id == row.id)
        self.title.setText(f"{len(rows)} movies" if len(rows) > 1 else named(_PLAIN, doc, row))
        self.story.setText("What is changed here is changed for all of them." if len(rows) > 1 else self._story(row))
        self._show_presets(own)
        self._show_choices(own)
        for field, text in ((self.range, self._range_said(row)), (self.name, own.pattern)):
            if not field.hasFocus() or not field.isModified():
                field.setText(text)
        folder = Path(own.folder) if own.folder else self._making.folder
        self.folder.setText(self.folder.fontMetrics().elidedText(short(folder), _MIDDLE, 130))
        self.folder.setToolTip(short(folder))
        self.exists.setCurrentIndex(self.exists.findData(own.exists))
        self._show_example(doc, row)
        self._show_checks(row)

    def _story(self, row: Row) -> str:
        poster = self._session.project.document.master(row.master).poster
        within = poster is not None and row.start <= poster < row.end
        said = f" With a poster, {self._session.readings.timecode(poster)}." if poster is not None and within else ""
        return f"{self._making.look(row).story}{said}"

    def _show_presets(self, own: Listed) -> None:
        try:
            known = known_presets()
        except EzvarError:  # it is said where the default one is asked for
            known = ()
        presets = (*known, *((own.preset,) if own.preset is not None and own.preset not in known else ()))
        if (presets, self._making.default) != self._shown:
            self._shown = presets, self._making.default
            self._presets = presets
            self.preset.clear()
            self.preset.addItem(f"{self._making.default.name} (usual)", None)
            for preset in presets:
                self.preset.addItem(preset.name, preset)
        at = 0 if own.preset is None else 1 + self._presets.index(own.preset)
        self.preset.setCurrentIndex(at)
        self.preset.setToolTip(self.preset.currentText())

    def _show_choices(self, own: Listed) -> None:
        preset = own.preset or self._making.default
        receivers = self._receivers(own)
        takers = [(None, "nobody in particular"), *((each, each.name) for each in receivers)]
        _refill(self.receiver, takers, own.receiver)
        usual = dict(_CAPTIONS)[preset.captions]
        _refill(self.captions, [(None, f"{usual} (preset)"), *_CAPTIONS], own.captions)
        _refill(self.sound, self._sounds(preset), own.sound)
        doc = self._session.project.document
        heard: list[tuple[object, str]] = [*choices_heard(doc)]
        if own.heard.file:
            heard.append((own.heard, readable(Path(own.heard.file).name)))
        elif all(each != own.heard for each, _ in heard):
            heard.append((own.heard, f"tracks {', '.join(map(str, own.heard.tracks))}"))
        _refill(self.heard, [*heard, (_A_FILE, "a sound file of its own…")], own.heard)

    def _receivers(self, own: Listed) -> list[Receiving]:
        try:
            known = list(known_receivers())
        except EzvarError as error:
            self._session.messages.say_problem(str(error))
            known = []
        return known if own.receiver is None or own.receiver in known else [*known, own.receiver]

    def _sounds(self, preset: Preset) -> list[tuple[SoundCoding | None, str]]:
        sound = preset.sound
        found: list[tuple[SoundCoding | None, str]] = [(None, f"{_sound_said(sound)} (preset)")]
        if sound.codec != "none":
            plain = [replace(sound, channels=channels, loudness=None) for channels in ("stereo", "mono", "all")]
            loud = [replace(each, loudness=loudness) for loudness in _LOUD for each in plain]
            found += [(each, _sound_said(each)) for each in (*plain, *loud, replace(sound, codec="none"))]
        return found

    def _range_said(self, row: Row) -> str:
        return f"{self._session.readings.timecode(row.start)}-{self._session.readings.timecode(row.end)}"

    def _show_example(self, doc: Document, row: Row) -> None:
        try:
            said, kind = named(row.pattern, doc, row), "soft"
        except EzvarError as error:
            said, kind = str(error), "problem"
        if wrong := wrong_with(row.preset):
            said, kind = " ".join(wrong), "problem"
        self._say(self.example, said, kind)
        self.example.setVisible(said != self.title.text())

    def _say(self, where: QLabel, said: str, kind: str) -> None:
        where.setText(said)
        if where.objectName() != kind:
            where.setObjectName(kind)
            where.style().polish(where)  # type: ignore[union-attr]

    def _show_checks(self, row: Row) -> None:
        clear(self._checks)
        finished = self._session.project.makings.finished_of(row.id)
        self.heading.setVisible(finished is not None)
        for check in finished.report.checks if finished is not None else ():
            mark = "✗" if check.flaws else "✓"
            self._checks.addWidget(label(f"{mark}  {check.what}", "problem" if check.flaws else ""))
        if finished is not None and finished.anyway:
            waited = "\n".join(finished.anyway)
            self._checks.addWidget(label(f"Made although {len(finished.anyway)} things waited.", "soft"))
            self._checks.itemAt(self._checks.count() - 1).widget().setToolTip(waited)  # type: ignore[union-attr]

    # Changing

    def _edit(self, what: str, change: Callable[[Document, Listed], Document]) -> None:
        doc = self._session.project.document
        for row in self._chosen():
            own = next(r for r in listing(doc) if r.id == row.id)
            doc = change(doc, own)
        if doc is not self._session.project.document:
            self._session.project.edit(what, doc)

    def _change(self, what: str, **values: object) -> None:
        self._edit(what, lambda doc, own: edits.change_row(doc, replace(own, **values)))  # type: ignore[arg-type]

    def _set_preset(self, preset: Preset | None) -> None:
        self._change("Preset", preset=preset, sound=None)

    def _set_captions(self, captions: CaptionsGo | None) -> None:
        self._change("Captions of a movie", captions=captions)

    def _set_sound(self, sound: SoundCoding | None) -> None:
        self._change("Sound of a movie", sound=sound)

    def _set_heard(self, heard: Heard | str) -> None:
        if isinstance(heard, Heard):
            self._change("What is heard in a movie", heard=heard)
            return
        endings = " ".join(f"*{suffix}" for suffix in sorted(SOUND_SUFFIXES | MOVIE_SUFFIXES))
        path, _ = QFileDialog.getOpenFileName(self, "The sound of this movie", "", f"Sound ({endings})")
        if path:
            self._change("What is heard in a movie", heard=Heard(file=path))
        else:
            self.refresh()

    def _set_range(self, text: str) -> None:
        doc = self._session.project.document
        try:
            span = parse_range(text.replace(" ", ""), doc.lock)
        except EzvarError as error:
            self._session.messages.say_problem(str(error))
            self.range.setModified(False)
            self.refresh()
            return
        self._edit("Range of a movie", lambda doc, own: edits.set_row_range(doc, own.id, span.start, span.end))

    def _set_name(self, pattern: str) -> None:
        doc, rows = self._session.project.document, self._chosen()
        try:
            for row in rows:
                named(pattern, doc, row)
        except EzvarError as error:
            self._say(self.example, f"{error} Known are {', '.join(FIELDS)}.", "problem")
            return
        self._change("Name of a movie", pattern=pattern)

    def choose_folder(self) -> None:
        """Choose where the chosen rows are made."""
        chosen = QFileDialog.getExistingDirectory(self, "Where to make the movies", str(self._making.folder.parent))
        if chosen:
            self._change("Folder of a movie", folder=chosen)


def _refill(box: QComboBox, choices: Sequence[tuple[object, str]], value: object) -> None:
    """Show a value among choices; they are put in anew only where they are others, since somebody may be choosing."""
    if [(box.itemData(k), box.itemText(k)) for k in range(box.count())] != list(choices):
        box.clear()
        for each, said in choices:
            box.addItem(said, each)
    values = [each for each, _ in choices]
    at = values.index(value) if value in values else 0
    if box.currentIndex() != at:
        box.setCurrentIndex(at)


def _sound_said(sound: SoundCoding) -> str:
    if sound.codec == "none":
        return "none"
    channels = "all channels" if sound.channels == "all" else sound.channels
    coded = f"{channels}, {'Opus' if sound.codec == 'opus' else sound.codec.upper()}"
    return coded if sound.loudness is None else f"\u2212{-sound.loudness:g} LUFS, {channels}"
