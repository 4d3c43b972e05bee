"""What a piece takes: every part counted, rings by size, wire by unit, thread with its tails."""

import math
from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field

from maglia.core.assembly.assembly import Assembly, Member, Path
from maglia.core.parts.parts import Bead, Chain, Charm, End, Pin, Wire, chain_length_mm
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Loop,
    Tassel,
    Thing,
    hung_in_all,
    legs_of,
    tassel_thread_mm,
    wire_needed_mm,
)
from maglia.core.piece.items import StrungEnd, StrungItem
from maglia.core.piece.piece import Piece
from maglia.core.piece.strung import thread_along_mm
from maglia.core.sheets.lengths import wound_mm
from maglia.core.values.record import Value


class Counted(Value, frozen=True):
    """How many of one part or unit. Chain counts links, wire and thread count millimetres."""

    id: str
    name: str
    kind: str
    letter: str
    count: int
    length_mm: float | None = None
    left_over: int | None = None
    """Beads over from the strands that are bought, if it is known how many are on one."""


class WireNeed(Value, frozen=True):
    """Wire or pins for one kind of unit: for one, and for all of them, mm."""

    unit: str
    name: str
    wire: str
    each_mm: float | None
    count: int
    total_mm: float | None


def copies_of(piece: Piece) -> int:
    """How often a piece is made: a pair of earrings twice."""
    return 2 if piece.pair else 1


def unit_counts(assembly: Assembly) -> Counter[str]:
    """How many of each unit are made, clusters and the units within them included."""
    found: Counter[str] = Counter()
    for member, number in assembly.tally:
        thing = assembly.thing(member)
        if isinstance(thing, BeadLink | Dangle | Tassel):
            found[member.ref] += number
        made_in = assembly.things.get(member.made_in) if member.made_in else None
        if isinstance(made_in, Cluster) and member.number == 1:
            found[made_in.id] += number
        for ref in member.strung.refs if member.strung is not None else ():
            _add_within(assembly, ref, found, number)
    return found


def _add_within(assembly: Assembly, ref: str, found: Counter[str], times: int) -> None:
    thing = assembly.things[ref]
    if isinstance(thing, Cluster):
        found[ref] += times
        for hung in hung_in_all(thing):
            _add_within(assembly, hung, found, times)
    elif isinstance(thing, Dangle | Tassel):
        found[ref] += times


def _hung_on_thread(assembly: Assembly, item: StrungItem) -> Iterator[str]:
    """Charms and rings of the clusters that lie on a thread: they are no units and no members."""
    things = assembly.things
    for ref in item.refs:
        thing = things[ref]
        if isinstance(thing, Cluster):
            hung = hung_in_all(thing)
            yield from (one for one in hung if isinstance(things[one], Charm))
            yield from (thing.by,) * len(hung) if thing.by is not None else ()


@dataclass
class _Sums:
    """Parts by number, chain in links; and lengths of chain, wire and thread, mm."""

    pieces: Counter[str] = field(default_factory=Counter)
    lengths: dict[str, float] = field(default_factory=lambda: defaultdict(float))


def counts(assembly: Assembly, copies: int = 1) -> tuple[Counted, ...]:
    """Every part and unit with how many the piece takes (an earring pair counts for both).

    Parts inside units are counted too: beads, pins, mid rings. Wire and thread by length.
    """
    times, sums = copies * copies_of(assembly.piece), _Sums()
    for member, number in assembly.tally:
        _count_member(assembly, member, number, sums)
    units = unit_counts(assembly)
    for ref, number in units.items():
        _count_unit(assembly, assembly.things[ref], number, sums)
    sums.pieces += units
    for ref, length in threads_mm(assembly).items():
        sums.lengths[ref] += length
    return tuple(
        Counted(
            ref,
            assembly.things[ref].name,
            assembly.things[ref].kind,
            assembly.letters.get(ref, ""),
            sums.pieces[ref] * times,
            sums.lengths[ref] * times if ref in sums.lengths else None,
            _left_over(assembly.things[ref], sums.pieces[ref] * times),
        )
        for ref in (thing.id for thing in (*assembly.piece.units, *assembly.piece.parts))
        if sums.pieces[ref] or ref in sums.lengths
    )


def _left_over(thing: Thing, count: int) -> int | None:
    """Beads over from whole bought strands."""
    if not isinstance(thing, Bead) or thing.on_strand is None or not count:
        return None
    return -count % thing.on_strand


def _count_member(assembly: Assembly, member: Member, number: int, sums: _Sums) -> None:
    thing = assembly.thing(member)
    if isinstance(thing, Chain):
        sums.pieces[thing.id] += number * member.links
        sums.lengths[thing.id] += number * (
            chain_length_mm(thing, member.links, member.first_phase + 1) or 0.0
        )
    elif member.strung is not None:
        _count_strung(assembly, member.strung, number, sums)
    elif not isinstance(thing, BeadLink | Dangle | Tassel):
        if member.wound is not None:
            sums.lengths[member.wound.wire] += number * wound_mm(assembly, member)
            if member.wound.bead is not None:
                sums.pieces[member.wound.bead] += number * member.wound.beads
        mid = assembly.things.get(member.made_in) if member.made_in else None
        if not isinstance(mid, BeadLink):  # a mid ring is counted with its unit
            sums.pieces[thing.id] += number


