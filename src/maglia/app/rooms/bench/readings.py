"""Readings as small gauges: value, scale, the band it is good within, what a fit wishes."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QFontMetrics,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from maglia.app.plain_text import tip
from maglia.app.session.session import Session
from maglia.app.theme import Theme, font, scaled
from maglia.app.trade_words import explained
from maglia.core.assembly.assembly import link_from_fold
from maglia.core.values.measures import MM_PER, LengthUnit
from maglia.core.values.record import Value
from maglia.guide.book import what

if TYPE_CHECKING:
    from maglia.core.report import Findings

ROW = 30
NECKLACES = (
    ("collar", 300, 350),
    ("choker", 350, 410),
    ("princess", 430, 490),
    ("matinee", 500, 610),
    ("opera", 660, 920),
)
"""Trade custom: what closed lengths of necklaces are called, mm."""


class Gauge(Value, frozen=True):
    """One reading: its value in words and numbers, and the band it is good within."""

    name: str
    words: str
    value: float
    low: float
    high: float
    band: tuple[float, float] | None = None
    hint: str = ""
    target: float | None = None
    """What a fit wishes it to be."""
    run: str = ""
    """The run whose fall it is."""


STATES = {"unsure": "about ", "about": "about ", "taut": "at most "}
"""How the length of a piece with weaves is said, by its least known one."""


def _how_known(found: Findings) -> str:
    states = {sheet.pitch.state for sheet in found.weaves if sheet.pitch is not None}
    return next((words for state, words in STATES.items() if state in states), "")


def gauges(
    found: Findings, length: Callable[[float | None], str], unit: LengthUnit = "mm"
) -> list[Gauge]:
    """The readings of a piece in the order a maker looks at them."""
    from maglia.core.checks.carriers import LOOSE_MM
    from maglia.core.checks.weight import heaviest_g

    rows = []
    closed = found.closed_length_mm
    if closed is not None:
        names = NECKLACES if found.assembly.piece.sort == "necklace" else ()
        name = next((n for n, a, b in names if a <= closed <= b), "")
        band = next(((a, b) for n, a, b in NECKLACES if n == name), None)
        words = f"{_how_known(found)}{length(closed)}"
        rows.append(Gauge("closed length", words, closed, 0, 960, band, name))
    falls, called = list(found.readings.falls_mm.items()), found.assembly.run_words
    kinds = {r.name: r.kind for r in found.assembly.runs}
    deepest = max((mm for _, mm in falls), default=1.0) * 1.15
    for name, mm in falls:
        if kinds[name] == "strand":
            rows.append(Gauge(f"fall, {called(name)}", length(mm), mm, 0, deepest, run=name))
    drops = [(name, mm) for name, mm in falls if kinds[name] == "drop"]
    if drops:
        name, mm = max(drops, key=lambda drop: drop[1])
        rows.append(Gauge(f"fall, {called(name)}", length(mm), mm, 0, deepest, run=name))
    for upper, lower, mm in found.readings.gaps_mm:
        rows.append(Gauge(f"gap {upper} – {lower}", length(mm), mm, 0, deepest))
    stretch = found.readings.stretch
    if stretch is not None:
        words = f"{100 * (stretch - 1):.0f} %"
        rows.append(Gauge("stretch", words, stretch, 1.0, 2.0))
    if loose := max(found.readings.bays, key=lambda own: own.slack_mm, default=None):
        host, links = found.assembly.members[loose.bay.host], loose.bay.links
        ends = [link_from_fold(host, link)[1] for link in sorted(links, reverse=True)]
        name = f"slack, {host.run} {min(ends)} to {max(ends)}"
        rows.append(Gauge(name, length(loose.slack_mm), loose.slack_mm, 0, 20, (0, LOOSE_MM)))
    total, sure = found.balance.total_g, found.balance.sure
    limit = heaviest_g(found.assembly)
    rows.append(Gauge("weight", f"{sure}{total:.1f} g", total, 0, limit * 1.2, (0, limit)))
    return [_with_target(row, found, unit) for row in rows]


def _small(mm: float, unit: LengthUnit) -> str:
    """A small difference with its sign, in the display unit."""
    return f"{mm:+.1f} mm" if unit == "mm" else f"{mm / MM_PER[unit]:+.2f} {unit}"


def _with_target(row: Gauge, found: Findings, unit: LengthUnit) -> Gauge:
    """The gauge with the wish of a fit for the same reading, and its tolerance as the band."""
    name = f"fall of {row.run}" if row.run else row.name
    for stand in found.fits:
        for figure in stand.residuals:
            if figure.what == name and figure.unit == "mm":
                reach = max(figure.allowed, 0.3)
                band = (figure.wished - reach, figure.wished + reach)
                if figure.bound == "at least":
                    band = (figure.wished, row.high)
                hint = "exact" if abs(figure.off) < 0.05 else _small(figure.off, unit)
                return replace(row, target=figure.wished, band=band, hint=hint)
    return row


class Readings(QWidget):
    """Small gauges: value, scale, band. Arrows walk them, `?` or a click explains one.

    Signals: `why_wanted(str)` a page of the guide."""

    why_wanted = Signal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.rows: list[Gauge] = []
        self.current = 0
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Readings")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def event(self, event: QEvent) -> bool:
        """On hover: what the words of the reading mean."""
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            k = event.pos().y() // scaled(ROW)
            words = explained(self.rows[k].name) if 0 <= k < len(self.rows) else ""
            QToolTip.showText(event.globalPos(), tip(words), self)
            return True
        return super().event(event)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.refresh()

    def refresh(self) -> None:
        found = self.session.findings
        self.rows = gauges(found, self.session.length, self.session.unit) if found else []
        self.current = max(min(self.current, len(self.rows) - 1), 0)
        self._say()
        self.setFixedHeight(max(len(self.rows) * scaled(ROW), scaled(ROW)))
        self.update()

    def _say(self) -> None:
        """All of them; with the keys here, the one that is walked to first."""
        said = [f"{row.name} {row.words}" for row in self.rows]
        if self.hasFocus() and said:
            said = [said[self.current]]
        self.setAccessibleDescription("; ".join(said))

    def _explain(self, k: int) -> None:
        if 0 <= k < len(self.rows):
            self.why_wanted.emit(what(self.rows[k].name))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._explain(int(event.position().y()) // scaled(ROW))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.rows:
            self.current = (self.current + (1 if key == Qt.Key.Key_Down else -1)) % len(self.rows)
            self._say()
            self.update()
        elif key in (Qt.Key.Key_Question, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._explain(self.current)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._say()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._say()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.rows:
            painter.setPen(self.theme.colour("quiet"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, "Nothing to read yet.")
        for k, row in enumerate(self.rows):
            if k == self.current and self.hasFocus():
                painter.setPen(QPen(self.theme.colour("good"), 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                box = QRectF(0.5, k * scaled(ROW) + 0.5, self.width() - 1, scaled(ROW) - 2)
                painter.drawRoundedRect(box, 3, 3)
            self._paint_row(painter, row, k * scaled(ROW))

    def _paint_row(self, painter: QPainter, row: Gauge, y: float) -> None:
        width = self.width()
        painter.setFont(font(12))
        painter.setPen(self.theme.colour("quiet"))
        name = row.name + (f" · {row.hint}" if row.hint else "")
        figure = font(16, bold=True)
        taken = QFontMetrics(figure).horizontalAdvance(row.words) + 8
        room = QRectF(0, y, width - max(taken, 84), scaled(19))
        name = painter.fontMetrics().elidedText(
            name, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(figure)
        painter.setPen(self.theme.colour("ink"))
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(0, y - 1, width, scaled(21)), flags, row.words)
        line = y + scaled(23)
        painter.setPen(QPen(self.theme.colour("paper_edge"), 2))
        painter.drawLine(QPointF(0, line), QPointF(width, line))

        def at(value: float) -> float:
            share = (value - row.low) / max(row.high - row.low, 1e-9)
            return min(max(share, 0.0), 1.0) * (width - 8) + 4

        good = row.band is None or row.band[0] <= row.value <= row.band[1]
        if row.band is not None:
            painter.setPen(QPen(self.theme.colour("good", 150), 4))
            painter.drawLine(QPointF(at(row.band[0]), line), QPointF(at(row.band[1]), line))
        if row.target is not None:
            painter.setPen(QPen(self.theme.colour("good"), 2))
            painter.drawLine(QPointF(at(row.target), line - 5), QPointF(at(row.target), line + 5))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("ink" if good else "attention"))
        painter.drawEllipse(QPointF(at(row.value), line), 4, 4)
