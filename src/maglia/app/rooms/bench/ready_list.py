"""What is readied before joining: chain to cut, rings to open and to leave closed, and, folded
behind one line, wire and pins, thread, beads and all else that is counted.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QPainter

from maglia.app.lists import RowDelegate, RowList
from maglia.app.session.session import Session
from maglia.app.theme import Theme, font, scaled
from maglia.core.parts.units import wire_mm_of
from maglia.core.values.gauges import GaugeSystem, gauge_words
from maglia.core.values.record import Value

if TYPE_CHECKING:
    from maglia.core.report import Findings

LINE = 21
FOLD_KEY = "W"


class Line(Value, frozen=True):
    """One line of the sheet: its letter, what it is, how much."""

    letter: str
    words: str
    amount: str


def lines_of(
    found: Findings,
    length: Callable[[float | None], str],
    *,
    all_parts: bool,
    gauges: GaugeSystem = "",
) -> list[Line]:
    things, letters = found.assembly.things, found.assembly.letters
    lines = [
        Line(
            letters.get(cut.chain, ""),
            f"{cut.count} × {cut.words}, {things[cut.chain].name}",
            length(cut.length_mm),
        )
        for cut in found.cuts
    ]
    lines += [
        Line(r.letter, f"{r.count} × {r.name}", f"{r.to_open} open · {r.leave_closed} closed")
        for r in found.rings
    ]
    more = _wire_lines(found, length, gauges) + _part_lines(found, length)
    if all_parts or not lines:
        return lines + more
    return lines + (
        [Line("", f"{len(more)} more: wire, beads, pins, thread", FOLD_KEY)] if more else []
    )


def _wire_lines(
    found: Findings, length: Callable[[float | None], str], gauges: GaugeSystem
) -> list[Line]:
    """Wire and pins by the unit they are for."""
    things, letters = found.assembly.things, found.assembly.letters
    lines = []
    for need in found.wire:
        gauge = gauge_words(wire_mm_of(things[need.wire]), gauges)
        wire = f"{things[need.wire].name}{f' ({gauge})' if gauge else ''}"
        words = f"{need.count} × {wire}, for {need.name}"
        lines.append(Line(letters.get(need.unit, ""), words, length(need.each_mm)))
    return lines


def _part_lines(found: Findings, length: Callable[[float | None], str]) -> list[Line]:
    """What is counted and stands in no line yet."""
    told = {cut.chain for cut in found.cuts} | {ring.id for ring in found.rings}
    told |= {unit.id for unit in found.assembly.piece.units}
    return [
        Line(c.letter, c.name, f"{c.count}" if c.count else length(c.length_mm))
        for c in found.counts
        if c.id not in told
    ]


class LineDelegate(RowDelegate[Line]):
    def height(self, row: Line, width: int) -> int:
        return scaled(LINE)

    def draw(self, painter: QPainter, row: Line, box: QRect) -> None:
        middle, right = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignRight
        painter.setFont(font(12, bold=True))
        painter.setPen(self.theme.colour("good"))
        painter.drawText(
            QRectF(box.left(), box.top(), scaled(18), scaled(LINE)), middle, row.letter
        )
        painter.setFont(font(12))
        painter.setPen(self.theme.colour("ink"))
        taken = painter.fontMetrics().horizontalAdvance(row.amount) + 8
        room = QRectF(box).adjusted(scaled(20), 0, -taken, 0)
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
        self.unfolded = False
        """Whether wire, beads and all else are shown too."""

    def unfold(self) -> None:
        self.unfolded = not self.unfolded
        self.refresh()

    def refresh(self) -> None:
        found = self.session.findings
        self.empty = "Nothing to make ready yet." if found else "…"
        lines = (
            lines_of(found, self.session.length, all_parts=self.unfolded,
                     gauges=self.session.wire_unit)
            if found else ()
        )  # fmt: skip
        self.show_rows(lines)