def threads_mm(assembly: Assembly) -> dict[str, float]:
    """Thread by its id, mm: strands × (length + tail of each end) of every thread. Sections that
    follow each other, through the holes of a connector too, are on one thread unless an end finding
    stands between them."""
    total: dict[str, float] = defaultdict(float)
    for path in assembly.paths:
        for ref, length in _threads_of(assembly, path):
            total[ref] += length
    return dict(total)


def threads_cut(assembly: Assembly) -> tuple[tuple[str, float, int], ...]:
    """Every thread that is cut: its id, its length for all its strands, mm, and how many alike."""
    found: Counter[tuple[str, float]] = Counter()
    for path in assembly.paths:
        for ref, length in _threads_of(assembly, path):
            found[ref, round(length, 3)] += 1
    return tuple((ref, length, number) for (ref, length), number in found.items())


def _threads_of(assembly: Assembly, path: Path) -> Iterator[tuple[str, float]]:
    """Each thread of a path with its length, from one end finding or knot to the next."""
    stations = [s for s in path.stations if assembly.members[s.members[0]].run == path.run]
    begun: StrungItem | None = None
    last = StrungEnd()
    length, through = 0.0, 0.0
    for station in stations:
        member = assembly.members[station.members[0]]
        item = member.strung
        if item is None:
            if member.kind == "connector":
                through += station.span_mm or 0.0
                continue
            if begun is not None:
                yield begun.thread, length + begun.strands * _tail_mm(assembly, begun, last)
            begun, through = None, 0.0
            continue
        first, after = item.ends if station.port_in == 1 else item.ends[::-1]
        goes_on = (
            begun is not None
            and (begun.thread, begun.strands) == (item.thread, item.strands)
            and last.end is None
            and first.end is None
        )
        if begun is not None and not goes_on:
            yield begun.thread, length + begun.strands * _tail_mm(assembly, begun, last)
        if not goes_on:
            length, through = item.strands * _tail_mm(assembly, item, first), 0.0
        along = thread_along_mm(item, assembly.things, assembly.rules.braid_factor)
        length += item.strands * (through + along)
        begun, through, last = item, 0.0, after
    if begun is not None:
        yield begun.thread, length + begun.strands * _tail_mm(assembly, begun, last)


IN_CLAMP = 2 / 3
"""Of a clamp's length, how far what is flat reaches into it; the rest is its fold and its loop."""


def _tail_mm(assembly: Assembly, item: StrungItem, way: StrungEnd) -> float:
    """What one end of a thread needs beyond its beads: of what is flat what lies in its clamp, of
    cord none in a clamp or cord end, or glued into what holds it; memory coil is turned into a
    loop."""
    thread, end = assembly.things[item.thread], assembly.things.get(way.end or "")
    if isinstance(thread, Wire) and thread.sort == "memory coil":
        return math.pi * (Loop().inner_mm + (thread.wire_mm or 0.0))
    held = isinstance(end, End) and end.sort in ("cord end", "clamp")
    flat = isinstance(thread, Wire) and thread.width_mm is not None
    if flat and isinstance(end, End) and end.sort == "clamp":
        return IN_CLAMP * (end.adds_mm or 0.0)
    if held or way.finish in ("glued", "goes on"):
        return 0.0
    rules = assembly.rules
    if way.finish == "slip knot":
        return rules.slip_tail_mm
    crimped = way.finish in ("crimped", "folded")
    return rules.crimp_tail_mm if crimped else rules.knot_tail_mm


def _count_strung(assembly: Assembly, item: StrungItem, number: int, sums: _Sums) -> None:
    for ref in item.refs:
        thing = assembly.things[ref]
        sums.pieces[thing.carrier if isinstance(thing, Cluster) else ref] += number
    for ref in _hung_on_thread(assembly, item):
        sums.pieces[ref] += number
    for way in item.ends:
        if way.end is not None:
            sums.pieces[way.end] += number


def _count_unit(assembly: Assembly, unit: Thing, number: int, sums: _Sums) -> None:
    if isinstance(unit, Tassel):
        sums.pieces[unit.ring] += number
        if unit.halo is not None:
            sums.pieces[unit.halo] += number * unit.halo_count
        sums.lengths[unit.thread] += number * tassel_thread_mm(unit, assembly.rules)
    elif isinstance(unit, BeadLink | Dangle):
        for ref in (*unit.stack, *legs_of(unit) * 2):
            sums.pieces[ref] += number
        if isinstance(unit, BeadLink) and unit.mid:
            sums.pieces[unit.mid] += number
        if isinstance(assembly.things[unit.wire], Pin):
            sums.pieces[unit.wire] += number
        else:
            sums.lengths[unit.wire] += number * (_wire_each(assembly, unit) or 0.0)


def _wire_each(assembly: Assembly, unit: BeadLink | Dangle) -> float | None:
    spool = assembly.piece.wire_from == "spool"
    return wire_needed_mm(unit, assembly.things, assembly.rules, from_spool=spool)


def wire_needs(assembly: Assembly, copies: int = 1) -> tuple[WireNeed, ...]:
    """Wire to cut for every kind of unit on wire, and the pin length for those on pins."""
    times, found = copies * copies_of(assembly.piece), []
    for ref, number in unit_counts(assembly).items():
        unit = assembly.things[ref]
        if isinstance(unit, BeadLink | Dangle):
            each = _wire_each(assembly, unit)
            total = None if each is None else each * number * times
            found.append(WireNeed(ref, unit.name, unit.wire, each, number * times, total))
    return tuple(found)
