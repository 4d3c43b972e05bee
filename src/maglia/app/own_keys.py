"""Widgets whose letters are their own: the room's one-letter keys do not reach past them."""

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox

PLAIN = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.KeypadModifier,
)


def is_plain_key(event: QEvent, *more: Qt.Key) -> bool:
    """Whether an event asks who gets a letter, a figure, or one of some further keys."""
    if event.type() != QEvent.Type.ShortcutOverride or not isinstance(event, QKeyEvent):
        return False
    written = bool(event.text()) and event.text().isprintable()
    return event.modifiers() in PLAIN and (written or event.key() in more)


class Choice(QComboBox):
    """A letter chooses in it, and does nothing else."""

    def event(self, event: QEvent) -> bool:
        if is_plain_key(event):
            event.accept()
            return True
        return super().event(event)
