"""The picture of one step: exactly the parts in hand, large, as they meet; what is new in it is
lit, and what is taken is numbered in its order.
"""

import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from maglia.app.painting.members import below_thread_mm, draw_links, draw_member, draw_thing
from maglia.app.painting.weaves import edge_of
from maglia.app.painting.whole import draw_whole, whole_box
from maglia.app.theme import Theme, font
from maglia.core.assembly.assembly import Assembly, Member, link_from_fold
from maglia.core.assembly.ports import Port
from maglia.core.joining.order import Closing
from maglia.core.joining.step import Step
from maglia.core.joining.text import MakeSheet
from maglia.core.joining.words import Lies, Taken
from maglia.core.parts.parts import Chain, Connector, Ring, chain_length_mm, hole_of
from maglia.core.parts.units import BeadLink, Dangle, hung_mm, unit_span_mm
from maglia.core.piece.items import Bare, StrungEnd
from maglia.core.piece.strung import cord_mm, on_thread_mm

LINKS_SHOWN, BEADS_SHOWN, BARE_MM = 6, 7, 30.0
FAN_DEG, MOST_FAN_DEG = 54.0, 150.0
MOST_PX_PER_MM = 26.0
SHARE_ALONE = 0.62
"""How much of the room a part takes that lies alone."""
LABEL_ROOM = 44.0
"""Pixels kept free round the parts for their numbers."""


class Placed(NamedTuple):
    """One part in hand: drawn in mm where it lies, its box there, its label and where that stands;
    whether it is new in the step."""

    draw: Callable[[QPainter], None]
    box: QRectF
    label: str
    at: QPointF
    lit: bool


def paint_in_hand(
    painter: QPainter, sheet: MakeSheet, step: Step, closing: Closing | None, room: QRectF,
    theme: Theme, *, room_for_labels: float = LABEL_ROOM,
) -> None:  # fmt: skip
    """Draw what is in hand in a step to fill a room, px."""
    placed = parts_in_hand(sheet, step, closing)
    if not placed:
        return
    box = placed[0].box
    for one in placed[1:]:
        box = box.united(one.box)
    edge = room_for_labels
    inner = room.adjusted(edge, edge, -edge, -edge)
    if len(placed) == 1:
        inner.setSize(inner.size() * SHARE_ALONE)
    scale = min(inner.width() / max(box.width(), 1.0), inner.height() / max(box.height(), 1.0),
                MOST_PX_PER_MM)  # fmt: skip
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.translate(room.center() - box.center() * scale)
    for one in placed:
        if one.lit:
            _halo(painter, one.box, scale, theme)
    painter.save()
    painter.scale(scale, scale)
    for one in placed:
        painter.save()
        one.draw(painter)
        painter.restore()
    painter.restore()
    for one in placed:
        if one.label:
            _label(painter, one, scale, theme, edge / LABEL_ROOM)
    painter.restore()


def _halo(painter: QPainter, box: QRectF, scale: float, theme: Theme) -> None:
    """What is new lies on a lit patch with a line round it."""
    lit = QRectF(box.topLeft() * scale, box.bottomRight() * scale).adjusted(-12, -12, 12, 12)
    light = QColor("#ffffff" if theme.name == "felt" else theme.good)
    light.setAlpha(70 if theme.name == "felt" else 42)
    painter.setBrush(light)
    painter.setPen(QPen(theme.colour("good"), 1.6, Qt.PenStyle.DashLine))
    painter.drawRoundedRect(lit, 16, 16)


def _label(painter: QPainter, one: Placed, scale: float, theme: Theme, size: float) -> None:
    """A number or letter in a paper disc."""
    at, high = one.at * scale, 30 * size
    painter.setFont(font(round(17 * size), bold=True))
    wide = max(painter.fontMetrics().horizontalAdvance(one.label) + high / 2, high)
    disc = QRectF(at.x() - wide / 2, at.y() - high / 2, wide, high)
    painter.setBrush(theme.colour("paper"))
    painter.setPen(QPen(theme.colour("paper_edge"), 1))
    painter.drawRoundedRect(disc, high / 2, high / 2)
    painter.setPen(theme.colour("ink"))
    painter.drawText(disc, Qt.AlignmentFlag.AlignCenter, one.label)


