"""A piece as it hangs, beside what is said of it: hung in the background as it is, its wishes not
solved anew.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from maglia.app.jobs import Jobs
from maglia.app.painting.small import draw_small
from maglia.app.pictures import Pictures
from maglia.app.theme import Theme
from maglia.core.piece.piece import Piece

if TYPE_CHECKING:
    from maglia.core.report import Findings


class HungPicture(QWidget):
    """The chosen piece as it hangs; `lane` is the line of work it waits in."""

    def __init__(self, jobs: Jobs, lane: str, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.found: Findings | None = None
        self._key = ""
        self._pictures = Pictures(jobs, lane, self)
        self._pictures.hung.connect(self._on_hung)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("The piece")

    def sizeHint(self) -> QSize:
        return QSize(600, 480)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def show_piece(self, piece: Piece | None) -> None:
        """Show a piece when it hangs, or nothing."""
        key = "" if piece is None else str(hash(piece))
        if key == self._key:
            return
        self._key, self.found = key, None
        self.update()
        if piece is not None:
            as_it_is = replace(piece, fits=())
            self._pictures.ask([(key, lambda: as_it_is)])

    def _on_hung(self, key: str, found: Findings) -> None:
        if key == self._key:
            self.found = found
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.theme.colour("mat"))
        if self.found is not None:
            draw_small(painter, self.found, QRectF(self.rect()).adjusted(40, 40, -40, -40))
