"""The layer: where members, joints and paths are collected while a piece is laid.

Raises DomainError naming run and item for a part that is missing or of a kind that cannot stand
there. What an item becomes is in `maglia.core.assembly.kinds`.
"""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import TypeVar, overload

from maglia.core.assembly.assembly import InWeave, Joint, Member, Path, Station, Where
from maglia.core.parts.parts import Bead, Chain, Charm, Connector, End, Pin, Ring, Wire, hole_of
from maglia.core.parts.units import Cluster, Dangle, Tassel, Thing, Unit, hung_in_all, legs_of
from maglia.core.piece.items import StrungItem, Winding
from maglia.core.values.record import DomainError

bare = tuple.__new__
"""Makes a named tuple without its Python-level constructor: thousands are made at every key."""
FREE = "free end"
"""The port of what hangs and ends there; no hole can be called so and be meant."""
At = tuple[str, Where, int]
"""Run, side and item number that a member stands at."""


Kind = TypeVar("Kind")


class Layer:
    """Members, joints and paths of a piece while they are being laid; used once."""

    def __init__(self, things: dict[str, Thing]) -> None:
        self.things = things
        self.members: list[Member] = []
        self.joints: list[Joint] = []
        self.paths: list[Path] = []
        self.placed: dict[At, list[Station]] = {}
        self.has_weaves = False
        self._ordinals: dict[tuple[str, Where, str], int] = defaultdict(int)
        self._sound: set[str] = set()

    @overload
    def thing(self, ref: str, kinds: type[Kind], where: At | str) -> Kind: ...

    @overload
    def thing(self, ref: str, kinds: tuple[type, ...], where: At | str) -> Thing: ...

    def thing(self, ref: str, kinds: type | tuple[type, ...], where: At | str) -> object:
        """The part or unit of that id, which must be of one of some kinds."""
        thing = self.things.get(ref)
        if thing is None:
            raise DomainError(f"{words_of(where)} uses “{ref}”, which is not among its parts")
        if not isinstance(thing, kinds):
            raise DomainError(
                f"{words_of(where)}: “{ref}” is a {thing.kind}, which cannot stand here"
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
        wound: Winding | None = None,
        first_phase: int = 0,
        woven: InWeave | None = None,
    ) -> int:
        run, side, item = at
        key = (run, side, kind)
        ordinal = self._ordinals[key] = self._ordinals[key] + 1
        index = len(self.members)
        values = (index, run, side, item, number, ordinal, ref, kind, links, made_in, strung, wound,
                  first_phase, woven)  # fmt: skip
        self.members.append(bare(Member, values))
        return index

    def refuse_bad_unit(self, unit: Unit, at: At) -> None:
        """Raise DomainError for a unit, or one within it, that names a part which is missing or of
        a kind it cannot be made of."""
        if unit.id in self._sound:
            return
        within = f"{words_of(at)}, unit “{unit.name}”"
        if isinstance(unit, Cluster):
            self.thing(unit.carrier, Chain if unit.links else Ring, within)
            if unit.by is not None:
                self.thing(unit.by, Ring, within)
            for ref in dict.fromkeys(hung_in_all(unit)):
                hung = self.thing(ref, (Dangle, Tassel, Charm), within)
                if isinstance(hung, Dangle | Tassel):
                    self.refuse_bad_unit(hung, at)
        elif isinstance(unit, Tassel):
            self.thing(unit.thread, Wire, within)
            self.thing(unit.ring, Ring, within)
            if unit.halo is not None:
                self.thing(unit.halo, Bead, within)
        else:
            for ref in (*unit.stack, *legs_of(unit)):
                self.thing(ref, (Bead, End, Ring), within)
            self.thing(unit.wire, (Wire, Pin), within)
            if not isinstance(unit, Dangle) and unit.mid:
                self.thing(unit.mid, Ring, within)
        self._sound.add(unit.id)

    def join(self, one: Station, other: Station, where: str) -> None:
        if FREE in (one.port_out, other.port_in):
            foot = one if one.port_out == FREE else other
            name = self.things[self.members[foot.members[0]].ref].name
            raise DomainError(f"{where}: nothing can follow “{name}”, which hangs free")
        out, into = one.port_out, other.port_in
        if self.has_weaves and self._of_one_weave(one, other):
            return
        self.joints += [
            bare(Joint, (a, out, b, into, True)) for a in one.members for b in other.members
        ]

    def _of_one_weave(self, one: Station, other: Station) -> bool:
        """Whether two steps are places of one weave, which joins its own rings."""
        a, b = (self.members[station.members[0]].woven for station in (one, other))
        return a is not None and b is not None and a.weave == b.weave

    def join_along(self, run: str, stations: Sequence[Station]) -> None:
        where = f"run “{run}”"
        for one, other in pairwise(stations):
            self.join(one, other, where)


def words_of(where: At | str) -> str:
    """Where something stands, for a message."""
    if isinstance(where, str):
        return where
    run, _, number = where
    return f"run “{run}”, " + (f"item {number}" if number else "centre")


def require_hole(connector: Connector, name: str, where: str) -> None:
    """Raise DomainError unless the connector has that hole."""
    if hole_of(connector, name) is None:
        known = ", ".join(hole.name for hole in connector.holes)
        raise DomainError(f"{where}: “{connector.name}” has no hole “{name}”; it has {known}")


def turned(station: Station) -> Station:
    return Station(station.members, station.port_out, station.port_in, station.span_mm)


def reversed_stations(stations: Iterable[Station]) -> list[Station]:
    return [turned(station) for station in reversed(list(stations))]
