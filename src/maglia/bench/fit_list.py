"""The fits of the piece: each with its wish and what it leaves over.

Enter changes the wish, L locks it, Del takes it away, + − take the next longer or shorter answer.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from maglia.bench.painting.marks import paint_fit_mark
from maglia.bench.session import Session
from maglia.bench.theme import Theme, font
from maglia.core.edit import Edited
from maglia.core.measures import LengthUnit

if TYPE_CHECKING:
    from maglia.core.fit.found import Standing

ROW = 38


class FitList(QWidget):
    """Signal `change_wanted(str)`: the maker wants to write the wish of that fit anew."""

    change_wanted = Signal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.fits: tuple[Standing, ...] = ()
        self.current = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Fits")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def refresh(self) -> None:
        found = self.session.findings
        self.fits = found.fits if found else ()
        self.current = min(self.current, max(len(self.fits) - 1, 0))
        said = "; ".join(" ".join(_words(stand, self.session.unit)) for stand in self.fits)
        self.setAccessibleDescription(said or "no fits")
        self.setFixedHeight(max(len(self.fits) * ROW, 24))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(12))
        if not self.fits:
            painter.setPen(self.theme.colour("quiet"))
            hint = "None. Enter, then what you want: length, tiers, hem."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, hint)
        for k, stand in enumerate(self.fits):
            self._paint_fit(painter, stand, QRectF(0, k * ROW, self.width(), ROW), k)

    def _paint_fit(self, painter: QPainter, stand: Standing, box: QRectF, k: int) -> None:
        if self.hasFocus() and k == self.current:
            painter.setPen(QPen(self.theme.colour("chosen"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -2), 4, 4)
        paint_fit_mark(
            painter, box.left() + 11, box.top() + 12, self.theme, met=stand.met,
            locked=stand.fit.locked,
        )  # fmt: skip
        wish, left_over = _words(stand, self.session.unit)
        room = box.adjusted(26, 2, -4, -ROW / 2)
        painter.setPen(self.theme.colour("ink"))
        shown = painter.fontMetrics().elidedText(
            wish, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.setPen(self.theme.colour("quiet" if stand.met else "attention"))
        left = painter.fontMetrics().elidedText(
            left_over, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room.translated(0, 16), Qt.AlignmentFlag.AlignVCenter, left)

    def event(self, event: QEvent) -> bool:
        """Its own Del comes before the window's."""
        own = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent)
        if own and event.key() == Qt.Key.Key_Delete:  # type: ignore[attr-defined]
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if not self.fits:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            by = 1 if key == Qt.Key.Key_Down else -1
            self.current = min(max(self.current + by, 0), len(self.fits) - 1)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.change_wanted.emit(self.fits[self.current].fit.name)
        elif key in (Qt.Key.Key_L, Qt.Key.Key_Delete, Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self._do(key)
        else:
            super().keyPressEvent(event)

    def _do(self, key: int) -> None:
        from maglia.core.fit.hold import toggled_lock, without_fit

        fit = self.fits[self.current].fit
        piece = self.session.piece
        if key == Qt.Key.Key_L:
            said = "solved again" if fit.locked else "locked"
            self.session.apply(Edited(toggled_lock(piece, fit.name), f"{fit.name} {said}"))
        elif key == Qt.Key.Key_Delete:
            self.session.apply(Edited(without_fit(piece, fit.name), f"{fit.name} taken away"))
        else:
            self.session.take_beside(fit.name, longer=key == Qt.Key.Key_Plus)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self.current = min(int(event.position().y() // ROW), max(len(self.fits) - 1, 0))
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.fits:
            self.change_wanted.emit(self.fits[self.current].fit.name)

    def focusInEvent(self, event: object) -> None:
        self.update()

    def focusOutEvent(self, event: object) -> None:
        self.update()


def _words(stand: Standing, unit: LengthUnit) -> tuple[str, str]:
    """The wish, and what is left over."""
    from maglia.core.fit.solve import words
    from maglia.core.fit.text import worst_words

    return words(stand.fit, unit), worst_words(stand, unit)
