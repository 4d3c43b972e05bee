"""Draws a strip of weave row by row: every ring where it lies, over and under as it goes through
its neighbours.

A row is drawn once and stamped wherever one like it stands. Rings are drawn in their order, each
over those before it; where two go through each other the earlier one is then drawn anew over the
later one at every second crossing.
"""

import math
from collections.abc import Callable, Sequence
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPainterPath, QTransform

from maglia.app.painting.materials import Tones, tones
from maglia.app.painting.parts import stroke
from maglia.app.painting.stamps import Stamp, stamp_of
from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Things
from maglia.core.piece.items import WeaveItem
from maglia.core.weaves.kinds import woven
from maglia.core.weaves.pitch import LANE, Size, flat_mm, sized, spans_mm, spoke_mm, width_mm

SAMPLES = 72
"""Points of a ring by which its crossings are found."""
PATCH = 0.34
"""Half of what is drawn anew at a crossing, in radians of the ring."""
ON_EDGE = 0.5
"""How much narrower than long a ring is seen that stands turned to its neighbours."""
LIMBS, SEEN_MM = ("wrist", "ankle"), 16.0
"""How wide at most a strip is seen round a limb."""
BY_TURNS = ("stretch triangles", "m in m", "shaggy loops")
Point = tuple[float, float]


class Oval(NamedTuple):
    """A ring as it is seen: middle, half its length and width to the middle of its wire, its turn
    (radians), wire, colours. `straight`: rubber drawn to a long loop."""

    x: float
    y: float
    long: float
    wide: float
    turn: float
    wire: float
    tone: Tones
    straight: bool = False

    def at(self, angle: float) -> Point:
        """A point of it by its own angle; of a loop by as large a share of its way round."""
        u, v = self.long * math.cos(angle), self.wide * math.sin(angle)
        if self.straight:
            u, v = self._on_loop(angle / (2 * math.pi) % 1.0)
        cos, sin = math.cos(self.turn), math.sin(self.turn)
        return self.x + u * cos - v * sin, self.y + u * sin + v * cos

    def _on_loop(self, share: float) -> Point:
        """Round two half circles and two straight sides, from the middle of the right one."""
        flat, bow = 2 * max(self.long - self.wide, 0.0), math.pi * self.wide
        along = share * 2 * (flat + bow)
        if along < bow / 2 or along >= 2 * flat + 1.5 * bow:
            turn = (along if along < bow / 2 else along - 2 * (flat + bow)) / self.wide
            return flat / 2 + self.wide * math.cos(turn), self.wide * math.sin(turn)
        along -= bow / 2
        if along < flat:
            return flat / 2 - along, self.wide
        along -= flat
        if along < bow:
            turn = math.pi / 2 + along / self.wide
            return -flat / 2 + self.wide * math.cos(turn), self.wide * math.sin(turn)
        return along - bow - flat / 2, -self.wide

    def moved(self, by: float) -> "Oval":
        return self._replace(x=self.x + by)


class Row(NamedTuple):
    """The rings of a row from where it begins, in drawing order; of those of the row before it,
    and which go through each other: (earlier, later), the row before counted from −1 down."""

    own: tuple[Oval, ...]
    before: tuple[Oval, ...]
    through: tuple[tuple[int, int], ...]
    box: QRectF


def draw_weave(
    painter: QPainter, assembly: Assembly, member: Member, points: Sequence[Point],
    *, worn: bool = False,
) -> None:  # fmt: skip
    """The row that a ring leads, along the ring's own place; other rings are drawn with theirs. A
    wide strip that is `worn` round a limb is seen foreshortened: it lies along the arm."""
    own = member.woven
    if own is None or not own.leads:
        return
    (ax, ay), (bx, by) = points[0], points[-1]
    if member.side == "left":  # its rows are written outward
        (ax, ay), (bx, by) = (bx, by), (ax, ay)
    looks = _looks_of(own.item, assembly.things)
    if looks is None:
        return
    frame = painter.worldTransform()
    along = QTransform(frame)
    along.translate(ax, ay)
    along.rotateRadians(math.atan2(by - ay, bx - ax))
    if worn and looks.width > SEEN_MM and assembly.piece.form.kind in LIMBS:
        along.scale(1.0, SEEN_MM / looks.width)
    painter.setWorldTransform(along)
    stretch = _stretch(looks, own.row, math.hypot(bx - ax, by - ay)) if looks.limit > 1.0 else 1.0
    _print(painter, looks, own.row, stretch, frame)
    painter.setWorldTransform(frame)


