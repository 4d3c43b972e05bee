"""Dimension lines on the form: falls at the right, gaps at the left, the sag of a chosen swag.

Each has a lower end that can be pulled; `bench.form_view` turns a pull into a fit.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QTransform

from maglia.app.theme import Theme
from maglia.core.values.record import Value

if TYPE_CHECKING:
    from maglia.core.report import Findings

HANDLE_PX = 9.0
BETWEEN_PX = 30.0
EDGE_PX = 16.0
WORDS_PX, HIGH_PX = 190.0, 20.0
"""Room for the words beside a line, and for a line of them."""


class Dimension(Value, frozen=True):
    """An upright line from `top` to `low` at `x`, pixels, that reads `mm`. `lead` is how far the
    thin line runs from its lower end towards what it measures."""

    kind: Literal["fall", "gap", "sag"]
    names: tuple[str, ...]
    words: str
    x: float
    top: float
    low: float
    mm: float
    scale: float
    lead: float
    side: int = 1
    """Its words stand right of it, or left (−1)."""
    words_at: float | None = None
    """How far down they stand, pixels; at its middle unless that is said."""

    @property
    def key(self) -> tuple[str, tuple[str, ...]]:
        return self.kind, self.names

    def at(self, mm: float) -> Dimension:
        """The same line pulled to another length."""
        low = self.low + (mm - self.mm) * self.scale
        at = None if self.words_at is None else self.words_at + low - self.low
        return replace(self, low=low, words_at=at)

    def holds(self, place: QPointF) -> bool:
        """Whether a point of the widget is on its lower end."""
        return abs(place.x() - self.x) < HANDLE_PX and abs(place.y() - self.low) < HANDLE_PX


def dimensions_of(
    found: Findings,
    view: QTransform,
    width: int,
    *,
    turned: bool,
    mirror: float | None,
    chosen: str,
) -> list[Dimension]:
    """Falls of every strand and of the lowest drop (and of a chosen one), gaps, a chosen sag."""
    hung, scale = found.hung, view.m22()
    assert hung is not None
    across = 1 if turned else 0
    positions = hung.solution.positions[:, across]
    outer = 2 * mirror - float(positions.min()) if mirror else float(positions.max())
    right = view.map(QPointF(outer, 0)).x()
    left = view.map(QPointF(float(positions.min()), 0)).x()
    middle = view.map(QPointF(0, 0)).x()
    falls = found.readings.falls_mm

    def y(fall: float) -> float:
        return view.map(QPointF(0, fall - hung.top)).y()

    # the longest innermost, so that no line crosses the words of another
    shown = sorted(_shown_falls(found, chosen), key=lambda name: -falls[name])
    lines = []
    for k, name in enumerate(shown):
        inward = BETWEEN_PX * (len(shown) - 1 - k)
        x = min(right + 26 + BETWEEN_PX * k, width - WORDS_PX - inward)
        words = found.assembly.run_words(name)
        low = y(falls[name])
        lines.append(
            Dimension("fall", (name,), words, x, y(0), low, falls[name], scale, middle - x,
                      words_at=low)
        )  # fmt: skip
    lines = _apart(lines)
    for k, (upper, lower, gap) in enumerate(found.readings.gaps_mm):
        x = max(left - 26 - BETWEEN_PX * (k % 2), EDGE_PX + BETWEEN_PX * ((k + 1) % 2))
        top, low = y(falls[upper]), y(falls[lower])
        lines.append(Dimension("gap", (upper, lower), "gap", x, top, low, gap, scale, 0.0, -1))
    return lines + _sags(found, view, chosen, across)


def _apart(lines: list[Dimension]) -> list[Dimension]:
    """Lines whose words do not stand over each other: from below upward, each a line's height."""
    found: list[Dimension] = []
    above = float("inf")
    for one in sorted(lines, key=lambda line: -(line.words_at or 0.0)):
        at = min(one.words_at or 0.0, above - HIGH_PX)
        found.append(replace(one, words_at=at))
        above = at
    return found


def _shown_falls(found: Findings, chosen: str) -> list[str]:
    falls = found.readings.falls_mm
    kinds = {run.name: run.kind for run in found.assembly.runs}
    shown = [name for name in falls if kinds[name] == "strand"]
    drops = [name for name in falls if kinds[name] == "drop"]
    own = [name for name in drops if found.assembly.made_by(chosen, name)]
    if drops:
        shown.append(max(own or drops, key=falls.__getitem__))
    return shown


def _sags(found: Findings, view: QTransform, chosen: str, across: int) -> list[Dimension]:
    """The sag of the swag the cursor is on, at its own middle."""
    from maglia.core.hang.hung import path_points

    hung, lines = found.hung, []
    assert hung is not None
    for k, path in enumerate(found.assembly.paths):
        if path.kind != "swag" or path.side == "left":
            continue
        if not found.assembly.made_by(chosen, path.run):
            continue
        points = path_points(found.assembly, hung, k)
        ends = (points[0] + points[-1]) / 2
        sag = found.readings.sags_mm[path.run]
        at = view.map(QPointF(float(ends[across]), -float(ends[-1])))
        low = at.y() + sag * view.m22()
        lines.append(
            Dimension("sag", (path.run,), "sag", at.x(), at.y(), low, sag, view.m22(), 0.0)
        )
        break
    return lines


def paint_dimension(
    painter: QPainter, one: Dimension, words: str, theme: Theme, height: int, *, pulled: bool
) -> None:
    """An upright line with end ticks, a knob to pull at its lower end, and its words beside it."""
    colour = theme.colour("chosen" if pulled else "ink")
    if one.lead:
        painter.setPen(QPen(theme.colour("ink", 70), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(one.x + one.lead, one.low), QPointF(one.x - 6, one.low))
    painter.setPen(QPen(colour, 2 if pulled else 1))
    painter.drawLine(QPointF(one.x, one.top), QPointF(one.x, one.low))
    painter.drawLine(QPointF(one.x - 4, one.top), QPointF(one.x + 4, one.top))
    painter.setBrush(theme.colour("paper"))
    painter.drawEllipse(QPointF(one.x, one.low), 3.4, 3.4)
    beside = (one.top + one.low) / 2 if one.words_at is None else one.words_at
    _paint_label(painter, QPointF(one.x, min(max(beside, 12), height - 12)), words, one.side, theme)


def _paint_label(painter: QPainter, at: QPointF, words: str, side: int, theme: Theme) -> None:
    """A label beside its dimension line, level, on a patch of paper."""
    box = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-5, -1, 5, 1)
    box.moveCenter(at)
    box.moveLeft(at.x() + 8) if side > 0 else box.moveRight(at.x() - 8)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("paper", 190))
    painter.drawRoundedRect(box, 3, 3)
    painter.setPen(theme.colour("ink"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
