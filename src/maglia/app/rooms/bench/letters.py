"""The letters of the piece: every unit, chain, ring size and connector with its letter, in a strip.

The same letters stand in half-rule, form and lists. A click goes to the first of its kind.
"""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetrics, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from maglia.app.session.session import Session
from maglia.app.theme import Theme, font, scaled

HEIGHT = 26
LETTER, BETWEEN, EDGE = 5, 14, 10
"""Space after a letter, after a name, and at the edges, pixels."""


def _widest(names: list[int], room: int) -> int:
    """How wide the widest name may be so that all find room: only long ones are cut."""
    widest = max(names, default=0)
    while widest > 24 and sum(min(name, widest) for name in names) > room:
        widest -= 1
    return widest


class Letters(QWidget):
    """Listens to the session; what the cursor is on stands out."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.boxes: list[tuple[QRectF, str]] = []
        self.setFixedHeight(scaled(HEIGHT))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Letters")
        for signal in (session.changed, session.moved):
            signal.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        self.setFixedHeight(scaled(HEIGHT))
        self.theme = theme
        self.update()

    def refresh(self) -> None:
        letters, things = self.session.assembly.letters, self.session.assembly.things
        said = (f"{letter} {things[ref].name}" for ref, letter in self._order())
        self.setAccessibleDescription("; ".join(said) if letters else "no parts yet")
        self.update()

    def _order(self) -> list[tuple[str, str]]:
        """Units first, then parts, each by its letter."""
        letters = self.session.assembly.letters
        return sorted(letters.items(), key=lambda one: (one[1].islower(), len(one[1]), one[1]))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.theme.colour("paper"))
        things = self.session.assembly.things
        here = {m.ref for m in self.session.members_at(self.session.spot)}
        self.boxes, order = [], self._order()
        bold, plain = QFontMetrics(font(12, bold=True)), QFontMetrics(font(12))
        names = [(bold if ref in here else plain).horizontalAdvance(things[ref].name)
                 for ref, _ in order]  # fmt: skip
        letters = sum(bold.horizontalAdvance(letter) + LETTER + BETWEEN for _, letter in order)
        widest = _widest(names, self.width() - 2 * EDGE - letters + BETWEEN)
        x = float(EDGE)
        for ref, letter in order:
            painter.setFont(font(12, bold=True))
            painter.setPen(self.theme.colour("good"))
            own = painter.fontMetrics().horizontalAdvance(letter) + LETTER
            painter.drawText(
                QRectF(x, 0, own, scaled(HEIGHT)), Qt.AlignmentFlag.AlignVCenter, letter
            )
            painter.setFont(font(12, bold=ref in here))
            painter.setPen(self.theme.colour("ink" if ref in here else "quiet"))
            words = painter.fontMetrics().elidedText(
                things[ref].name, Qt.TextElideMode.ElideRight, widest + 1
            )
            wide = painter.fontMetrics().horizontalAdvance(words)
            box = QRectF(x, 0, own + wide, scaled(HEIGHT))
            painter.drawText(
                QRectF(x + own, 0, wide + 2, scaled(HEIGHT)), Qt.AlignmentFlag.AlignVCenter, words
            )
            self.boxes.append((box, ref))
            x += own + wide + BETWEEN

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, ref in self.boxes:
            if box.contains(event.position()):
                member = next(m for m in self.session.assembly.members if ref in (m.ref, m.made_in))
                self.session.go_to_member(member)
