"""Draws single parts along a line from one contact point to the other.

Each function draws with the near contact at the origin and the far one at (length, 0), in mm.
"""

import math
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPainterPath, QPen, QPolygonF, QRadialGradient

from maglia.app.painting.materials import Tones, tones, tones_of_colour
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Pin,
    Ring,
    Wire,
)
from maglia.core.parts.units import (
    BeadLink,
    Dangle,
    Loop,
    Tassel,
    Things,
    faced,
    far_loop,
    on_wire_mm,
    spiral_of,
    unit_span_mm,
    wire_mm_of,
)

NO_BRUSH = Qt.BrushStyle.NoBrush


def stroke(painter: QPainter, path: QPainterPath, width: float, tone: Tones) -> None:
    """A wire along a path: dark edge, body, and a lit line toward the upper left."""
    painter.setBrush(NO_BRUSH)
    cap, join = Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin
    for colour, share in ((tone.dark, 1.0), (tone.body, 0.72), (tone.lit, 0.22)):
        painter.setPen(QPen(QBrush(colour), width * share, Qt.PenStyle.SolidLine, cap, join))
        painter.drawPath(path)


@lru_cache(maxsize=256)
def _oval(x: float, y: float, width: float, height: float) -> QPainterPath:
    path = QPainterPath()
    radius = min(width, height) / 2
    path.addRoundedRect(QRectF(x, y - height / 2, width, height), radius, radius)
    return path


@lru_cache(maxsize=64)
def _line(length: float) -> QPainterPath:
    path = QPainterPath(QPointF(0, 0))
    path.lineTo(length, 0)
    return path


def link(painter: QPainter, chain: Chain, length: float, *, on_edge: bool) -> None:
    """One chain link of inner length `length`, face on or on edge."""
    wire = chain.wire_mm or length * 0.2
    inner = chain.inner_width_mm or length * 0.6
    tone = tones(chain.material)
    if chain.look == "ball":
        _ball(painter, length / 2, 0, inner / 2 + wire, tone)
        return
    if on_edge and chain.look != "twisted":
        stroke(painter, _line(round(length, 3)), wire * 1.05, tone)
        return
    if chain.look == "twisted":
        painter.rotate(18 if on_edge else -18)
    width = wire * (1.35 if chain.look == "flat" else 1.0)
    half = wire / 2
    path = _oval(-half, 0, round(length + wire, 3), round(inner + wire, 3))
    stroke(painter, path, width, tone)


def ring(painter: QPainter, part: Ring, length: float) -> None:
    """A ring seen face on between its two bearing points."""
    wire = part.wire_mm or 0.8
    inner = part.inner_mm or length
    across = part.inner_width_mm or inner
    middle = length / 2
    path = QPainterPath()
    path.addEllipse(QPointF(middle, 0), (inner + wire) / 2, (across + wire) / 2)
    stroke(painter, path, wire, tones(part.material))


def _ball(painter: QPainter, x: float, y: float, radius: float, tone: Tones) -> None:
    gradient = QRadialGradient(QPointF(x - radius * 0.35, y - radius * 0.4), radius * 1.5)
    gradient.setColorAt(0.0, tone.lit)
    gradient.setColorAt(0.28, tone.body)
    gradient.setColorAt(1.0, tone.dark)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(gradient))
    painter.drawEllipse(QPointF(x, y), radius, radius)


def bead(painter: QPainter, part: Bead, x: float) -> float:
    """A bead on its wire beginning at x; returns where it ends."""
    length, width = part.length_mm or 4.0, part.width_mm or 4.0
    glassy = part.material in ("glass", "quartz", "pearl", "resin", "wood")
    tone = tones_of_colour(part.colour) if glassy else tones(part.material)
    path = _bead_path(part.shape, round(length, 3), round(width, 3)).translated(x, 0)
    size = max(length, width)
    centre = QPointF(x + length * 0.38, -width * 0.22)
    gradient = QRadialGradient(centre, size * 0.75)
    gradient.setColorAt(0.0, tone.lit)
    gradient.setColorAt(0.22, tone.body)
    gradient.setColorAt(1.0, tone.dark)
    painter.setPen(QPen(tone.dark, size * 0.025))
    painter.setBrush(QBrush(gradient))
    painter.drawPath(path)
    hole = (part.hole_mm or 1.0) / 2
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(tone.dark)
    for end in (x + length * 0.02, x + length * 0.98):
        painter.drawEllipse(QPointF(end, 0), hole * 0.35, hole)
    return x + length


