"""Panes and backdrop: how panes share the frame, what each shows and sounds, its trim and height, what is behind."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QDialog, QGridLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ezvar.app.background.desk import Desk
from ezvar.app.kit import theme
from ezvar.app.kit.controls import fields, label, rule, spin

from .backdrop_part import BackdropPart
from .panes_part import PanesPart

_MOST = 45.0  # per cent of the picture that may be trimmed off a side


class PanesDialog(QDialog):
    """Stays beside the window and follows the present shot; whatever is changed shows at once."""

    def __init__(self, window: QWidget, desk: Desk) -> None:
        super().__init__(window)
        self._desk = desk
        session = self._session = desk.session
        self.setWindowTitle("Panes and backdrop")
        self._where = label("", "heading")
        self.panes, self.picture, self.backdrop = PanesPart(desk), PicturePart(desk), BackdropPart(desk)
        sheet = QWidget()
        sheet.setObjectName("sheet")
        sheet.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(sheet)
        column.setSpacing(9)
        for widget in (self._where, self.panes, rule(), self.picture, rule(), self.backdrop):
            column.addWidget(widget)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(sheet)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(area)
        for button in self.findChildren(QPushButton):
            button.setAutoDefault(False)  # Enter takes a number and nothing else
        self._signals = (
            session.project.changed, session.at.shot_changed, session.at.master_changed, session.at.chosen_changed,
            session.at.pane_changed,
        )  # fmt: skip
        for signal in self._signals:
            signal.connect(self.refresh)
        self.refresh()
        sheet.ensurePolished()
        for child in sheet.findChildren(QWidget):
            child.ensurePolished()  # only then do the parts know how large they are
        column.activate()
        self.resize(theme.px(340), min(column.heightForWidth(theme.px(340)), max(300, window.height() - 90)))
        self.move(window.mapToGlobal(QPoint(8, 76)))  # over the ledger, so that the pictures stay in sight

    def refresh(self) -> None:
        session = self._session
        shot, framing = session.at.shot, session.at.framing
        for part in (self.panes, self.picture, self.backdrop):
            part.setEnabled(framing is not None)
        if shot is None or framing is None:
            self._where.setText("No framing yet")
            return
        chosen, place = len(self._desk.framing_work.targets()), session.project.document.place_of(shot.id) + 1
        of = f"{chosen} shots" if chosen > 1 else f"Shot {place}"
        self._where.setText(f"{of} in {session.at.master_name}")
        self.panes.refresh(framing)
        self.picture.refresh()
        self.backdrop.refresh()

    def done(self, result: int) -> None:
        for signal in self._signals:
            signal.disconnect(self.refresh)
        super().done(result)
        self.deleteLater()


class PicturePart(QWidget):
    """What of the picture shows in the present pane, and where it stands there."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._session, self._showing = desk, desk.session, False
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.addWidget(label("Trimmed off the picture", "heading"), 0, 0, 1, 4)
        self.left, self.right, self.top, self.foot = (spin(0, _MOST, 1, " %") for _ in range(4))
        self.height_in_frame = spin(-100, 100, 0, " %")
        named = (("Left", self.left), ("Right", self.right), ("Top", self.top), ("Foot", self.foot))
        fields(grid, 1, named)
        for name, field in named:
            side = name.lower()
            field.setAccessibleName(f"Trimmed off: {side}")
            field.valueChanged.connect(lambda value, side=side: self._trim(side, value / 100))
        self.height_in_frame.setAccessibleName("Height at which the picture stands")
        self.height_in_frame.setToolTip("-100 at the foot, 0 in the middle, 100 at the top")
        self.height_in_frame.valueChanged.connect(self._stand)
        self._said = label("", "soft")
        grid.addWidget(label("Stands", "soft"), 3, 0)
        grid.addWidget(self.height_in_frame, 3, 1)
        grid.addWidget(self._said, 3, 2, 1, 2)

    def _trim(self, side: str, part: float) -> None:
        if not self._showing:
            self._desk.panes_work.trim(side, part)

    def _stand(self, value: float) -> None:
        if not self._showing:
            self._desk.panes_work.stand(value / 100)

    def refresh(self) -> None:
        pane = self._session.at.pane
        if pane is None:
            return
        self._showing = True
        trim = pane.trim
        for field, part in (
            (self.left, trim.x), (self.right, 1 - trim.x - trim.width), (self.top, trim.y),
            (self.foot, 1 - trim.y - trim.height),
        ):  # fmt: skip
            field.setValue(100 * part)
        height = self._desk.panes_work.stands()
        self.height_in_frame.setEnabled(height is not None)
        self.height_in_frame.setValue(100 * (height or 0))
        self._said.setText("above the middle" if height is not None else "it fills its pane")
        self._showing = False
