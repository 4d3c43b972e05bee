"""Masses of the members of an assembly, g; and how they balance left and right."""

from collections.abc import Mapping

from maglia.core.assembly.assembly import Assembly, Member, Path, Station
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.ports import Port, stops_of
from maglia.core.parts.parts import Chain, Connector, Part, Wire, hole_of, link_mass_g, part_mass_g
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Tassel,
    Thing,
    hung_in_all,
    unit_mass_g,
    wire_mass_g,
    wire_needed_mm,
)
from maglia.core.piece.items import StrungItem
from maglia.core.piece.needed import made_of
from maglia.core.piece.strung import thread_along_mm
from maglia.core.sheets.lengths import link_lengths, reach_mm, wound_mm
from maglia.core.values.record import Value
from maglia.core.values.references import things_named


class Balance(Value, frozen=True):
    """Total mass and what weighs on each side; what lies on the fold counts half to each, g."""

    total_g: float
    left_g: float
    right_g: float
    unknown: tuple[str, ...]
    """Ids of what the mass of is not known: then the figures are of what is known."""

    @property
    def sure(self) -> str:
        """What is said before a mass that is not known whole."""
        return "at least " if self.unknown else ""


def masses_g(assembly: Assembly) -> tuple[float, ...]:
    """Mass of every member in order, as far as its parts' are known. Mid rings count apart."""
    cache: dict[tuple[object, ...], float] = {}
    found = []
    for member in assembly.members:
        key = (member.ref, member.links, member.strung, member.wound)
        if key not in cache:
            cache[key] = _member_mass(assembly, member)
        found.append(cache[key])
    return tuple(found)


def _member_mass(assembly: Assembly, member: Member) -> float:
    thing = assembly.thing(member)
    if isinstance(thing, Chain):
        return member.links * (link_mass_g(thing) or 0.0)
    if member.strung is not None:
        return _strung_mass(assembly, member.strung, thing)
    mass = _mass(assembly, member.ref)
    if member.wound is not None:
        wire, bead = assembly.things[member.wound.wire], member.wound.bead
        worn = wound_mm(assembly, member, worn=True)
        own = wire_mass_g(wire, worn) if isinstance(wire, Wire) else None
        beads = member.wound.beads * _mass(assembly, bead) if bead is not None else 0.0
        return mass + (own or 0.0) + beads
    mid = thing.mid if isinstance(thing, BeadLink) else None
    return mass if mid is None else mass - _mass(assembly, mid)


def _mass(assembly: Assembly, ref: str) -> float:
    thing = assembly.things[ref]
    if isinstance(thing, Cluster):
        hung = hung_in_all(thing)
        rings = (thing.by,) * len(hung) if thing.by is not None else ()
        return sum(_mass(assembly, r) for r in (thing.carrier, *rings, *hung))
    if isinstance(thing, BeadLink | Dangle | Tassel):
        return unit_mass_g(thing, assembly.things)
    return part_mass_g(thing) or 0.0


def _strung_mass(assembly: Assembly, item: StrungItem, thread: Thing) -> float:
    refs = [*item.refs, *(end.end for end in item.ends if end.end)]
    along = thread_along_mm(item, assembly.things, assembly.rules.braid_factor)
    own = wire_mass_g(thread, along) if isinstance(thread, Wire) else None
    return sum(_mass(assembly, ref) for ref in refs) + item.strands * (own or 0.0)


def balance(assembly: Assembly) -> Balance:
    """Total and both sides. What lies round the wearer weighs on its side of the fold; a free
    strand is divided at its middle. What hangs weighs on both sides by the lever: the nearer to the
    fold it hangs, the more evenly."""
    masses, shares = masses_g(assembly), _left_shares(assembly)
    total, left = sum(masses), sum(m * share for m, share in zip(masses, shares, strict=True))
    return Balance(total, left, total - left, unweighed(assembly))


def unweighed(assembly: Assembly) -> tuple[str, ...]:
    """Ids of the parts whose mass is not known, in the order of the members."""
    refs: dict[str, None] = {}
    for member in assembly.members:
        named = things_named(member.strung) if member.strung is not None else {member.ref}
        wound = things_named(member.wound) if member.wound is not None else set()
        refs |= dict.fromkeys(sorted(named | wound))
    return tuple(t.id for t in made_of(refs, assembly.things) if not _is_weighed(t, assembly))


def _is_weighed(thing: Thing, assembly: Assembly) -> bool:
    if isinstance(thing, Chain):
        return link_mass_g(thing) is not None
    if isinstance(thing, Wire):
        return thing.wire_mm is not None
    if isinstance(thing, BeadLink | Dangle):
        return wire_needed_mm(thing, assembly.things) is not None
    return not isinstance(thing, Part) or part_mass_g(thing) is not None


