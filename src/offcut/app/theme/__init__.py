"""The look: two themes in neutral greys, one accent, the shipped type."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PySide6.QtWidgets import QApplication

SANS, MONO = "Fira Sans", "Fira Mono"
SMALL, BODY, HEAD, LARGE = 11, 12, 13, 20
WAX = QColor("#F5C518")
WELL = QColor("#2B2B2B")
WELL_DEEP = QColor("#1C1C1C")
WELL_TEXT = QColor("#C9C9C9")
WELL_FAINT = QColor("#9A9A9A")
WELL_LINE = QColor("#4A4A4A")


@dataclass(frozen=True)
class Theme:
    """One set of greys; red, green and blue are equal in each."""

    name: str
    bench: str
    panel: str
    raised: str
    line: str
    text: str
    faint: str
    ink: str
    on_ink: str
    warn: str
    bar: str
    tint: str

    def colour(self, part: str) -> QColor:
        """Return one of its colours."""
        return QColor(getattr(self, part))


DAY = Theme(
    "day",
    "#E4E4E4",
    "#F2F2F2",
    "#FFFFFF",
    "#CFCFCF",
    "#1E1E1E",
    "#5E5E5E",
    "#1E1E1E",
    "#F7F7F7",
    "#A83420",
    "#D4D4D4",
    "#F6E9B8",
)
NIGHT = Theme(
    "night",
    "#1F1F1F",
    "#272727",
    "#333333",
    "#424242",
    "#E6E6E6",
    "#A6A6A6",
    "#E9E9E9",
    "#191919",
    "#F0776A",
    "#3D3D3D",
    "#4A4433",
)

_now = DAY
_ICONS = Path(__file__).parent / "icons"


def theme() -> Theme:
    """Return the theme in force."""
    return _now


def load_fonts() -> None:
    """Make the shipped fonts known to Qt."""
    for face in sorted((Path(__file__).parents[2] / "fonts").glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(face))


def font(size: int = BODY, *, strong: bool = False, mono: bool = False) -> QFont:
    """Return the shipped type at a size in pixels, with figures of one width."""
    made = QFont(MONO if mono else SANS)
    made.setPixelSize(size)
    if strong:
        made.setWeight(QFont.Weight.Medium if mono else QFont.Weight.DemiBold)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


def system_theme() -> str:
    """Return the system's wish, day when it says nothing."""
    scheme = QGuiApplication.styleHints().colorScheme()
    return "night" if scheme == Qt.ColorScheme.Dark else "day"


def apply_theme(app: QApplication, name: str) -> None:
    """Put a theme in force for the whole application, unless it is already."""
    global _now
    t = NIGHT if name == "night" else DAY
    if t is _now and app.styleSheet():
        return
    _now = t
    palette = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, t.bench),
        (QPalette.ColorRole.Base, t.raised),
        (QPalette.ColorRole.AlternateBase, t.panel),
        (QPalette.ColorRole.Button, t.raised),
        (QPalette.ColorRole.Text, t.text),
        (QPalette.ColorRole.WindowText, t.text),
        (QPalette.ColorRole.ButtonText, t.text),
        (QPalette.ColorRole.PlaceholderText, t.faint),
        (QPalette.ColorRole.ToolTipBase, t.ink),
        (QPalette.ColorRole.ToolTipText, t.on_ink),
        (QPalette.ColorRole.Highlight, t.ink),
        (QPalette.ColorRole.HighlightedText, t.on_ink),
    ):
        palette.setColor(role, QColor(colour))
    app.setStyle("Fusion")
    app.setPalette(palette)
    app.setFont(font())
    app.setStyleSheet(_sheet(t))


