"""A part or unit lying by itself, whole: its box in mm, and its drawing in that box.

x runs from the near contact along the part, y is down; a connector lies round its middle.
"""

import math
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath

from maglia.app.painting import cords
from maglia.app.painting import parts as draw
from maglia.app.painting.materials import tones
from maglia.app.painting.members import draw_thing
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Found,
    Pin,
    Ring,
    Wire,
)
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    HookLink,
    Tassel,
    Thing,
    Things,
    hangs_at,
    hung_in_all,
    hung_mm,
    stack_mm,
    tassel_span_mm,
    unit_span_mm,
    wire_mm_of,
)

SWATCH_MM = 28.0
"""About how much of chain and wire is shown."""
FAN_DEG = 24.0


def whole_box(thing: Thing, things: Things) -> QRectF:
    """What a thing takes when it lies by itself, mm; usual sizes stand in for unknown ones."""
    box = _BOXES.get(type(thing))
    return QRectF(0, -5, 10, 10) if box is None else box(thing, things)


def draw_whole(painter: QPainter, thing: Thing, things: Things) -> None:
    """Draw a thing in its box. Smoothly: there are few, and each is looked at."""
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    if isinstance(thing, Chain):
        _swatch(painter, thing)
    elif isinstance(thing, Wire):
        _length(painter, thing)
    elif isinstance(thing, Pin):
        _pin(painter, thing)
    elif isinstance(thing, Cluster):
        _cluster(painter, thing, things)
    else:
        draw_thing(painter, thing, _length_mm(thing, things), things)


def _length_mm(thing: Thing, things: Things) -> float:
    """How long a thing is drawn along its line, mm; a usual size stands in for an unknown one."""
    known = {Bead: "length_mm", Clasp: "span_mm", EarFinding: "below_mm", End: "adds_mm"}
    own = next((getattr(thing, field) for kind, field in known.items() if isinstance(thing, kind)),
               hung_mm(thing, things))  # fmt: skip
    usual = {Ring: 4.0, Bead: 6.0, Charm: 20.0, EarFinding: 12.0, End: 2.0, BeadLink: 20.0,
             Dangle: 20.0, Tassel: 40.0}  # fmt: skip
    return own or next((mm for kind, mm in usual.items() if isinstance(thing, kind)), 10.0)


def _pattern(chain: Chain) -> tuple[float, ...]:
    return chain.pitches_mm or (4.0,)


def swatch_links(chain: Chain) -> list[float]:
    """Inner lengths of the links that are shown, whole patterns, mm."""
    pattern = _pattern(chain)
    times = max(1, round(SWATCH_MM / sum(pattern)))
    least = 3 if len(pattern) == 1 else 1
    return list(pattern) * max(times, least)


def _swatch(painter: QPainter, chain: Chain) -> None:
    links = swatch_links(chain)
    starts = [sum(links[:k]) for k in range(len(links))]
    for on_edge in (False, True):
        for k in range(int(on_edge), len(links), 2):
            painter.save()
            painter.translate(starts[k], 0)
            draw.link(painter, chain, links[k], on_edge=on_edge)
            painter.restore()


def _length(painter: QPainter, wire: Wire) -> None:
    """Wire, thread or cord: a length in waves; memory coil as turns."""
    thick, tone = wire.wire_mm or 0.6, cords.cord_tones(wire)
    if wire.sort == "memory coil":
        half = (wire.coil_mm or 55.0) / 2
        for k in range(2):
            path = QPainterPath()
            path.addEllipse(QPointF(half, k * thick * 2.4), half, half * 0.3)
            draw.stroke(painter, path, thick, tone)
        return
    path = QPainterPath(QPointF(0, 0))
    step = SWATCH_MM / 4
    for k in range(4):
        up = 1.8 if k % 2 else -1.8
        path.cubicTo(k * step + step / 3, up, k * step + 2 * step / 3, up, (k + 1) * step, 0)
    if wire.width_mm is not None:
        line = [(p.x(), p.y()) for p in (path.pointAtPercent(k / 40) for k in range(41))]
        cords.cord(painter, line, thick, wire.width_mm, tone, "plain")
        return
    draw.stroke(painter, path, thick, tone)


