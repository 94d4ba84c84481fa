"""The look: warm paper, ink and copper. Colours by their role, the typeface, the style sheet."""

from importlib.resources import files
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from molvik.drawing.roles import LIGHT

ROLES = LIGHT

SANS = "B612"
MONO = "B612 Mono"


def load_fonts() -> None:
    """Make the shipped typeface known to Qt."""
    folder = files("molvik.fonts")
    for entry in folder.iterdir():
        if entry.name.endswith(".ttf"):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


def font(pixels: int = 13, *, bold: bool = False, mono: bool = False) -> QFont:
    """Return the typeface at a height in pixels."""
    made = QFont(MONO if mono else SANS)
    made.setPixelSize(pixels)
    made.setBold(bold)
    return made


def colour(role: str) -> QColor:
    """Return the colour of a role; "#RRGGBB" is its own."""
    return QColor(ROLES.paint(role))


def _style() -> str:
    icons = Path(__file__).parent / "icons"
    arrows = {name: (icons / f"{name}.svg").as_posix() for name in ("up", "down")}
    return STYLE.format(**ROLES._asdict(), **arrows)


def apply(application: QApplication) -> None:
    """Give the application its look."""
    load_fonts()
    application.setStyle("Fusion")
    application.setFont(font())
    palette = QPalette()
    for group, role in (
        (QPalette.ColorRole.Window, "paper"),
        (QPalette.ColorRole.Base, "sheet"),
        (QPalette.ColorRole.AlternateBase, "paper"),
        (QPalette.ColorRole.Text, "ink"),
        (QPalette.ColorRole.WindowText, "ink"),
        (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.Button, "sheet"),
        (QPalette.ColorRole.Highlight, "copper"),
        (QPalette.ColorRole.HighlightedText, "sheet"),
        (QPalette.ColorRole.ToolTipBase, "sheet"),
        (QPalette.ColorRole.ToolTipText, "ink"),
        (QPalette.ColorRole.PlaceholderText, "faint"),
        (QPalette.ColorRole.Link, "copper"),
    ):
        palette.setColor(group, colour(role))
    application.setPalette(palette)
    application.setStyleSheet(_style())


