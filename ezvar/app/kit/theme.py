"""The look: a logbook's warm paper or a dim one, a neutral well for pictures, one family of type.

Colours are objects that change in place, so that whoever holds one follows the theme.
"""

from __future__ import annotations

import string
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QImage, QPainter, QPalette, QPen
from PyQt6.QtWidgets import QApplication

from ezvar.core.store import Theme
from ezvar.core.viewing import MASTER_LINES

TYPE = Path(__file__).parents[2] / "type"
SANS = "Atkinson Hyperlegible Next"
MONO = "Atkinson Hyperlegible Mono"

_THEMES: dict[Theme, dict[str, str]] = {
    "light": {
        "PAPER": "#f1ebdf", "SHEET": "#f8f4ea", "RULE": "#d8cfbc", "INK": "#20302d", "SOFT": "#5d675f",
        "ACCENT": "#176b5b", "BUTTON": "#176b5b", "CHOSEN": "#e0eee7", "DOUBT": "#6b3f00", "DOUBT_GROUND": "#f6dfae",
        "DOUBT_EDGE": "#b06f12", "PROBLEM": "#9c3a25", "HOVER": "#e8dfcc", "PRESSED": "#dcd1ba", "OFF": "#7c817a",
        "GRIP": "#bdb39c", "WAVE": "#56635d",
    },
    "dim": {
        "PAPER": "#1e2221", "SHEET": "#262b2a", "RULE": "#434a47", "INK": "#e8e3d8", "SOFT": "#a9b0a7",
        "ACCENT": "#5cc2aa", "BUTTON": "#1b7462", "CHOSEN": "#25433b", "DOUBT": "#f3cd86", "DOUBT_GROUND": "#4b3a15",
        "DOUBT_EDGE": "#d89a3a", "PROBLEM": "#f29b85", "HOVER": "#333a38", "PRESSED": "#3d4543", "OFF": "#858c85",
        "GRIP": "#59615e", "WAVE": "#8d978f",
    },
}  # fmt: skip
PAPER, SHEET, RULE, INK, SOFT, ACCENT, BUTTON, CHOSEN, DOUBT, DOUBT_GROUND, DOUBT_EDGE, PROBLEM = (
    QColor(_THEMES["light"][name]) for name in (
        "PAPER", "SHEET", "RULE", "INK", "SOFT", "ACCENT", "BUTTON", "CHOSEN", "DOUBT", "DOUBT_GROUND", "DOUBT_EDGE",
        "PROBLEM",
    )
)  # fmt: skip
HOVER, PRESSED, OFF, GRIP, WAVE = (QColor(_THEMES["light"][n]) for n in ("HOVER", "PRESSED", "OFF", "GRIP", "WAVE"))
ON_BUTTON = QColor("#ffffff")
ON_BUTTON_SOFT = QColor("#d5ebe4")
ON_LINE = QColor("#20302d")
WELL = QColor("#2c2e2e")
WELL_LINE = QColor("#47494a")
WELL_INK = QColor("#e9e6de")
WELL_SOFT = QColor("#b5b3ac")
WELL_EMPTY = QColor("#232525")
ACCENT_ON_WELL = QColor("#4fb79f")
WELL_PROBLEM = QColor("#f2a48d")
WELL_RAISED = QColor("#383a3a")
WELL_BLOCK = QColor("#64635c")
WELL_BLOCK_CHOSEN = QColor("#efc273")
WELL_WAVE = QColor("#8f8b7c")
LOST = QColor("#ef8d73")


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


_LINES = tuple(Line(QColor(each.on_paper), QColor(each.on_picture), each.dash) for each in MASTER_LINES)
_DARK_ON_PAPER = tuple(line.on_paper.name() for line in _LINES)
_scale = 1.0


def line_of(place: int) -> Line:
    """The line of the master at a place in the list."""
    return _LINES[place % len(_LINES)]


def use(name: Theme) -> None:
    """Change to a theme: every colour changes in place. What is on screen has to be drawn again."""
    for colour, value in _THEMES[name].items():
        globals()[colour].setRgb(QColor(value).rgb())
    for line, dark in zip(_LINES, _DARK_ON_PAPER, strict=True):
        line.on_paper.setRgb((line.on_well if name == "dim" else QColor(dark)).rgb())


def set_text_size(per_cent: int) -> None:
    """Have all text, and what is measured by it, in another size. For what is made from now on."""
    global _scale
    _scale = per_cent / 100