def _pin(painter: QPainter, pin: Pin) -> None:
    length, wire, tone = pin.length_mm or 40.0, pin.wire_mm or 0.6, tones(pin.material)
    shaft = QPainterPath(QPointF(0, 0))
    shaft.lineTo(length, 0)
    draw.stroke(painter, shaft, wire, tone)
    if pin.head == "eye":
        inner = pin.eye_inner_mm or 2.0
        eye = QPainterPath()
        eye.addEllipse(QPointF(-inner / 2, 0), (inner + wire) / 2, (inner + wire) / 2)
        draw.stroke(painter, eye, wire, tone)
    else:
        half = (pin.head_mm or wire * 2.6) / 2
        head = QPainterPath(QPointF(0, -half))
        head.lineTo(0, half)
        draw.stroke(painter, head, wire, tone)


def _cluster(painter: QPainter, cluster: Cluster, things: Things) -> None:
    """What hangs of it fanned out below its ring, or below each link of its chain."""
    carrier = things.get(cluster.carrier)
    points = [0.0]
    if isinstance(carrier, Chain):
        links = list(_pattern(carrier)) * cluster.links
        points = [sum(links[: k + 1]) for k in range(min(cluster.links, len(links)))]
    by = things.get(cluster.by or "")
    for link, x in enumerate(points):
        hangs = hangs_at(cluster, link)
        for k, ref in enumerate(hangs):
            thing = things.get(ref)
            if thing is None:
                continue
            painter.save()
            painter.translate(x, 0)
            if isinstance(carrier, Chain):
                foot = cluster.foot is not None and link == len(points) - 1 and k == len(hangs) - 1
                side = -90 if (link if cluster.turns else k) % 2 else 90
                painter.rotate(0 if foot else side)
            else:
                painter.rotate((k - (len(hangs) - 1) / 2) * FAN_DEG)
                painter.translate((carrier.inner_mm or 4.0) if isinstance(carrier, Ring) else 0, 0)
            if isinstance(by, Ring):
                draw_thing(painter, by, by.inner_mm or 4.0, things)
                painter.translate(by.inner_mm or 4.0, 0)
            draw_thing(painter, thing, _length_mm(thing, things), things)
            painter.restore()
    if isinstance(carrier, Ring):
        draw_thing(painter, carrier, carrier.inner_mm or 4.0, things)
    elif isinstance(carrier, Chain):
        for k, end in enumerate(points):
            painter.save()
            start = points[k - 1] if k else 0.0
            painter.translate(start, 0)
            draw.link(painter, carrier, end - start, on_edge=bool(k % 2))
            painter.restore()


# --- boxes ----------------------------------------------------------------------------------------


def _chain_box(chain: Chain, _: Things) -> QRectF:
    wire = chain.wire_mm or _pattern(chain)[0] * 0.2
    half = (chain.inner_width_mm or _pattern(chain)[0] * 0.6) / 2 + wire
    return QRectF(-wire, -half, sum(swatch_links(chain)) + 2 * wire, 2 * half)


def _ring_box(ring: Ring, _: Things) -> QRectF:
    wire, inner = ring.wire_mm or 0.8, ring.inner_mm or 4.0
    half = (ring.inner_width_mm or inner) / 2 + wire
    return QRectF(-wire, -half, inner + 2 * wire, 2 * half)


def _bead_box(bead: Bead, _: Things) -> QRectF:
    wide = bead.width_mm or 4.0
    return QRectF(0, -wide / 2, bead.length_mm or 4.0, wide)


def _pin_box(pin: Pin, _: Things) -> QRectF:
    wire = pin.wire_mm or 0.6
    eye = (pin.eye_inner_mm or 2.0) + wire if pin.head == "eye" else 0.0
    half = max((pin.head_mm or wire * 2.6) / 2, eye / 2 + wire / 2, wire)
    return QRectF(-eye - wire, -half, (pin.length_mm or 40.0) + eye + 2 * wire, 2 * half)


def _wire_box(wire: Wire, _: Things) -> QRectF:
    thick = wire.wire_mm or 0.6
    if wire.sort == "memory coil":
        across = wire.coil_mm or 55.0
        high = across * 0.3 + thick * 4
        return QRectF(-thick, -high / 2 - thick, across + 2 * thick, high + 2 * thick)
    wide = max(thick, wire.width_mm or 0.0)
    return QRectF(-wide, -2 - wide, SWATCH_MM + 2 * wide, 4 + 2 * wide)


def _end_box(end: End, _: Things) -> QRectF:
    wide = end.width_mm or 2.0
    return QRectF(0, -wide / 2, end.adds_mm or 2.0, wide)


