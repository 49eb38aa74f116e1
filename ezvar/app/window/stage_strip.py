"""The strip along the top: the stages in the order of the work, and the masters as chips."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ezvar.app.kit import theme
from ezvar.app.kit.controls import tick
from ezvar.app.session.session import Session
from ezvar.app.stages import Stage


class StageButton(QAbstractButton):
    """One stage, with what waits there, or a tick when nothing does."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setText(name)
        self.setCheckable(True)
        self.setAccessibleName(f"Stage {name}")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.waiting: int | None = None

    def set_waiting(self, waiting: int | None) -> None:
        if waiting == self.waiting:
            return
        self.waiting = waiting
        self.setAccessibleDescription("" if waiting is None else f"{waiting} waiting" if waiting else "nothing waiting")
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(
            self.fontMetrics().horizontalAdvance(self.text()) + 26 + (26 if self.waiting is not None else 0),
            theme.px(44),
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.isChecked():
            painter.fillRect(self.rect(), theme.SHEET)
            painter.fillRect(QRectF(0, self.height() - 4, self.width(), 4), theme.ACCENT)
        painter.setFont(theme.sans(13, bold=self.isChecked()))
        painter.setPen(theme.INK)
        painter.drawText(QRectF(13, 0, self.width(), self.height() - 1), Qt.AlignmentFlag.AlignVCenter, self.text())
        if self.hasFocus():
            painter.setPen(QPen(theme.ACCENT, 2))
            painter.drawRect(self.rect().adjusted(3, 5, -4, -7))
        left = 13 + painter.fontMetrics().horizontalAdvance(self.text()) + 8
        middle = self.height() / 2
        if self.waiting == 0:
            tick(painter, left, middle, theme.ACCENT)
        elif self.waiting:
            painter.setFont(theme.sans(12, bold=True))
            width = max(20, painter.fontMetrics().horizontalAdvance(str(self.waiting)) + 12)
            box = QRectF(left, middle - theme.px(9), width, theme.px(18))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.DOUBT_GROUND)
            painter.drawRoundedRect(box, 9, 9)
            painter.setPen(theme.DOUBT)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(self.waiting))


class MasterChip(QAbstractButton):
    """A master by its line and its name."""

    def __init__(self, name: str, place: int) -> None:
        super().__init__()
        self.setText(name)
        self.setCheckable(True)
        self.setAccessibleName(f"Master {name}")
        self._line = theme.line_of(place)

    def sizeHint(self) -> QSize:
        return QSize(self.fontMetrics().horizontalAdvance(self.text()) + 60, theme.px(28))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        on = self.isChecked()
        painter.setPen(QPen(theme.INK if on else theme.RULE, 2 if on else 1))
        painter.setBrush(theme.SHEET)
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 3, 3)
        if self.hasFocus():
            painter.setPen(QPen(theme.ACCENT, 2))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(3, 3, -3, -3), 2, 2)
        painter.setPen(self._line.pen(3.5, well=False))
        middle = self.height() / 2
        painter.drawLine(QPointF(10, middle), QPointF(40, middle))
        painter.setPen(theme.INK)
        painter.setFont(theme.sans(13, bold=on))
        painter.drawText(QRectF(48, 0, self.width(), self.height()), Qt.AlignmentFlag.AlignVCenter, self.text())


class StageStrip(QWidget):
    """Stages at the left, masters at the right."""

    stage_chosen = pyqtSignal(str)
    master_chosen = pyqtSignal(str)

    def __init__(self, session: Session, stages: Sequence[Stage[Any]]) -> None:
        super().__init__()
        self.setObjectName("strip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(theme.px(46))
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 2)
        row.setSpacing(2)
        names = QVBoxLayout()
        names.setSpacing(0)
        names.setContentsMargins(0, 4, 18, 3)
        self._title = QLabel("Ezvar")
        self._title.setObjectName("heading")
        self._project = QLabel("no lock yet")
        self._project.setObjectName("soft")
        names.addWidget(self._title)
        names.addWidget(self._project)
        row.addLayout(names)
        self._stages = tuple(stages)
        self.stages: dict[str, StageButton] = {}
        for stage in stages:
            button = StageButton(stage.title)
            button.clicked.connect(lambda _, name=stage.name: self.stage_chosen.emit(name))
            self.stages[stage.name] = button
            row.addWidget(button)
        row.addStretch(1)
        self._chips = QHBoxLayout()
        self._chips.setSpacing(8)
        row.addLayout(self._chips)
        self.chips: dict[str, MasterChip] = {}
        project, at = session.project, session.at
        for signal in (project.changed, project.saved, project.noted, session.media.analysed, at.master_changed):
            signal.connect(self.refresh)
        at.stage_changed.connect(lambda _: self.refresh())
        self.refresh()

    def refresh(self) -> None:
        session = self._session
        if session.project.doc is not None:
            mark = " •" if session.project.unsaved else ""
            self._project.setText(
                self._project.fontMetrics().elidedText(session.project.doc.lock.name, Qt.TextElideMode.ElideRight, 120)
                + mark
            )
        there = session.project.doc is not None
        for stage in self._stages:
            button = self.stages[stage.name]
            button.setChecked(stage.name == session.at.stage)
            button.set_waiting(stage.waits(session) if there else None)
        masters = session.project.doc.masters if session.project.doc else ()
        if [m.id for m in masters] != list(self.chips):
            for chip in self.chips.values():
                chip.deleteLater()
            self.chips = {}
            for place, master in enumerate(masters):
                chip = MasterChip(master.name, place)
                chip.setToolTip(f"{master.name}, {master.width} × {master.height}")
                chip.clicked.connect(lambda _, m=master.id: self.master_chosen.emit(m))
                self.chips[master.id] = chip
                self._chips.addWidget(chip)
        for id, chip in self.chips.items():
            chip.setChecked(id == session.at.master_id)