def is_drawn(member: Member) -> bool:
    """Whether a member is drawn by itself: of a strip only the first ring of a row, for all."""
    return member.woven is None or member.woven.leads


def draw_row(painter: QPainter, item: WeaveItem, things: Things, row: int) -> None:
    """One row at rest from the origin along x."""
    looks = _looks_of(item, things)
    if looks is not None:
        frame = painter.worldTransform()
        _print(painter, looks, row, 1.0, frame)


class _Looks:
    """What the looks of a strip depend on; one object for strips alike, compared by itself, since
    it is asked for at every row."""

    def __init__(
        self, item: WeaveItem, rings: tuple[tuple[str, Size], ...],
        materials: tuple[tuple[str, str], ...], width: float,
    ) -> None:  # fmt: skip
        self.item, self.rings, self.materials = item, rings, materials
        self.alike, self.width = _alike(item), width
        self.frame = QTransform()
        self.printed: dict[tuple[int, float], tuple[QRectF, Stamp]] = {}
        self.limit = dict(rings)["rubber"].limit if "rubber" in dict(rings) else 1.0


_last: tuple[WeaveItem, Things, _Looks | None] | None = None
"""The strip that was drawn last: its rows follow each other."""


def _looks_of(item: WeaveItem, things: Things) -> _Looks | None:
    """None while the size of a ring is not known."""
    global _last  # a strip's rows are drawn one after the other
    if _last is not None and _last[0] is item and _last[1] is things:
        return _last[2]
    rings, looks = sized(item, things), None
    if rings is not None:
        materials = tuple((role.role, ring.material) for role in item.roles
                          if isinstance(ring := things.get(role.part), Ring))  # fmt: skip
        looks = _known_looks(item, tuple(rings.items()), materials, width_mm(item, things))
    _last = item, things, looks
    return looks


@lru_cache(maxsize=64)
def _known_looks(
    item: WeaveItem, rings: tuple[tuple[str, Size], ...], materials: tuple[tuple[str, str], ...],
    width: float,
) -> _Looks:  # fmt: skip
    return _Looks(item, rings, materials, width)


@lru_cache(maxsize=64)
def _spans(looks: _Looks, stretch: float) -> tuple[float, ...]:
    """How long the places of a strip are, its rubber so far stretched."""
    things: Things = {
        role.part: Ring(id=role.part, name=role.part, inner_mm=size.inner, wire_mm=size.wire,
                        stretch_limit=size.limit)
        for role, (_, size) in zip(looks.item.roles, looks.rings, strict=True)
    }  # fmt: skip
    return tuple(spans_mm(looks.item, woven(looks.item), things, stretch) or ())


def _stretch(looks: _Looks, row: int, long: float) -> float:
    """How far the rubber of a row is stretched whose first place is so long, in steps."""
    limit = looks.limit
    place = woven(looks.item).rows.index(row)
    rest, most = (_spans(looks, by)[place] for by in (1.0, limit))
    if most <= rest + 1e-6:
        return 1.0
    share = round(min(max((long - rest) / (most - rest), 0.0), 1.0) * 12) / 12
    return 1.0 + share * (limit - 1.0)


