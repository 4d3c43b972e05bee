"""Colour, type and style: one colour model, one stylesheet template, two themes."""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from string import Template
from typing import Literal

from msgspec.structs import asdict
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PySide6.QtWidgets import QApplication, QStyle

from maglia.core.values.record import Value

ThemeName = Literal["felt", "slate"]


class Theme(Value, frozen=True):
    """Every colour the window uses. Attention is never shown by colour alone."""

    name: ThemeName
    mat: str
    mat_deep: str
    board: str
    paper: str
    paper_edge: str
    field: str
    """The edge of what can be written into or pressed."""
    ink: str
    quiet: str
    fold: str
    good: str
    attention: str
    chosen: str

    def colour(self, role: str, alpha: int = 255) -> QColor:
        colour = QColor(getattr(self, role))
        colour.setAlpha(alpha)
        return colour


THEMES: dict[str, Theme] = {
    "felt": Theme(
        name="felt",
        mat="#a3ad9e",
        mat_deep="#949f8f",
        board="#b3bcae",
        paper="#f4f1e8",
        paper_edge="#d9d4c5",
        field="#868a7d",
        ink="#17211c",
        quiet="#515a52",
        fold="#8f2435",
        good="#1a5448",
        attention="#6d4407",
        chosen="#1a5448",
    ),
    "slate": Theme(
        name="slate",
        mat="#41494e",
        mat_deep="#383f44",
        board="#4b545a",
        paper="#23282b",
        paper_edge="#3a4146",
        field="#70797e",
        ink="#e9e6dc",
        quiet="#b2b9b5",
        fold="#f0949d",
        good="#74c4ad",
        attention="#e3ad4f",
        chosen="#74c4ad",
    ),
}

_STYLE = Template("""
* { font-family: "Source Sans 3"; font-size: 13px; color: $ink; }
QMainWindow, QWidget#rooms, QDialog { background: $paper; }
QWidget#panel { background: $paper; }
QWidget#panel[edge="left"] { border-left: 1px solid $paper_edge; }
QWidget#rooms { border-bottom: 1px solid $paper_edge; }
QLabel#heading { font-size: 11px; font-weight: 600; color: $quiet; letter-spacing: 1px; }
QLabel#quiet, QLabel#message { color: $quiet; }
QLabel#added { color: $ink; font-style: italic; }
QLabel#pieceName { font-size: 14px; font-weight: 600; }
QToolButton { border: 1px solid transparent; border-radius: 4px; padding: 3px 8px; }
QToolButton#small { padding: 1px 4px; border-color: $field; }
QToolButton:hover { border-color: $paper_edge; }
QToolButton:checked { font-weight: 600; color: $good; }
QToolButton:focus, QListView:focus, QScrollArea:focus { border: 1px solid $good; }
QToolButton::menu-indicator { image: none; width: 0; }
QLineEdit { background: $paper; border: 1px solid $good; border-radius: 4px; padding: 4px 8px;
  selection-background-color: $good; selection-color: $paper; }
QLineEdit#size { border-color: $field; padding: 1px 4px; }
QLineEdit#size:focus { border-color: $good; }
QLineEdit#size[unknown="true"] { color: $attention; font-weight: 600; }
QLineEdit#title { border-color: transparent; font-size: 16px; font-weight: 600; padding: 1px 2px; }
QLineEdit#title:focus { border-color: $good; }
QLabel#attention { color: $attention; }
QListView#mat { background: $mat; border: 0; border-radius: 0; }
QListView#mat::item { padding: 0; }
QListView { background: $paper; border: 1px solid $paper_edge; border-radius: 4px; outline: 0; }
QListView#plain, QListView#plain:focus { background: transparent; border: 0; border-radius: 0; }
QListView::item { padding: 2px; }
QListView::item:selected { background: $paper_edge; color: $ink; }
QScrollArea { border: 1px solid transparent; background: transparent; }
QScrollArea > QWidget > QWidget { background: transparent; }
QScrollBar:vertical { background: transparent; width: 8px; margin: 0; }
QScrollBar::handle:vertical { background: $paper_edge; border-radius: 4px; min-height: 24px; }
QScrollBar:horizontal { background: transparent; height: 8px; margin: 0; }
QScrollBar::handle:horizontal { background: $paper_edge; border-radius: 4px; min-width: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QHeaderView, QTableCornerButton::section { background: $paper; border: 0; }
QHeaderView::section { background: $paper; color: $quiet; border: 0;
  border-bottom: 1px solid $paper_edge; padding: 4px 8px; }
QTableWidget { background: $paper; gridline-color: $paper_edge; border: 1px solid $paper_edge;
  selection-background-color: $good; selection-color: $paper; }
QMenu { background: $paper; border: 1px solid $paper_edge; padding: 4px; }
QMenu::item { padding: 4px 20px; border-radius: 3px; }
QMenu::item:selected { background: $paper_edge; }
QPushButton { background: $paper; border: 1px solid $field; border-radius: 4px;
  padding: 4px 12px; }
QComboBox { background: $paper; border: 1px solid $field; border-radius: 4px;
  padding: 4px 8px; }
QComboBox#size { padding: 1px 6px; min-height: 20px; }
QComboBox:focus { border-color: $good; }
QComboBox::drop-down { border: 0; width: 18px; }
QComboBox QAbstractItemView { background: $paper; border: 1px solid $paper_edge; }
QTabWidget::pane { border: 1px solid $paper_edge; background: $paper; }
QTabBar::tab { background: $paper; color: $quiet; padding: 5px 12px; border: 0; }
QTabBar::tab:selected { color: $good; font-weight: 600; }
QTextBrowser { background: $paper; border: 0; }
QPushButton:focus { border-color: $good; }
QToolTip { background: $paper; color: $ink; border: 1px solid $paper_edge; }
""")