STYLE = """
QWidget {{ font-family: "B612"; font-size: 13px; color: {ink}; }}
QMainWindow, QDialog {{ background: {paper}; }}
QMenuBar {{ background: {sheet}; padding: 1px 10px; }}
QMenuBar::item {{ padding: 5px 9px; background: transparent; }}
QMenuBar::item:selected {{ background: {copper_wash}; }}
QMenu {{ background: {sheet}; border: 1px solid {rule}; padding: 4px; }}
QMenu::item {{ padding: 6px 22px 6px 14px; }}
QMenu::item:selected {{ background: {copper_wash}; }}
QMenu::item:disabled {{ color: {line}; }}
QMenu::separator {{ height: 1px; background: {rule}; margin: 4px 8px; }}
QToolTip {{ background: {sheet}; color: {ink}; border: 1px solid {line}; padding: 4px; }}

#header, #hand, #hand QScrollArea, #handBody {{ background: {sheet}; }}
#header {{ border-bottom: 1px solid {rule}; }}
#hand {{ border-left: 1px solid {rule}; }}
#work {{ background: {side}; }}
#strip {{ background: {strip}; }}
#jobTitle {{ font-size: 16px; font-weight: bold; color: {ink}; padding: 0; min-height: 22px; }}
#pageTitle {{ font-size: 18px; font-weight: bold; }}
#verdict {{ font-size: 15px; font-weight: bold; }}
#handTitle {{ font-size: 16px; font-weight: bold; }}
#welcomeTitle {{ font-size: 30px; font-weight: bold; }}
QLabel[role="faint"] {{ color: {faint}; }}
QLabel[role="head"] {{ color: {faint}; font-size: 12px; font-weight: bold; }}
QLabel[role="stop"] {{ color: {stop}; }}
QLabel[role="proved"] {{ color: {proved}; font-weight: bold; }}
QLabel[role="look"] {{ color: {live_text}; font-weight: bold; }}
QLabel[role="strong"] {{ font-weight: bold; }}
#said {{ background: {sheet}; border: 1px solid {rule}; border-radius: 5px; }}
#said[role="dead"] {{ background: {stop_wash}; border: 1px solid {stop}; }}
QLabel[role="bad"] {{ color: {stop}; font-weight: bold; }}
QLabel[role="big"] {{ font-size: 26px; font-weight: bold; }}
#notice {{ background: {stop_wash}; border: 1px solid {stop}; border-radius: 5px; padding: 7px 10px;
  color: {stop}; }}
#good {{ background: {sheet}; border: 1px solid {proved}; border-radius: 5px; padding: 7px 10px; }}
#card {{ background: {sheet}; border: 1px solid {rule}; border-radius: 6px; }}

QPushButton, QToolButton {{ background: {sheet}; border: 1px solid {line}; border-radius: 5px;
  padding: 5px 12px; min-height: 18px; }}
QPushButton:hover, QToolButton:hover {{ border-color: {copper}; }}
QPushButton:focus, QToolButton:focus {{ border: 2px solid {copper}; padding: 4px 11px; }}
QPushButton:disabled, QToolButton:disabled {{ color: {faint}; background: {paper};
  border-color: {rule}; }}
QPushButton[role="action"] {{ background: {copper}; color: white; font-weight: bold;
  border-color: {copper}; }}
QPushButton[role="action"]:hover {{ background: #94491B; }}
QPushButton[role="action"]:focus {{ border: 2px solid {ink}; }}
QPushButton[role="action"]:disabled {{ background: {line}; border-color: {line}; color: {ink}; }}
QPushButton[role="quiet"], QToolButton[role="quiet"] {{ background: transparent;
  border-color: transparent; color: {copper}; text-align: left; }}
QPushButton[role="quiet"]:disabled, QToolButton[role="quiet"]:disabled {{ color: {faint}; }}
QPushButton[role="quiet"]:hover, QToolButton[role="quiet"]:hover {{ border-color: {copper}; }}
QPushButton[role="quiet"]:focus, QToolButton[role="quiet"]:focus {{ border: 2px solid {copper}; }}
QPushButton[role="fold"] {{ background: transparent; border-color: transparent; text-align: left;
  color: {faint}; padding: 4px 0; }}
QPushButton[role="fold"]:hover {{ color: {copper}; }}
QPushButton[role="fold"]:focus {{ border: 2px solid {copper}; padding: 3px 0; }}
QPushButton[role="row"] {{ text-align: left; padding: 4px 10px; }}
QPushButton[role="row"]:focus {{ padding: 3px 9px; }}
QPushButton:checked {{ background: {copper_wash}; border-color: {copper}; }}
#side, #side > QWidget {{ background: {side}; }}
#meter {{ background: #3A404A; border-radius: 8px; }}
#digits {{ background: #DCE5D0; color: #1C211A; border-radius: 4px; padding: 2px 8px; }}
QPushButton[role="meter"] {{ background: #545C68; color: white; border-color: #545C68;
  padding: 4px 2px; }}
QPushButton[role="meter"]:checked {{ background: {copper}; border-color: {copper};
  font-weight: bold; }}
QPushButton[role="meter"]:focus {{ border: 2px solid white; padding: 3px 1px; }}
QPushButton[role="turn"] {{ padding: 5px 9px; }}
QPushButton[role="turn"]:focus {{ padding: 4px 8px; }}
QPushButton[role="turn"]:checked {{ background: {copper}; color: white; font-weight: bold; }}
QPushButton[role="broken"] {{ background: {stop_wash}; border-color: {stop}; color: {stop};
  text-align: left; font-size: 12px; padding: 5px 5px; }}
QToolButton::menu-indicator {{ image: none; }}

QLineEdit, QComboBox, QSpinBox, QPlainTextEdit {{ background: {sheet}; border: 1px solid {line};
  border-radius: 4px; padding: 3px 7px; min-height: 20px; selection-background-color: {copper};
  selection-color: white; }}
QLineEdit:focus, QComboBox:focus, QSpinBox:focus, QPlainTextEdit:focus {{
  border: 2px solid {copper}; padding: 2px 6px; }}
QLineEdit[wrong="true"] {{ border: 2px solid {stop}; background: {stop_wash}; padding: 2px 6px; }}
QLineEdit[flat="true"] {{ background: transparent; border: 1px solid transparent;
  padding: 1px 5px; min-height: 20px; }}
QLineEdit[flat="true"]:hover {{ border-color: {line}; }}
QLineEdit[flat="true"]:focus {{ background: {sheet}; border: 2px solid {copper}; padding: 0 4px; }}
QLineEdit[flat="true"][wrong="true"] {{ border: 2px solid {stop}; background: {stop_wash};
  padding: 0 4px; }}
QComboBox::drop-down {{ border: none; width: 22px; }}
QComboBox::down-arrow, QSpinBox::down-arrow {{ image: url({down}); width: 11px; height: 11px; }}
QSpinBox::up-arrow {{ image: url({up}); width: 11px; height: 11px; }}
QSpinBox::up-button, QSpinBox::down-button {{ border: none; width: 20px; background: transparent; }}
QSpinBox {{ padding: 3px 22px 3px 7px; min-width: 34px; }}
QSpinBox:focus {{ padding: 2px 21px 2px 6px; }}
QComboBox QAbstractItemView {{ background: {sheet}; border: 1px solid {line};
  selection-background-color: {copper_wash}; selection-color: {ink}; }}

QTableView, QListView, QListWidget {{ background: {sheet}; border: 1px solid {rule};
  border-radius: 5px; gridline-color: {rule}; alternate-background-color: {paper};
  selection-background-color: {copper_wash}; selection-color: {ink}; outline: none; }}
QTableView:focus, QListWidget:focus {{ border: 1px solid {copper}; }}
QTableView::item {{ padding: 2px 6px; }}
QTableView QLineEdit {{ border-radius: 0; padding: 0 5px; min-height: 0; }}
QHeaderView::section {{ background: {paper}; color: {faint}; border: none;
  border-bottom: 1px solid {line}; padding: 5px 6px; font-size: 12px; font-weight: bold; }}
QHeaderView::down-arrow {{ image: url({down}); width: 9px; height: 9px;
  subcontrol-position: bottom center; }}
QHeaderView::up-arrow {{ image: url({up}); width: 9px; height: 9px;
  subcontrol-position: bottom center; }}
QListWidget::item {{ padding: 3px 6px; }}
QListWidget#workList {{ background: transparent; border: 1px solid transparent; }}
QListWidget#workList::item {{ padding: 6px 10px; border: 1px solid transparent;
  border-radius: 5px; }}
QListWidget#workList::item:selected {{ background: {sheet}; color: {ink};
  border: 1px solid {copper}; }}
QListWidget#workList:focus {{ border: 1px solid {line}; }}
QScrollBar:vertical {{ background: transparent; width: 11px; }}
QScrollBar:horizontal {{ background: transparent; height: 11px; }}
QScrollBar::handle {{ background: {line}; border-radius: 4px; min-height: 30px; min-width: 30px;
  margin: 2px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QTabWidget::pane {{ border: none; }}
QTabBar::tab {{ padding: 6px 14px; color: {faint}; border-bottom: 3px solid transparent; }}
QTabBar::tab:selected {{ color: {copper}; border-bottom: 3px solid {copper}; font-weight: bold; }}
QTabBar::tab:focus {{ color: {ink}; }}
QScrollArea {{ border: none; }}
QSplitter::handle {{ background: {rule}; }}
QProgressBar {{ border: 1px solid {line}; border-radius: 4px; background: {sheet};
  text-align: center; max-height: 14px; }}
QProgressBar::chunk {{ background: {copper}; }}
"""
