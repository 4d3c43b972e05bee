"""Panels that open below the form: Escape leaves them, and the keys go back to the half-rule."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QPainter, QPixmap
from PySide6.QtWidgets import QVBoxLayout, QWidget


class Panel(QWidget):
    """Keys of the widgets it watches come to `takes` first.

    Signals: `closed()` when it goes.
    """

    closed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)

    def lay_out(self, *widgets: QWidget) -> None:
        """Its widgets one below the other."""
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 8)
        column.setSpacing(6)
        for widget in widgets:
            column.addWidget(widget)

    def watch(self, *widgets: QWidget) -> None:
        for widget in widgets:
            widget.installEventFilter(self)

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        """Do what a key asks for; False lets the watched widget have it."""
        raise NotImplementedError

    def leave(self) -> None:
        self.hide()
        self.closed.emit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            return False
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
            return True
        return self.takes(watched, event)


def column_of(*widgets: QWidget, stretched: QWidget) -> QWidget:
    """Widgets one below the other without gaps; one of them takes the room."""
    whole = QWidget()
    column = QVBoxLayout(whole)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    for widget in widgets:
        column.addWidget(widget, 1 if widget is stretched else 0)
    return whole


def drawn_icon(size: QSize, ratio: float, draw: Callable[[QPainter], None]) -> QIcon:
    """An icon from what `draw` draws, in its own colours whether it is chosen or not."""
    picture = QPixmap(size * ratio)
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    draw(painter)
    painter.end()
    icon = QIcon(picture)
    icon.addPixmap(picture, QIcon.Mode.Selected)
    return icon
