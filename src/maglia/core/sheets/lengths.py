"""Lengths read off an assembly: of every run, closed round the wearer, and worn."""

from maglia.core.assembly.assembly import Assembly, Member, Path
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    End,
    Ring,
    chain_length_mm,
)
from maglia.core.parts.units import BeadLink, Dangle, Tassel, Things, on_wire_mm
from maglia.core.values.record import Value


class RunLength(Value, frozen=True):
    """One run: the length of one copy, mm (None if a size is unknown), and its links in all."""

    name: str
    kind: str
    lies: str
    copies: int
    length_mm: float | None
    links: int


def run_lengths(assembly: Assembly) -> tuple[RunLength, ...]:
    """Every run in order. The main strand counts without clasp and catch: see closed_length_mm."""
    links: dict[str, int] = {}
    for member in assembly.members:
        if member.kind == "chain":
            links[member.run] = links.get(member.run, 0) + member.links
    paths: dict[str, list[Path]] = {}
    for path in assembly.paths:
        paths.setdefault(path.run, []).append(path)
    return tuple(
        RunLength(
            run.name,
            run.kind,
            run.lies,
            len(paths[run.name]),
            _own_length(assembly, paths[run.name][0]),
            links.get(run.name, 0),
        )
        for run in assembly.runs
    )


def _own_length(assembly: Assembly, path: Path) -> float | None:
    spans = [s.span_mm for s in path.stations if assembly.members[s.members[0]].run == path.run]
    return None if None in spans else sum(x for x in spans if x is not None)


def closed_length_mm(assembly: Assembly) -> float | None:
    """Sum of spans once round the main strand, clasp done up; None if it is open or unknown."""
    return assembly.main.length_mm if assembly.main and assembly.main.closed else None


def worn_lengths_mm(assembly: Assembly) -> tuple[tuple[str, float], ...]:
    """Closed length at every place where the clasp can be hooked: the catch, then each extender
    link or ring from it outward."""
    base = closed_length_mm(assembly)
    if base is None:
        return ()
    found = [("catch", base)]
    for path in (p for p in assembly.paths if p.kind == "extender"):
        length = base
        for station in path.stations:
            member = assembly.members[station.members[0]]
            thing = assembly.thing(member)
            if isinstance(thing, Chain) and thing.pitches_mm:
                for link in range(1, member.links + 1):
                    reach = length + (chain_length_mm(thing, link) or 0.0)
                    found.append((f"{path.run} link {link}", reach))
            if station.span_mm is None:
                return tuple(found)
            length += station.span_mm
            if isinstance(thing, Ring):
                found.append((f"{path.run} ring {member.ordinal}", length))
    return tuple(found)


def thickness_mm(assembly: Assembly) -> float:
    """Prevailing thickness of the main strand as it lies on the body, mm: that of the parts which
    make up most of its length. Clasp and rings lie flat and count by their wire."""
    shares: dict[float, float] = {}
    for station in assembly.main.stations if assembly.main else ():
        member = assembly.members[station.members[0]]
        thing = assembly.thing(member)
        if isinstance(thing, Ring):
            thick = thing.wire_mm or 0.0
        else:
            thick = 0.0 if isinstance(thing, Clasp) else member_width_mm(assembly, member)
        shares[thick] = shares.get(thick, 0.0) + (station.span_mm or 0.0)
    return max(shares, key=lambda thick: (shares[thick], thick), default=0.0)


def member_width_mm(assembly: Assembly, member: Member) -> float:
    """Widest size of a member across its line, mm; 0 where unknown."""
    thing, things = assembly.thing(member), assembly.things
    if isinstance(thing, Chain):
        return (thing.inner_width_mm or 0.0) + 2 * (thing.wire_mm or 0.0)
    if isinstance(thing, Ring):
        return (thing.inner_width_mm or thing.inner_mm or 0.0) + 2 * (thing.wire_mm or 0.0)
    if member.strung is not None:
        return max(_bead_width(things, ref) for ref in dict.fromkeys(member.strung.beads))
    if isinstance(thing, BeadLink | Dangle):
        return max((_bead_width(things, ref) for ref in thing.stack), default=0.0)
    if isinstance(thing, Tassel):
        return thing.neck_mm
    if isinstance(thing, Bead | End | Connector | Clasp | Charm):
        return thing.width_mm or 0.0
    return 0.0


def _bead_width(things: Things, ref: str) -> float:
    bead = things.get(ref)
    return (bead.width_mm or 0.0) if isinstance(bead, Bead) else 0.0


LEAST_LINK_MM = 1e-3
"""What a link of unknown pitch is drawn and hung with; a check says that it is unknown."""
LEAST_BEAD_MM = 0.1
"""The same for a bead, and for what takes no room on its thread."""


def link_lengths(assembly: Assembly, member: Member) -> list[float]:
    """Length of every link or strung bead of a member, in order, mm; ends in the outer ones."""
    thing, item = assembly.thing(member), member.strung
    if item is None:
        pitches = (thing.pitches_mm if isinstance(thing, Chain) else None) or (LEAST_LINK_MM,)
        return [pitches[k % len(pitches)] for k in range(member.links)]
    each = {ref: on_wire_mm(assembly.things[ref], assembly.things) for ref in set(item.beads)}
    lengths = [each[ref] or LEAST_BEAD_MM for ref in item.beads]
    end = assembly.things.get(item.end or "")
    if isinstance(end, End):
        lengths[0] += end.adds_mm or 0.0
        lengths[-1] += end.adds_mm or 0.0
    return lengths
