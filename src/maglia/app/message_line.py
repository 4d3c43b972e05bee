"""What happened, at the foot of the window: two lines of it at most, always there, so that nothing
moves when it is long; what does not fit is read on pointing at it.
"""

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QSizePolicy

from maglia.app.plain_text import tip

LINES = 2


class MessageLine(QLabel):
    """A label that takes the width there is."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("message")
        self.setAccessibleName("Message")
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def say(self, words: str) -> None:
        self.setText(words)
        self.setToolTip(tip(words if len(self.lines()) > LINES else ""))

    def sizeHint(self) -> QSize:
        return QSize(0, LINES * self.fontMetrics().lineSpacing())

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def lines(self) -> list[str]:
        """The words as they are broken into the width there is."""
        found, room = [""], max(self.width(), 1)
        for word in self.text().split():
            longer = f"{found[-1]} {word}".strip()
            if self.fontMetrics().horizontalAdvance(longer) > room and found[-1]:
                found.append(word)
            else:
                found[-1] = longer
        return found

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, lines = QPainter(self), self.lines()
        shown = [*lines[: LINES - 1], " ".join(lines[LINES - 1 :])]
        high = self.fontMetrics().lineSpacing()
        top = (self.height() - high * min(len(lines), LINES)) // 2
        for k, words in enumerate(shown):
            text = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight,
                                                    self.width())  # fmt: skip
            painter.drawText(QRect(0, top + k * high, self.width(), high),
                             Qt.AlignmentFlag.AlignVCenter, text)  # fmt: skip
