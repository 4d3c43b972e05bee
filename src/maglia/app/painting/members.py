"""Draws members of an assembly where they lie: chain link by link, all else along its line."""

import math
from collections.abc import Sequence

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPainterPath, QTransform

from maglia.app.painting import connectors, cords
from maglia.app.painting import parts as draw
from maglia.app.painting.stamps import Stamp, stamp_of, stamped
from maglia.app.painting.weaves import draw_weave
from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Ring,
)
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Tassel,
    Thing,
    Things,
    faced,
    hangs_at,
    hung_mm,
    legs_of,
)
from maglia.core.piece.items import Knot, StrungEnd
from maglia.core.piece.strung import KNOT_WIDE, cord_mm, is_bare, knot_mm

Points = Sequence[tuple[float, float]]
"""Contact points in mm, y down: a chain's nodes, or the two ends of any other member."""


def draw_member(
    painter: QPainter, assembly: Assembly, member: Member, points: Points, first: int = 0,
    *, worn: bool = False,
) -> None:  # fmt: skip
    """Draw one member along its points; of a chain or strung section those from link `first`. What
    is `worn` round a limb is seen from its end."""
    thing = assembly.thing(member)
    if isinstance(thing, Chain):
        draw_links(painter, thing, points, first)
    elif member.strung is not None:
        _strung(painter, assembly, member, points, first)
    elif member.woven is not None:
        draw_weave(painter, assembly, member, points, worn=worn)
    else:
        length = math.dist(points[0], points[-1])
        painter.save()
        _along(painter, points[0], points[-1])
        draw_thing(painter, thing, length, assembly.things)
        painter.restore()


def _along(painter: QPainter, a: tuple[float, float], b: tuple[float, float]) -> None:
    painter.translate(*a)
    painter.rotate(math.degrees(math.atan2(b[1] - a[1], b[0] - a[0])))


def draw_thing(painter: QPainter, thing: Thing, length: float, things: Things) -> None:
    """Draw a part or unit, but for chain, from the origin along x; a connector round it."""
    if isinstance(thing, Ring):
        _ring(painter, thing, length)
    elif isinstance(thing, BeadLink | Dangle):
        _wired(painter, thing, length, things)
    elif isinstance(thing, Charm):
        _charm(painter, thing, length)
    elif isinstance(thing, Clasp):
        draw.clasp(painter, thing, length)
    elif isinstance(thing, EarFinding):
        draw.ear_finding(painter, thing, length)
    elif isinstance(thing, Tassel):
        draw.tassel(painter, thing, length, things)
    elif isinstance(thing, End):
        draw.end(painter, thing)
    elif isinstance(thing, Connector):
        connectors.connector(painter, thing)
    elif isinstance(thing, Bead):
        _bead(painter, thing, 0.0)


def draw_links(painter: QPainter, chain: Chain, points: Points, first: int) -> None:
    """Links by the thousand: each from a stamp that links of nearly its length share, printed at
    its own length; the upright ones lie over the flat ones."""
    painter.save()
    frame = painter.worldTransform()
    xx, xy, yx, yy = frame.m11(), frame.m12(), frame.m21(), frame.m22()
    dx, dy = frame.dx(), frame.dy()
    for on_edge in (False, True):
        stamps: dict[float, tuple[QRectF, Stamp | None]] = {}
        onto, stamp, last = QRectF(), None, -1.0
        for k in range((on_edge + first) % 2, len(points) - 1, 2):
            (ax, ay), (bx, by) = points[k], points[k + 1]
            exact = math.hypot(bx - ax, by - ay)
            if exact != last:  # links that lie straight are all as long
                last, length = exact, _near(exact)
                if length not in stamps:
                    stamps[length] = _link_stamp(painter, chain, length, on_edge)
                box, stamp = stamps[length]
                onto = QRectF(box.x(), box.y(), box.width() + exact - length, box.height())
            c, s = ((bx - ax) / exact, (by - ay) / exact) if exact else (1.0, 0.0)
            # translated to `a` and turned towards `b`, written out: this is the innermost loop
            painter.setWorldTransform(QTransform(
                xx * c + yx * s, xy * c + yy * s, yx * c - xx * s, yy * c - xy * s,
                xx * ax + yx * ay + dx, xy * ax + yy * ay + dy,
            ))  # fmt: skip
            if stamp is None:
                draw.link(painter, chain, exact, on_edge=on_edge)
            else:
                painter.drawPixmap(onto, stamp.picture, stamp.whole)
    painter.restore()


def _link_stamp(
    painter: QPainter, chain: Chain, length: float, on_edge: bool
) -> tuple[QRectF, Stamp | None]:
    """The box of a link of some length, mm, and its stamp."""
    wire = chain.wire_mm or length * 0.2
    half = (chain.inner_width_mm or length * 0.6) / 2 + 2 * wire
    box = QRectF(-2 * wire, -half, length + 4 * wire, 2 * half)
    key = ("link", chain.material, chain.look, chain.wire_mm, chain.inner_width_mm, length, on_edge)
    return box, stamp_of(painter, key, box, lambda p: draw.link(p, chain, length, on_edge=on_edge))


