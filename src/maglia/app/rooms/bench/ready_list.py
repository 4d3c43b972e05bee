"""What is readied before joining: chain to cut, and rings to open and to leave closed."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QPainter

from maglia.app.lists import RowDelegate, RowList
from maglia.app.session.session import Session
from maglia.app.theme import Theme, font
from maglia.core.values.measures import format_links
from maglia.core.values.record import Value

if TYPE_CHECKING:
    from maglia.core.report import Findings

LINE = 21


class Line(Value, frozen=True):
    """One line of the sheet: its letter, what it is, how much."""

    letter: str
    words: str
    amount: str


def lines_of(found: Findings, length: Callable[[float | None], str]) -> list[Line]:
    things, letters = found.assembly.things, found.assembly.letters
    lines = [
        Line(
            letters.get(cut.chain, ""),
            f"{cut.count} × {format_links(cut.links)}, {things[cut.chain].name}",
            length(cut.length_mm),
        )
        for cut in found.cuts
    ]
    lines += [
        Line(r.letter, f"{r.count} × {r.name}", f"{r.to_open} open · {r.leave_closed} closed")
        for r in found.rings
    ]
    return lines


class LineDelegate(RowDelegate[Line]):
    def height(self, row: Line, width: int) -> int:
        return LINE

    def draw(self, painter: QPainter, row: Line, box: QRect) -> None:
        middle, right = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignRight
        painter.setFont(font(12, bold=True))
        painter.setPen(self.theme.colour("good"))
        painter.drawText(QRectF(box.left(), box.top(), 18, LINE), middle, row.letter)
        painter.setFont(font(12))
        painter.setPen(self.theme.colour("ink"))
        taken = painter.fontMetrics().horizontalAdvance(row.amount) + 8
        room = QRectF(box).adjusted(20, 0, -taken, 0)
        shown = painter.fontMetrics().elidedText(
            row.words, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, middle, shown)
        painter.drawText(QRectF(box), right | middle, row.amount)


class ReadyList(RowList[Line]):
    """Cuts and rings, each with its letter."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(
            "Cut list and rings", lambda row: f"{row.letter} {row.words} {row.amount}", theme
        )
        self.session = session
        self.setItemDelegate(LineDelegate(self, theme))

    def refresh(self) -> None:
        found = self.session.findings
        self.empty = "Nothing to cut yet." if found else "…"
        self.show_rows(lines_of(found, self.session.length) if found else ())
