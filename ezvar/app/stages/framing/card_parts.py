"""The parts of the framing stage's card: subjects, what is asked, exact values, versions, facts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QSizePolicy,
    QSlider,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.kit.backdrops import BACKDROPS
from ezvar.app.kit.controls import label, pair, spin
from ezvar.core.evidence import Subject
from ezvar.core.framing import enlarged, followed, key_at, pace_of, pane_picture_size, with_key, with_values, words
from ezvar.core.model import EASES

from .commands.subjects import follow_number
from .commands.versions import compare_versions, hold, keep_version, next_version
from .commands.ways import draw_subject
from .tools import FramingTools

_KINDS = {
    "face": ("face", "faces"), "person": ("person", "people"), "animal": ("animal", "animals"),
    "vehicle": ("vehicle", "vehicles"), "sport": ("sports gear", "sports gear"), "thing": ("thing", "things"),
    "moving": ("moving thing", "moving things"),
    "text": ("text", "texts"), "work": ("hands at work", "hands at work"), "drawn": ("drawn", "drawn"),
}  # fmt: skip
_PLACES = (("in the middle", 0.5), ("at the left third", 1 / 3), ("at the right third", 2 / 3))
_HEADROOM = (("as it fits", None), ("little", 0.1), ("a third", 1 / 6), ("much", 0.25))
_STEPS = 20  # of the pace's slider
_NO_LIMIT = 0.0


class Subjects(QWidget):
    """The shot's subjects as buttons; a pressed one is followed."""

    def __init__(self, tools: FramingTools) -> None:
        super().__init__()
        self._desk, self._session = tools.desk, tools.session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._said = label("", "soft")
        above, row = QHBoxLayout(), QHBoxLayout()
        row.setSpacing(4)
        above.addWidget(self._said, 1)
        column.addLayout(above)
        column.addLayout(row)
        self.buttons: list[QToolButton] = []
        for n in range(1, 7):
            button = QToolButton()
            button.setText(str(n))
            button.setCheckable(True)
            button.setFixedWidth(theme.px(31))  # so that all six have room beside the scroll bar
            button.clicked.connect(lambda _, n=n: follow_number[n - 1].run(tools))
            button.setToolTip(f"Follow {n} ({n}); Shift+{n} adds it, Alt+{n} follows it from here on")
            self.buttons.append(button)
            row.addWidget(button)
        self.draw = QToolButton()
        self.draw.setText("Draw")
        self.draw.setToolTip("Draw a subject (D)")
        self.draw.setAccessibleName("Draw a subject")
        self.draw.clicked.connect(lambda: draw_subject.run(tools))
        above.addWidget(self.draw)
        row.addStretch(1)

    def refresh(self) -> None:
        session = self._session
        place, subjects = session.at.place, self._desk.of_shot.subjects
        known = {s.number: s for s in subjects}
        if place is None:
            return
        chosen = {s.number for s in followed(place, subjects, session.at.frame - place.shot.start)}
        for n, button in enumerate(self.buttons, 1):
            button.setVisible(n in known)
            button.setChecked(n in chosen)
            if n in known:
                button.setAccessibleName(f"Follow {n}, {_KINDS[known[n].kind][0]}")
        names = _named([s for n, s in sorted(known.items()) if n <= len(self.buttons)])
        if session.media.analysis is None:
            names = "The lock is being looked through; subjects come then."
        elif not known:
            names = "No subject was found in this shot. Draw one."
        self._said.setText(names)


def _named(subjects: Sequence[Subject]) -> str:
    """Subjects in words, those of a kind together: "1, 3 faces, 2 text"."""
    kinds = {s.kind: [str(o.number) for o in subjects if o.kind == s.kind] for s in subjects}
    return ", ".join(f"{', '.join(numbers)} {_KINDS[kind][len(numbers) > 1]}" for kind, numbers in kinds.items())


