"""Beside the form: readings as small gauges, checks worst first, the cut list and the count."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFontMetrics,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QLabel, QScrollArea, QSizePolicy, QToolTip, QVBoxLayout, QWidget

from maglia.bench.fit_list import FitList
from maglia.bench.session import Session
from maglia.bench.theme import Theme, font
from maglia.bench.trade_words import explained
from maglia.core.measures import MM_PER, LengthUnit
from maglia.core.record import Value

if TYPE_CHECKING:
    from maglia.core.checks import Check
    from maglia.core.report import Findings

ROW = 30
HEADINGS = ("READINGS", "FITS", "CHECKS", "CUT AND RINGS")
NECKLACES = (
    ("collar", 300, 350),
    ("choker", 350, 410),
    ("princess", 430, 490),
    ("matinee", 500, 610),
    ("opera", 660, 920),
)
HEAVY_STRAND_G = 150.0
HEAVY_EARRING_G = 8.0


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


def gauges(
    found: Findings, length: Callable[[float | None], str], unit: LengthUnit = "mm"
) -> list[Gauge]:
    """The readings of a piece in the order a maker looks at them."""
    rows = []
    closed = found.closed_length_mm
    if closed is not None:
        name = next((n for n, a, b in NECKLACES if a <= closed <= b), "")
        band = next(((a, b) for n, a, b in NECKLACES if n == name), None)
        rows.append(Gauge("closed length", length(closed), closed, 0, 960, band, name))
    falls = list(found.readings.falls_mm.items())
    kinds = {r.name: r.kind for r in found.assembly.runs}
    deepest = max((mm for _, mm in falls), default=1.0) * 1.15
    for name, mm in falls:
        if kinds[name] == "strand":
            rows.append(Gauge(f"fall, {name}", length(mm), mm, 0, deepest))
    drops = [(name, mm) for name, mm in falls if kinds[name] == "drop"]
    if drops:
        name, mm = max(drops, key=lambda drop: drop[1])
        rows.append(Gauge(f"fall, {name}", length(mm), mm, 0, deepest))
    for upper, lower, mm in found.readings.gaps_mm:
        rows.append(Gauge(f"gap {upper} – {lower}", length(mm), mm, 0, deepest))
    total = found.balance.total_g
    limit = HEAVY_EARRING_G if found.assembly.piece.sort == "earring" else HEAVY_STRAND_G
    rows.append(Gauge("weight", f"{total:.1f} g", total, 0, limit * 1.2, (0, limit)))
    return [_with_target(row, found, unit) for row in rows]


def _small(mm: float, unit: LengthUnit) -> str:
    """A small difference with its sign, in the display unit."""
    return f"{mm:+.1f} mm" if unit == "mm" else f"{mm / MM_PER[unit]:+.2f} {unit}"


def _with_target(row: Gauge, found: Findings, unit: LengthUnit) -> Gauge:
    """The gauge with the wish of a fit for the same reading, and its tolerance as the band."""
    name = row.name.replace("fall, ", "fall of ")
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
    """Small gauges: value, scale, band."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.rows: list[Gauge] = []
        self.setAccessibleName("Readings")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def event(self, event: QEvent) -> bool:
        """On hover: what the words of the reading mean."""
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            k = event.pos().y() // ROW
            words = explained(self.rows[k].name) if 0 <= k < len(self.rows) else ""
            QToolTip.showText(event.globalPos(), words, self)
            return True
        return super().event(event)

    def refresh(self) -> None:
        found = self.session.findings
        self.rows = gauges(found, self.session.length, self.session.unit) if found else []
        self.setAccessibleDescription("; ".join(f"{r.name} {r.words}" for r in self.rows))
        self.setFixedHeight(max(len(self.rows) * ROW, ROW))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.rows:
            painter.setPen(self.theme.colour("quiet"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, "Nothing to read yet.")
        for k, row in enumerate(self.rows):
            self._paint_row(painter, row, k * ROW)

    def _paint_row(self, painter: QPainter, row: Gauge, y: float) -> None:
        width = self.width()
        painter.setFont(font(12))
        painter.setPen(self.theme.colour("quiet"))
        name = row.name + (f" · {row.hint}" if row.hint else "")
        room = QRectF(0, y, width - 84, 19)
        name = painter.fontMetrics().elidedText(
            name, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(font(16, bold=True))
        painter.setPen(self.theme.colour("ink"))
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(0, y - 1, width, 21), flags, row.words)
        line = y + 23.0
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


class CheckList(QWidget):
    """What is wrong, worst first. Enter goes there, R repairs, A keeps it with a note.

    Signals `visit_wanted(Check)`, `repair_wanted(Check)`, `accept_wanted(Check)`.
    """

    repair_wanted = Signal(object)
    accept_wanted = Signal(object)
    visit_wanted = Signal(object)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.checks: tuple[Check, ...] = ()
        self.current = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Checks")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def refresh(self) -> None:
        found = self.session.findings
        self.checks = found.checks if found else ()
        self.current = min(self.current, max(len(self.checks) - 1, 0))
        words = "; ".join(f"{c.place}: {c.message}" for c in self.checks)
        self.setAccessibleDescription(words or "nothing to mend")
        self.setFixedHeight(max(sum(self._heights()), 24))
        self.update()

    def _words(self, check: Check) -> str:
        repair = f"\n→ {check.repair}" if check.repair else ""
        return f"{check.place}\n{check.message}{repair}"

    def _heights(self) -> list[int]:
        metrics = QFontMetrics(font(12))
        room = QSize(max(self.width() - 30, 120), 0)
        flags = int(Qt.TextFlag.TextWordWrap)
        return [
            metrics.boundingRect(0, 0, room.width(), 10_000, flags, self._words(c)).height() + 14
            for c in self.checks
        ]

    def resizeEvent(self, event: object) -> None:
        self.setFixedHeight(max(sum(self._heights()), 24))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(12))
        if not self.checks:
            painter.setPen(self.theme.colour("good"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, "✓  Nothing to mend.")
            return
        y = 0
        for k, (check, height) in enumerate(zip(self.checks, self._heights(), strict=True)):
            self._paint_check(painter, check, QRectF(0, y, self.width(), height), k)
            y += height

    def _paint_check(self, painter: QPainter, check: Check, box: QRectF, k: int) -> None:
        if self.hasFocus() and k == self.current:
            painter.setPen(QPen(self.theme.colour("chosen"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -3), 4, 4)
        sign = {"stop": "!", "attention": "!", "note": "i"}[check.severity]
        role = {"stop": "fold", "attention": "attention", "note": "quiet"}[check.severity]
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
        painter.drawText(text, int(Qt.TextFlag.TextWordWrap), self._words(check))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.checks:
            by = 1 if key == Qt.Key.Key_Down else -1
            self.current = min(max(self.current + by, 0), len(self.checks) - 1)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.checks:
            self.visit_wanted.emit(self.checks[self.current])
        elif key == Qt.Key.Key_R and self.checks:
            self.repair_wanted.emit(self.checks[self.current])
        elif key == Qt.Key.Key_A and self.checks:
            self.accept_wanted.emit(self.checks[self.current])
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        y = 0
        for k, height in enumerate(self._heights()):
            if y <= event.position().y() < y + height:
                self.current = k
                self.visit_wanted.emit(self.checks[k])
            y += height
        self.update()

    def focusInEvent(self, event: object) -> None:
        self.update()

    def focusOutEvent(self, event: object) -> None:
        self.update()


class Lists(QWidget):
    """What to cut, and how many rings to open and to leave closed, each with its letter."""

    LINE = 21

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.rows: list[tuple[str, str, str]] = []
        self.setAccessibleName("Cut list and rings")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def refresh(self) -> None:
        found = self.session.findings
        self.rows = _list_rows(found, self.session.length) if found else []
        self.setAccessibleDescription("; ".join(" ".join(row) for row in self.rows))
        self.setFixedHeight(max(len(self.rows) * self.LINE, self.LINE) + 4)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if not self.rows:
            painter.setPen(self.theme.colour("quiet"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, "Nothing to cut yet.")
        for k, (letter, words, amount) in enumerate(self.rows):
            self._paint_row(painter, letter, words, amount, k * self.LINE)

    def _paint_row(self, painter: QPainter, letter: str, words: str, amount: str, y: int) -> None:
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font(12, bold=True))
        painter.setPen(self.theme.colour("good"))
        painter.drawText(QRectF(0, y, 18, self.LINE), Qt.AlignmentFlag.AlignVCenter, letter)
        painter.setFont(font(12))
        painter.setPen(self.theme.colour("ink"))
        taken = painter.fontMetrics().horizontalAdvance(amount) + 8
        room = QRectF(20, y, self.width() - 20 - taken, self.LINE)
        shown = painter.fontMetrics().elidedText(
            words, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.drawText(QRectF(0, y, self.width(), self.LINE), right, amount)


def _list_rows(
    found: Findings, length: Callable[[float | None], str]
) -> list[tuple[str, str, str]]:
    things, letters = found.assembly.things, found.assembly.letters
    rows = [
        (
            letters.get(cut.chain, ""),
            f"{cut.count} × {cut.links} links, {things[cut.chain].name}",
            length(cut.length_mm),
        )
        for cut in found.cuts
    ]
    rows += [
        (r.letter, f"{r.count} × {r.name}", f"{r.to_open} open · {r.leave_closed} closed")
        for r in found.rings
    ]
    return rows


class SidePanel(QScrollArea):
    """Readings, checks and lists, one below the other."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setMinimumWidth(270)
        self.readings = Readings(session, theme)
        self.fits = FitList(session, theme)
        self.checks = CheckList(session, theme)
        self.lists = Lists(session, theme)
        self.parts = (self.readings, self.fits, self.checks, self.lists)
        column = QVBoxLayout()
        column.setContentsMargins(16, 10, 14, 10)
        column.setSpacing(4)
        for title, part in zip(HEADINGS, self.parts, strict=True):
            heading = QLabel(title)
            heading.setObjectName("heading")
            column.addWidget(heading)
            column.addWidget(part)
            column.addSpacing(10)
        column.addStretch(1)
        inner = QWidget()
        inner.setObjectName("panel")
        inner.setLayout(column)
        self.setWidget(inner)
        for signal in (session.found, session.reshown):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        for part in self.parts:
            part.refresh()

    def set_theme(self, theme: Theme) -> None:
        for part in self.parts:
            part.theme = theme
            part.update()
