"""A strand laid straight along x, part by part, to hold the real one against; and the whole piece
with every letter.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from maglia.app.painting.members import draw_links, draw_member, draw_thing
from maglia.app.painting.small import draw_small, extent_mm, scale_to
from maglia.app.painting.whole import whole_box
from maglia.app.theme import Theme, font
from maglia.core.assembly.assembly import Assembly, Path, Station
from maglia.core.parts.parts import Chain, Connector, hole_of
from maglia.core.piece.strung import on_thread_mm
from maglia.core.sheets.lengths import link_lengths

if TYPE_CHECKING:
    from maglia.core.report import Findings


def straight_box(a: Assembly, path: Path) -> QRectF:
    """What a strand takes when it is laid straight, mm; its first contact is at the origin."""
    half = 1.0
    for station in path.stations:
        thing = a.thing(a.members[station.members[0]])
        if isinstance(thing, Connector):  # it may lie all on one side
            half = max(half, whole_box(thing, a.things).height())
        elif not isinstance(thing, Chain):
            half = max(half, whole_box(thing, a.things).height() / 2)
        else:
            half = max(half, (thing.inner_width_mm or 2.0) / 2 + (thing.wire_mm or 0.5))
    return QRectF(-1.5, -half, _length(path) + 3.0, 2 * half)


def _length(path: Path) -> float:
    return sum(station.span_mm or 0.0 for station in path.stations)


def draw_straight(painter: QPainter, a: Assembly, path: Path) -> None:
    """Draw a strand along x, mm."""
    x = 0.0
    for station in path.stations:
        painter.save()
        painter.translate(x, 0)
        _draw_station(painter, a, station)
        painter.restore()
        x += station.span_mm or 0.0


def _draw_station(painter: QPainter, a: Assembly, station: Station) -> None:
    member = a.members[station.members[0]]
    thing, span = a.thing(member), station.span_mm or 0.0
    back = station.port_in == "b" or (member.links > 1 and station.port_in == member.links)
    if isinstance(thing, Connector):
        _draw_connector(painter, thing, station)
        return
    if back:
        painter.translate(span, 0)
        painter.rotate(180)
    if isinstance(thing, Chain):
        draw_links(painter, thing, _points(link_lengths(a, member)), 0)
    elif member.strung is not None:
        item = member.strung
        steps = [on_thread_mm(item, one, a.things) or 0.0 for one in item.beads]
        left = max(span - sum(steps), 0.0)
        steps[0] += left / 2
        steps[-1] += left / 2
        draw_member(painter, a, member, _points(steps), 0)
    else:
        draw_thing(painter, thing, span or 10.0, a.things)


def _points(steps: list[float]) -> list[tuple[float, float]]:
    found = [(0.0, 0.0)]
    for step in steps:
        found.append((found[-1][0] + step, 0.0))
    return found


def _draw_connector(painter: QPainter, thing: Connector, station: Station) -> None:
    one, other = hole_of(thing, str(station.port_in)), hole_of(thing, str(station.port_out))
    if one is None or other is None:
        return
    turn = math.degrees(math.atan2(-(other.y_mm - one.y_mm), other.x_mm - one.x_mm))
    painter.translate((one.diameter_mm or 2.0) / 2, 0)
    painter.rotate(-turn)
    painter.translate(-one.x_mm, one.y_mm)
    draw_thing(painter, thing, 0.0, {})


def paint_true(painter: QPainter, a: Assembly, path: Path, room: QRectF, px_per_mm: float) -> float:
    """A strand laid straight, at true size if it fits a room, px. Returns the scale."""
    box = straight_box(a, path)
    scale = min(px_per_mm, (room.width() - 20) / box.width(), room.height() / box.height())
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.translate(room.center() - box.center() * scale)
    painter.scale(scale, scale)
    draw_straight(painter, a, path)
    painter.restore()
    return scale


def paint_layout(painter: QPainter, found: Findings, room: QRectF, theme: Theme) -> None:
    """The piece as it hangs with a letter at the first of every part."""
    hung = found.hung
    if hung is None:
        return
    inner = room.adjusted(40, 30, -40, -30)
    draw_small(painter, found, inner)
    if not found.assembly.piece.pair:
        paint_letters(painter, found, inner, scale_to(found, inner), theme)


def paint_letters(
    painter: QPainter, found: Findings, box: QRectF, scale: float, theme: Theme
) -> None:
    """A letter at the first of every part of a piece that is drawn in the middle of a box."""
    assert found.hung is not None
    own, middle = extent_mm(found.hung), box.center()
    top_left = QPointF(middle.x() - own.center().x() * scale,
                       middle.y() - own.height() * scale / 2 - own.top() * scale)  # fmt: skip
    painter.setFont(font(13, bold=True))
    taken: list[QRectF] = []
    for ref, letter in found.assembly.letters.items():
        spot = _spot_of(found, ref)
        if spot is None:
            continue
        at = top_left + spot * scale
        out = 1 if at.x() >= middle.x() else -1
        label = QRectF(at.x() + out * 26 - 10, at.y() - 9, 20, 18)
        while any(label.intersects(other) for other in taken):
            label.translate(0, 20)
        taken.append(label)
        painter.setPen(QPen(theme.colour("ink"), 1))
        painter.drawLine(at, QPointF(label.center().x() - out * 10, label.center().y()))
        painter.setBrush(theme.colour("paper"))
        painter.drawRoundedRect(label, 9, 9)
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, letter)


def _spot_of(found: Findings, ref: str) -> QPointF | None:
    """The middle of the outermost member of a part that is seen on the right, mm, y down."""
    assert found.hung is not None
    members = [m for m in found.assembly.members
               if ref in (m.ref, m.made_in) and m.side != "left"]  # fmt: skip
    if not members:
        members = [m for m in found.assembly.members if ref in (m.ref, m.made_in)]
    if not members:
        return None
    points = found.hung.points_of(members[0].id)
    mid = points[len(points) // 2]
    return QPointF(float(mid[0]), -float(mid[-1]))
