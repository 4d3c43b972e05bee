"""Masses of the members of an assembly, g; and how they balance left and right."""

from maglia.core.assembly.assembly import Assembly, Member, Path
from maglia.core.parts.parts import Bead, Chain, Wire, link_mass_g, part_mass_g
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Tassel,
    Thing,
    unit_mass_g,
    wire_mass_g,
)
from maglia.core.piece.piece import StrungItem
from maglia.core.values.record import Value


class Balance(Value, frozen=True):
    """Total mass and that of each side; what lies on the fold counts half to each, g."""

    total_g: float
    left_g: float
    right_g: float
    unknown: tuple[str, ...]
    """Ids of parts whose mass cannot be known."""


def masses_g(assembly: Assembly) -> tuple[float | None, ...]:
    """Mass of every member in order; None where it cannot be known. Mid rings count apart."""
    cache: dict[tuple[object, ...], float | None] = {}
    found = []
    for member in assembly.members:
        key = (member.ref, member.links, member.strung)
        if key not in cache:
            cache[key] = _member_mass(assembly, member)
        found.append(cache[key])
    return tuple(found)


def _member_mass(assembly: Assembly, member: Member) -> float | None:
    thing = assembly.thing(member)
    if isinstance(thing, Chain):
        one = link_mass_g(thing)
        return None if one is None else one * member.links
    if member.strung is not None:
        return _strung_mass(assembly, member.strung, thing)
    mass = _mass(assembly, member.ref)
    mid = thing.mid if isinstance(thing, BeadLink) else None
    return mass if mass is None or mid is None else mass - (_mass(assembly, mid) or 0.0)


def _mass(assembly: Assembly, ref: str) -> float | None:
    thing = assembly.things[ref]
    if isinstance(thing, Cluster):
        masses = [_mass(assembly, r) for r in (thing.carrier, *thing.hangs)]
        return None if None in masses else sum(m for m in masses if m)
    if isinstance(thing, BeadLink | Dangle | Tassel):
        return unit_mass_g(thing, assembly.things)
    return part_mass_g(thing)


def _strung_mass(assembly: Assembly, item: StrungItem, thread: Thing) -> float | None:
    refs = [*item.beads, *((item.end, item.end) if item.end else ())]
    each = {ref: _mass(assembly, ref) for ref in set(refs)}
    if None in each.values():
        return None
    things = assembly.things
    along = sum(t.length_mm or 0.0 for r in refs if isinstance(t := things[r], Bead))
    own = wire_mass_g(thread, along) if isinstance(thread, Wire) else None
    return sum(each[ref] or 0.0 for ref in refs) + item.strands * (own or 0.0)


def balance(assembly: Assembly) -> Balance:
    """Total and both sides. A stretch across the fold is divided at the fold; a free strand at its
    middle, and what hangs free weighs on the side of its place."""
    total = left = 0.0
    unknown: dict[str, None] = {}
    shares = _left_shares(assembly)
    for member, mass in zip(assembly.members, masses_g(assembly), strict=True):
        if mass is None:
            unknown[member.ref] = None
            continue
        total += mass
        left += mass * shares[member.id]
    return Balance(total, left, total - left, tuple(unknown))


_BY_SIDE = {"left": 1.0, "right": 0.0}


def _left_shares(assembly: Assembly) -> list[float]:
    """How much of each member lies left of the fold, 0 to 1."""
    shares = [_BY_SIDE.get(member.side, 0.5) for member in assembly.members]
    for path in assembly.paths:
        if path.side != "whole":
            continue
        run = assembly.run_of[path.run]
        place = run.start or run.end
        if place is None:
            _share_strand(path, shares)
            continue
        share = _BY_SIDE.get(place.side or "", _host_share(assembly, path, shares))
        for station in path.stations:
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


def _host_share(assembly: Assembly, path: Path, shares: list[float]) -> float:
    """The share of what a run hangs from."""
    first = path.stations[0].members[0]
    joints = (j for j in assembly.joints_of[first] if not j.inline and j.b == first)
    host = next(joints, None)
    if host is None or path.kind == "extender":
        return 0.5
    return shares[host.a]
