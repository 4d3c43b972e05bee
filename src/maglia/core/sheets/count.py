"""What a piece takes: every part counted, rings by size, wire by unit, thread with its tails."""

from collections import Counter, defaultdict
from dataclasses import dataclass, field

from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.parts.parts import Chain, Pin, Ring, chain_length_mm
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Tassel,
    Thing,
    stack_mm,
    tassel_thread_mm,
    wire_needed_mm,
)
from maglia.core.piece.piece import Piece, StrungItem
from maglia.core.values.record import Value

KNOT_TAIL_MM = 75.0
CRIMP_TAIL_MM = 25.0


class Counted(Value, frozen=True):
    """How many of one part or unit. Chain counts links, wire and thread count millimetres."""

    id: str
    name: str
    kind: str
    letter: str
    count: int
    length_mm: float | None = None


class WireNeed(Value, frozen=True):
    """Wire or pins for one kind of unit: for one, and for all of them, mm."""

    unit: str
    name: str
    wire: str
    each_mm: float | None
    count: int
    total_mm: float | None


class Rings(Value, frozen=True):
    """Rings of one size and how they are readied: opened beforehand, left closed."""

    id: str
    name: str
    letter: str
    count: int
    to_open: int
    leave_closed: int


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
        if isinstance(made_in, Cluster) and made_in.carrier == member.ref:
            found[made_in.id] += number
        for ref in member.strung.beads if member.strung is not None else ():
            _add_within(assembly, ref, found, number)
    return found


def _add_within(assembly: Assembly, ref: str, found: Counter[str], times: int) -> None:
    thing = assembly.things[ref]
    if isinstance(thing, Cluster):
        found[ref] += times
        for hung in thing.hangs:
            _add_within(assembly, hung, found, times)
    elif isinstance(thing, Dangle | Tassel):
        found[ref] += times


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
    return tuple(
        Counted(
            ref,
            assembly.things[ref].name,
            assembly.things[ref].kind,
            assembly.letters.get(ref, ""),
            sums.pieces[ref] * times,
            sums.lengths[ref] * times if ref in sums.lengths else None,
        )
        for ref in (thing.id for thing in (*assembly.piece.units, *assembly.piece.parts))
        if sums.pieces[ref] or ref in sums.lengths
    )


def _count_member(assembly: Assembly, member: Member, number: int, sums: _Sums) -> None:
    thing = assembly.thing(member)
    if isinstance(thing, Chain):
        sums.pieces[thing.id] += number * member.links
        sums.lengths[thing.id] += number * (chain_length_mm(thing, member.links) or 0.0)
    elif member.strung is not None:
        _count_strung(assembly, member.strung, number, sums)
    elif not isinstance(thing, BeadLink | Dangle | Tassel):
        mid = assembly.things.get(member.made_in) if member.made_in else None
        if not isinstance(mid, BeadLink):  # a mid ring is counted with its unit
            sums.pieces[thing.id] += number


def thread_mm(assembly: Assembly, item: StrungItem) -> float | None:
    """Thread for one strung section: its beads × strands + a tail for each crimp or knot."""
    beads = [ref for ref in item.beads if not isinstance(assembly.things[ref], Cluster)]
    length = stack_mm(tuple(beads), assembly.things)
    tail = CRIMP_TAIL_MM if item.finish == "crimped" else KNOT_TAIL_MM
    return None if length is None else length * item.strands + 2 * tail


def _count_strung(assembly: Assembly, item: StrungItem, number: int, sums: _Sums) -> None:
    for ref in item.beads:
        thing = assembly.things[ref]
        sums.pieces[thing.carrier if isinstance(thing, Cluster) else ref] += number
    if item.end is not None:
        sums.pieces[item.end] += 2 * number
    sums.lengths[item.thread] += number * (thread_mm(assembly, item) or 0.0)


def _count_unit(assembly: Assembly, unit: Thing, number: int, sums: _Sums) -> None:
    if isinstance(unit, Tassel):
        sums.pieces[unit.ring] += number
        sums.lengths[unit.thread] += number * tassel_thread_mm(unit)
    elif isinstance(unit, BeadLink | Dangle):
        for ref in unit.stack:
            sums.pieces[ref] += number
        if isinstance(unit, BeadLink) and unit.mid:
            sums.pieces[unit.mid] += number
        if isinstance(assembly.things[unit.wire], Pin):
            sums.pieces[unit.wire] += number
        else:
            sums.lengths[unit.wire] += number * (_wire_each(assembly, unit) or 0.0)


def _wire_each(assembly: Assembly, unit: BeadLink | Dangle) -> float | None:
    spool = assembly.piece.wire_from == "spool"
    return wire_needed_mm(unit, assembly.things, from_spool=spool)


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


def rings(assembly: Assembly, copies: int = 1) -> tuple[Rings, ...]:
    """Rings by size. A ring bought closed stays closed; of two open rings joined in a row every
    second one can be closed beforehand, but each joint needs one that opens."""
    times = copies * copies_of(assembly.piece)
    members = [m for m in assembly.members if m.kind == "ring"]
    opened = _must_open(assembly, members)
    total: Counter[str] = Counter(m.ref for m in members)
    to_open: Counter[str] = Counter(m.ref for m in members if m.id in opened)
    return tuple(
        Rings(
            ref,
            assembly.things[ref].name,
            assembly.letters.get(ref, ""),
            total[ref] * times,
            to_open[ref] * times,
            (total[ref] - to_open[ref]) * times,
        )
        for ref in total
    )


def _must_open(assembly: Assembly, members: list[Member]) -> set[int]:
    """Rings that have to be opened: every second one of rings in a row, and all others whose
    neighbours cannot open themselves."""
    things, neighbours = assembly.things, assembly.neighbours
    opens = {
        ref: isinstance(thing, Ring) and thing.closure in ("open", "split")
        for ref, thing in things.items()
    }
    ready = {ref for ref, thing in things.items() if isinstance(thing, Ring) and not opens[ref]}
    mids = {unit.id for unit in things.values() if isinstance(unit, BeadLink) and unit.mid}
    closed: set[int] = set()
    for member in members:
        if member.ref in ready or member.made_in in mids:
            closed.add(member.id)
            continue
        beside = neighbours[member.id]
        untouched = bool(beside) and closed.isdisjoint(beside)
        if untouched and all(opens[assembly.members[n].ref] for n in beside):
            closed.add(member.id)
    return {m.id for m in members} - closed