class Asks(QWidget):
    """What is asked of the solver: pace, place, look room, text, zoom, backdrop."""

    def __init__(self, tools: FramingTools) -> None:
        super().__init__()
        self._desk, self._session = tools.desk, tools.session
        self._showing = False
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        self.pace = QSlider(Qt.Orientation.Horizontal)
        self.pace.setRange(0, _STEPS)
        self.pace.setMinimumWidth(60)
        self.pace.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._pace_said = label("", "soft")
        self.place, self.headroom, self.backdrop = QComboBox(), QComboBox(), QComboBox()
        self.place.addItems([name for name, _ in _PLACES])
        self.headroom.addItems([name for name, _ in _HEADROOM])
        self.backdrop.addItems([name for name, _ in BACKDROPS])
        for box in (self.place, self.headroom, self.backdrop):
            box.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            box.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # after a click the keys stay the window's
        self.look_room, self.text = QCheckBox("Look room"), QCheckBox("Text whole")
        self.bars = QCheckBox("With the black bars")
        self.loosest, self.tightest = spin(0, 4, 2), spin(0, 8, 2)
        for field in (self.loosest, self.tightest):
            field.setSpecialValueText("as it fills")
        rows: Sequence[tuple[str, QWidget]] = (
            ("Pace", self.pace), ("", self._pace_said), ("Subject", self.place), ("Headroom", self.headroom),
            ("Loosest", self.loosest), ("Tightest", self.tightest), ("Backdrop", self.backdrop),
        )  # fmt: skip
        for row, (name, widget) in enumerate(rows):
            grid.addWidget(label(name, "soft"), row, 0)
            grid.addWidget(widget, row, 1)
            if name:
                widget.setAccessibleName(name)
        checks = QHBoxLayout()
        checks.setSpacing(14)
        checks.addWidget(self.look_room)
        checks.addWidget(self.text)
        checks.addStretch(1)
        grid.addLayout(checks, len(rows), 0, 1, 2)
        grid.addWidget(self.bars, len(rows) + 1, 0, 1, 2)
        self.pace.valueChanged.connect(lambda v: self._ask("Pace", pace=v / _STEPS))
        self.place.activated.connect(lambda k: self._ask(f"Subject {_PLACES[k][0]}", place=_PLACES[k][1]))
        self.headroom.activated.connect(lambda k: self._ask("Headroom", headroom=_HEADROOM[k][1]))
        self.look_room.clicked.connect(lambda on: self._ask("Look room" if on else "No look room", look_room=on))
        self.text.clicked.connect(lambda on: self._ask("Keep text whole" if on else "Text as it fits", keep_text=on))
        self.bars.clicked.connect(lambda on: self._ask("With black bars" if on else "No black bars", with_bars=on))
        self.loosest.valueChanged.connect(lambda v: self._ask("Loosest zoom", loosest=v or None))
        self.tightest.valueChanged.connect(lambda v: self._ask("Tightest zoom", tightest=v or None))
        self.backdrop.activated.connect(self._set_backdrop)

    def _set_backdrop(self, place: int) -> None:
        name, backdrop = BACKDROPS[place]
        self._desk.framing_work.set_backdrop(name, lambda _: backdrop)

    def _ask(self, label: str, **choices: object) -> None:
        if not self._showing:
            self._desk.framing_work.ask(label, gesture=label, **choices)

    def refresh(self) -> None:
        session, pane = self._session, self._session.at.pane
        if pane is None or session.at.master is None:
            return
        self._showing = True
        choices = pane.choices
        pace = session.at.master.pace if choices.pace is None else choices.pace
        self.pace.setValue(round(pace * _STEPS))
        speed = pace_of(pace).speed
        self._pace_said.setText(f"{words(pace)}: at most {speed:.2f} widths a second" if speed else words(pace))
        self.place.setCurrentIndex(min(range(3), key=lambda k: abs(_PLACES[k][1] - choices.place)))
        self.headroom.setCurrentIndex(next((k for k, (_, v) in enumerate(_HEADROOM) if v == choices.headroom), 0))
        self.look_room.setChecked(choices.look_room)
        self.text.setChecked(choices.keep_text)
        self.bars.setChecked(choices.with_bars)
        self.bars.setVisible(choices.with_bars or self._desk.of_shot.known.barred)
        self.loosest.setValue(choices.loosest or _NO_LIMIT)
        self.tightest.setValue(choices.tightest or _NO_LIMIT)
        known = [b for _, b in BACKDROPS]
        self.backdrop.setCurrentIndex(known.index(pane.backdrop) if pane.backdrop in known else -1)
        self._showing = False


