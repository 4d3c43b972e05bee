"""Draws single parts along a line from one contact point to the other.

Each function draws with the near contact at the origin and the far one at (length, 0), in mm.
"""

import math
from functools import lru_cache

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPainterPath, QPen, QPolygonF, QRadialGradient

from maglia.app.painting.materials import Tones, tones, tones_of_colour
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
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
    legs_of,
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
    crossed = isinstance(unit, Dangle) and unit.crossed
    for k, (ref, over) in enumerate(zip(unit.stack, faced(unit.stack, parts), strict=True)):
        part = parts.get(ref)
        if crossed and k == len(unit.stack) - 1 and isinstance(part, Bead):
            _crossed(painter, legs_of(unit), part, x, wire, tone, parts)
            return
        if isinstance(part, Bead) and part.covers_mm:
            caps.append((part, x, over is not None and over < k))
            x += on_wire_mm(part, parts) or 0.0
        elif isinstance(part, Bead):
            x = bead(painter, part, x)
        elif isinstance(part, End):
            x = end(painter, part, x) - (part.covers_mm or 0.0)
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


def _crossed(
    painter: QPainter, legs: tuple[str, ...], drop: Bead, x: float, wire: float, tone: Tones,
    parts: Things,
) -> None:  # fmt: skip
    """Two legs of wire that lead to both sides of a drop drilled across, with beads on them."""
    beads = [own for ref in legs if isinstance(own := parts.get(ref), Bead)]
    long = sum(own.length_mm or 4.0 for own in beads)
    half, high = (drop.length_mm or 6.0) / 2, drop.width_mm or 8.0
    foot = QPointF(x + long + high * 0.2, half * 0.8)
    for side in (-1.0, 1.0):
        leg = QPainterPath(QPointF(x, 0))
        leg.lineTo(foot.x(), side * foot.y())
        stroke(painter, leg, wire, tone)
        painter.save()
        painter.translate(x, 0)
        painter.rotate(side * math.degrees(math.atan2(foot.y(), foot.x() - x)))
        at = 0.0
        for one in beads:
            at = bead(painter, one, at)
        painter.restore()
    painter.save()
    painter.translate(x + long, 0)
    bead(painter, replace(drop, length_mm=high, width_mm=2 * half), 0.0)
    painter.restore()


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