def parts_in_hand(sheet: MakeSheet, step: Step, closing: Closing | None) -> list[Placed]:
    """The parts of a step where they lie, mm: round what is closed, else by themselves."""
    a = sheet.assembly
    if closing is not None:
        member = a.members[closing.opener.member]
        if member.strung is not None:
            before = closing.opener.port == "a" and step.verb != "string"
            shown = _bare(a, member) if before else member
            return [_strand_end(a, shown, closing.opener.port), *_taken(a, step, member, 4.0)]
        if member.woven is not None and step.id.startswith("weave/"):
            return _at_the_edge(a, step, closing)
        return _round_opener(a, step, member, closing.opener.port)
    if step.things:
        return [_whole(a, ref) for ref in step.things]
    if step.verb == "string":
        return [_strand_end(a, a.members[step.in_hand[0]], "a")]
    return []


def _whole(a: Assembly, ref: str) -> Placed:
    thing = a.things[ref]
    box = whole_box(thing, a.things)
    upright = not isinstance(thing, Chain | Ring | Connector)
    shown = QRectF(-box.bottom(), box.left(), box.height(), box.width()) if upright else box

    def draw(painter: QPainter) -> None:
        if upright:  # a unit hangs from its loop
            painter.rotate(90)
        draw_whole(painter, thing, a.things)

    return Placed(draw, shown, a.letters.get(ref, ""),
                  QPointF(shown.center().x(), shown.bottom() + 2.5), lit=True)  # fmt: skip


def _round_opener(a: Assembly, step: Step, member: Member, port: Port) -> list[Placed]:
    thing = a.thing(member)
    if isinstance(thing, Ring):
        inner = thing.inner_mm or 4.0
        wire = thing.wire_mm or 0.8
        half = inner / 2 + wire

        def draw(painter: QPainter) -> None:
            painter.translate(-inner / 2, 0)
            draw_thing(painter, thing, inner, a.things)

        ring = Placed(draw, QRectF(-half, -half, 2 * half, 2 * half), "", QPointF(), lit=True)
        return [*_taken(a, step, member, inner), ring]
    own = _along(a, member, port, 90.0, QPointF(), lit=True)
    return [*_taken(a, step, member, 0.0), own]


ROWS_SHOWN, LABEL_MM = 2, 2.4
"""How many rows of a strip are shown before the one in hand."""


def _at_the_edge(a: Assembly, step: Step, closing: Closing) -> list[Placed]:
    """The end of the strip with the rings of one row, which are lit; those that are closed there
    are numbered in their order."""
    own = a.members[closing.opener.member].woven
    assert own is not None
    row = [c for c in step.closings
           if (other := a.members[c.opener.member].woven) and other.row == own.row]  # fmt: skip
    taken = {m for c in row for n in c.joins for m in (a.joints[n].a, a.joints[n].b)}
    openers = [c.opener.member for c in row]
    if own.item.weave == "stretch triangles":  # its rubbers lie over rings that nothing closes
        taken |= {m.id for m in a.members if (w := m.woven) and w.weave == own.weave
                  and w.role != "small" and w.row in (own.row, own.row + 1)}  # fmt: skip
    ahead = [m for m in (*taken, *openers) if (w := a.members[m].woven) and w.weave == own.weave]
    first = own.row - ROWS_SHOWN
    begun = [m.id for m in a.members if m.woven is not None and m.woven.weave == own.weave
             and first <= m.woven.row < own.row]  # fmt: skip
    rings = sorted({m - own.weave for m in (*begun, *ahead)})
    edge = edge_of(own.item, a.things, rings)
    if edge is None:
        return []
    whole = QRectF()
    for box in edge.boxes.values():
        whole |= box
    found = [Placed(edge.draw, whole, "", QPointF(), lit=False)]
    for k, member in enumerate(openers, 1):
        box = edge.boxes[member - own.weave]
        label = str(k) if len(openers) > 1 else ""
        aside = (k - (len(openers) + 1) / 2) * LABEL_MM
        below = QPointF(box.center().x() + aside, whole.bottom() + LABEL_MM)
        found.insert(0, Placed(lambda _: None, box, label, below, lit=True))
    return found


def _angle(lies: Lies, member: Member) -> float:
    """The direction in which something lies, degrees from the right, clockwise."""
    inner = 0.0 if member.side == "left" else 180.0
    return {"above": -90.0, "below": 90.0, "left": 180.0, "right": 0.0, "inner side": inner,
            "outer side": 180.0 - inner, "beside": 45.0}[lies]  # fmt: skip


