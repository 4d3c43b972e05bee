"""What is wrong, worst first. Enter goes there, R repairs, A keeps it with a note, ? says why."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRect, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter

from maglia.app.lists import RowDelegate, RowList
from maglia.app.session.session import Session
from maglia.app.theme import Theme, font
from maglia.guide.book import why

if TYPE_CHECKING:
    from maglia.core.checks.found import Check

SIGNS = {"stop": ("!", "fold"), "attention": ("!", "attention"), "note": ("i", "quiet")}


def words_of(check: Check) -> str:
    repair = f"\n→ {check.repair}" if check.repair else ""
    return f"{check.place}\n{check.message}{repair}"


class CheckDelegate(RowDelegate["Check"]):
    def height(self, row: Check, width: int) -> int:
        flags = int(Qt.TextFlag.TextWordWrap)
        room = QRect(0, 0, max(width - 30, 120), 10_000)
        return QFontMetrics(font(12)).boundingRect(room, flags, words_of(row)).height() + 14

    def draw(self, painter: QPainter, row: Check, box: QRect) -> None:
        sign, role = SIGNS[row.severity]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour(role))
        disc = QRectF(box.left() + 4, box.top() + 6, 16, 16)
        painter.drawEllipse(disc)
        painter.setPen(self.theme.colour("paper"))
        painter.setFont(font(11, bold=True))
        painter.drawText(disc, Qt.AlignmentFlag.AlignCenter, sign)
        painter.setFont(font(12))
        painter.setPen(self.theme.colour("ink"))
        text = box.adjusted(28, 5, -2, -5)
        painter.drawText(text, int(Qt.TextFlag.TextWordWrap), words_of(row))


class CheckList(RowList["Check"]):
    """Signals `visit_wanted(Check)`, `repair_wanted(Check)`, `accept_wanted(Check)`,
    `why_wanted(str)` a page of the guide."""

    repair_wanted = Signal(object)
    accept_wanted = Signal(object)
    visit_wanted = Signal(object)
    why_wanted = Signal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__("Checks", words_of, theme)
        self.session = session
        self.setItemDelegate(CheckDelegate(self, theme))
        self.keys = {
            Qt.Key.Key_R: self.repair_wanted.emit,
            Qt.Key.Key_A: self.accept_wanted.emit,
            Qt.Key.Key_Question: lambda check: self.why_wanted.emit(why(check.code)),
        }
        self.chosen.connect(self.visit_wanted)
        self.pointed.connect(self.visit_wanted)

    def refresh(self) -> None:
        found = self.session.findings
        self.empty, self.empty_role = (
            ("✓  Nothing to mend.", "good") if found and self.session.at_rest else ("…", "quiet")
        )
        self.show_rows(found.checks if found else ())
