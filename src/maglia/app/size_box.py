"""A figure that is typed over: on a dimension line, or in a row of its own. Enter takes it, Escape
puts the old one back, an instrument writes into the one that has the focus.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QLineEdit, QWidget

from maglia.app.plain_text import tip
from maglia.core.values.record import DomainError


class SizeBox(QLineEdit):
    """`take` is given what was written and raises DomainError for what it cannot take.

    Signals: `refused(str)` what was written cannot be taken, and why.
    """

    refused = Signal(str)

    def __init__(
        self, name: str, take: Callable[[str], object], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.name, self.take, self.shown = name, take, ""
        self.setObjectName("size")
        self.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.setAccessibleName(name)

    def show_figure(self, text: str, *, unknown: bool = False, why: str = "") -> None:
        """What is known now; nothing half typed is overwritten by a new state from elsewhere."""
        if self.isModified() and self.hasFocus():
            return
        self.shown = text
        self.setText(text)
        restyled = bool(self.property("unknown")) is not unknown
        self.setProperty("unknown", unknown)
        self.setAccessibleDescription(f"not known: {why}" if unknown and why else "")
        self.setToolTip(tip(f"Not known: {why}." if unknown and why else self.name))
        if restyled:
            self.style().unpolish(self)
            self.style().polish(self)

    def commit(self) -> bool:
        """Take over what is written; False, and it stays to be mended, if it cannot be."""
        text = self.text().strip()
        if text == self.shown.strip():
            self.setModified(False)
            return True
        try:
            self.setModified(False)
            self.take(text)
        except DomainError as fault:
            self.setText(text)
            self.setModified(True)
            self.refused.emit(f"Not done: {fault}.")
            self.selectAll()
            return False
        self.reset()  # as it is known now, which may be written otherwise
        return True

    def reset(self) -> None:
        self.setText(self.shown)
        self.setModified(False)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.selectAll()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        gone = (Qt.FocusReason.PopupFocusReason, Qt.FocusReason.ActiveWindowFocusReason)
        if self.isModified() and event.reason() not in gone and not self.commit():
            self.reset()

    def event(self, event: QEvent) -> bool:
        """While nothing is typed, undo is the catalogue's and not the line's."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            undo = event.matches(QKeySequence.StandardKey.Undo)
            if (undo or event.matches(QKeySequence.StandardKey.Redo)) and not self.isModified():
                event.ignore()
                return False
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self.commit():
                self.selectAll()
        elif event.key() == Qt.Key.Key_Escape:
            if self.isModified():
                self.reset()
                self.selectAll()
            else:
                event.ignore()
        else:
            super().keyPressEvent(event)