def _print(painter: QPainter, looks: _Looks, row: int, stretch: float, frame: QTransform) -> None:
    """A row from its stamp; stamps are kept by the strip while one picture is painted."""
    like = looks.alike[row]
    if frame != looks.frame:
        looks.frame = frame
        looks.printed.clear()
    key = (like, stretch)
    known = looks.printed.get(key)
    if known is None:
        drawn = _row(looks, like, stretch)
        name = ("weave", looks, like, stretch)
        stamp = stamp_of(painter, name, drawn.box, lambda p: _drawn(p, drawn))
        if stamp is None:
            _drawn(painter, drawn)
            return
        known = looks.printed[key] = (drawn.box, stamp)
    box, stamp = known
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)  # a stamp's own edge is clear
    painter.drawPixmap(box, stamp.picture, stamp.whole)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)


def _alike(item: WeaveItem) -> tuple[int, ...]:
    """For every row the first that is drawn as it is: its places, and those of the row before, are
    the same; what lies otherwise by turns is the same in every second one."""
    made, turns = woven(item), 2 if item.weave in BY_TURNS else 1
    places: dict[int, tuple[tuple[str, ...], ...]] = {}
    for row, roles in zip(made.rows, made.places, strict=True):
        places[row] = (*places.get(row, ()), roles)
    first: dict[tuple[object, ...], int] = {}
    return tuple(first.setdefault((row % turns, places[row], places.get(row - 1)), row)
                 for row in sorted(places))  # fmt: skip


# --- where the rings of a row lie -----------------------------------------------------------------


@lru_cache(maxsize=256)
def _row(looks: _Looks, row: int, stretch: float) -> Row:
    made = woven(looks.item)
    ovals = _ovals(looks, (row - 1, row), stretch)
    rows = [made.rows[k] for k, place in enumerate(made.places) for _ in place]
    begin = sum(span for span, of in zip(_spans(looks, stretch), made.rows, strict=True)
                if of < row)  # fmt: skip
    own = [n for n in ovals if rows[n] == row]
    before = [n for n in ovals if rows[n] == row - 1]
    at = {n: k for k, n in enumerate(own)} | {n: -1 - k for k, n in enumerate(before)}
    through = tuple((at[a], at[b]) for a, b in made.joints if a in at and b in at
                    and (a in own or b in own))  # fmt: skip
    drawn = tuple(ovals[n].moved(-begin) for n in own)
    return Row(drawn, tuple(ovals[n].moved(-begin) for n in before), through, _box(drawn))


def _ovals(looks: _Looks, rows: Sequence[int], stretch: float) -> dict[int, Oval]:
    """The rings of some rows by their numbers, where they lie along the strip."""
    made, spans, sizes = woven(looks.item), _spans(looks, stretch), dict(looks.rings)
    tone = {role: tones(material) for role, material in looks.materials}
    found: dict[int, Oval] = {}
    number, x = 0, 0.0
    for k, place in enumerate(made.places):
        if made.rows[k] in rows:
            for n, oval in enumerate(
                _place(looks.item, place, k, made.rows[k], spans[k], sizes, tone, stretch)
            ):
                found[number + n] = oval.moved(x)
        number, x = number + len(place), x + spans[k]
    return found


class Edge(NamedTuple):
    """Rings of a strip drawn by themselves: `draw` them, and the box of each by its number."""

    draw: Callable[[QPainter], None]
    boxes: dict[int, QRectF]


def edge_of(item: WeaveItem, things: Things, rings: Sequence[int]) -> Edge | None:
    """Some rings of a strip as they lie in it; None while the size of one is not known."""
    looks = _looks_of(item, things)
    if looks is None:
        return None
    made, wanted = woven(item), set(rings)
    of = [made.rows[k] for k, place in enumerate(made.places) for _ in place]
    rows = sorted({of[ring] for ring in wanted})
    whole = _spans(looks, 1.0)
    ovals = {n: oval for n, oval in _ovals(looks, rows, 1.0).items() if n in wanted}
    if item.closes and rows[0] == 0 and rows[-1] > 2:  # what it closes on lies beyond its end
        ovals = {n: oval.moved(sum(whole)) if of[n] == 0 else oval for n, oval in ovals.items()}
    order = sorted(ovals, key=lambda n: (ovals[n].x, n))
    at = {n: k for k, n in enumerate(order)}
    through = tuple(sorted((at[a], at[b])) for a, b in made.joints if a in at and b in at)
    drawn = Row(tuple(ovals[n] for n in order), (), through, QRectF())  # type: ignore[arg-type]
    return Edge(lambda p: _drawn(p, drawn), {n: _box((ovals[n],)) for n in order})