@lru_cache(maxsize=256)
def _bead_path(shape: str, length: float, width: float) -> QPainterPath:
    path = QPainterPath()
    half = width / 2
    if shape in ("tube", "disc"):
        path.addRoundedRect(QRectF(0, -half, length, width), length * 0.12, length * 0.12)
    elif shape == "bicone":
        corners = [(0, -half * 0.3), (length / 2, -half), (length, -half * 0.3)]
        corners += [(x, -y) for x, y in reversed(corners)]
        path.addPolygon(QPolygonF([QPointF(*c) for c in corners]))
        path.closeSubpath()
    elif shape == "drop":
        path.moveTo(0, 0)
        path.cubicTo(length * 0.3, -half * 0.35, length * 0.4, -half, length * 0.72, -half)
        path.cubicTo(length * 1.09, -half, length * 1.09, half, length * 0.72, half)
        path.cubicTo(length * 0.4, half, length * 0.3, half * 0.35, 0, 0)
    elif shape == "cap":
        path.moveTo(0, -half * 0.25)
        path.quadTo(length * 0.2, -half, length, -half)
        path.lineTo(length, half)
        path.quadTo(length * 0.2, half, 0, half * 0.25)
        path.closeSubpath()
    else:
        path.addEllipse(QRectF(0, -half, length, width))
    return path


def wired(painter: QPainter, unit: BeadLink | Dangle, length: float, parts: Things) -> None:
    """A bead link or dangle: its wire, its loops and its stack."""
    wire_part = parts.get(unit.wire)
    wire = wire_mm_of(wire_part) or 0.6
    tone = tones(wire_part.material if isinstance(wire_part, Wire | Pin) else "brass")
    x = _loop(painter, unit.loop.inner_mm, wire, 0.0, tone, 1)
    if isinstance(unit, BeadLink):  # seen askew it is shorter: its beads stay in its middle
        x += (length - (unit_span_mm(unit, parts) or length)) / 2
    x += _wraps(painter, unit.loop, x, wire, tone)
    caps = []
    for k, (ref, over) in enumerate(zip(unit.stack, faced(unit.stack, parts), strict=True)):
        part = parts.get(ref)
        if isinstance(part, Bead) and part.covers_mm:
            caps.append((part, x, over is not None and over < k))
            x += on_wire_mm(part, parts) or 0.0
        elif isinstance(part, Bead):
            x = bead(painter, part, x)
        elif isinstance(part, End):
            x = end(painter, part, x)
        elif isinstance(part, Ring):
            x += part.wire_mm or 0.8
    for cap, begun, back in caps:  # over the beads that they sit on
        capped(painter, cap, begun, back=back)
    if isinstance(unit, BeadLink):
        other = far_loop(unit)
        x += _wraps(painter, other, x, wire, tone)
        _loop(painter, other.inner_mm, wire, length, tone, -1)
    elif spiral := spiral_of(unit, wire_part):
        _spiral(painter, x, spiral, wire, tone)
    else:
        _ball(painter, x, 0, wire * 0.95, tone)


def _spiral(painter: QPainter, x: float, outside: float, wire: float, tone: Tones) -> None:
    """A flat spiral of an outside diameter, entered at x and wound inward turn beside turn."""
    middle, radius = x + outside / 2, (outside - wire) / 2
    turns = max(radius / wire, 0.75)
    path = QPainterPath(QPointF(middle - radius, 0))
    steps = int(turns * 16)
    for k in range(1, steps + 1):
        angle, r = math.pi - 2 * math.pi * k / 16, radius * (1 - k / steps)
        path.lineTo(middle + r * math.cos(angle), r * math.sin(angle))
    stroke(painter, path, wire * 0.85, tone)


def capped(painter: QPainter, part: Bead, x: float, *, back: bool) -> None:
    """A cap whose room on the wire begins at x, over what is behind it or, `back`, before it."""
    painter.save()
    if back:
        painter.translate(x + (part.length_mm or 4.0) - (part.covers_mm or 0.0), 0)
        painter.scale(-1, 1)
        bead(painter, part, 0.0)
    else:
        bead(painter, part, x)
    painter.restore()


