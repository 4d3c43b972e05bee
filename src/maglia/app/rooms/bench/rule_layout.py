"""Where everything lies on the half-rule, in millimetres: x from the fold, y down from the top.

Runs that go round are lanes along the ruler; what hangs free stands below its place at true
scale. A piece with a run of its own on one side is unfolded: then x runs to both sides.
"""

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterator
from functools import cached_property

from msgspec import Struct

from maglia.core.assembly.assembly import Assembly, Member, Path, Station
from maglia.core.assembly.ports import Port, stops_of
from maglia.core.parts.parts import Connector
from maglia.core.sheets.lengths import alone_mm, link_lengths, member_width_mm, reach_mm
from maglia.core.values.record import Value

LANE_GAP_MM = 9.0
LOOSE_MM = 8.0
"""How long is drawn what hangs there, but of no known length."""
Point = tuple[float, float]


class Laid(Value, frozen=True, dict=True):
    """One member on the rule: its points in mm, and whether it hangs down."""

    member: Member
    points: tuple[Point, ...]
    half_width: float
    hangs: bool

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """left, top, right, bottom, mm."""
        xs, ys = [p[0] for p in self.points], [p[1] for p in self.points]
        w = self.half_width
        if self.hangs:
            return min(xs) - w, min(ys), max(xs) + w, max(ys)
        return min(xs), min(ys) - w, max(xs), max(ys) + w

    def between(self, low: float, high: float) -> tuple[int, int]:
        """Range of its points that draws all of it between two values along it, mm."""
        axis, points = 1 if self.hangs else 0, self.points
        low, high = low - self.half_width, high + self.half_width
        if len(points) <= 2:
            ends = sorted((points[0][axis], points[-1][axis]))
            return (0, len(points)) if ends[0] <= high and ends[1] >= low else (0, 0)
        ahead = points[-1][axis] >= points[0][axis]
        values = points if ahead else points[::-1]
        first = max(bisect_left(values, low, key=lambda p: p[axis]) - 1, 0)
        last = min(bisect_right(values, high, key=lambda p: p[axis]) + 1, len(points))
        return (first, last) if ahead else (len(points) - last, len(points) - first)


class Lane(Value, frozen=True):
    """One run along the ruler, its line at y."""

    name: str
    y: float
    start: float
    end: float


class RuleLayout(Struct, eq=False):
    """Everything on the rule. `joins` are threads from a place to the lane that joins it, `beside`
    from a place to what hangs from it but is drawn beside it."""

    lanes: list[Lane] = []
    laid: list[Laid] = []
    joins: list[tuple[Point, Point]] = []
    beside: list[tuple[Point, Point]] = []
    width: float = 0.0
    height: float = 0.0
    left: float = 0.0
    """How far it reaches left of the fold: a whole side, or half of what hangs on the fold."""
    unfolded: bool = False
    at: dict[tuple[int, object], Point] = {}
    """Where a member's port lies."""


def lay_out(assembly: Assembly, kept: str | None = None) -> RuleLayout:
    """Lay one half (or both, if unfolded) of a piece on the rule. With `kept`, what hangs is
    folded away, but for the run or row of that name."""
    return _Layout(assembly, kept).laid()


def is_unfolded(assembly: Assembly) -> bool:
    """Whether a run stands on one side only, so that both halves have to be shown."""
    return any(path.side == "whole" and path.kind != "extender" for path in assembly.paths)


