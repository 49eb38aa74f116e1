"""The presets: changed, kept, exchanged, one of them the default."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.kit import theme
from ezvar.app.kit.controls import choice, label, spin
from ezvar.core.encoding import CODERS, PRESETS, PRESETS_KEPT, known_presets, wrong_with
from ezvar.core.errors import EzvarError
from ezvar.core.model import PictureCoding, Preset, SoundCoding
from ezvar.core.names import readable

_RATINGS = (("quality", "by quality"), ("bit rate", "by bit rate"), ("size", "to a size"))
_EFFORTS = (("quick", "quick"), ("usual", "usual"), ("thorough", "thorough"))
_SOUNDS = (("aac", "AAC"), ("opus", "Opus"), ("pcm", "PCM"), ("none", "none"))
_CHANNELS = (("stereo", "stereo"), ("mono", "mono"), ("all", "all of the lock"))
_CAPTIONS = (
    ("burnt in", "burnt in"), ("beside", "beside, as a file"), ("embedded", "in the file"), ("none", "none"),
)  # fmt: skip
_FILES = (("srt", "SRT"), ("vtt", "WebVTT"), ("ttml", "TTML"))
_QUIET = -41.0  # shown as "as it is"


class PresetsDialog(QDialog):
    """All presets at the left, the chosen one's values at the right. ``set_default`` is told a name."""

    kept_changed = pyqtSignal()  # others are kept now

    def __init__(self, default: str, set_default: Callable[[str], object], parent: QWidget) -> None:
        super().__init__(parent)
        self._default, self._set_default = default, set_default
        self._filling = False
        self._known: tuple[Preset, ...] = ()
        self.preset: Preset
        self.setWindowTitle("Presets")
        self.resize(theme.px(760), theme.px(560))
        whole, row = QVBoxLayout(self), QHBoxLayout()
        self.list = QListWidget()
        self.list.setAccessibleName("Presets")
        self.list.currentRowChanged.connect(self._choose)
        row.addWidget(self.list, 2)
        form = QFormLayout()
        self._fields(form)
        row.addLayout(form, 3)
        whole.addLayout(row, 1)
        self.said = label("", "soft")
        whole.addWidget(self.said)
        foot = QHBoxLayout()
        self.keep, self.remove = self._button("Keep", self._keep), self._button("Throw away", self._remove)
        self.usual = self._button("Make it the usual one", self._make_default)
        for button in (
            self.keep, self.remove, self.usual, self._button("Bring in…", self._bring_in),
            self._button("Hand out…", self._hand_out),
        ):  # fmt: skip
            foot.addWidget(button)
        foot.addStretch(1)
        foot.addWidget(self._button("Close", self.accept))
        whole.addLayout(foot)
        self._fill(default)

    def _button(self, title: str, pressed: Callable[[], object]) -> QPushButton:
        made = QPushButton(title)
        made.setAutoDefault(False)
        made.clicked.connect(lambda _: pressed())
        return made

    def _fields(self, form: QFormLayout) -> None:
        self.name = QLineEdit()
        self.name.setAccessibleName("Name")
        self.name.textEdited.connect(lambda _: self._changed())
        self.codec = self._choice("Pictures", [(k, c.title) for k, c in CODERS.items()])
        self.grade = self._choice("Kind", [])
        self.container = self._choice("File", [])
        self.rating = self._choice("How much is kept", _RATINGS)
        self.amount = self._number("Quality, bit rate or size", 0, 100_000, 1)
        self.passes = self._choice("Passes", [(1, "one"), (2, "two")])
        self.effort = self._choice("Effort", _EFFORTS)
        self.sound = self._choice("Sound", _SOUNDS)
        self.bits = self._number("Bit rate of the sound", 8, 10_000, 0, " kbit/s")
        self.channels = self._choice("Channels", _CHANNELS)
        self.loudness = self._number("Loudness", _QUIET, -5, 1, " LUFS")
        self.loudness.setSpecialValueText("as it is")
        self.copied = QCheckBox("copied where nothing of it changes")
        self.copied.setToolTip("Sound of the lock that is coded like this already goes into the movie as it is")
        self.copied.clicked.connect(lambda _: self._changed())
        self.captions = self._choice("Captions", _CAPTIONS)
        self.caption_file = self._choice("Caption file", _FILES)
        for said, field in (
            ("Name", self.name), ("Pictures", self.codec), ("Kind", self.grade), ("File", self.container),
            ("Kept", self.rating), ("", self.amount), ("Passes", self.passes), ("Effort", self.effort),
            ("Sound", self.sound), ("", self.bits), ("Channels", self.channels), ("Loudness", self.loudness),
            ("", self.copied), ("Captions", self.captions), ("", self.caption_file),
        ):  # fmt: skip
            form.addRow(said, field)

    def _choice(self, name: str, choices: Sequence[tuple[object, str]]) -> QComboBox:
        box = choice(name, choices, lambda _: self._changed())
        box.setMinimumWidth(theme.px(190))
        return box

    def _number(self, name: str, low: float, high: float, digits: int, suffix: str = "") -> QDoubleSpinBox:
        field = spin(low, high, digits, suffix)
        field.setAccessibleName(name)
        field.valueChanged.connect(lambda _: self._changed())
        return field

    # Showing

    def _fill(self, chosen: str) -> None:
        """List all presets, and choose one by its name."""
        try:
            self._known = known_presets()
        except EzvarError as error:
            self._known = PRESETS
            self.said.setText(str(error))
        self._filling = True
        self.list.clear()
        for preset in self._known:
            self.list.addItem(f"{preset.name}{'   (usual)' if preset.name == self._default else ''}")
        self._filling = False
        names = [preset.name for preset in self._known]
        self.list.setCurrentRow(names.index(chosen) if chosen in names else 0)

    def _choose(self, row: int) -> None:
        if not self._filling and 0 <= row < len(self._known):
            self._show(self._known[row])

    def _show(self, preset: Preset) -> None:
        """Show a preset's values; what its codec does not have is switched off."""
        self.preset, self._filling = preset, True
        picture, sound, coder = preset.picture, preset.sound, CODERS[preset.picture.codec]
        if self.name.text().strip() != preset.name:
            self.name.setText(preset.name)
        grades = [((grade, depth), f"{grade} {depth} bit".strip()) for grade, depth in coder.grades]
        for box, choices, value in (
            (self.codec, None, picture.codec), (self.grade, grades, (picture.grade, picture.depth)),
            (self.container, [(c, "numbered images" if c == "images" else c.upper()) for c in coder.containers],
             picture.container),
            (self.rating, None, picture.rating), (self.passes, None, picture.passes),
            (self.effort, None, picture.effort), (self.sound, None, sound.codec),
            (self.channels, None, sound.channels), (self.captions, None, preset.captions),
            (self.caption_file, None, preset.caption_file),
        ):  # fmt: skip
            if choices is not None:
                box.clear()
                for each, said in choices:
                    box.addItem(said, each)
            box.setCurrentIndex(next((k for k in range(box.count()) if box.itemData(k) == value), -1))
        self._show_amount(picture)
        self.bits.setValue(sound.bits / 1000)
        self.loudness.setValue(_QUIET if sound.loudness is None else sound.loudness)
        self.rating.setEnabled(coder.rated)
        self.amount.setEnabled(coder.rated or coder.quality is not None)
        self.passes.setEnabled(picture.rating != "quality" and len(coder.passes) > 1)
        self.bits.setEnabled(sound.codec in ("aac", "opus"))
        self.channels.setEnabled(sound.codec != "none")
        self.loudness.setEnabled(sound.codec != "none")
        self.copied.setEnabled(sound.codec in ("aac", "opus"))
        self.copied.setChecked(sound.copied)
        self.caption_file.setEnabled(preset.captions == "beside")
        wrong = wrong_with(preset)
        self.said.setText(" ".join(wrong))
        self.keep.setEnabled(not wrong and preset not in self._known)
        names = [each.name for each in PRESETS]
        own = [each for each in self._known if each not in PRESETS]
        self.remove.setEnabled(preset in own)
        self.remove.setText("As it came" if preset.name in names else "Throw away")
        self.usual.setEnabled(preset in self._known and preset.name != self._default)
        self._filling = False

    def _show_amount(self, picture: PictureCoding) -> None:
        low, high, digits, suffix, value = {
            "quality": (0, 100, 1, _better(picture), picture.quality),
            "bit rate": (0.01, 2_000, 2, " Mbit/s", picture.bits / 1e6),
            "size": (0.1, 100_000, 1, " MB", picture.megabytes),
        }[picture.rating]
        self.amount.setRange(low, high)
        self.amount.setDecimals(digits)
        self.amount.setSuffix(suffix)
        self.amount.setValue(value)

    # Changing

    def _changed(self) -> None:
        """Take up what the fields say."""
        if self._filling:
            return
        old, codec = self.preset.picture, self.codec.currentData()
        coder = CODERS[codec]
        if codec != old.codec:  # another codec begins with what is usual there
            grade, depth = next(iter(coder.grades))
            quality = coder.quality[1] if coder.quality else 17.0
            picture = PictureCoding(codec, coder.containers[0], depth, grade, quality=quality)  # type: ignore[arg-type]
        else:
            grade, depth = self.grade.currentData()
            picture = replace(
                old, container=self.container.currentData(), grade=grade, depth=depth, passes=self.passes.currentData(),
                effort=self.effort.currentData(), rating=self.rating.currentData(),
            )  # fmt: skip
            if picture.rating == old.rating:
                amount = self.amount.value()
                picture = {
                    "quality": lambda: replace(picture, quality=amount),
                    "bit rate": lambda: replace(picture, bits=round(amount * 1e6)),
                    "size": lambda: replace(picture, megabytes=amount),
                }[picture.rating]()
            if picture.rating == "quality":
                picture = replace(picture, passes=1)
        loudness = None if self.loudness.value() <= _QUIET else self.loudness.value()
        sound = SoundCoding(
            self.sound.currentData(),
            round(self.bits.value() * 1000),
            self.channels.currentData(),
            loudness,
            copied=self.copied.isChecked(),
        )
        name = self.name.text().strip() or self.preset.name
        self._show(Preset(name, picture, sound, self.captions.currentData(), self.caption_file.currentData()))

    # Keeping

    def _do(self, done: Callable[[], object], chosen: str) -> None:
        try:
            done()
        except EzvarError as error:
            self.said.setText(str(error))
            return
        self._fill(chosen)
        self.kept_changed.emit()

    def _keep(self) -> None:
        self._do(lambda: PRESETS_KEPT.keep(self.preset), self.preset.name)

    def _remove(self) -> None:
        name = self.preset.name
        self._do(lambda: PRESETS_KEPT.save(p for p in PRESETS_KEPT.load() if p.name != name), name)

    def _make_default(self) -> None:
        self._default = self.preset.name
        self._set_default(self._default)
        self._fill(self._default)

    def _bring_in(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Bring presets in", "", "Presets (*.json)")
        if path:
            self._do(lambda: PRESETS_KEPT.keep(*PRESETS_KEPT.load(path)), self.preset.name)

    def _hand_out(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self, "Hand this preset out", f"{self.preset.name}.json", "Presets (*.json)"
        )
        if not path:
            return
        try:
            PRESETS_KEPT.save([self.preset], path)
            self.said.setText(f"Written as {readable(Path(path).name)}.")
        except EzvarError as error:
            self.said.setText(str(error))


def _better(picture: PictureCoding) -> str:
    quality = CODERS[picture.codec].quality
    return "" if quality is None else "  (less is better)" if quality[0] < quality[2] else " of 100"
