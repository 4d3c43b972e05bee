"""The ruler above the half-rule: ticks from the fold to both sides, in the display unit."""

from math import ceil

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from maglia.app.theme import Theme, font, scaled
from maglia.core.values.measures import MM_PER, LengthUnit, format_length
from maglia.core.values.record import Value


def names_width() -> int:
    """Of the strip at the left with the names of the runs, px."""
    return min(scaled(92), 150)


def ruler_height() -> int:
    return scaled(24)


STEPS_MM = (1, 2, 5, 10, 20, 50, 100)
STEPS_IN = (1 / 8, 1 / 4, 1 / 2, 1, 2, 4)
LEAST_STEP_PX = 46
CORNER_PX = 44


class Ruler(Value, frozen=True):
    """Where the fold stands, pixels per mm, how far left of it things reach (mm), the width."""

    fold: float
    scale: float
    left_mm: float
    width: int


def paint_ruler(painter: QPainter, ruler: Ruler, unit: LengthUnit, theme: Theme) -> None:
    strip = QRectF(0, 0, ruler.width, ruler_height())
    painter.fillRect(strip, theme.colour("paper"))
    painter.setPen(QPen(theme.colour("paper_edge"), 1))
    painter.drawLine(strip.bottomLeft(), strip.bottomRight())
    painter.setFont(font(11))
    painter.setPen(theme.colour("fold"))
    away = max(names_width() - ruler.fold, 0.0) / ruler.scale
    words = f"‹ fold {format_length(away, unit)}" if away else "fold"
    painter.drawText(
        QRectF(8, 0, names_width(), ruler_height()), Qt.AlignmentFlag.AlignVCenter, words
    )
    unit_mm = MM_PER[unit]
    steps = STEPS_IN if unit == "in" else tuple(s / (10 if unit == "cm" else 1) for s in STEPS_MM)
    wide = (s for s in steps if s * unit_mm * ruler.scale >= LEAST_STEP_PX)
    _paint_ticks(painter, ruler, next(wide, steps[-1]), unit, theme)
    painter.setPen(theme.colour("quiet"))
    corner = QRectF(ruler.width - 40, 0, 34, ruler_height())
    painter.fillRect(corner.adjusted(0, 0, 0, -1), theme.colour("paper"))
    flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
    painter.drawText(corner, flags, unit)


def _paint_ticks(
    painter: QPainter, ruler: Ruler, step: float, unit: LengthUnit, theme: Theme
) -> None:
    """A long tick with its number at each step, a short one half way between."""
    apart = step * MM_PER[unit] * ruler.scale
    first = ceil(ruler.left_mm * ruler.scale / apart)
    last = int((ruler.width - ruler.fold) / apart) + 1
    painter.setPen(QPen(theme.colour("quiet"), 1))
    for k in range(first * 2, last * 2 + 1):
        x = ruler.fold + k / 2 * apart
        if not names_width() <= x <= ruler.width - CORNER_PX:
            continue
        tall = 7 if k % 2 == 0 else 4
        painter.drawLine(QPointF(x, ruler_height() - tall), QPointF(x, ruler_height()))
        if k % 2 == 0:
            box = QRectF(x - 24, 0, 48, ruler_height() - 7)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, _number(abs(k / 2 * step), unit))


def _number(value: float, unit: LengthUnit) -> str:
    if unit != "in":
        return f"{value:g}"
    return format_length(value * MM_PER["in"], "in").removesuffix("″")