class _Layout:
    def __init__(self, assembly: Assembly, kept: str | None) -> None:
        self.assembly, self.kept = assembly, kept
        self.unfolded = is_unfolded(assembly)
        self.rule = RuleLayout(unfolded=self.unfolded)
        self.hosts = self._hosts()
        self.rises: dict[int, int] = {}
        """What stands up from a lane, and the member that it stands on."""
        self.shifts = self._shifts()
        """By first member: how far beside its place what hangs is drawn, so that nothing lies over
        its twin, mm."""
        self.feet: dict[str, float] = {}
        """How far down each hanging run reaches, mm."""
        self.ports: dict[int, set[Port]] = defaultdict(set)
        for joint in assembly.joints:
            if assembly.members[joint.a].links and not isinstance(joint.port_a, int):
                self.ports[joint.a].add(joint.port_a)

    def _hosts(self) -> dict[int, tuple[int, object, int]]:
        """Guest member → (host member, port, guest member) for runs that hang from a place."""
        found: dict[int, tuple[int, object, int]] = {}
        for joint in self.assembly.joints:
            if not joint.inline:
                found.setdefault(joint.b, (joint.a, joint.port_a, joint.b))
        return found

    def _shifts(self) -> dict[int, float]:
        """Of several at one place; but those of one link of a lane stand on its two sides by turns,
        with all that they carry."""
        wide = {path.stations[0].members[0]: 2 * self._half_width(path) for path in self._shown()
                if self._hangs(path)}  # fmt: skip
        groups: dict[tuple[int, object], list[int]] = defaultdict(list)
        for guest, (host, port, _) in self.hosts.items():
            member = self.assembly.members[guest]
            loose = member.made_in is not None and member.kind != "chain"
            if loose:
                wide.setdefault(guest, 2 * max(member_width_mm(self.assembly, member) / 2, 1.0))
                if host in self.rises:
                    self.rises[guest] = self.rises[host]
            if guest in wide:
                beside = groups[(host, port)]
                if loose and self.assembly.members[host].kind == "chain" and len(beside) % 2:
                    self.rises[guest] = host
                beside.append(guest)
        found: dict[int, float] = {}
        for guests in groups.values():
            for side in ([g for g in guests if g in self.rises], [g for g in guests
                         if g not in self.rises]):  # fmt: skip
                middle, at = sum(wide[g] for g in side) / 2, 0.0
                for guest in side if len(side) > 1 else ():
                    found[guest] = at + wide[guest] / 2 - middle
                    at += wide[guest]
        return found

    def _risen(self, host: int) -> float:
        """How far what stands up from a member's links reaches, mm."""
        own = [alone_mm(self.assembly, self.assembly.members[g]) for g, h in self.rises.items()
               if h == host]  # fmt: skip
        by_ring = len({self.assembly.members[g].kind for g, h in self.rises.items() if h == host})
        return sum(sorted(set(own))[-by_ring:]) if own else 0.0

    def laid(self) -> RuleLayout:
        y, lanes = 0.0, [p for p in self._shown() if not self._hangs(p)]
        drops = [p for p in self._shown() if self._hangs(p)]
        if lanes:
            drops = [p for p in drops if self._is_unfolded(p)]
        for path in lanes:
            above = max(self._half_width(path), *(self._risen(s.members[0]) for s in path.stations))
            tied = self._tied_at(path)
            y = y + above + (LANE_GAP_MM if self.rule.lanes else 3.0) if tied is None else tied
            self._lay_lane(path, y)
            self._lay_loose()
            y = max(y + above, self._lay_drops(drops))
            self._lay_loose()
        self._lay_drops(drops)
        self._lay_loose()
        boxes = [laid.box for laid in self.rule.laid]
        self.rule.width = max((box[2] for box in boxes), default=0.0)
        hanging = [laid.box for laid in self.rule.laid if laid.hangs]
        self.rule.left = min((b[0] for b in (boxes if self.unfolded else hanging)), default=0.0)
        self.rule.left = min(self.rule.left, 0.0)
        self.rule.height = max((box[3] for box in boxes), default=0.0)
        return self.rule

    def _tied_at(self, path: Path) -> float | None:
        """How far down the rings reach that a row of tied links hangs by; None for all else."""
        origin = self.assembly.origins[path.run]
        if origin.level is None:
            return None
        return max(
            (
                y
                for run, y in self.feet.items()
                if (own := self.assembly.origins[run]).ordinal is not None
                and (own.owner, own.level) == (origin.owner, origin.level)
            ),
            default=None,
        )

    def _shown(self) -> Iterator[Path]:
        for path in self.assembly.paths:
            if self.unfolded or path.side != "left":
                yield path

    def _is_unfolded(self, path: Path) -> bool:
        """Whether a hanging path is shown: all are, unless they are folded away."""
        kept = self.kept
        return kept is None or self.assembly.made_by(kept, path.run)

    def _hangs(self, path: Path) -> bool:
        run = self.assembly.run_of[path.run]
        if path.kind == "extender":
            return False
        if path.kind == "drop" or run.lies in ("fold", "paired", "free"):
            first = path.stations[0].members[0]
            if path.kind in ("swag", "strand") and run.lies != "fold":
                return False
            return first in self.hosts or run.lies == "fold"
        return False

    def _half_width(self, path: Path) -> float:
        members = (self.assembly.members[s.members[0]] for s in path.stations)
        return max((member_width_mm(self.assembly, m) / 2 for m in members), default=1.0)

    def _lay_lane(self, path: Path, y: float) -> None:
        total = sum(s.span_mm or 0.0 for s in path.stations)
        own = [s for s in path.stations if self.assembly.members[s.members[0]].run == path.run]
        lead = 0.0
        for station in path.stations:
            if self.assembly.members[station.members[0]].run == path.run:
                break
            lead += station.span_mm or 0.0
        x = -(lead + sum(s.span_mm or 0.0 for s in own) / 2)
        host = self.hosts.get(path.stations[0].members[0])
        if path.side not in ("fold", "whole") and host and host[:2] in self.rule.at:
            place = self.rule.at[host[:2]]
            x = place[0]
            self.rule.joins.append((place, (x, y)))
        if path.kind == "extender":
            x = max((lane.end for lane in self.rule.lanes), default=0.0)
        start = x
        for station in path.stations:
            length = station.span_mm or 0.0
            self._lay_station(station, (x, y), (x + length, y), hangs=False)
            x += length
        outer = self.hosts.get(path.stations[-1].members[0])
        if path.side == "fold" and outer and outer[:2] in self.rule.at:
            self.rule.joins.append((self.rule.at[outer[:2]], (x, y)))
        shown = start if self.unfolded else max(start, 0.0)
        self.rule.lanes.append(Lane(path.run, y, shown, start + total))

    def _lay_drops(self, drops: list[Path]) -> float:
        """Hang every drop whose place is laid by now; returns how far down they reach."""
        lowest, going = 0.0, True
        while going:
            going = False
            for path in list(drops):
                host = self.hosts.get(path.stations[0].members[0])
                top = self.rule.at.get(host[:2]) if host else (0.0, 2.0)
                if top is None:
                    continue
                drops.remove(path)
                going = True
                x, y = top
                if shift := self.shifts.get(path.stations[0].members[0], 0.0):
                    self.rule.beside.append(((x, y), (x + shift, y)))
                    x += shift
                for station in path.stations:
                    length = station.span_mm or 0.0
                    self._lay_station(station, (x, y), (x, y + length), hangs=True)
                    y += length
                self.feet[path.run] = y
                lowest = max(lowest, y)
        return lowest

    def _lay_station(self, station: Station, a: Point, b: Point, *, hangs: bool) -> None:
        for k, index in enumerate(station.members):
            member = self.assembly.members[index]
            shift = (k - (len(station.members) - 1) / 2) * 1.2
            one, other = ((a[0] + shift, a[1]), (b[0] + shift, b[1])) if hangs else (
                (a[0], a[1] + shift), (b[0], b[1] + shift)
            )  # fmt: skip
            points = self._points(member, station, one, other)
            middle = (one[0] + other[0]) / 2
            if not self.unfolded and not hangs and max(one[0], other[0]) <= 1e-6:
                continue
            half = max(member_width_mm(self.assembly, member) / 2, 1.0)
            self.rule.laid.append(Laid(member, points, half, hangs))
            self._note_ports(member, station, points, (middle, (one[1] + other[1]) / 2))

    def _points(self, member: Member, station: Station, a: Point, b: Point) -> tuple[Point, ...]:
        if not member.links:
            return (a, b) if station.port_in != "b" else (b, a)
        lengths = link_lengths(self.assembly, member)
        total = sum(lengths) or 1.0
        shares, here = [0.0], 0.0
        for length in lengths:
            here += length
            shares.append(here / total)
        forward = station.port_in != member.links or member.links == 1
        if not forward:
            shares = [1 - share for share in shares]
        return tuple((a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])) for t in shares)

    def _note_ports(
        self, member: Member, station: Station, points: tuple[Point, ...], middle: Point
    ) -> None:
        at = self.rule.at
        if member.links:
            for port in self.ports.get(member.id, ()):
                at[(member.id, port)] = self._on_line(member, points, port, middle)
            for k in range(member.links):
                (ax, ay), (bx, by) = points[k], points[k + 1]
                at[(member.id, k + 1)] = ((ax + bx) / 2, (ay + by) / 2)
            return
        thing = self.assembly.thing(member)
        if isinstance(thing, Connector):
            origin = next(h for h in thing.holes if h.name == station.port_in)
            for hole in thing.holes:
                at[(member.id, hole.name)] = (
                    points[0][0] + hole.x_mm - origin.x_mm,
                    points[0][1] - hole.y_mm + origin.y_mm,
                )
        for port in ("ring", "mid", "loop", "eye", "bite"):
            at.setdefault((member.id, port), middle)
        at.setdefault((member.id, "a"), points[0])
        at.setdefault((member.id, "b"), points[-1])

    def _on_line(
        self, member: Member, points: tuple[Point, ...], port: Port, middle: Point
    ) -> Point:
        """Where a gap, a place in mm or what slides is drawn: that in the middle of its stretch."""
        if (stops := stops_of(port)) is not None:
            if not stops[1]:
                return middle
            (ax, ay), (bx, by) = points[stops[0]], points[stops[1] - 1]
            return (ax + bx) / 2, (ay + by) / 2
        whole = sum(link_lengths(self.assembly, member)) or 1.0
        share = (reach_mm(self.assembly, member, port) or 0.0) / whole
        (ax, ay), (bx, by) = points[0], points[-1]
        return ax + share * (bx - ax), ay + share * (by - ay)

    def _lay_loose(self) -> None:
        """Members on no path: mid rings and what clusters carry, hung from where they join."""
        for joint in self.assembly.joints:
            key, member = (joint.a, joint.port_a), self.assembly.members[joint.b]
            if joint.inline or (joint.b, "ring") in self.rule.at or key not in self.rule.at:
                continue
            if member.made_in is None or member.kind == "chain":
                continue
            x, y = self.rule.at[key]
            if x < -1e-6 and not self.unfolded:
                continue  # the other half
            x += self.shifts.get(member.id, 0.0)
            length = alone_mm(self.assembly, member) or LOOSE_MM
            foot = y - length if member.id in self.rises else y + length
            half = max(member_width_mm(self.assembly, member) / 2, 1.0)
            self.rule.laid.append(Laid(member, ((x, y), (x, foot)), half, True))
            self.rule.at[(member.id, "ring")] = (x, foot)