def dress() -> None:
    """Give the application the present theme and size of text."""
    app = QApplication.instance()
    if isinstance(app, QApplication):
        app.setFont(sans(13))
        app.setPalette(palette())
        if app.styleSheet() != style_sheet():  # setting it polishes every widget there is
            app.setStyleSheet(style_sheet())


def px(length: float) -> int:
    """A length at the usual size of text in pixels at the present one."""
    return round(length * _scale)


def load_type() -> list[str]:
    """Make the shipped type known to Qt; the names of the files that could not be read."""
    return [f.name for f in sorted(TYPE.glob("*.[ot]tf")) if QFontDatabase.addApplicationFont(str(f)) < 0]


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
    font.setPixelSize(px(size))
    font.setBold(bold)
    return font


def mono(size: int = 13, bold: bool = False) -> QFont:
    """The type for timecode and figures that must not dance."""
    font = QFont(MONO)
    font.setStyleHint(QFont.StyleHint.Monospace)
    font.setPixelSize(px(size))
    font.setBold(bold)
    return font


def palette() -> QPalette:
    """Qt's palette for the present theme, whatever the desktop's is."""
    made = QPalette()
    roles = QPalette.ColorRole
    for role, colour in (
        (roles.Window, PAPER), (roles.WindowText, INK), (roles.Base, SHEET), (roles.AlternateBase, PAPER),
        (roles.Text, INK), (roles.Button, PAPER), (roles.ButtonText, INK), (roles.Highlight, BUTTON),
        (roles.HighlightedText, ON_BUTTON), (roles.PlaceholderText, SOFT),
    ):  # fmt: skip
        made.setColor(role, colour)
    return made


def style_sheet() -> str:
    """Qt's style sheet for the present theme."""
    p = {name: value.name() for name, value in globals().items() if isinstance(value, QColor)}
    return "".join(part(p) for part in (_grounds, _buttons, _choices, _pushes, _fields_and_lists, _menus_and_bars))


def _grounds(p: dict[str, str]) -> str:
    return f"""
    QMainWindow, QDialog, #paper {{ background: {p["PAPER"]}; }}
    #sheet {{ background: {p["SHEET"]}; }}
    #card {{ background: {p["SHEET"]}; border-left: 1px solid {p["RULE"]}; }}
    #well, #well QWidget {{ background: {p["WELL"]}; }}
    #well QLabel {{ color: {p["WELL_SOFT"]}; }}
    #strip {{ background: {p["PAPER"]}; border-bottom: 2px solid {p["INK"]}; }}
    QLabel#title {{ font-size: {px(18)}px; font-weight: 700; }}
    QLabel#heading {{ font-size: {px(15)}px; font-weight: 700; }}
    QLabel#soft {{ color: {p["SOFT"]}; }}
    QLabel#problem {{ color: {p["PROBLEM"]}; }}
    QLabel#doubt {{ background: {p["DOUBT_GROUND"]}; color: {p["DOUBT"]}; border-left: 4px solid {p["DOUBT_EDGE"]};
        padding: 8px 9px; }}
    """


def _buttons(p: dict[str, str]) -> str:
    return f"""
    QToolButton {{ background: {p["PAPER"]}; border: 1px solid {p["RULE"]}; border-radius: 3px; padding: 3px 7px; }}
    QToolButton:checked {{ background: {p["CHOSEN"]}; border-color: {p["ACCENT"]}; font-weight: 700; }}
    QToolButton#head {{ border: none; background: transparent; padding: 3px; }}
    QToolButton#head:focus {{ border: 2px solid {p["ACCENT"]}; padding: 1px; }}
    QToolButton#filter {{ border: none; background: transparent; padding: 3px; font-weight: 700;
        color: {p["ACCENT"]}; }}
    QToolButton#filter:checked {{ color: {p["DOUBT"]}; background: {p["DOUBT_GROUND"]}; }}
    QToolButton#filter:focus {{ border: 2px solid {p["ACCENT"]}; padding: 1px; }}
    """


