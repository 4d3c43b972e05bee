"""Laying the parts of one run: every item becomes stations of physical members.

First half of expansion; `maglia.core.expand` joins the runs afterwards. Raises DomainError naming
run and item for a part that is missing or of a kind that cannot stand there.
"""

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from itertools import pairwise
from typing import Any

from maglia.core.assembly import Joint, Member, Path, Station, Where
from maglia.core.parts import (
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
    chain_length_mm,
    connector_span_mm,
    hole_of,
)
from maglia.core.piece import (
    ChainItem,
    ConnectorItem,
    Item,
    PartItem,
    RingItem,
    Run,
    StrungItem,
    UnitItem,
)
from maglia.core.record import DomainError
from maglia.core.rows import flattened
from maglia.core.units import (
    BeadLink,
    Cluster,
    Dangle,
    Tassel,
    on_wire_mm,
    tassel_span_mm,
    unit_span_mm,
)

_bare = tuple.__new__
"""Makes a named tuple without its Python-level constructor: thousands are made at every key."""
At = tuple[str, Where, int]
"""Run, side and item number that a member stands at."""


class Layer:
    """Members, joints and paths of a piece while they are being laid; used once."""

    def __init__(self, things: dict[str, Any]) -> None:
        self.things = things
        self.members: list[Member] = []
        self.joints: list[Joint] = []
        self.paths: list[Path] = []
        self.placed: dict[At, list[Station]] = {}
        self._ordinals: dict[tuple[str, Where, str], int] = defaultdict(int)

    def lay(self, run: Run) -> None:
        if run.lies == "across":
            if run.centre is None:
                raise DomainError(
                    f"run “{run.name}” lies across the fold and needs a centre: "
                    "put a chain, ring, unit or connector on the fold"
                )
            centre = self._stations(run, "fold", 0, run.centre)
            right = self._side(run, "right")
            left = self._side(run, "left")
            stations = [*_reversed(left), *centre, *right]
            self._join_along(run, stations)
            self.paths.append(Path(run.name, run.kind, "fold", tuple(stations)))
            return
        if run.centre is not None:
            raise DomainError(f"run “{run.name}” does not lie across the fold: it has no centre")
        if not run.items:
            raise DomainError(f"run “{run.name}” is empty: put a part into it or delete it")
        sides: tuple[Where, ...] = ("right", "left")
        if run.lies != "paired":
            sides = ("fold",) if run.lies == "fold" else ("whole",)
        for side in sides:
            stations = self._side(run, side)
            self._join_along(run, stations)
            self.paths.append(Path(run.name, run.kind, side, tuple(stations)))

    def _side(self, run: Run, side: Where) -> list[Station]:
        stations: list[Station] = []
        for number, item in enumerate(flattened(run.items), 1):
            stations += self._stations(run, side, number, item)
        return stations

    def _stations(self, run: Run, side: Where, number: int, item: Item) -> list[Station]:
        lay = _LAID_BY.get(item.kind)
        if lay is None:
            raise DomainError(f"run “{run.name}”: a repeat cannot lie on the fold")
        at = (run.name, side, number)
        stations = self.placed[at] = lay(self, item, at)
        return stations

    def thing(self, ref: str, kinds: type | tuple[type, ...], where: At | str) -> Any:
        thing = self.things.get(ref)
        if thing is None:
            raise DomainError(f"{_words(where)} uses “{ref}”, which is not among its parts")
        if not isinstance(thing, kinds):
            raise DomainError(
                f"{_words(where)}: “{ref}” is a {thing.kind}, which cannot stand here"
            )
        return thing

    def add(
        self,
        at: At,
        number: int,
        ref: str,
        kind: str,
        links: int = 0,
        made_in: str | None = None,
        strung: StrungItem | None = None,
    ) -> int:
        run, side, item = at
        key = (run, side, kind)
        ordinal = self._ordinals[key] = self._ordinals[key] + 1
        index = len(self.members)
        values = (index, run, side, item, number, ordinal, ref, kind, links, made_in, strung)
        self.members.append(_bare(Member, values))
        return index

    def _chain(self, item: ChainItem, at: At) -> list[Station]:
        chain = self.thing(item.part, Chain, at)
        index = self.add(at, 1, item.part, "chain", links=item.links)
        span = chain_length_mm(chain, item.links)
        return [Station((index,), 1, item.links, span)]

    def _rings(self, item: RingItem, at: At) -> list[Station]:
        ring = self.thing(item.part, Ring, at)
        inner, part, add = ring.inner_mm, item.part, self.add
        return [
            _bare(
                Station,
                (
                    tuple([add(at, number, part, "ring") for _ in range(item.abreast)]),
                    "ring",
                    "ring",
                    inner,
                ),
            )
            for number in range(1, item.count + 1)
        ]

    def _unit(self, item: UnitItem, at: At) -> list[Station]:
        unit = self.thing(item.unit, (BeadLink, Dangle, Tassel, Cluster), at)
        self._refuse_bad_unit(unit, at)
        if isinstance(unit, Cluster):
            return self._cluster(unit, at)
        index = self.add(at, 1, item.unit, unit.kind)
        if isinstance(unit, Tassel):
            return [Station((index,), "loop", "foot", tassel_span_mm(unit, self.things))]
        span = unit_span_mm(unit, self.things)
        if isinstance(unit, Dangle):
            return [Station((index,), "loop", "foot", span)]
        if unit.mid is not None:
            ring = self.add(at, 2, unit.mid, "ring", made_in=unit.id)
            self.joints.append(Joint(index, "mid", ring, "ring", False))
        return [Station((index,), "a", "b", span)]

    def _refuse_bad_unit(self, unit: Any, at: At) -> None:
        within = f"{_words(at)}, unit “{unit.name}”"
        if isinstance(unit, Cluster):
            self.thing(unit.carrier, Chain if unit.links else Ring, within)
            for ref in unit.hangs:
                self.thing(ref, (Dangle, Tassel, Charm), within)
        elif isinstance(unit, Tassel):
            self.thing(unit.thread, Wire, within)
            self.thing(unit.ring, Ring, within)
        else:
            for ref in unit.stack:
                self.thing(ref, (Bead, End, Ring), within)
            self.thing(unit.wire, (Wire, Pin), within)
            if isinstance(unit, BeadLink) and unit.mid:
                self.thing(unit.mid, Ring, within)

    def _cluster(self, unit: Cluster, at: At) -> list[Station]:
        """The carrier as a member, and everything on it hung from its ring or its links."""
        carrier = self.things[unit.carrier]
        if isinstance(carrier, Chain):
            index = self.add(at, 1, carrier.id, "chain", links=unit.links, made_in=unit.id)
            span, ports = chain_length_mm(carrier, unit.links), tuple(range(1, unit.links + 1))
            station = Station((index,), 1, unit.links, span)
        else:
            index = self.add(at, 1, carrier.id, "ring", made_in=unit.id)
            station, ports = Station((index,), "ring", "ring", carrier.inner_mm), (0,)
        for port in ports:
            for k, ref in enumerate(unit.hangs):
                kind = self.things[ref].kind
                hung = self.add(at, 2 + k, ref, kind, made_in=unit.id)
                self.joints.append(Joint(index, port or "ring", hung, "loop", False))
        return [station]

    def _connector(self, item: ConnectorItem, at: At) -> list[Station]:
        connector = self.thing(item.part, Connector, at)
        for hole in (item.hole_in, item.hole_out):
            require_hole(connector, hole, _words(at))
        index = self.add(at, 1, item.part, "connector")
        span = connector_span_mm(connector, item.hole_in, item.hole_out)
        return [Station((index,), item.hole_in, item.hole_out, span)]

    def _strung(self, item: StrungItem, at: At) -> list[Station]:
        self.thing(item.thread, Wire, at)
        beads = strung_beads(item)
        if not beads:
            raise DomainError(f"{_words(at)}: nothing is strung; name the beads of its pattern")
        lengths = [self._strung_length(ref, at) for ref in beads]
        total = None if None in lengths else sum(x for x in lengths if x is not None)
        if item.end is not None and total is not None:
            adds = self.thing(item.end, End, at).adds_mm
            total = None if adds is None else total + 2 * adds
        index = self.add(at, 1, item.thread, "strung", links=len(beads), strung=item)
        return [Station((index,), 1, len(beads), total)]

    def _strung_length(self, ref: str, at: At) -> float | None:
        thing = self.thing(ref, (Bead, End, Ring, Cluster), at)
        if isinstance(thing, Cluster):
            self._refuse_bad_unit(thing, at)
            self.thing(thing.carrier, Ring, at)
        return on_wire_mm(thing, self.things)

    def _part(self, item: PartItem, at: At) -> list[Station]:
        thing = self.thing(item.part, (Charm, Clasp, EarFinding, End, Bead, Connector), at)
        index = self.add(at, 1, item.part, thing.kind)
        if isinstance(thing, Charm):
            return [Station((index,), "loop", "foot", thing.height_mm)]
        if isinstance(thing, Clasp):
            return [Station((index,), "eye", "bite", thing.span_mm)]
        if isinstance(thing, EarFinding):
            return [Station((index,), "lobe", "loop", thing.below_mm)]
        if isinstance(thing, End):
            return [Station((index,), "loop", "loop", thing.adds_mm)]
        raise DomainError(
            f"{_words(at)}: “{thing.name}” is a {thing.kind}; put it on wire as a unit, or give "
            "its holes as a connector item"
        )

    def join(self, one: Station, other: Station, where: str) -> None:
        if "foot" in (one.port_out, other.port_in):
            foot = one if one.port_out == "foot" else other
            name = self.things[self.members[foot.members[0]].ref].name
            raise DomainError(f"{where}: nothing can follow “{name}”, which hangs free")
        out, into = one.port_out, other.port_in
        self.joints += [
            _bare(Joint, (a, out, b, into, True)) for a in one.members for b in other.members
        ]

    def _join_along(self, run: Run, stations: Sequence[Station]) -> None:
        where = f"run “{run.name}”"
        for one, other in pairwise(stations):
            self.join(one, other, where)


def _words(where: At | str) -> str:
    """Where something stands, for a message."""
    if isinstance(where, str):
        return where
    run, _, number = where
    return f"run “{run}”, " + (f"item {number}" if number else "centre")


_LAID_BY: dict[str, Callable[[Layer, Any, At], list[Station]]] = {
    "chain": Layer._chain,
    "rings": Layer._rings,
    "unit": Layer._unit,
    "connector": Layer._connector,
    "strung": Layer._strung,
    "part": Layer._part,
}


def require_hole(connector: Connector, name: str, where: str) -> None:
    """Raise DomainError unless the connector has that hole."""
    if hole_of(connector, name) is None:
        known = ", ".join(hole.name for hole in connector.holes)
        raise DomainError(f"{where}: “{connector.name}” has no hole “{name}”; it has {known}")


def turned(station: Station) -> Station:
    return Station(station.members, station.port_out, station.port_in, station.span_mm)


def _reversed(stations: Iterable[Station]) -> list[Station]:
    return [turned(station) for station in reversed(list(stations))]


def strung_beads(item: StrungItem) -> tuple[str, ...]:
    """What lies on the thread, in order."""
    return (*item.lead, *item.pattern * item.times, *item.tail)