def _near(length: float) -> float:
    """A length rounded to about a thirtieth of itself."""
    step = 0.05 if length < 2.0 else 0.1 if length < 5.0 else 0.2
    return max(round(length / step) * step, step)


def _ring(painter: QPainter, ring: Ring, exact: float) -> None:
    length = _near(exact)
    size = max(ring.inner_mm or 4.0, ring.inner_width_mm or 0.0) + 3 * (ring.wire_mm or 0.8)
    box = QRectF(length / 2 - size, -size, 2 * size, 2 * size)
    onto = box.translated((exact - length) / 2, 0.0)
    sizes = (ring.wire_mm, ring.inner_mm, ring.inner_width_mm)
    key = ("ring", ring.material, ring.closure, *sizes, length)
    stamped(painter, key, box, lambda p: draw.ring(p, ring, length), onto)


def _wired(painter: QPainter, unit: BeadLink | Dangle, exact: float, things: Things) -> None:
    """A bead link or dangle from its stamp: whole rows are of one, and each is many paths."""
    length = _near(exact)
    refs = (unit.wire, *unit.stack, *legs_of(unit))
    parts = tuple(things.get(ref) for ref in refs)
    beads = [part for part in parts if isinstance(part, Bead)]
    wide = max((part.width_mm or 4.0 for part in beads), default=4.0)
    along = sum(part.length_mm or 4.0 for part in beads)
    spiral = getattr(unit, "spiral_mm", None) or 0.0
    half = max(wide, unit.loop.inner_mm + 4.0, spiral, along if legs_of(unit) else 0.0) / 2 + 2.0
    end = max(length, along + unit.loop.inner_mm) + spiral + wide / 2 + 3.0
    begin = unit.loop.inner_mm + 3.0
    box = QRectF(-begin, -half, begin + end, 2 * half)
    stretched = QRectF(-begin, -half, begin + end + exact - length, 2 * half)
    key = ("wired", unit, parts, length)
    stamped(painter, key, box, lambda p: draw.wired(p, unit, length, things), stretched)


def _charm(painter: QPainter, part: Charm, exact: float) -> None:
    length = _near(exact)
    half = (part.width_mm or length * 0.5) * 0.8 + (part.loop_mm or 2.0) + 2.0
    begin = (part.loop_mm or 2.0) / 2 + 3.0
    box = QRectF(-begin, -half, begin + length + 2.0, 2 * half)
    stretched = QRectF(-begin, -half, begin + exact + 2.0, 2 * half)
    stamped(painter, ("charm", part, length), box, lambda p: draw.charm(p, part, length), stretched)


def _bead(painter: QPainter, bead: Bead, at: float) -> None:
    at = round(at * 50) / 50
    long, wide = bead.length_mm or 4.0, bead.width_mm or 4.0
    box = QRectF(at - 1.0, -wide / 2 - 1.0, long + 2.0, wide + 2.0)
    key = ("bead", bead.material, bead.shape, bead.role, bead.colour, long, wide, bead.hole_mm, at)

    def drawn(p: QPainter) -> None:
        draw.bead(p, bead, at)

    stamped(painter, key, box, drawn)


def _strung(
    painter: QPainter, assembly: Assembly, member: Member, points: Points, first: int
) -> None:
    item = member.strung
    assert item is not None
    thread = QPainterPath()
    thread.moveTo(*points[0])
    for point in points[1:]:
        thread.lineTo(*point)
    cord = assembly.thing(member)
    tone = cords.cord_tones(cord)
    if is_bare(item):
        cords.cord(painter, points, *cord_mm(item, assembly.things), tone, item.made, item.strands)
    else:
        draw.stroke(painter, thread, 0.5, tone)
    refs = item.beads
    near, far = (_end_of(assembly, way) for way in item.ends)
    over, caps = faced(refs, assembly.things), []
    for k, ref in enumerate(refs[first : first + len(points) - 1]):
        thing = assembly.things[ref] if isinstance(ref, str) else None
        before = near if first + k == 0 else None
        after = far if first + k == len(refs) - 1 else None
        if before is not None or after is not None:
            points = [*points]
            points[k], points[k + 1] = _with_ends(
                painter, (points[k], points[k + 1]), before, after
            )
        if isinstance(thing, Bead) and thing.covers_mm:
            caps.append((thing, points[k], points[k + 1], (over[first + k] or 0) < first + k))
            continue
        if isinstance(thing, Cluster):
            _on_thread(painter, assembly, thing, points[k])
            continue
        painter.save()
        _along(painter, points[k], points[k + 1])
        if isinstance(thing, Bead):
            own = thing.length_mm or 0.0
            _bead(painter, thing, (math.dist(points[k], points[k + 1]) - own) / 2)
        elif isinstance(thing, Ring):
            _ring(painter, thing, 0.0)
        elif isinstance(ref, Knot):
            tied = knot_mm(item, assembly.things) or 0.5
            cords.knot(painter, math.dist(points[k], points[k + 1]), KNOT_WIDE * tied, tone)
        painter.restore()
    for cap, begun, ended, back in caps:  # over the beads that they sit on
        painter.save()
        _along(painter, begun, ended)
        draw.capped(painter, cap, 0.0, back=back)
        painter.restore()