def _choices(p: dict[str, str]) -> str:
    return f"""
    QWidget#ruled {{ background: {p["RULE"]}; }}
    QListView#paper {{ background: {p["PAPER"]}; }}
    QCheckBox {{ spacing: 6px; padding: 2px; }}
    QCheckBox::indicator:unchecked {{ border: 1px solid {p["SOFT"]}; background: {p["SHEET"]}; width: 11px;
        height: 11px; }}
    QCheckBox:focus {{ border: 2px solid {p["ACCENT"]}; padding: 0px; }}
    QSlider::groove:horizontal {{ background: {p["RULE"]}; height: 4px; border-radius: 2px; }}
    QSlider::handle:horizontal {{ background: {p["ACCENT"]}; width: 14px; height: 14px; margin: -5px 0;
        border-radius: 7px; }}
    QSlider:focus {{ border: 2px solid {p["ACCENT"]}; border-radius: 3px; }}
    QComboBox QAbstractItemView {{ background: {p["SHEET"]}; color: {p["INK"]};
        selection-background-color: {p["CHOSEN"]}; selection-color: {p["INK"]}; }}
    QToolButton::menu-indicator {{ image: none; }}
    QTreeWidget::item {{ padding: 3px 0; }}
    QTreeWidget::item:selected {{ background: {p["CHOSEN"]}; color: {p["INK"]}; }}
    QFrame#rule {{ background: {p["RULE"]}; max-height: 1px; min-height: 1px; border: none; }}
    """


def _pushes(p: dict[str, str]) -> str:
    return f"""
    QPushButton {{ background: {p["PAPER"]}; border: 1px solid {p["INK"]}; border-radius: 3px; padding: 5px 9px;
        text-align: left; min-height: 16px; outline: none; }}
    QPushButton:hover {{ background: {p["HOVER"]}; }}
    QPushButton:pressed {{ background: {p["PRESSED"]}; }}
    QPushButton:disabled {{ color: {p["OFF"]}; border-color: {p["RULE"]}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {p["ACCENT"]}; padding: 4px 8px; }}
    QPushButton#quiet {{ background: transparent; border: none; color: {p["ACCENT"]}; padding: 1px 2px;
        text-decoration: underline; }}
    QPushButton#quiet:focus {{ border: 1px solid {p["ACCENT"]}; }}
    QPushButton#filter {{ padding: 2px 8px; border-color: {p["RULE"]}; }}
    QPushButton#filter:checked {{ background: {p["CHOSEN"]}; border-color: {p["INK"]}; font-weight: 600; }}
    QPushButton#main {{ background: {p["BUTTON"]}; color: #ffffff; border-color: {p["BUTTON"]}; font-weight: 600; }}
    """


def _fields_and_lists(p: dict[str, str]) -> str:
    return f"""
    QHeaderView::section {{ background: {p["PAPER"]}; color: {p["SOFT"]}; border: none; padding: 3px 4px; }}
    QPushButton#main:hover {{ border-color: {p["INK"]}; }}
    QPushButton#main:focus {{ border: 2px solid {p["INK"]}; }}
    QPushButton#main:disabled {{ background: {p["RULE"]}; border-color: {p["RULE"]}; color: {p["SOFT"]}; }}
    QLineEdit, QAbstractSpinBox, QComboBox {{ background: transparent; border: none;
        border-bottom: 1px solid {p["SOFT"]}; padding: 3px 2px;
        selection-background-color: {p["BUTTON"]}; selection-color: white; }}
    QLineEdit:focus, QAbstractSpinBox:focus, QComboBox:focus {{ border-bottom: 2px solid {p["ACCENT"]}; }}
    QListView, QTreeView, QTableView {{ background: {p["SHEET"]}; border: none; outline: none; }}
    QListView:focus, QTreeView:focus, QTableView:focus {{ border: 1px solid {p["ACCENT"]}; }}
    """


def _menus_and_bars(p: dict[str, str]) -> str:
    return f"""
    QMenuBar {{ background: {p["PAPER"]}; padding: 1px 6px; }}
    QMenuBar::item {{ padding: 3px 8px; background: transparent; }}
    QMenuBar::item:selected {{ background: {p["CHOSEN"]}; }}
    QMenu {{ background: {p["SHEET"]}; border: 1px solid {p["RULE"]}; padding: 4px; }}
    QMenu::item {{ padding: 5px 26px 5px 14px; }}
    QMenu::item:selected {{ background: {p["CHOSEN"]}; }}
    QMenu::item:disabled {{ color: {p["OFF"]}; }}
    QMenu::separator {{ height: 1px; background: {p["RULE"]}; margin: 4px 6px; }}
    QProgressBar {{ background: {p["RULE"]}; border: none; border-radius: 2px; height: 8px; }}
    QProgressBar::chunk {{ background: {p["ACCENT"]}; border-radius: 2px; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; }}
    QScrollBar::handle:vertical {{ background: {p["GRIP"]}; border-radius: 4px; min-height: 30px; margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QToolTip {{ background: {p["INK"]}; color: {p["PAPER"]}; border: none; padding: 4px 6px; }}
    QScrollArea {{ border: none; background: transparent; }}
    QScrollArea#card {{ background: {p["SHEET"]}; border: none; border-left: 1px solid {p["RULE"]}; }}
    """