def _taken(a: Assembly, step: Step, member: Member, inner: float) -> list[Placed]:
    """What is taken, each from its contact outward; what lies alike is fanned out."""
    alike: dict[Lies, list[Taken]] = {}
    for one in step.takes:
        alike.setdefault(one.lies, []).append(one)
    found: list[Placed] = []
    numbers: dict[Taken, int] = {}
    for one in step.takes:  # what has no words is one more of its part
        ref = a.members[one.member].ref
        again = next((n for t, n in numbers.items() if a.members[t.member].ref == ref), 1)
        numbers[one] = max(numbers.values(), default=0) + 1 if one.words else again
    for lies, takes in alike.items():
        for k, one in enumerate(takes):
            apart = min(FAN_DEG, MOST_FAN_DEG / max(len(takes) - 1, 1))
            angle = _angle(lies, member) + (k - (len(takes) - 1) / 2) * apart
            own = math.radians(angle)
            at = QPointF(inner / 2 * math.cos(own), inner / 2 * math.sin(own))
            placed = _along(a, a.members[one.member], one.port, angle, at, lit=False)
            label = str(numbers[one]) if len(step.takes) > 1 else ""
            found.append(placed._replace(label=label))
    return found


def _along(
    a: Assembly, member: Member, port: Port, angle: float, at: QPointF, *, lit: bool
) -> Placed:
    """A member from its contact at a port, lying in a direction."""
    thing = a.thing(member)
    if isinstance(thing, Chain):
        return _chain(a, member, thing, port, angle, at, lit=lit)
    if isinstance(thing, Connector):
        return _connector(thing, port, angle, at, lit=lit)
    unit = a.things.get(member.made_in or "")
    if isinstance(thing, Ring) and isinstance(unit, BeadLink):
        return _mid(a, thing, unit, angle, at, lit=lit)
    if member.strung is not None:
        placed = _strand_end(a, member, port)
        return _turned(placed, angle, at, lit=lit)
    length = hung_mm(thing, a.things) or getattr(thing, "span_mm", None) or 10.0
    length = getattr(thing, "below_mm", None) or length
    if isinstance(thing, BeadLink | Dangle):
        length = unit_span_mm(thing, a.things) or length
    flip = port == "b" or (thing.kind == "ear finding" and port == "loop")
    half = whole_box(thing, a.things).height() / 2

    def draw(painter: QPainter) -> None:
        if flip:
            painter.translate(length, 0)
            painter.rotate(180)
        draw_thing(painter, thing, length, a.things)

    flat = Placed(draw, QRectF(0, -half, length, 2 * half), "", QPointF(length + 2.0, 0), lit=lit)
    return _turned(flat, angle, at, lit=lit)


def _turned(flat: Placed, angle: float, at: QPointF, *, lit: bool) -> Placed:
    """What lies along x from the origin, turned into a direction from a contact."""
    own = math.radians(angle)
    cos, sin = math.cos(own), math.sin(own)

    def put(point: QPointF) -> QPointF:
        return at + QPointF(point.x() * cos - point.y() * sin, point.x() * sin + point.y() * cos)

    corners = [put(c) for c in (flat.box.topLeft(), flat.box.topRight(), flat.box.bottomLeft(),
                                flat.box.bottomRight())]  # fmt: skip
    xs, ys = [c.x() for c in corners], [c.y() for c in corners]
    box = QRectF(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))

    def draw(painter: QPainter) -> None:
        painter.translate(at)
        painter.rotate(angle)
        flat.draw(painter)

    return Placed(draw, box, flat.label, put(flat.at), lit)


