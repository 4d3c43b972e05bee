"""Draws cord, ribbon and braid along a line, and knots in it; all in mm."""

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Literal

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPainterPath, QPen, QRadialGradient

from maglia.app.painting.materials import Tones, tones, tones_of_colour
from maglia.app.painting.parts import stroke
from maglia.core.parts.parts import Wire
from maglia.core.parts.units import Thing

Made = Literal["plain", "folded", "braided"]
FLAT = 1.6
"""What is so many times as wide as thick shows its hems, else it is round."""
PLAIT = 0.42
"""From one plait of a braid to the next, in its width."""


def cord_tones(thread: Thing) -> Tones:
    """Of its own colour, or its material's."""
    if isinstance(thread, Wire):
        return tones_of_colour(thread.colour) if thread.colour else tones(thread.material)
    return tones("thread")


def cord(
    painter: QPainter,
    points: Sequence[tuple[float, float]],
    thick: float,
    wide: float,
    tone: Tones,
    made: Made,
    strands: int = 1,
) -> None:
    """Bare cord along its points, or ribbon seen from its flat side; a braid plaited, several
    strands beside each other; `wide` all together."""
    if strands > 1 and made != "braided":
        for k in range(strands):
            shift = (k - (strands - 1) / 2) * wide / strands
            cord(painter, _beside(points, shift), thick, wide / strands, tone, made)
        return
    path = QPainterPath(QPointF(*points[0]))
    for point in points[1:]:
        path.lineTo(*point)
    wide = max(wide, 0.5)
    if made == "braided":
        _braid(painter, points, wide, tone)
    elif wide > FLAT * max(thick, 0.1):
        painter.setBrush(Qt.BrushStyle.NoBrush)
        hems = ((tone.dark, 1.0), (tone.body, 0.94), (tone.lit, 0.8), (tone.body, 0.72))
        for colour, share in hems:
            pen = QPen(QBrush(colour), wide * share)
            pen.setCapStyle(Qt.PenCapStyle.FlatCap)
            pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
            painter.setPen(pen)
            painter.drawPath(path)
    else:
        stroke(painter, path, wide, tone)


def _beside(points: Sequence[tuple[float, float]], shift: float) -> list[tuple[float, float]]:
    """A line so far to the left of another as one goes along it."""
    found = []
    last = len(points) - 1
    for k, (x, y) in enumerate(points):
        (ax, ay), (bx, by) = points[max(k - 1, 0)], points[min(k + 1, last)]
        length = math.hypot(bx - ax, by - ay) or 1.0
        found.append((x + shift * (by - ay) / length, y - shift * (bx - ax) / length))
    return found


def _braid(
    painter: QPainter, points: Sequence[tuple[float, float]], wide: float, tone: Tones
) -> None:
    """Strands that come in turn from either side and pass over the one before, as far as the line
    leads."""
    step, left, side = wide * PLAIT, 0.0, 1
    for (ax, ay), (bx, by) in pairwise(points):
        length = math.hypot(bx - ax, by - ay)
        if not length:
            continue
        ux, uy = (bx - ax) / length, (by - ay) / length
        at = left
        while at < length:
            x, y = ax + at * ux, ay + at * uy
            out, over = side * wide * 0.26, -side * wide * 0.14
            plait = QPainterPath(QPointF(x - uy * out, y + ux * out))
            x, y = x + ux * wide * 0.75, y + uy * wide * 0.75
            plait.lineTo(x - uy * over, y + ux * over)
            stroke(painter, plait, wide * 0.5, tone)
            at, side = at + step, -side
        left = at - length


def knot(painter: QPainter, length: float, wide: float, tone: Tones) -> None:
    """A knot from the origin along x: a ball with the turn of the cord over it."""
    middle, half = QPointF(length / 2, 0), (max(length, 0.4) / 2, max(wide, 0.4) / 2)
    gradient = QRadialGradient(QPointF(length * 0.35, -half[1] * 0.4), max(*half) * 1.4)
    for at, colour in ((0.0, tone.lit), (0.35, tone.body), (1.0, tone.dark)):
        gradient.setColorAt(at, colour)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(gradient))
    painter.drawEllipse(middle, *half)
    painter.setPen(QPen(tone.dark, half[1] * 0.12))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    box = QRectF(length / 2 - half[0] * 0.5, -half[1] * 0.9, half[0], half[1] * 1.8)
    painter.drawArc(box, 60 * 16, 200 * 16)