def _loop(painter: QPainter, inner: float, wire: float, x: float, tone: Tones, way: int) -> float:
    """A loop whose inner face bears at x; returns where the stack's side of it ends."""
    path = QPainterPath()
    path.addEllipse(QPointF(x + way * inner / 2, 0), (inner + wire) / 2, (inner + wire) / 2)
    stroke(painter, path, wire, tone)
    return x + way * (inner + wire)


def _wraps(painter: QPainter, loop: Loop, x: float, wire: float, tone: Tones) -> float:
    if loop.style != "wrapped":
        return 0.0
    for k in range(loop.wraps):
        path = QPainterPath(QPointF(x + (k + 0.5) * wire, -wire * 1.1))
        path.lineTo(x + (k + 0.5) * wire, wire * 1.1)
        stroke(painter, path, wire, tone)
    return float(loop.wraps * wire)


def end(painter: QPainter, part: End, x: float = 0.0) -> float:
    """A crimp, tip, cone, cord end or clamp beginning at x; returns where it ends."""
    length, width = part.adds_mm or 2.0, part.width_mm or 2.0
    if part.sort == "clamp":
        return _clamp(painter, part, x)
    shape = "cap" if part.sort == "cone" else "tube"
    painter.save()
    painter.translate(x, 0)
    path = _bead_path(shape, length, width)
    tone = tones(part.material)
    painter.setPen(QPen(tone.dark, 0.2))
    painter.setBrush(tone.body)
    painter.drawPath(path)
    painter.restore()
    return x + length


def _clamp(painter: QPainter, part: End, x: float) -> float:
    """Folded over what it holds, with the teeth that bite."""
    length, width, tone = part.adds_mm or 6.0, part.width_mm or 6.0, tones(part.material)
    painter.setPen(QPen(tone.dark, 0.2))
    painter.setBrush(tone.body)
    painter.drawRoundedRect(QRectF(x, -width / 2, length, width), 0.4, 0.4)
    painter.setPen(QPen(tone.lit, 0.25))
    rim = 0.5 - width / 2
    painter.drawLine(QPointF(x + 0.5, rim), QPointF(x + length - 0.5, rim))
    teeth = max(int(width / 1.4), 2)
    painter.setPen(QPen(tone.dark, 0.3))
    for k in range(teeth):
        y = -width / 2 + (k + 0.5) * width / teeth
        painter.drawLine(QPointF(x + length * 0.3, y), QPointF(x + length * 0.7, y))
    return x + length


def charm(painter: QPainter, part: Charm, length: float) -> None:
    """A charm hanging from its loop along the line."""
    tone = tones_of_colour(part.colour) if part.colour else tones(part.material)
    metal = tones(part.material)
    width, inner = part.width_mm or length * 0.5, part.loop_mm or 2.0
    wire = part.loop_wire_mm or 0.8
    path = _charm_path(part.shape, round(inner + wire, 3), round(length, 3), round(width, 3))
    gradient = QRadialGradient(QPointF(length * 0.5, -width * 0.2), length * 0.6)
    gradient.setColorAt(0.0, tone.lit)
    gradient.setColorAt(0.35, tone.body)
    gradient.setColorAt(1.0, tone.dark)
    painter.setPen(QPen(metal.dark, 0.25))
    painter.setBrush(QBrush(gradient))
    painter.drawPath(path)
    loop = QPainterPath()
    loop.addEllipse(QPointF(inner / 2, 0), (inner + wire) / 2, (inner + wire) / 2)
    stroke(painter, loop, wire, metal)


@lru_cache(maxsize=128)
def _charm_path(shape: str, start: float, length: float, width: float) -> QPainterPath:
    body, half = length - start, width / 2
    path = QPainterPath()
    if shape == "disc":
        path.addEllipse(QRectF(start, -half, body, width))
    elif shape == "leaf":
        path.moveTo(start, 0)
        path.quadTo(start + body * 0.45, -half * 1.5, length, 0)
        path.quadTo(start + body * 0.45, half * 1.5, start, 0)
    elif shape == "star":
        middle, outer = start + body / 2, min(body, width) / 2
        points = []
        for k in range(10):
            radius = outer if k % 2 == 0 else outer * 0.45
            angle = math.pi + k * math.pi / 5
            points.append(QPointF(middle + radius * math.cos(angle), radius * math.sin(angle)))
        path.addPolygon(QPolygonF(points))
        path.closeSubpath()
    elif shape == "key":
        path.addEllipse(QRectF(start, -half, width, width))
        path.addRect(QRectF(start + width * 0.9, -width * 0.1, body - width * 0.9, width * 0.2))
        for at in (0.0, 0.16):
            path.addRect(QRectF(length - body * at - 1.6, 0, 1.2, half * 0.8))
    else:
        return _bead_path("drop", body, width).translated(start, 0)
    return path