def _connector_box(part: Connector, _: Things) -> QRectF:
    points = [(x, -y) for x, y in part.points_mm]
    points += [(hole.x_mm, -hole.y_mm) for hole in part.holes]
    left, right = min(x for x, _ in points), max(x for x, _ in points)
    top, foot = min(y for _, y in points), max(y for _, y in points)
    own = QRectF(left - 1.5, top - 1.5, right - left + 3, foot - top + 3)
    if part.width_mm is None and part.height_mm is None:
        return own
    wide, high = part.width_mm or own.width(), part.height_mm or own.height()
    return own.united(QRectF(-wide / 2, -high / 2, wide, high))


def _clasp_box(clasp: Clasp, _: Things) -> QRectF:
    wide, span = clasp.width_mm or 5.0, clasp.span_mm if clasp.span_mm is not None else 10.0
    if clasp.sort == "toggle":
        bar = clasp.bar_mm or wide
        return QRectF(0, -bar / 2 - 1, span + 1, bar + 2)
    return QRectF(-0.4, -wide * 0.7, span + 2.6, wide * 1.4)


def _ear_box(part: EarFinding, _: Things) -> QRectF:
    below = part.below_mm or 12.0
    wire = part.wire_mm or 0.8
    return QRectF(
        -below * 0.3 - wire, -below * 0.6 - wire, below * 1.35 + wire, below * 0.6 + 2 * wire
    )


def _charm_box(charm: Charm, _: Things) -> QRectF:
    high, wire = charm.height_mm or 20.0, charm.loop_wire_mm or 0.8
    wide = max(charm.width_mm or high * 0.5, (charm.loop_mm or 2.0) + 2 * wire)
    return QRectF(-wire, -wide / 2, high + wire, wide)


def _wired_box(unit: BeadLink | Dangle, things: Things) -> QRectF:
    widths = [b.width_mm or 4.0 for ref in unit.stack if isinstance(b := things.get(ref), Bead)]
    wire = wire_mm_of(things.get(unit.wire)) or 0.6
    half = max([*widths, unit.loop.inner_mm + 2 * wire]) / 2
    span = unit_span_mm(unit, things) or 10.0 + (stack_mm(unit.stack, things) or 6.0)
    return QRectF(-wire, -half, span + 2 * wire, 2 * half)


def _tassel_box(tassel: Tassel, things: Things) -> QRectF:
    half = max(tassel.neck_mm, 4.0)
    return QRectF(-0.5, -half, (tassel_span_mm(tassel, things) or 40.0) + 0.5, 2 * half)


def _cluster_box(cluster: Cluster, things: Things) -> QRectF:
    carrier = things.get(cluster.carrier)
    known = [t for ref in hung_in_all(cluster) if (t := things.get(ref)) is not None]
    by = things.get(cluster.by or "")
    reach = max([_length_mm(t, things) for t in known] or [8.0])
    reach += (by.inner_mm or 4.0) if isinstance(by, Ring) else 0.0
    wide = max([whole_box(t, things).height() for t in known] or [4.0]) / 2
    if isinstance(carrier, Chain):
        length = sum(_pattern(carrier)) / len(_pattern(carrier)) * cluster.links
        below = reach if cluster.foot is not None else wide
        return QRectF(-1, -reach, length + below + 2, 2 * reach)
    inner = (carrier.inner_mm if isinstance(carrier, Ring) else None) or 4.0
    most = math.radians((len(known) - 1) / 2 * FAN_DEG)
    half = max((reach + inner) * math.sin(min(most, math.pi / 2)), inner / 2) + wide
    return QRectF(-1, -half, reach + inner + 1, 2 * half)


_BOXES: dict[type, Callable[[Any, Things], QRectF]] = {
    Chain: _chain_box, Ring: _ring_box, Bead: _bead_box, Pin: _pin_box, Wire: _wire_box,
    End: _end_box, Connector: _connector_box, Found: _connector_box, Clasp: _clasp_box,
    EarFinding: _ear_box, Charm: _charm_box, BeadLink: _wired_box, HookLink: _wired_box,
    Dangle: _wired_box, Tassel: _tassel_box, Cluster: _cluster_box,
}  # fmt: skip


def draw_in(painter: QPainter, thing: Thing, things: Things, room: QRectF, most: float) -> float:
    """Draw a thing to fit into a room, px, at most `most` px a mm. Returns the scale."""
    box = whole_box(thing, things)
    scale = min(room.width() / box.width(), room.height() / box.height(), most)
    painter.save()
    painter.setClipRect(room.adjusted(-2, -2, 2, 2), Qt.ClipOperation.IntersectClip)
    painter.translate(room.center() - box.center() * scale)
    painter.scale(scale, scale)
    draw_whole(painter, thing, things)
    painter.restore()
    return scale
