"""What a drawn view tells assistive technology: what the cursor stands on, and what changed."""

from PySide6.QtWidgets import QWidget


def describe(widget: QWidget, words: str) -> None:
    """Say what a view shows now. If somebody listens, they are told when it changes."""
    before = widget.accessibleDescription()
    if words == before:
        return
    widget.setAccessibleDescription(words)
    if before:
        _tell(widget, words)


def _tell(widget: QWidget, words: str) -> None:
    from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent, QAccessibleEvent  # 3 ms

    if QAccessible.isActive():
        changed = QAccessible.Event.DescriptionChanged
        QAccessible.updateAccessibility(QAccessibleEvent(widget, changed))
        QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(widget, words))