def clasp(painter: QPainter, part: Clasp, length: float) -> None:
    """A clasp between its eye and where it bites."""
    tone, width = tones(part.material), part.width_mm or 5.0
    eye = part.eye_mm or 1.6
    if part.sort == "toggle":
        half = (part.bar_mm or width) / 2
        path = QPainterPath(QPointF(length, -half))
        path.lineTo(length, half)
        stroke(painter, _line(round(length, 3)), 1.0, tone)
        stroke(painter, path, 2.0, tone)
        return
    loop = QPainterPath()
    loop.addEllipse(QPointF(eye / 2, 0), eye / 2 + 0.4, eye / 2 + 0.4)
    stroke(painter, loop, 0.8, tone)
    body = QPainterPath()
    if part.sort == "magnet":
        body.addRoundedRect(QRectF(eye, -width / 2, max(length - 2 * eye, 2), width), 1, 1)
        painter.setPen(QPen(tone.dark, 0.25))
        painter.setBrush(tone.body)
        painter.drawPath(body)
        return
    reach = length + 1.6
    body.moveTo(eye + 0.4, -width * 0.18)
    body.cubicTo(reach * 0.45, -width * 0.75, reach * 1.02, -width * 0.6, reach, 0)
    if part.sort != "hook":
        body.cubicTo(reach * 0.98, width * 0.5, reach * 0.6, width * 0.55, eye + 0.4, width * 0.2)
    else:
        body.cubicTo(reach * 0.98, width * 0.4, reach * 0.8, width * 0.4, reach * 0.72, width * 0.1)
    stroke(painter, body, 1.2, tone)


def ear_finding(painter: QPainter, part: EarFinding, length: float) -> None:
    tone, wire = tones(part.material), part.wire_mm or 0.8
    path = QPainterPath(QPointF(length, 0))
    path.lineTo(length * 0.25, 0)
    path.cubicTo(-length * 0.35, 0, -length * 0.35, -length * 0.55, length * 0.3, -length * 0.55)
    path.lineTo(length * 0.75, -length * 0.5)
    stroke(painter, path, wire, tone)


def tassel(painter: QPainter, unit: Tassel, length: float, parts: Things) -> None:
    thread = parts.get(unit.thread)
    tone = tones(thread.material if isinstance(thread, Wire) else "thread")
    carried = parts.get(unit.ring)
    start = 0.0
    if isinstance(carried, Ring):
        ring(painter, carried, carried.inner_mm or 4.0)
        start = carried.inner_mm or 4.0
    half = unit.neck_mm / 2
    for k in range(-4, 5):
        path = QPainterPath(QPointF(start, k * half / 6))
        path.quadTo(start + unit.skirt_mm * 0.3, k * half / 4, length, k * half / 2.4)
        stroke(painter, path, max(half / 5, 0.4), tone)
    at = start + unit.skirt_mm * 0.18
    bound = QPainterPath(QPointF(at, -half))
    bound.lineTo(at, half)
    stroke(painter, bound, 1.6, tone)
    halo = parts.get(unit.halo or "")
    if isinstance(halo, Bead) and unit.halo_count:
        wide = halo.width_mm or 2.0
        seen = max(min(unit.halo_count // 2, int(2 * half / wide) + 1), 1)
        for k in range(seen):
            painter.save()
            painter.translate(at, (k - (seen - 1) / 2) * wide)
            bead(painter, halo, -(halo.length_mm or 2.0) / 2)
            painter.restore()


def _vee(painter: QPainter, part: Connector, tone: Tones) -> None:
    """Two legs from the outermost holes to those of the apex, which may be above or below; holes
    that lie off them hang on eyes of their own."""
    holes = sorted(part.holes, key=lambda hole: (hole.x_mm, hole.y_mm))
    tips = (holes[0], holes[-1])
    middle = sum(hole.y_mm for hole in holes) / len(holes)
    up = sum(tip.y_mm for tip in tips) / 2 < middle
    level = (max if up else min)(hole.y_mm for hole in holes)
    apex = [hole for hole in holes if abs(hole.y_mm - level) < 0.5 and hole not in tips]
    corners = [tips[0], *apex, tips[1]]
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
