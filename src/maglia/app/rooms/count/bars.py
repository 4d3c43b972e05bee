"""Every length that is cut, to scale: its pieces marked off, what is lost, what is left."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from maglia.app.assistive import describe
from maglia.app.session.day import Day, letter_of
from maglia.app.theme import Theme, font, scaled
from maglia.core.cutting.day import Bar, Cutting, words_of
from maglia.core.cutting.text import cut_words
from maglia.core.parts.parts import Chain
from maglia.core.values.measures import LengthUnit, format_length

HEAD, BAR, ROW, GAP, MARGIN, NAME = 46.0, 22.0, 34.0, 18.0, 18.0, 92.0
OFFCUT_SHARE = 0.22
"""How much of the room an off-cut takes at most; longer ones are broken."""
OLD = "as it was before the last change: it is counted anew"
OLD_OPACITY = 0.45
EMPTY = "A begins the day with a piece, B with the one on the bench."
TONES = ("#c8a96a", "#9db0a3", "#c9908a", "#8fa9c4", "#b7a7c9", "#c2b98f")


class _Line(NamedTuple):
    """One thing that is drawn below the others: its height."""

    cutting: Cutting
    bar: Bar | None
    height: float


class CutBars(QWidget):
    """Bars of every chain and wire, one below the other."""

    def __init__(self, day: Day, theme: Theme) -> None:
        super().__init__()
        self.day, self.theme = day, theme
        self.unit: LengthUnit = "mm"
        self.setAccessibleName("Cuts")
        self.setMinimumWidth(420)
        day.found.connect(self.on_found)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def on_found(self) -> None:
        self.setMinimumHeight(round(sum(line.height for line in self._lines()) + 2 * GAP))
        said = [OLD] if self.day.is_old else []
        said += [f"{c.part.name}: {words_of(c)}" for c in self.day.cuttings.values()]
        describe(self, ". ".join(said) or EMPTY)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(760, 560)

    def _lines(self) -> list[_Line]:
        found = []
        for cutting in self.day.cuttings.values():
            found.append(_Line(cutting, None, scaled(HEAD)))
            found += [_Line(cutting, bar, scaled(ROW)) for bar in cutting.bars]
            beside = bool(cutting.missing) + bool(cutting.cut)
            found += [_Line(cutting, None, scaled(ROW) * 0.8)] * beside
        return found

    # --- drawing ----------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self.theme.colour("paper"))
        if not self.day.cuttings:
            words = self.day.fault or (EMPTY if not self.day.entries else "Nothing is cut.")
            words = "It is worked out …" if self.day.at_work and not self.day.fault else words
            painter.setPen(self.theme.colour("quiet"))
            painter.setFont(font(15))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(QRectF(self.rect()).adjusted(30, 30, -30, -30), flags, words)
            return
        y = GAP
        painter.setOpacity(OLD_OPACITY if self.day.is_old else 1.0)
        for cutting in self.day.cuttings.values():
            y = self._chain(painter, cutting, y)
        painter.setOpacity(1.0)
        if self.day.is_old:
            painter.setFont(font(15, bold=True))
            painter.setPen(self.theme.colour("attention"))
            box = QRectF(MARGIN, 0, self.width() - 2 * MARGIN, scaled(24))
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                             f"! {OLD}")  # fmt: skip

    def _chain(self, painter: QPainter, cutting: Cutting, y: float) -> float:
        right = self.width() - MARGIN
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(15, bold=True))
        painter.drawText(QPointF(MARGIN, y + scaled(14)), cutting.part.name)
        wide = painter.fontMetrics().horizontalAdvance(cutting.part.name)
        painter.setFont(font(14))
        ready = cutting.proven or not self.day.at_work
        painter.setPen(self.theme.colour("quiet"))
        words = words_of(cutting) + ("" if ready else " …")
        room = QRectF(MARGIN + wide + 14, y, right - MARGIN - wide - 14, scaled(20))
        elided = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight,
                                                  round(room.width()))  # fmt: skip
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, elided)
        y += scaled(HEAD) - GAP
        scale = self._scale(cutting)
        for bar in cutting.bars:
            self._bar(painter, cutting, bar, y, scale)
            y += scaled(ROW)
        if cutting.missing:
            painter.setPen(self.theme.colour("attention"))
            painter.setFont(font(14, bold=True))
            painter.drawText(
                QPointF(MARGIN, y + scaled(12)), f"! missing: {self._missing(cutting)}"
            )
            y += scaled(ROW) * 0.8
        if cutting.cut:
            painter.setPen(self.theme.colour("attention" if cutting.in_vain else "good"))
            painter.setFont(font(14, bold=True))
            painter.drawText(QPointF(MARGIN, y + scaled(12)), cut_words(cutting, self.unit))
            y += scaled(ROW) * 0.8
        return y + GAP

    def _missing(self, cutting: Cutting) -> str:
        counted = {n: cutting.missing.count(n) for n in dict.fromkeys(cutting.missing)}
        return ", ".join(f"{k} × {self._amount(cutting, n)}" for n, k in counted.items())

    def _amount(self, cutting: Cutting, amount: int) -> str:
        if isinstance(cutting.part, Chain):
            return f"{amount} links"
        return format_length(cutting.mm(amount), self.unit, with_unit=True)

    def _scale(self, cutting: Cutting) -> float:
        """Pixels a millimetre: what is cut fills the room, the longest off-cut a part of it."""
        room = self.width() - 2 * MARGIN - scaled(NAME)
        used = max((self._used(cutting, bar) for bar in cutting.bars), default=1.0)
        return room * (1 - OFFCUT_SHARE) / max(used, 1.0)

    def _used(self, cutting: Cutting, bar: Bar) -> float:
        return cutting.mm(bar.amount - bar.offcut)

    def _bar(self, painter: QPainter, cutting: Cutting, bar: Bar, y: float, scale: float) -> None:
        painter.setFont(font(13))
        painter.setPen(self.theme.colour("ink"))
        name = f"{bar.lot} · buy" if bar.new else bar.lot
        room = QRectF(MARGIN, y, scaled(NAME) - 8, scaled(BAR))
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter,
                         painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideMiddle,
                                                          round(scaled(NAME) - 10)))  # fmt: skip
        x = MARGIN + scaled(NAME)
        lost = bar.sacrificed / max(len(bar.pieces), 1)
        for piece in bar.pieces:
            wide = cutting.mm(piece.amount, piece.first_phase) * scale
            box = QRectF(x, y, wide, scaled(BAR))
            self._piece(painter, cutting, box, TONES[piece.making % len(TONES)],
                        letter_of(piece.making), piece.amount)  # fmt: skip
            x += wide
            gap = cutting.mm(1) * lost * scale if lost else 0.0
            if gap:
                self._cross(painter, QRectF(x, y, max(gap, 4.0), scaled(BAR)))
            x += gap
        self._offcut(painter, cutting, bar, x, y, scale)

    def _piece(
        self, painter: QPainter, cutting: Cutting, box: QRectF, tone: str, letter: str, amount: int
    ) -> None:
        painter.setPen(QPen(self.theme.colour("ink", 150), 1))
        painter.setBrush(QColor(tone))
        painter.drawRoundedRect(box, 3, 3)
        many = len(self.day.entries) > 1
        text = f"{amount}" if isinstance(cutting.part, Chain) else self._amount(cutting, amount)
        painter.setFont(font(13))
        painter.setPen(QColor("#17211c"))
        for words in (f"{letter} {text}" if many else text, text, letter if many else ""):
            if words and painter.fontMetrics().horizontalAdvance(words) + 4 <= box.width():
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
                break

    def _cross(self, painter: QPainter, box: QRectF) -> None:
        """Where a link is lost."""
        middle, half = box.center(), min(box.width(), 7.0) / 2
        painter.setPen(QPen(self.theme.colour("fold"), 1.6))
        painter.drawLine(middle + QPointF(-half, -half), middle + QPointF(half, half))
        painter.drawLine(middle + QPointF(-half, half), middle + QPointF(half, -half))

    def _offcut(
        self, painter: QPainter, cutting: Cutting, bar: Bar, x: float, y: float, scale: float
    ) -> None:
        if not bar.offcut:
            return
        room = self.width() - MARGIN - x
        wide = cutting.mm(bar.offcut, bar.offcut_phase) * scale
        shown = min(wide, room)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self.theme.colour("quiet"), 1.2, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(QRectF(x, y, shown, scaled(BAR)), 3, 3)
        if wide > room:  # it goes on
            at = x + shown - 16
            painter.setPen(QPen(self.theme.colour("quiet"), 1.4))
            painter.drawPolyline(
                QPolygonF(
                    [
                        QPointF(at, y - 3),
                        QPointF(at + 5, y + 8),
                        QPointF(at - 3, y + 13),
                        QPointF(at + 2, y + scaled(BAR) + 3),
                    ]
                )
            )
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(13))
        words = f"off-cut {self._amount(cutting, bar.offcut)}"
        if painter.fontMetrics().horizontalAdvance(words) + 22 > shown:
            words = self._amount(cutting, bar.offcut)
        box = QRectF(x + 4, y, max(shown - 22, 10), scaled(BAR))
        if painter.fontMetrics().horizontalAdvance(words) <= box.width():
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)
