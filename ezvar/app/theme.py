"""The look: a logbook's warm paper, a neutral well for pictures, one family of type."""

from __future__ import annotations

import string
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QImage, QPainter, QPalette, QPen

TYPE = Path(__file__).parent / "type"
SANS = "Atkinson Hyperlegible Next"
MONO = "Atkinson Hyperlegible Mono"

PAPER = QColor("#f1ebdf")
SHEET = QColor("#f8f4ea")
RULE = QColor("#d8cfbc")
INK = QColor("#20302d")
SOFT = QColor("#5d675f")
ACCENT = QColor("#176b5b")
CHOSEN = QColor("#e0eee7")
DOUBT = QColor("#6b3f00")
DOUBT_GROUND = QColor("#f6dfae")
PROBLEM = QColor("#9c3a25")
WELL = QColor("#2c2e2e")
WELL_LINE = QColor("#47494a")
WELL_INK = QColor("#e9e6de")
WELL_SOFT = QColor("#b5b3ac")


@dataclass(frozen=True)
class Line:
    """How a master's windows are drawn: told apart by dash as well as by colour."""

    on_paper: QColor
    on_well: QColor
    dash: tuple[float, ...]

    def pen(self, width: float = 2.0, well: bool = True) -> QPen:
        pen = QPen(self.on_well if well else self.on_paper, width)
        if self.dash:
            pen.setDashPattern(list(self.dash))
            pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        return pen


_LINES = (
    Line(QColor("#a56a10"), QColor("#f0b64d"), ()),
    Line(QColor("#1f7593"), QColor("#74cbe2"), (4, 2)),
    Line(QColor("#a3325f"), QColor("#f093b4"), (1, 1.6)),
    Line(QColor("#4f6b1c"), QColor("#b7d977"), (6, 2, 1, 2)),
    Line(QColor("#5b4a9c"), QColor("#b6a8f0"), (9, 3)),
)


def line_of(place: int) -> Line:
    """The line of the master at a place in the list."""
    return _LINES[place % len(_LINES)]


def load_type() -> list[str]:
    """Make the shipped type known to Qt; the names of the files that could not be read."""
    return [f.name for f in sorted(TYPE.glob("*.ttf")) if QFontDatabase.addApplicationFont(str(f)) < 0]