def _box(ovals: Sequence[Oval]) -> QRectF:
    """What a row takes, mm."""
    box = QRectF()
    for oval in ovals:
        reach = max(oval.long, oval.wide) + oval.wire
        box |= QRectF(oval.x - reach, oval.y - reach, 2 * reach, 2 * reach)
    return box


def _place(
    item: WeaveItem, place: tuple[str, ...], number: int, row: int, span: float,
    sizes: dict[str, Size], tone: dict[str, Tones], stretch: float,
) -> list[Oval]:  # fmt: skip
    """The rings of one place, from where it begins."""
    if item.weave == "stretch triangles":
        return _triangle(place, row, sizes, tone, stretch)
    found, middle = [], span / 2
    for n, role in enumerate(place):
        size = sizes[role]
        half = (size.inner + size.wire) / 2
        x, y, long, wide, turn = middle, 0.0, half, half, 0.0
        if role == "rubber":
            wire = min(s.wire for r, s in sizes.items() if r != "rubber")
            long = flat_mm(size, wire, stretch) / 2 + size.wire / 2
            wide = (wire + size.wire) / 2 + 0.2 * size.wire
        elif role == "tuft":
            side = 1 if (n + number) % 2 else -1
            spread = ((n - 1) // 2 - (len(place) - 2) / 4) * 0.5
            turn = side * (math.pi / 2 + spread)
            x = middle + math.cos(turn) * (half + sizes["base"].inner / 2 - size.wire / 2)
            y = math.sin(turn) * (half + sizes["base"].inner / 2 - size.wire / 2)
            wide *= 0.8
        elif item.weave == "four in one" and role == "ring":
            y = _lane(item, size, n, number)
        elif item.weave in ("box", "Byzantine"):
            turn, long, wide, y = _folded(item.weave, number, n, half, size.wire)
        elif len(place) > 1:
            apart = 1.15 * size.wire
            y = (n - (len(place) - 1) / 2) * apart
            if "small" in place or (item.weave == "m in m" and number % 2):
                wide *= ON_EDGE
        found.append(Oval(x, y, long, wide, turn, size.wire, tone[role], role == "rubber"))
    return found


def _lane(item: WeaveItem, size: Size, n: int, number: int) -> float:
    """Across a strip of four in one rings of the two kinds lie by turns."""
    is_wide = (number - int(item.end_rings > 1)) % 2 == 0
    lane = 2 * n + (0 if is_wide else 1)
    apart = min(LANE * size.outer, 0.85 * math.sqrt(2 * size.inner * size.wire + size.wire**2))
    return (lane - (item.abreast - 1) / 2) * apart


def _folded(
    weave: str, number: int, n: int, half: float, wire: float
) -> tuple[float, float, float, float]:
    """Pairs that are folded back: turn, half length, half width, off the middle."""
    side = 1 if n else -1
    if weave == "box":
        return side * 0.6, half, 0.6 * half, side * 0.35 * half
    if number % 3 == 1:
        return 0.0, half, ON_EDGE * half, side * 0.6 * wire
    lean = 0.75 if number % 3 == 0 else -0.75
    return side * lean, half, 0.55 * half, side * 0.5 * half


def _triangle(
    place: tuple[str, ...], row: int, sizes: dict[str, Size], tone: dict[str, Tones], stretch: float
) -> list[Oval]:
    """A triangle about its large ring, or the two small rings at the corners it shares."""
    spoke = spoke_mm(sizes, stretch)
    step, up = math.sqrt(3) / 2 * spoke, -1 if row % 2 == 0 else 1
    large, small, rubber = sizes["large"], sizes["small"], sizes["rubber"]
    middle = (step / 2, -up * 0.25 * spoke)
    corners = [(-step / 2, -up * 0.75 * spoke), (step / 2, up * 0.75 * spoke),
               (1.5 * step, -up * 0.75 * spoke)]  # fmt: skip
    if place[0] == "small":
        half = (small.inner + small.wire) / 2
        shift = step / 2  # this place begins half a row on
        return [Oval(x - shift + dx * half, y, half, half, 0.0, small.wire, tone["small"])
                for (x, y), dx in zip(corners[1:], (0.35, -0.35), strict=True)]  # fmt: skip
    half = (large.inner + large.wire) / 2
    found = [Oval(*middle, half, half, 0.0, large.wire, tone["large"])]
    for x, y in corners:
        dx, dy = x - middle[0], y - middle[1]
        whole = math.hypot(dx, dy)
        near, far = half - rubber.wire, whole
        at = (near + far) / 2 / whole
        found.append(Oval(middle[0] + at * dx, middle[1] + at * dy, (far - near) / 2,
                          0.9 * rubber.wire, math.atan2(dy, dx), rubber.wire, tone["rubber"],
                          straight=True))  # fmt: skip
    return found


# --- drawing --------------------------------------------------------------------------------------


def _drawn(painter: QPainter, row: Row) -> None:
    for oval in row.own:
        stroke(painter, _path(oval), oval.wire, oval.tone)
    for a, b in row.through:
        under, over = (row.own[k] if k >= 0 else row.before[-1 - k] for k in (a, b))
        for angle in _crossings(under, over)[::2]:
            stroke(painter, _arc(under, angle), under.wire, under.tone)


def _path(oval: Oval) -> QPainterPath:
    path = QPainterPath()
    if oval.straight:
        path.addRoundedRect(QRectF(-oval.long, -oval.wide, 2 * oval.long, 2 * oval.wide),
                            oval.wide, oval.wide)  # fmt: skip
    else:
        path.addEllipse(QPointF(0, 0), oval.long, oval.wide)
    placed = QTransform()
    placed.translate(oval.x, oval.y)
    placed.rotateRadians(oval.turn)
    return placed.map(path)


def _crossings(oval: Oval, other: Oval) -> list[float]:
    """Where a ring's middle line crosses another's, by its own angle, from the top round."""
    cos, sin = math.cos(other.turn), math.sin(other.turn)

    def outside(angle: float) -> float:
        x, y = oval.at(angle)
        u = (x - other.x) * cos + (y - other.y) * sin
        v = (y - other.y) * cos - (x - other.x) * sin
        if other.straight:
            flat = max(other.long - other.wide, 0.0)
            u = math.copysign(max(abs(u) - flat, 0.0), u)
            return math.hypot(u, v) / other.wide - 1.0
        return math.hypot(u / other.long, v / other.wide) - 1.0

    angles = [-math.pi / 2 + 2 * math.pi * k / SAMPLES for k in range(SAMPLES + 1)]
    values = [outside(angle) for angle in angles]
    found = []
    for (a, here), (b, there) in pairwise(zip(angles, values, strict=True)):
        if (here < 0) != (there < 0):
            found.append(a + (b - a) * here / (here - there))
    return found


def _arc(oval: Oval, angle: float) -> QPainterPath:
    """A little of a ring about an angle of it."""
    steps = [angle + PATCH * (k / 4 - 1) for k in range(9)]
    path = QPainterPath(QPointF(*oval.at(steps[0])))
    for one in steps[1:]:
        path.lineTo(QPointF(*oval.at(one)))
    return path