FAINT_INK = 215
"""How opaque ink on the mat is where it says less; fainter it could not be read."""
_text_scale = 1.0
"""Of the window's text. Paper has its own sizes: see `at_own_size`."""
_SIZE = re.compile(r"font-size: (\d+)px")


def set_text_scale(scale: float) -> None:
    """Text of the window so many times as large as it is drawn; 1 to 2. Styles follow when the
    theme is applied again."""
    global _text_scale
    _text_scale = min(max(scale, 1.0), 2.0)


def scaled(pixels: float) -> int:
    """A width or height that must hold text, at the text's scale."""
    return round(pixels * _text_scale)


@contextmanager
def at_own_size() -> Iterator[None]:
    """Text as large as it is drawn, whatever the window's: for paper and pictures."""
    before = _text_scale
    set_text_scale(1.0)
    try:
        yield
    finally:
        set_text_scale(before)


def desktop_theme() -> str:
    """The theme that the desktop asks for."""
    dark = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
    return "slate" if dark else "felt"


def animates() -> bool:
    """Whether the desktop wants anything to move at all."""
    style = QApplication.style()
    return style.styleHint(QStyle.StyleHint.SH_Widget_Animation_Duration) > 0


def load_fonts() -> None:
    """Register the fonts that ship with the program."""
    for path in (Path(__file__).parent / "fonts").glob("*.ttf"):
        QFontDatabase.addApplicationFont(str(path))


def apply_theme(app: QApplication, theme: Theme) -> None:
    """Dress the whole application."""
    style = _STYLE.substitute(asdict(theme))
    app.setStyleSheet(_SIZE.sub(lambda own: f"font-size: {scaled(int(own[1]))}px", style))
    palette = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, theme.paper),
        (QPalette.ColorRole.Base, theme.paper),
        (QPalette.ColorRole.WindowText, theme.ink),
        (QPalette.ColorRole.Text, theme.ink),
        (QPalette.ColorRole.PlaceholderText, theme.quiet),
        (QPalette.ColorRole.Highlight, theme.good),
        (QPalette.ColorRole.Link, theme.good),
        (QPalette.ColorRole.HighlightedText, theme.paper),
    ):
        palette.setColor(role, QColor(colour))
    app.setPalette(palette)


def font(pixels: float = 13, *, bold: bool = False) -> QFont:
    """The program's sans at a size in logical pixels; its figures are tabular by default."""
    found = QFont("Source Sans 3")
    found.setPixelSize(scaled(pixels))
    found.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    return found
