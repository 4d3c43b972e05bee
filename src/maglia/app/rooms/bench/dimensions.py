"""Dimension lines on the form: falls at the right, gaps at the left, the sag of a chosen swag.

Each has a lower end that can be pulled; `bench.form_view` turns a pull into a fit.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen, QTransform

from maglia.app.theme import Theme
from maglia.core.values.record import Value

if TYPE_CHECKING:
    from maglia.core.report import Findings

HANDLE_PX = 9.0
BETWEEN_PX = 30.0
EDGE_PX = 16.0


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

    @property
    def key(self) -> tuple[str, tuple[str, ...]]:
        return self.kind, self.names

    def at(self, mm: float) -> Dimension:
        """The same line pulled to another length."""
        return replace(self, low=self.low + (mm - self.mm) * self.scale)

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

    shown = _shown_falls(found, chosen)
    lines = []
    for k, name in enumerate(shown):
        inward = BETWEEN_PX * (len(shown) - 1 - k)
        x = min(right + 26 + BETWEEN_PX * k, width - EDGE_PX - inward)
        lines.append(
            Dimension("fall", (name,), name, x, y(0), y(falls[name]), falls[name], scale,
                      middle - x)
        )  # fmt: skip
    for k, (upper, lower, gap) in enumerate(found.readings.gaps_mm):
        x = max(left - 26 - BETWEEN_PX * (k % 2), EDGE_PX + BETWEEN_PX * ((k + 1) % 2))
        top, low = y(falls[upper]), y(falls[lower])
        lines.append(Dimension("gap", (upper, lower), "gap", x, top, low, gap, scale, 0.0))
    return lines + _sags(found, view, chosen, across)


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
    long = painter.fontMetrics().horizontalAdvance(words) + 14
    beside = (one.top + one.low) / 2
    if abs(one.low - one.top) < long + 8:
        below = max(one.top, one.low) + long / 2 + 8
        fits = below + long / 2 < height
        beside = below if fits else min(one.top, one.low) - long / 2 - 6
    _paint_label(painter, QPointF(one.x, beside), words, theme)


def _paint_label(painter: QPainter, at: QPointF, words: str, theme: Theme) -> None:
    """A label turned along its dimension line, on a patch of paper."""
    painter.save()
    painter.translate(at)
    painter.rotate(-90)
    box = painter.fontMetrics().boundingRect(words).adjusted(-5, -1, 5, 1)
    box.moveCenter(QPointF(0, 0).toPoint())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("paper", 190))
    painter.drawRoundedRect(box, 3, 3)
    painter.setPen(theme.colour("ink"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
    painter.restore()
