"""Draws connectors in their own coordinates, and wire wound round their rim; all in mm."""

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from maglia.app.painting.materials import Tones, tones
from maglia.app.painting.parts import bead, stroke
from maglia.core.parts.outline import vee_corners
from maglia.core.parts.parts import Bead, Connector, Wire
from maglia.core.parts.units import Things
from maglia.core.piece.items import Winding


def _vee(painter: QPainter, part: Connector, tone: Tones) -> None:
    """Two legs from the outermost holes to those of the apex, which may be above or below; holes
    that lie off them hang on eyes of their own."""
    holes, corners = part.holes, vee_corners(part)
    line = [QPointF(hole.x_mm, -hole.y_mm) for hole in corners]
    path = QPainterPath(line[0])
    for point in line[1:]:
        path.lineTo(point)
    reach = [path.pointAtPercent(k / 60) for k in range(61)]
    for hole in holes:
        at = QPointF(hole.x_mm, -hole.y_mm)
        near = min(reach, key=lambda p: math.hypot(p.x() - at.x(), p.y() - at.y()))
        eye = QPainterPath(at)
        eye.lineTo(near)
        if eye.length() > 1.5:
            stroke(painter, eye, 1.0, tone)
    stroke(painter, path, 2.4, tone)


def wound(
    painter: QPainter, part: Connector, winding: Winding, things: Things, steps: int = 240
) -> None:
    """Wire in turns round the rim of a connector, its beads on the outside of every few turns."""
    wire, bead_of = things.get(winding.wire), things.get(winding.bead or "")
    tone = tones(wire.material if isinstance(wire, Wire) else "brass")
    thick = (wire.wire_mm if isinstance(wire, Wire) else None) or 0.4
    wide, high = part.width_mm or 20.0, part.height_mm or 20.0
    rim = QPainterPath()
    rim.addEllipse(QRectF(-wide / 2 + 1, -high / 2 + 1, wide - 2, high - 2))
    reach = (part.thickness_mm or 1.2) / 2 + thick
    for k in range(min(winding.turns, steps)):
        share = (k + 0.5) / winding.turns
        at, angle = rim.pointAtPercent(share), math.radians(-rim.angleAtPercent(share))
        off = QPointF(-math.sin(angle) * reach, math.cos(angle) * reach)
        turn = QPainterPath(at + off)
        turn.lineTo(at - off)
        stroke(painter, turn, thick, tone)
    if isinstance(bead_of, Bead):
        for k in range(min(winding.beads, steps)):
            at = rim.pointAtPercent((k + 0.5) / winding.beads)
            painter.save()
            painter.translate(at)
            bead(painter, bead_of, -(bead_of.length_mm or 2.0) / 2)
            painter.restore()


def connector(painter: QPainter, part: Connector) -> None:
    """A connector in its own coordinates: x to the right, y down (already mirrored if need be)."""
    tone = tones(part.material)
    xs = [hole.x_mm for hole in part.holes]
    ys = [-hole.y_mm for hole in part.holes]
    width = part.width_mm or (max(xs) - min(xs) + 4)
    height = part.height_mm or (max(ys) - min(ys) + 4)
    box = QRectF(-width / 2, -height / 2, width, height)
    path = QPainterPath()
    if len(part.points_mm) >= 3:
        path.addPolygon(QPolygonF([QPointF(x, -y) for x, y in part.points_mm]))
        path.closeSubpath()
        painter.setPen(QPen(tone.dark, 0.3, j=Qt.PenJoinStyle.RoundJoin))
        painter.setBrush(tone.body)
        painter.drawPath(path)
    elif part.outline == "vee":
        _vee(painter, part, tone)
    elif part.outline == "frame":
        path.addEllipse(box.adjusted(1, 1, -1, -1))
        stroke(painter, path, 1.6, tone)
        inner = QPainterPath()
        inner.addEllipse(box.adjusted(width * 0.25, height * 0.25, -width * 0.25, -height * 0.25))
        stroke(painter, inner, 0.7, tone)
    else:
        if part.outline in ("oval", "round"):
            path.addEllipse(box)
        else:
            radius = min(width, height) * (0.3 if part.outline == "fan" else 0.5)
            path.addRoundedRect(box, radius, radius)
        painter.setPen(QPen(tone.dark, 0.3))
        painter.setBrush(tone.body)
        painter.drawPath(path)
    for hole in part.holes:
        spot = QPainterPath()
        spot.addEllipse(
            QPointF(hole.x_mm, -hole.y_mm), *((hole.diameter_mm or 1.5) / 2 + 0.25,) * 2
        )
        stroke(painter, spot, 0.6, tone)
