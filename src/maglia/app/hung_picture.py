"""A piece as it hangs, beside what is said of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from maglia.app.painting.small import draw_small
from maglia.app.theme import Theme

if TYPE_CHECKING:
    from maglia.core.report import Findings


class HungPicture(QWidget):
    """The chosen piece as it hangs."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.found: Findings | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("The piece")

    def sizeHint(self) -> QSize:
        return QSize(600, 480)

    def show_piece(self, found: Findings | None) -> None:
        self.found = found
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.theme.colour("mat"))
        if self.found is not None:
            draw_small(painter, self.found, QRectF(self.rect()).adjusted(40, 40, -40, -40))