_BY_SIDE = {"left": 1.0, "right": 0.0}


def _left_shares(assembly: Assembly) -> list[float]:
    """How much of each member weighs left of the fold, 0 to 1."""
    shares = [_BY_SIDE.get(member.side, 0.5) for member in assembly.members]
    for path in assembly.paths:
        if path.side == "whole" and _hung_at(assembly, path) is None:
            _share_strand(path, shares)
    hung = {k: at for k, path in enumerate(assembly.paths) if (at := _hung_at(assembly, path))}
    off = _offsets_mm(assembly, hung)
    arm = max(map(abs, off.values()), default=0.0)
    main = assembly.main
    if main is not None and _is_level(assembly, main):
        arm = max(arm, (main.length_mm or 0.0) / 2)
    for k in hung:
        share = 0.5 - (off.get(k, 0.0) / arm / 2 if arm else 0.0)
        for station in assembly.paths[k].stations:
            for index in station.members:
                shares[index] = share
    return shares


def _share_strand(path: Path, shares: list[float]) -> None:
    half, gone = (path.length_mm or 0.0) / 2, 0.0
    for station in path.stations:
        span = station.span_mm or 0.0
        share = min(max((half - gone) / span, 0.0), 1.0) if span else float(gone < half)
        for index in station.members:
            shares[index] = share
        gone += span


def _hung_at(assembly: Assembly, path: Path) -> tuple[int, Port] | None:
    """The one member and port a path hangs from; None if it lies round the wearer, or is held at
    both its ends."""
    if path is assembly.main or path.kind in ("strand", "swag"):
        return None
    own = {i for station in path.stations for i in station.members}
    hosts = {
        (joint.a, joint.port_a)
        for index in own
        for joint in assembly.joints_of[index]
        if not joint.inline and joint.b in own and joint.a not in own
    }
    return next(iter(hosts)) if len(hosts) == 1 else None


def _offsets_mm(assembly: Assembly, hung: Mapping[int, tuple[int, Port]]) -> dict[int, float]:
    """How far right of the fold each hanging path hangs, mm, measured along what carries it."""
    along: dict[int, tuple[float, float, Station]] = {}
    for path in assembly.paths:
        if path.side in ("whole", "fold") and path.kind in ("strand", "swag"):
            level = _is_level(assembly, path)
            own = [s for s in path.stations if assembly.members[s.members[0]].run != CLOSURE]
            at = -sum(s.span_mm or 0.0 for s in own) / 2 if level else 0.0
            if own and own[0] is not path.stations[0] and level:
                at -= path.stations[0].span_mm or 0.0
            for station in path.stations:
                span = (station.span_mm or 0.0) if level else 0.0
                for index in station.members:
                    along[index] = (at, span, station)
                at += span
    carrier = {i: k for k in hung for s in assembly.paths[k].stations for i in s.members}
    found: dict[int, float] = {}

    def offset(k: int) -> float:
        if k not in found:
            found[k] = 0.0  # until it is known
            member, port = hung[k]
            base = offset(carrier[member]) if member in carrier else _at(assembly, along, member)
            found[k] = base + _within(assembly, along, member, port)
        return found[k]

    for k in hung:
        offset(k)
    return found


def _is_level(assembly: Assembly, path: Path) -> bool:
    """Whether a path leads from left to right; else it hangs down on the fold."""
    return assembly.run_of[path.run].lies in ("across", "free")


def _at(
    assembly: Assembly, along: Mapping[int, tuple[float, float, Station]], member: int
) -> float:
    """Middle of a member right of the fold, mm; what closes the piece lies in the middle behind."""
    if member not in along or assembly.members[member].run == CLOSURE:
        return 0.0
    at, span, _ = along[member]
    return at + span / 2


def _within(
    assembly: Assembly, along: Mapping[int, tuple[float, float, Station]], member: int, port: Port
) -> float:
    """How far right of a member's middle one of its ports lies, mm."""
    own, thing = assembly.members[member], assembly.things[assembly.members[member].ref]
    if isinstance(thing, Connector) and (hole := hole_of(thing, str(port))):
        return -hole.x_mm if own.side == "left" else hole.x_mm
    if member not in along or not own.links or stops_of(port) is not None:
        return 0.0
    _, _, station = along[member]
    reached = reach_mm(assembly, own, port)
    within = 0.0 if reached is None else reached - sum(link_lengths(assembly, own)) / 2
    return within if station.port_in == 1 else -within