class Values(QWidget):
    """The window at the playhead in exact figures, which can be typed over, and its keyframes."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._session = desk, desk.session
        self._showing = False
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(5)
        self.across, self.down = spin(-20000, 40000, 1), spin(-20000, 40000, 1)
        self.zoom, self.angle = spin(0.02, 50, 2), spin(-180, 180, 1)
        self.ease = QComboBox()
        self.ease.addItems(EASES)
        self.ease.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.ease.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self._keys = label("", "soft")
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(2, 1)
        for row, (name, one, other) in enumerate((
            ("Centre", self.across, self.down), ("Zoom, angle", self.zoom, self.angle), ("Ease", self.ease, self._keys),
        )):  # fmt: skip
            grid.addWidget(label(name, "soft"), row, 0)
            grid.addWidget(one, row, 1)
            grid.addWidget(other, row, 2)
        for name, part in (("Centre across, in pixels", self.across), ("Centre down, in pixels", self.down),
                           ("Zoom", self.zoom), ("Angle, in degrees", self.angle), ("Ease", self.ease)):  # fmt: skip
            part.setAccessibleName(name)
            part.setToolTip(name)
        for name, field in (("x", self.across), ("y", self.down), ("zoom", self.zoom), ("angle", self.angle)):
            field.valueChanged.connect(lambda value, name=name: self._set(name, value))
        self.ease.activated.connect(self._set_ease)

    def _set(self, name: str, value: float) -> None:
        """Put an exact value in place: for the whole path that rests, for the present moment of one that moves."""
        session = self._session
        shot, master, pane = session.at.shot, session.at.master, self._session.at.pane
        if self._showing or shot is None or master is None or pane is None:
            return
        size, frame = pane_picture_size(session.project.document, shot, pane), session.at.frame - shot.start
        key = with_values(key_at(pane, frame), pane, master, size, **{name: value})
        if len(pane.keys) == 1:
            new = replace(pane, keys=(replace(key, frame=pane.keys[0].frame),))
        else:
            new = with_key(pane, master, size, key)
        self._desk.framing_work.put(f"Set {name}", new, gesture=("value", name, shot.id, master.id))

    def _set_ease(self, place: int) -> None:
        self._desk.framing_work.run_ease(EASES[place])

    def refresh(self) -> None:
        session = self._session
        shot, pane = session.at.shot, self._session.at.pane
        if shot is None or pane is None:
            return
        self._showing = True
        key, size = key_at(pane, session.at.frame - shot.start), pane_picture_size(session.project.document, shot, pane)
        for field, value in (
            (self.across, key.cx * size.width), (self.down, key.cy * size.height), (self.zoom, key.zoom),
            (self.angle, key.angle),
        ):  # fmt: skip
            if not field.hasFocus():
                field.setValue(value)
        self.ease.setCurrentIndex(EASES.index(key.ease))
        self.ease.setEnabled(len(pane.keys) > 1)
        self._keys.setText("it rests" if len(pane.keys) == 1 else f"{len(pane.keys)} keyframes")
        self._showing = False


class Versions(QWidget):
    """The versions of a framing that are held beside the present one."""

    def __init__(self, tools: FramingTools) -> None:
        super().__init__()
        self._desk, self._session = tools.desk, tools.session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self._said = label("", "soft")
        button = tools.bench.button
        self.hold, self.next = button(hold, said="Hold"), button(next_version, said="Next")
        self.compare, self.keep = button(compare_versions, said="Compare"), button(keep_version, said="Keep")
        column.addWidget(self._said)
        column.addWidget(pair(self.hold, self.next, self.compare, self.keep))

    def refresh(self) -> None:
        framing = self._session.at.framing
        held = len(framing.held) if framing is not None else 0
        self._said.setText(f"{held} other version{'s' if held > 1 else ''} held beside." if held else "")
        self._said.setVisible(bool(held))
        for button in (self.next, self.compare, self.keep):
            button.setVisible(bool(held))


class Facts(QWidget):
    """What is known of the clip: its size and rate, and how far it is enlarged."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._session = desk, desk.session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.said = label("", "soft", selectable=True)
        column.addWidget(self.said)

    def refresh(self) -> None:
        place = self._session.at.place
        if place is None:
            return
        media = place.doc.media_of(place.shot)
        name = media.name or media.path.rpartition("/")[2] or "black"
        turned = f", turned by {media.turned}°" if media.turned else ""
        most = f"{enlarged(place).factor:.0%}".replace("%", " %")
        self.said.setText(
            f"{name}: {media.width}×{media.height}{turned}, {media.rate} frames a second, enlarged to {most} at most"
        )