def _chain(
    a: Assembly, member: Member, chain: Chain, port: Port, angle: float, at: QPointF, *, lit: bool
) -> Placed:
    """The links from an end; or those on both sides of a link that something hangs from."""
    number = int(port) if isinstance(port, int) else 1
    wire, begun = chain.wire_mm or 0.6, member.first_phase
    half = (chain.inner_width_mm or 1.5) / 2 + wire
    if number in (1, member.links):
        count = min(LINKS_SHOWN, member.links)
        step = -1 if number == member.links and member.links > 1 else 1
        links = [_link_mm(chain, number + step * k + begun) for k in range(count)]
        points = _points(links)
        flat = Placed(lambda p: draw_links(p, chain, points, 0),
                      QRectF(-wire, -half, sum(links) + 2 * wire, 2 * half), "",
                      QPointF(sum(links) + 2.5, 0), lit=lit)  # fmt: skip
        return _turned(flat, angle, at, lit=lit)
    reach = range(max(1, number - 3), min(member.links, number + 3) + 1)
    links = [_link_mm(chain, k + begun) for k in reach]
    before = sum(links[: number - reach[0]]) + links[number - reach[0]] / 2
    points = [(x - before, y) for x, y in _points(links)]
    away = (chain.inner_width_mm or 1.5) / 2
    label = f"link {link_from_fold(member, number)[1] or 'on the fold'}"
    flat = Placed(lambda p: draw_links(p, chain, points, number - reach[0]),
                  QRectF(-before - wire, -half, sum(links) + 2 * wire, 2 * half), label,
                  QPointF(sum(links) - before + 2.5, 0), lit=lit)  # fmt: skip
    own = math.radians(angle)
    middle = at + QPointF(math.cos(own) * away, math.sin(own) * away)
    return _turned(flat, angle + 90 if angle < 0 else angle - 90, middle, lit=lit)


def _link_mm(chain: Chain, number: int) -> float:
    return chain_length_mm(chain, 1, max(number, 1)) or 4.0


def _points(lengths: Sequence[float]) -> list[tuple[float, float]]:
    found = [(0.0, 0.0)]
    for length in lengths:
        found.append((found[-1][0] + length, 0.0))
    return found


def _connector(thing: Connector, port: Port, angle: float, at: QPointF, *, lit: bool) -> Placed:
    """A connector face up, its hole over the contact."""
    hole = hole_of(thing, str(port)) or thing.holes[0]
    away = (hole.diameter_mm or 2.0) / 2
    own = math.radians(angle)
    middle = at + QPointF(math.cos(own) * away, math.sin(own) * away)
    shift = middle - QPointF(hole.x_mm, -hole.y_mm)
    box = whole_box(thing, {}).translated(shift)

    def draw(painter: QPainter) -> None:
        painter.translate(shift)
        draw_thing(painter, thing, 0.0, {})

    label = QPointF(box.center().x(), box.top() - 1.5 if angle < 0 else box.bottom() + 1.5)
    return Placed(draw, box, "", label, lit)


def _mid(
    a: Assembly, ring: Ring, unit: BeadLink, angle: float, at: QPointF, *, lit: bool
) -> Placed:
    """A mid ring below its link."""
    inner = ring.inner_mm or 4.0
    span = unit_span_mm(unit, a.things) or 20.0
    half = whole_box(unit, a.things).height() / 2

    def draw(painter: QPainter) -> None:
        draw_thing(painter, ring, inner, a.things)
        painter.translate(inner, 0)
        painter.rotate(90)
        painter.translate(-span / 2, 0)
        draw_thing(painter, unit, span, a.things)

    flat = Placed(draw, QRectF(0, -span / 2, inner + half, span), "",
                  QPointF(inner + half + 2.0, 0), lit=lit)  # fmt: skip
    return _turned(flat, angle, at, lit=lit)


def _bare(a: Assembly, member: Member) -> Member:
    """A thread with nothing on it yet."""
    item = member.strung
    assert item is not None
    wide = cord_mm(item, a.things)[1]
    bare = (Bare(mm=max(BARE_MM, 4.0 * wide)),)
    return member._replace(
        strung=replace(item, lead=bare, pattern=(), tail=(), off=0, far=StrungEnd())
    )


def _strand_end(a: Assembly, member: Member, port: Port) -> Placed:
    """The end of a thread with what lies on it there, along x from its end."""
    item = member.strung
    assert item is not None
    count = min(BEADS_SHOWN, len(item.beads))
    first = len(item.beads) - count if port == "b" else 0
    shown = item.beads[first : first + count]
    hung = below_thread_mm(a, member)
    points = _points([on_thread_mm(item, one, a.things) or 0.5 for one in shown])
    whole = points[-1][0]
    beads = [a.things.get(one) for one in shown if isinstance(one, str)]
    wide = max([getattr(bead, "width_mm", None) or 2.0 for bead in beads] or [3.0])
    if port == "b":
        points = [(whole - x, y) for x, y in points]
    box, label = QRectF(0, -wide / 2, whole, wide / 2 + max(wide / 2, hung)), QPointF(whole + 2, 0)
    return Placed(lambda p: draw_member(p, a, member, points, first), box, "", label, lit=True)