def _sheet(t: Theme) -> str:
    return f"""
* {{ color: {t.text}; font-family: "{SANS}"; font-size: {BODY}px; }}
QToolTip {{ background: {t.ink}; color: {t.on_ink}; border: 0; padding: 5px 8px; }}
#topbar, #side, #list, #sections {{ background: {t.panel}; }}
#topbar {{ border-bottom: 1px solid {t.line}; }}
#status {{ background: {t.bench}; border-top: 1px solid {t.line}; }}
#offer {{ background: {WAX.name()}; }}
#offer QLabel {{ color: #1E1E1E; }}
#plain, #plain > QWidget > QWidget {{ background: transparent; }}
QTableWidget {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 4px; }}
#side QScrollArea, #side QScrollArea > QWidget > QWidget {{ background: transparent; }}
#list {{ border-right: 1px solid {t.line}; }}
#side {{ border-left: 1px solid {t.line}; }}
#well {{ background: {WELL.name()}; border-radius: 5px; }}
#wellfaint {{ color: {WELL_FAINT.name()}; font-size: {SMALL}px; }}
QSlider::groove:horizontal {{ height: 3px; background: {WELL_LINE.name()}; border-radius: 1px; }}
QSlider::handle:horizontal {{ width: 12px; height: 12px; margin: -5px 0; border-radius: 6px;
  background: #F7F7F7; border: 1px solid #8A8A8A; }}
QSlider:focus {{ border-bottom: 1px solid {WAX.name()}; }}
QPushButton:checked {{ border: 2px solid {t.ink}; padding: 5px 8px; font-weight: 600; }}
#card {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 5px; }}
#bench {{ background: {t.bench}; }}
#faint {{ color: {t.faint}; font-size: {SMALL}px; }}
#warning {{ color: {t.warn}; font-size: {SMALL}px; }}
#monofield {{ font-family: "{MONO}"; }}
QCheckBox, QRadioButton {{ spacing: 7px; padding: 2px 0; }}
QCheckBox::indicator, QRadioButton::indicator, QListView::indicator {{ width: 13px; height: 13px;
  border: 1px solid {t.faint}; background: {t.raised}; }}
QCheckBox::indicator, QListView::indicator {{ border-radius: 3px; }}
QRadioButton::indicator {{ border-radius: 7px; }}
QCheckBox::indicator:checked, QRadioButton::indicator:checked,
QListView::indicator:checked {{ background: {WAX.name()};
  border: 3px solid {t.ink}; width: 9px; height: 9px; }}
QCheckBox:focus, QRadioButton:focus {{ border-bottom: 2px solid {WAX.name()}; }}
QCheckBox:disabled, QRadioButton:disabled {{ color: {t.faint}; }}
QComboBox {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 4px;
  padding: 4px 7px; }}
QComboBox:focus {{ border-color: {t.text}; border-bottom: 2px solid {WAX.name()}; }}
QComboBox::drop-down {{ border: 0; width: 20px; }}
QComboBox::down-arrow {{ image: url({_ICONS / f"down-{t.name}.svg"}); width: 10px; height: 10px; }}
QComboBox QAbstractItemView {{ background: {t.raised}; border: 1px solid {t.line};
  selection-background-color: {t.ink}; selection-color: {t.on_ink}; }}
#head {{ font-size: {HEAD}px; font-weight: 600; }}
#large {{ font-size: {LARGE}px; font-weight: 600; }}
#mono, #monofaint {{ font-family: "{MONO}"; }}
#monofaint {{ color: {t.faint}; font-size: {SMALL}px; }}
#playhead {{ font-family: "{MONO}"; font-size: {HEAD}px; font-weight: 500; border: 0;
  background: transparent; padding: 2px 4px; }}
#playhead:focus {{ background: {t.raised}; border-bottom: 2px solid {WAX.name()}; }}
QListView, QTableView {{ background: transparent; border: 0; outline: 0; }}
QTableView {{ selection-background-color: transparent; }}
QTableView::item:selected {{ background: transparent; }}
QPushButton {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 5px;
  padding: 6px 9px; }}
QPushButton:hover {{ border-color: {t.faint}; }}
QPushButton:focus {{ border: 2px solid {WAX.name()}; padding: 5px 8px; }}
QPushButton:disabled {{ color: {t.faint}; background: {t.bench}; }}
QToolButton {{ background: transparent; border: 0; border-radius: 4px; padding: 5px 8px; }}
QToolButton#faint {{ color: {t.faint}; font-size: {SMALL}px; padding: 2px 4px; }}
QToolButton#wellchoice {{ color: {WELL_FAINT.name()}; font-size: {SMALL}px; padding: 1px 5px;
  background: {WELL.name()}; }}
QToolButton#wellchoice:hover {{ color: {WELL_TEXT.name()}; background: {WELL.name()}; }}
QToolButton:hover {{ background: {t.bench}; }}
QToolButton#choice {{ color: {t.faint}; border-radius: 0; padding: 5px 7px 6px; }}
QToolButton#choice:checked {{ color: {t.text}; font-weight: 600;
  border-bottom: 3px solid {WAX.name()}; padding-bottom: 3px; }}
QToolButton#choice:hover {{ background: transparent; color: {t.text}; }}
QToolButton#choice:focus {{ border: 0; border-bottom: 3px solid {t.text}; padding: 5px 7px 3px; }}
QToolButton:focus {{ border: 2px solid {WAX.name()}; padding: 3px 6px; }}
QToolButton::menu-indicator {{ image: none; }}
QLineEdit {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 4px;
  padding: 4px 6px; selection-background-color: {t.ink}; selection-color: {t.on_ink}; }}
QLineEdit:focus {{ border-color: {t.text}; border-bottom: 2px solid {WAX.name()}; }}
QSpinBox, QDoubleSpinBox {{ background: {t.raised}; border: 1px solid {t.line};
  border-radius: 4px;
  padding: 3px 4px; font-family: "{MONO}"; selection-background-color: {t.ink};
  selection-color: {t.on_ink}; }}
QSpinBox QLineEdit, QDoubleSpinBox QLineEdit {{ background: transparent; border: 0;
  padding: 0 3px; }}
QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ width: 0; border: 0; }}
QSpinBox:focus, QDoubleSpinBox:focus {{ border-color: {t.text};
  border-bottom: 2px solid {WAX.name()}; }}
QListWidget {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 4px;
  outline: 0; font-size: {SMALL}px; }}
#plainlist {{ background: transparent; border: 0; font-size: {BODY}px; }}
#plainlist:focus {{ border: 0; }}
#plainlist::item {{ padding: 0; }}
QPlainTextEdit {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 4px;
  padding: 1px 2px; selection-background-color: {t.ink}; selection-color: {t.on_ink}; }}
QPlainTextEdit:focus {{ border-color: {t.text}; border-bottom: 2px solid {WAX.name()}; }}
QTabWidget#keypages::pane {{ border: 0; border-top: 1px solid {t.line}; }}
QTabBar::tab {{ background: transparent; color: {t.faint}; padding: 6px 10px; border: 0; }}
QTabBar::tab:selected {{ color: {t.text}; font-weight: 600;
  border-bottom: 3px solid {WAX.name()}; }}
QTabBar {{ qproperty-drawBase: 0; }}
QHeaderView {{ background: {t.panel}; }}
QHeaderView::section {{ background: {t.panel}; color: {t.faint}; border: 0; padding: 5px 8px;
  border-bottom: 1px solid {t.line}; font-size: {SMALL}px; }}
QListWidget:focus {{ border-color: {t.text}; }}
QListWidget::item {{ padding: 3px 6px; color: {t.text}; }}
QListWidget::item:selected {{ background: {t.bar}; color: {t.text}; }}
#side QPushButton {{ padding: 4px 6px; font-size: {SMALL}px; }}
#side QPushButton:focus {{ border: 2px solid {WAX.name()}; padding: 3px 5px; }}
#keyline {{ background: transparent; border: 1px solid transparent; border-radius: 3px;
  padding: 1px 5px; font-family: "{MONO}"; font-size: {SMALL}px; text-align: left; }}
#keyline:hover {{ border-color: {t.line}; background: {t.raised}; }}
#keyline:focus {{ border: 1px solid {t.text}; padding: 1px 5px; }}
#keyline:checked {{ background: {WAX.name()}; color: #1E1E1E; }}
QMenu {{ background: {t.raised}; border: 1px solid {t.line}; padding: 5px; }}
QMenu::item {{ padding: 5px 26px 5px 14px; border-radius: 4px; }}
QMenu::item:selected {{ background: {t.ink}; color: {t.on_ink}; }}
QMenu::item:disabled {{ color: {t.faint}; }}
QMenu::separator {{ height: 1px; background: {t.line}; margin: 5px 8px; }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
QScrollBar::handle:vertical {{ background: {t.line}; border-radius: 4px; min-height: 30px;
  margin: 1px 2px; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
QScrollBar::handle:horizontal {{ background: {t.line}; border-radius: 4px; min-width: 30px;
  margin: 2px 1px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QAbstractScrollArea::corner {{ background: transparent; border: 0; }}
QDialog {{ background: {t.panel}; }}
QPushButton#main:enabled, #side QPushButton#main:enabled {{ background: {t.ink};
  color: {t.on_ink}; border-color: {t.ink}; font-weight: 600; font-size: {BODY}px; }}
"""