def warm_type() -> None:
    """Have the type drawn once, so that the first shots do not wait for it."""
    image = QImage(600, 24, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    for font in (sans(12), sans(12, True), sans(13), sans(13, True), sans(14, True), mono(13), mono(14)):
        painter.setFont(font)
        painter.drawText(0, 20, string.digits + string.ascii_letters + ":;.,%×·’")
    painter.end()


def sans(size: int = 13, bold: bool = False) -> QFont:
    font = QFont(SANS)
    font.setPixelSize(size)
    font.setBold(bold)
    return font


def mono(size: int = 13, bold: bool = False) -> QFont:
    """The type for timecode and figures that must not dance."""
    font = QFont(MONO)
    font.setStyleHint(QFont.StyleHint.Monospace)
    font.setPixelSize(size)
    font.setBold(bold)
    return font


def palette() -> QPalette:
    """Qt's palette for the light theme, whatever the desktop's is."""
    made = QPalette()
    roles = QPalette.ColorRole
    for role, colour in (
        (roles.Window, PAPER), (roles.WindowText, INK), (roles.Base, SHEET), (roles.AlternateBase, PAPER),
        (roles.Text, INK), (roles.Button, PAPER), (roles.ButtonText, INK), (roles.Highlight, ACCENT),
        (roles.HighlightedText, QColor("#ffffff")), (roles.PlaceholderText, SOFT),
    ):  # fmt: skip
        made.setColor(role, colour)
    return made


def style_sheet() -> str:
    """Qt's style sheet for the light theme."""
    p = {name: value.name() for name, value in globals().items() if isinstance(value, QColor)}
    return f"""
    QMainWindow, QDialog, #paper {{ background: {p["PAPER"]}; }}
    #sheet {{ background: {p["SHEET"]}; }}
    #card {{ background: {p["SHEET"]}; border-left: 1px solid {p["RULE"]}; }}
    #well, #well QWidget {{ background: {p["WELL"]}; }}
    #well QLabel {{ color: {p["WELL_SOFT"]}; }}
    #strip {{ background: {p["PAPER"]}; border-bottom: 2px solid {p["INK"]}; }}
    QLabel#title {{ font-size: 18px; font-weight: 700; }}
    QLabel#heading {{ font-size: 15px; font-weight: 700; }}
    QLabel#soft {{ color: {p["SOFT"]}; }}
    QLabel#problem {{ color: {p["PROBLEM"]}; }}
    QLabel#doubt {{ background: {p["DOUBT_GROUND"]}; color: {p["DOUBT"]}; border-left: 4px solid #b06f12;
        padding: 8px 9px; }}
    QToolButton {{ background: {p["PAPER"]}; border: 1px solid {p["RULE"]}; border-radius: 3px; padding: 3px 7px; }}
    QToolButton::menu-indicator {{ image: none; }}
    QTreeWidget::item {{ padding: 3px 0; }}
    QTreeWidget::item:selected {{ background: {p["CHOSEN"]}; color: {p["INK"]}; }}
    QFrame#rule {{ background: {p["RULE"]}; max-height: 1px; min-height: 1px; border: none; }}
    QPushButton {{ background: {p["PAPER"]}; border: 1px solid {p["INK"]}; border-radius: 3px; padding: 5px 9px;
        text-align: left; min-height: 16px; outline: none; }}
    QPushButton:hover {{ background: #e8dfcc; }}
    QPushButton:pressed {{ background: #dcd1ba; }}
    QPushButton:disabled {{ color: #7c817a; border-color: {p["RULE"]}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {p["ACCENT"]}; padding: 4px 8px; }}
    QPushButton#main {{ background: {p["ACCENT"]}; color: #ffffff; border-color: {p["ACCENT"]}; font-weight: 600; }}
    QPushButton#main:hover {{ background: #125548; }}
    QPushButton#main:focus {{ border: 2px solid {p["INK"]}; }}
    QPushButton#main:disabled {{ background: {p["RULE"]}; border-color: {p["RULE"]}; color: {p["SOFT"]}; }}
    QLineEdit, QSpinBox, QComboBox {{ background: transparent; border: none; border-bottom: 1px solid {p["SOFT"]};
        padding: 3px 2px; selection-background-color: {p["ACCENT"]}; selection-color: white; }}
    QLineEdit:focus, QSpinBox:focus, QComboBox:focus {{ border-bottom: 2px solid {p["ACCENT"]}; }}
    QListView, QTreeView, QTableView {{ background: {p["SHEET"]}; border: none; outline: none; }}
    QListView:focus, QTreeView:focus, QTableView:focus {{ border: 1px solid {p["ACCENT"]}; }}
    QMenuBar {{ background: {p["PAPER"]}; padding: 1px 6px; }}
    QMenuBar::item {{ padding: 3px 8px; background: transparent; }}
    QMenuBar::item:selected {{ background: {p["CHOSEN"]}; }}
    QMenu {{ background: {p["SHEET"]}; border: 1px solid {p["RULE"]}; padding: 4px; }}
    QMenu::item {{ padding: 5px 26px 5px 14px; }}
    QMenu::item:selected {{ background: {p["CHOSEN"]}; }}
    QMenu::item:disabled {{ color: #82877f; }}
    QMenu::separator {{ height: 1px; background: {p["RULE"]}; margin: 4px 6px; }}
    QProgressBar {{ background: {p["RULE"]}; border: none; border-radius: 2px; height: 8px; }}
    QProgressBar::chunk {{ background: {p["ACCENT"]}; border-radius: 2px; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; }}
    QScrollBar::handle:vertical {{ background: #bdb39c; border-radius: 4px; min-height: 30px; margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QToolTip {{ background: {p["INK"]}; color: #ffffff; border: none; padding: 4px 6px; }}
    QScrollArea {{ border: none; background: transparent; }}
    QScrollArea#card {{ background: {p["SHEET"]}; border: none; border-left: 1px solid {p["RULE"]}; }}
    """
