"""Small parts that cards and sheets are put together from."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QAction, QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QDoubleSpinBox,
    QFrame,
    QGridLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from . import theme
from .keymap import shown


def label(text: str = "", kind: str = "", selectable: bool = False) -> QLabel:
    """A line or paragraph; ``kind`` names its look: title, heading, soft, doubt, problem."""
    made = QLabel(text)
    made.setWordWrap(True)
    made.setObjectName(kind)
    made.setTextFormat(Qt.TextFormat.PlainText)
    if selectable:
        made.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return made


def clear(layout: QLayout) -> None:
    """Take everything out of a layout and delete it."""
    while (item := layout.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.hide()
            widget.deleteLater()


def keyed(button: QAbstractButton) -> None:
    """Let a button be reached by Tab, and leave the keys to the window where it was only clicked."""
    if button.focusPolicy() == Qt.FocusPolicy.StrongFocus:
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)


def rule() -> QFrame:
    line = QFrame()
    line.setObjectName("rule")
    return line


def pair(*widgets: QWidget) -> QWidget:
    """Widgets two by two in a grid."""
    whole = QWidget()
    grid = QGridLayout(whole)
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setSpacing(6)
    for k, widget in enumerate(widgets):
        grid.addWidget(widget, k // 2, k % 2)
    return whole


def paper(margins: tuple[int, int, int, int], spacing: int) -> tuple[QWidget, QVBoxLayout]:
    """A sheet of paper, and the column that things are laid out in on it; margins are left, top, right and foot."""
    sheet = QWidget()
    sheet.setObjectName("paper")
    sheet.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    column = QVBoxLayout(sheet)
    column.setContentsMargins(*margins)
    column.setSpacing(spacing)
    return sheet, column


def spin(low: float, high: float, digits: int, suffix: str = "") -> QDoubleSpinBox:
    """A field for a number; Enter takes it and gives the keys back to the window."""
    made = QDoubleSpinBox()
    made.setRange(low, high)
    made.setDecimals(digits)
    made.setSuffix(suffix)
    made.setSingleStep(1.0 if digits < 2 else 0.05)
    made.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
    made.setKeyboardTracking(False)
    if (line := made.lineEdit()) is not None:
        line.returnPressed.connect(made.clearFocus)
    made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
    return made


def number(
    name: str, low: float, high: float, digits: int, suffix: str, changed: Callable[[float], object]
) -> QDoubleSpinBox:
    """A field for a number with its accessible name, that tells each change."""
    field = spin(low, high, digits, suffix)
    field.setAccessibleName(name)
    field.setToolTip(name)
    field.setSingleStep(0.1 if digits else 1)
    field.valueChanged.connect(changed)
    return field


def choice(name: str, choices: Sequence[tuple[object, str]], chosen: Callable[[Any], object]) -> QComboBox:
    """A list of values to choose from, as they are called, that tells which the user chose."""
    box = QComboBox()
    box.setAccessibleName(name)
    box.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
    for value, said in choices:
        box.addItem(said, value)
    box.activated.connect(lambda _: chosen(box.currentData()))
    return box


def fields(grid: QGridLayout, first: int, named: Sequence[tuple[str, QWidget]]) -> None:
    """Lay fields with their names before them into a grid of four columns, two to a row from row ``first`` on."""
    grid.setColumnStretch(1, 1)
    grid.setColumnStretch(3, 1)
    for k, (name, widget) in enumerate(named):
        grid.addWidget(label(name, "soft"), first + k // 2, 2 * (k % 2))
        grid.addWidget(widget, first + k // 2, 2 * (k % 2) + 1)


class KeyButton(QPushButton):
    """A button for an action, with its title at the left and the action's key, quietly, at the right."""

    def __init__(self, action: QAction, title: str, main: bool = False, said: str = "") -> None:
        super().__init__(said or title)
        self.key, self._title = "", title
        if main:
            self.setObjectName("main")
        self.setAccessibleName(said or title)
        self.clicked.connect(action.trigger)
        self.setEnabled(action.isEnabled())
        action.enabledChanged.connect(self.setEnabled)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def set_key(self, key: str) -> None:
        """Show another key."""
        self.key = shown(key)
        self.setToolTip(f"{self._title} ({self.key})" if self.key else self._title)
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        hint = super().sizeHint()
        return QSize(hint.width() + 7 * len(self.key) + 10, hint.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self.key:
            return
        painter = QPainter(self)
        painter.setFont(theme.mono(12))
        taken = self.fontMetrics().horizontalAdvance(self.text()) + painter.fontMetrics().horizontalAdvance(self.key)
        if taken + 26 > self.width():
            return  # the tooltip still tells it
        main = self.objectName() == "main" and self.isEnabled()
        painter.setPen(theme.ON_BUTTON_SOFT if main else theme.SOFT)
        painter.drawText(
            self.rect().adjusted(0, 0, -9, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self.key
        )


class Card(QScrollArea):
    """The right-hand column: what can be said of the chosen thing, and what can be done with it."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setFixedWidth(theme.px(252))
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        sheet = QWidget()
        sheet.setObjectName("sheet")
        sheet.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setWidget(sheet)
        self.column = QVBoxLayout(sheet)
        self.column.setContentsMargins(14, 12, 14, 14)
        self.column.setSpacing(8)

    def add(self, *widgets: QWidget) -> None:
        for widget in widgets:
            self.column.addWidget(widget)


def pip(painter: QPainter, right: float, middle: float, figure: int) -> float:
    """An amber pip with a doubt's figure, its right end and middle given; returns its left end."""
    painter.save()
    painter.setFont(theme.sans(12, bold=True))
    width = painter.fontMetrics().horizontalAdvance(str(figure)) + 14
    tall = theme.px(18)
    box = QRectF(right - width, middle - tall / 2, width, tall)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.DOUBT_GROUND)
    painter.drawRoundedRect(box, 9, 9)
    painter.setPen(theme.DOUBT)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(figure))
    painter.restore()
    return float(box.left())


def stamp(painter: QPainter, right: float, middle: float, text: str, colour: QColor) -> None:
    """A verdict, as if stamped: a ruled box, a little askew."""
    painter.save()
    painter.setFont(theme.sans(12, bold=True))
    width = painter.fontMetrics().horizontalAdvance(text) + 12
    painter.translate(right - width / 2, middle)
    painter.rotate(-3)
    box = QRectF(-width / 2, -theme.px(17) / 2, width, theme.px(17))
    painter.setPen(QPen(colour, 1.3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(box, 2, 2)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
    painter.restore()


def tick(painter: QPainter, left: float, middle: float, colour: QColor) -> None:
    """A tick of 11 pixels' width."""
    path = QPainterPath(QPointF(left, middle + 0.5))
    path.lineTo(left + 4, middle + 4.5)
    path.lineTo(left + 11, middle - 5)
    painter.save()
    painter.setPen(QPen(colour, 2.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    painter.restore()