def _end_of(assembly: Assembly, way: StrungEnd) -> End | None:
    part = assembly.things.get(way.end or "")
    return part if isinstance(part, End) else None


def _with_ends(
    painter: QPainter,
    stretch: tuple[tuple[float, float], tuple[float, float]],
    before: End | None,
    after: End | None,
) -> tuple[tuple[float, float], tuple[float, float]]:
    """Draw the findings at the ends of a stretch; what is left of it is the bead's."""
    (ax, ay), (bx, by) = stretch
    whole = math.hypot(bx - ax, by - ay) or 1.0
    cut = [min((end.adds_mm or 0.0) / whole, 1.0) if end else 0.0 for end in (before, after)]
    for end, at in ((before, 0.0), (after, 1.0 - cut[1])):
        if end is not None:
            painter.save()
            painter.translate(ax + at * (bx - ax), ay + at * (by - ay))
            painter.rotate(math.degrees(math.atan2(by - ay, bx - ax)))
            draw.end(painter, end)
            painter.restore()
    left, right = cut[0], 1.0 - cut[1]
    return (
        (ax + left * (bx - ax), ay + left * (by - ay)),
        (ax + right * (bx - ax), ay + right * (by - ay)),
    )


UNKNOWN_MM = 8.0
"""How long is drawn what hangs in a cluster and is of no known length."""


def below_thread_mm(assembly: Assembly, member: Member) -> float:
    """How far down clusters on a strung section are drawn, mm; they are no members of their own."""
    reach = 0.0
    for ref in set(member.strung.refs) if member.strung is not None else ():
        cluster = assembly.things.get(ref)
        if isinstance(cluster, Cluster):
            rings = (assembly.things.get(own or "") for own in (cluster.carrier, cluster.by))
            inner = sum(own.inner_mm or 3.0 for own in rings if isinstance(own, Ring))
            hung = (assembly.things.get(own) for own in hangs_at(cluster, 0))
            long = max((hung_mm(own, assembly.things) or UNKNOWN_MM for own in hung), default=0.0)
            reach = max(reach, inner + long)
    return reach


def _on_thread(
    painter: QPainter, assembly: Assembly, cluster: Cluster, at: tuple[float, float]
) -> None:
    """A cluster on a strand: its ring on edge, what it carries fanned out below."""
    carrier = assembly.things[cluster.carrier]
    assert isinstance(carrier, Ring)
    inner = carrier.inner_mm or 3.0
    spread, hangs, by = 26.0, hangs_at(cluster, 0), assembly.things.get(cluster.by or "")
    for k, ref in enumerate(hangs):
        thing = assembly.things[ref]
        painter.save()
        painter.translate(at[0], at[1] + inner / 2)
        painter.rotate(90 + (k - (len(hangs) - 1) / 2) * spread)
        if isinstance(by, Ring):
            draw.ring(painter, by, by.inner_mm or 3.0)
            painter.translate(by.inner_mm or 3.0, 0)
        draw_thing(painter, thing, hung_mm(thing, assembly.things) or UNKNOWN_MM, assembly.things)
        painter.restore()
    painter.save()
    painter.translate(at[0], at[1] - inner / 2)
    painter.rotate(90)
    draw.ring(painter, carrier, inner)
    painter.restore()


def hides(assembly: Assembly, member: Member) -> bool:
    """Whether a member is drawn over what hangs from it: a cone that covers some of it does."""
    unit = assembly.thing(member)
    stack = unit.stack if isinstance(unit, BeadLink) else ()
    ends = (assembly.things.get(ref) for ref in stack)
    return any(isinstance(end, End) and end.covers_mm for end in ends)


def draw_connector(
    painter: QPainter, assembly: Assembly, member: Member, frame: QTransform
) -> None:
    """A connector by the map from its own coordinates (y down) to the drawing's."""
    connector = assembly.thing(member)
    assert isinstance(connector, Connector)
    painter.save()
    painter.setTransform(frame, True)
    connectors.connector(painter, connector)
    if member.wound is not None:
        connectors.wound(painter, connector, member.wound, assembly.things)
    painter.restore()
