"""Line icons that ship with the program, in the colour of the theme."""

from pathlib import Path

from PySide6.QtCore import QByteArray, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap

from maglia.app.theme import Theme

FOLDER = Path(__file__).parent / "icons"
SIZE = 18
SHARP = (1, 2, 3)
"""Scales of the screen it is drawn for."""


def icon(name: str, theme: Theme) -> QIcon:
    """A line icon; drawn when it is first wanted, since reading SVG costs the start."""
    from PySide6.QtSvg import QSvgRenderer

    text = (FOLDER / f"{name}.svg").read_text(encoding="utf-8").replace("#000", theme.ink)
    renderer = QSvgRenderer(QByteArray(text.encode()))
    made = QIcon()
    for scale in SHARP:
        picture = QPixmap(QSize(SIZE, SIZE) * scale)
        picture.setDevicePixelRatio(scale)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        renderer.render(painter)
        painter.end()
        made.addPixmap(picture)
    return made
