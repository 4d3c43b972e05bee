"""What is counted by the piece: to buy, units with their picture, rings, parts."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from maglia.app.assistive import describe
from maglia.app.painting.whole import draw_in
from maglia.app.rooms.count.bars import OLD, OLD_OPACITY
from maglia.app.session.day import Day
from maglia.app.theme import Theme, font, scaled
from maglia.core.joining.cost import beside_words, short_words
from maglia.core.joining.needs import Need
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Thing, Things

ROW, HEAD, MARGIN, ICON, MOST_PX = 40.0, 34.0, 16.0, 34.0, 4.0


class NeedsView(QWidget):
    """To buy first, then units, rings and all else."""

    def __init__(self, day: Day, theme: Theme) -> None:
        super().__init__()
        self.day, self.theme = day, theme
        self.setAccessibleName("What it takes")
        self.setMinimumWidth(300)
        day.found.connect(self.on_found)

    def sizeHint(self) -> QSize:
        return QSize(380, 560)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    @property
    def groups(self) -> list[tuple[str, list[Need]]]:
        """What is shown under which heading."""
        needs = self.day.needs
        rest = [n for n in needs if not n.is_made and not isinstance(n.thing, Ring)]
        return [(words, found) for words, found in (
            ("Units", [n for n in needs if n.is_made]),
            ("Rings", [n for n in needs if isinstance(n.thing, Ring)]),
            ("Parts", rest),
        ) if found]  # fmt: skip

    def on_found(self) -> None:
        rows = sum(scaled(HEAD) + scaled(ROW) * len(found) for _, found in self.groups)
        rows += scaled(HEAD) + scaled(ROW) * len(self.day.short)
        rows += scaled(HEAD) + scaled(ROW) * len(self._money())
        self.setMinimumHeight(round(rows + 2 * MARGIN))
        short = [short_words(one) for one in self.day.short]
        said = f"To buy: {', '.join(short)}" if short else "Everything lies there"
        describe(self, f"{OLD}. {said}" if self.day.is_old else said)
        self.update()

    @property
    def things(self) -> Things:
        found: Things = {}
        for making in self.day.making:
            found = {**found, **making.assembly.things}
        return found

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self.theme.colour("paper"))
        y, things = MARGIN, self.things
        painter.setOpacity(OLD_OPACITY if self.day.is_old else 1.0)
        if self.day.short:
            y = self._heading(painter, "To buy", y)
            for short in self.day.short:
                count = f"! {short.buy}" if short.buy else "!"
                self._row(painter, short.part, count, beside_words(short), y, things)
                y += scaled(ROW)
            y += 8
        for words, found in self.groups:
            y = self._heading(painter, words, y)
            for need in found:
                self._row(painter, need.thing, str(need.count), _beside(need), y, things)
                y += scaled(ROW)
            y += 8
        self._cost(painter, y)

    def _heading(self, painter: QPainter, words: str, y: float) -> float:
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(15, bold=True))
        painter.drawText(QPointF(MARGIN, y + scaled(15)), words)
        return y + scaled(HEAD) - 8

    def _money(self) -> list[tuple[str, str, str]]:
        """Each figure of the cost with its sum; what is not priced."""
        from maglia.core.joining.cost import cost_lines, money

        cost = self.day.cost
        if cost is None:
            return []
        found = [
            (words, money(amount, cost.currency), why) for words, amount, why in cost_lines(cost)
        ]
        if self.day.enough:
            said = ", ".join(f"{one.name} × {one.copies}" for one in self.day.enough)
            found.append(("Enough is left for", str(len(self.day.enough)), said))
        if cost.unpriced:
            found.append(("! No price", str(len(cost.unpriced)), ", ".join(cost.unpriced)))
        return found

    def _cost(self, painter: QPainter, y: float) -> None:
        lines = self._money()
        if not lines:
            return
        y = self._heading(painter, "Cost and price", y)
        left, right = MARGIN, self.width() - MARGIN
        for words, amount, why in lines:
            painter.setFont(font(14, bold=words in ("Cost", "Price")))
            painter.setPen(self.theme.colour("attention" if words[0] == "!" else "ink"))
            box = QRectF(left, y, right - left, scaled(20))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                             amount)  # fmt: skip
            painter.setFont(font(12))
            painter.setPen(self.theme.colour("quiet"))
            said = painter.fontMetrics().elidedText(why, Qt.TextElideMode.ElideRight,
                                                    round(right - left))  # fmt: skip
            painter.drawText(QRectF(left, y + scaled(19), right - left, scaled(16)),
                             Qt.AlignmentFlag.AlignVCenter, said)  # fmt: skip
            y += scaled(ROW)

    def _row(
        self, painter: QPainter, thing: Thing, count: str, beside: str, y: float, things: Things
    ) -> None:
        draw_in(painter, thing, things, QRectF(MARGIN, y + 2, ICON, scaled(ROW) - 6), MOST_PX)
        left, right = MARGIN + ICON + 10, self.width() - MARGIN
        painter.setFont(font(14, bold=True))
        painter.setPen(self.theme.colour("attention" if count[0] == "!" else "ink"))
        painter.drawText(
            QRectF(left, y, scaled(56), scaled(20)), Qt.AlignmentFlag.AlignVCenter, count
        )
        painter.setFont(font(14))
        painter.setPen(self.theme.colour("ink"))
        name = painter.fontMetrics().elidedText(thing.name, Qt.TextElideMode.ElideRight,
                                                round(right - left - scaled(60)))  # fmt: skip
        painter.drawText(QRectF(left + scaled(58), y, right - left - scaled(58), scaled(20)),
                         Qt.AlignmentFlag.AlignVCenter, name)  # fmt: skip
        painter.setFont(font(12))
        painter.setPen(self.theme.colour("quiet"))
        said = painter.fontMetrics().elidedText(beside, Qt.TextElideMode.ElideRight,
                                                round(right - left))  # fmt: skip
        box = QRectF(left, y + scaled(19), right - left, scaled(16))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, said)


def _beside(need: Need) -> str:
    said = []
    if need.to_open:
        said.append(f"{need.to_open} to open")
    if need.leave_closed:
        said.append(f"{need.leave_closed} left closed")
    if need.is_made:
        said.append("made")
    else:
        said.append(f"{need.lies} on the bench" if need.lies else "none on the bench")
    return " · ".join(said)
