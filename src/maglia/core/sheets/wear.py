"""How a piece is worn: named ways, wraps, and what the body needs of its length.

Inside length of a bracelet = closed length − π × thickness; a wrap needs turns × (girth +
π × thickness) + ease; an elastic passes the hand if its length × stretch limit ≥ hand girth.
"""

import math
from collections.abc import Iterator

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly, Member, Station
from maglia.core.assembly.expand import expand
from maglia.core.assembly.kinds import count_of, kind_of, with_count
from maglia.core.assembly.ports import Port
from maglia.core.assembly.rows import Origin, flattened, written_out
from maglia.core.edits.edit import put
from maglia.core.edits.renumber import without
from maglia.core.edits.spots import item_of, spot_at
from maglia.core.parts.parts import Chain, Connector, Ring, Wire, chain_length_mm
from maglia.core.parts.units import BeadLink
from maglia.core.piece.piece import (
    ANKLE_MM,
    NECK_MM,
    DropRow,
    FormKind,
    Override,
    Piece,
    SwagRow,
    Way,
    WornCount,
)
from maglia.core.piece.strung import along_mm
from maglia.core.sheets.as_worn import bangle_of, coil_across_mm, gives
from maglia.core.sheets.bite import can_bite
from maglia.core.sheets.lengths import closed_length_mm, thickness_mm
from maglia.core.values.record import DomainError, Value
from maglia.core.values.rules import DEFAULT_RULES, Rules

MOST_EARLIER = 6
"""Places of a strip from its catch on at which it may be hooked instead."""
NARROW = 0.9
"""A turn of less than so much of the neck's girth does not go round a neck."""


class OnBody(Value, frozen=True):
    """What the body asks of the closed length: `needed_mm` at least, or exactly for a fitted
    bracelet; `why` names the rule. Of a coil, `turn_mm` is one turn, `repeat_mm` one repeat of its
    beads."""

    has_mm: float
    needed_mm: float
    why: str
    at_least: bool
    turn_mm: float | None = None
    repeat_mm: float | None = None

    @property
    def spare_mm(self) -> float:
        return self.has_mm - self.needed_mm


class Worn(Value, frozen=True):
    """One way to wear a piece: its own closed length, mm, and the assembly as worn."""

    name: str
    closed_length_mm: float | None
    wraps: float
    assembly: Assembly | None
    fault: str = ""
    """Why it cannot be worn so."""


def as_worn(piece: Piece, way: Way) -> Piece:
    """The piece with the runs of a way left off, and everything that hangs from them, and its clasp
    hooked where the way says. A drop or swag that a row makes can be left off by itself. Raises
    DomainError for what does not exist."""
    origins = {run.name: origin for run, origin in written_out(piece)}
    owners = {owner.name for owner in piece.owners}
    made = [name for name in way.without if name not in owners]
    for name in made:
        if name not in origins:
            raise DomainError(f"way “{way.name}” leaves off “{name}”, which does not exist")
    for name in way.taken_out:
        piece = _from_between(piece, way, name)
    worn = without(piece, {*way.without, *way.taken_out})
    for name in made:
        worn = _left_out(worn, way, name, origins[name])
    for one in way.only:
        worn = _only(worn, way, one)
    closure = replace(worn.closure, hooked=way.hooked or worn.closure.hooked)
    worn = replace(worn, ways=(), wraps=float(way.wraps), closure=closure)
    on = way.on or _wound_on(worn)
    return replace(worn, form=replace(worn.form, kind=on)) if on else worn


def _wound_on(piece: Piece) -> FormKind | None:
    """What a piece for neck or board is wound on so often that one turn is no longer than a neck is
    round: an ankle if it goes round that, else a wrist; None if it stays where it is."""
    if piece.wraps <= 1 or piece.form.kind not in ("bust", "board"):
        return None
    length = closed_length_mm(expand(piece))
    if length is None:
        return None
    turn, wearer = length / piece.wraps, piece.wearer
    if turn >= NARROW * (wearer.neck_mm or NECK_MM):
        return None
    ankle = piece.sort == "anklet" and turn >= (wearer.ankle_mm or ANKLE_MM)
    return "ankle" if ankle else "wrist"


def _from_between(piece: Piece, way: Way, name: str) -> Piece:
    """The piece with what hangs from the foot of a run hung where that run hangs."""
    run = piece.run(name)
    if run is None or run.start is None:
        raise DomainError(f"way “{way.name}” takes out “{name}”, which hangs from no place")
    last = sum(1 for _ in flattened(run.items))
    hung = [own for own in piece.runs if own.start and (own.start.run, own.start.item)
            == (name, last)]  # fmt: skip
    if not hung:
        raise DomainError(
            f"way “{way.name}” takes out “{name}”, and nothing hangs from its foot: leave it off "
            "(without)"
        )
    for own in hung:
        piece = piece.replaced(own, replace(own, start=run.start, lies=run.lies))
    return piece


def _only(piece: Piece, way: Way, one: WornCount) -> Piece:
    """The piece with only so many of a quantity. Raises DomainError where it has fewer."""
    if piece.owner(one.of.run) is None:
        return piece  # left off as a whole
    spot = spot_at(piece, one.of)
    item = item_of(piece, spot)
    if kind_of(item).counted is None:
        raise DomainError(f"way “{way.name}”: a {item.kind} of “{one.of.run}” has no count")
    if one.count > count_of(item):
        raise DomainError(
            f"way “{way.name}” wears {one.count} of “{one.of.run}”, which has {count_of(item)}"
        )
    return put(piece, spot, with_count(item, one.count))


def _left_out(piece: Piece, way: Way, name: str, origin: Origin) -> Piece:
    row = piece.owner(origin.owner)
    if row is None:  # the whole row is off already
        return piece
    if not isinstance(row, DropRow | SwagRow) or origin.ordinal is None:
        raise DomainError(
            f"way “{way.name}” leaves off “{name}”, which the rule of “{origin.owner}” makes: "
            f"leave off “{origin.owner}” as a whole"
        )
    out = Override(number=origin.ordinal, side=origin.side)
    return piece.replaced(row, replace(row, overrides=(out, *row.overrides)))


def ways_worn(piece: Piece, rules: Rules = DEFAULT_RULES) -> tuple[Worn, ...]:
    """Every named way with its own length; one that cannot be worn says why."""
    return tuple(_worn(piece, way, rules) for way in piece.ways)


def _worn(piece: Piece, way: Way, rules: Rules) -> Worn:
    wraps = float(way.wraps)
    try:
        assembly = expand(as_worn(piece, way), rules)
    except DomainError as fault:
        return Worn(way.name, None, wraps, None, str(fault))
    return Worn(way.name, closed_length_mm(assembly), wraps, assembly)


def worn_lengths_mm(assembly: Assembly) -> tuple[tuple[str, float], ...]:
    """Closed length at every place where the clasp can be hooked: the catch, the places of a weave
    beside it, then each link, ring or loop of an extender that it can bite, outward."""
    base = closed_length_mm(assembly)
    if base is None:
        return ()
    found = [("catch", base), *_earlier_rows(assembly, base)]
    for path in (p for p in assembly.paths if p.kind == "extender"):
        length = base
        for station in path.stations:
            member = assembly.members[station.members[0]]
            found += [
                (f"{path.run} {words}", length + reach)
                for words, port, reach in _hooks(assembly, member, station)
                if can_bite(assembly, member, port)
            ]
            if station.span_mm is None:
                return tuple(found)
            length += station.span_mm
    return tuple(found)


def _earlier_rows(assembly: Assembly, base: float) -> Iterator[tuple[str, float]]:
    """A strip of weave that is too long is hooked by an earlier row: the first few at the catch."""
    main, clasp = assembly.main, assembly.clasp
    if main is None or clasp is None:
        return
    stations = main.stations if assembly.piece.closure.clasp_side == "right" else (
        tuple(reversed(main.stations))
    )  # fmt: skip
    short, rows = 0.0, 0
    for station in stations:
        member = assembly.members[station.members[0]]
        if member.woven is not None and member.woven.role != "end ring":
            fits = all(can_bite(assembly, assembly.members[m], "ring") for m in station.members)
            if fits and short:
                yield f"{member.run} place {member.woven.place + 1}", base - short
            rows += 1
        if station.span_mm is None or rows == MOST_EARLIER:
            return
        short += station.span_mm


def _hooks(
    assembly: Assembly, member: Member, station: Station
) -> Iterator[tuple[str, Port, float]]:
    """Where a clasp could be hooked on one step: in words, the port, and how far along it, mm."""
    thing, span = assembly.thing(member), station.span_mm or 0.0
    if isinstance(thing, Chain) and thing.pitches_mm:
        which = f"chain {member.ordinal} " if member.ordinal > 1 else ""
        for link in range(1, member.links + 1):
            along = chain_length_mm(thing, link, member.first_phase + 1) or 0.0
            yield f"{which}link {link}", link, along
    elif isinstance(thing, Ring):
        yield f"ring {member.ordinal}", "ring", span
    elif isinstance(thing, BeadLink | Connector):
        yield f"{member.kind} {member.ordinal}", station.port_out, span


def on_body(assembly: Assembly) -> OnBody | None:
    """What the wearer's body asks of the piece; None where nothing is known or asked."""
    piece, closed = assembly.piece, closed_length_mm(assembly)
    if (bangle := bangle_of(assembly)) is not None and piece.wearer.hand_mm:
        inside = math.pi * (bangle.inner_mm or 0.0)
        return OnBody(inside, piece.wearer.hand_mm, "it must pass over the hand", True)
    wearer, thick = piece.wearer, thickness_mm(assembly)
    if closed is None or (assembly.main and not assembly.main.closed):
        return _coiled(assembly)
    if piece.closure.kind == "over the head" and wearer.head_mm:
        return OnBody(closed, wearer.head_mm, "it must pass over the head", True)
    if piece.closure.kind in ("over the hand", "continuous") and piece.sort == "bracelet":
        limit = stretch_limit(assembly)
        if limit > 1 and wearer.wrist_mm is not None:
            return _stretched(assembly, closed, limit, wearer.wrist_mm)
        if wearer.hand_mm is None:
            return None
        return OnBody(closed * limit, wearer.hand_mm, "it must pass over the hand", True)
    girth = {"bracelet": wearer.wrist_mm, "anklet": wearer.ankle_mm}.get(piece.sort)
    if girth is None:
        return None
    needed = piece.wraps * (girth + math.pi * thick) + wearer.ease_mm
    return OnBody(closed, needed, f"girth, ease and its own thickness of {thick:.1f} mm", False)


def _stretched(assembly: Assembly, closed: float, limit: float, wrist_mm: float) -> OnBody:
    """A band that stretches is right for the wrist at rest; the hand is a bound."""
    wearer, thick = assembly.piece.wearer, thickness_mm(assembly)
    hand = wearer.hand_mm or 0.0
    if closed * limit < hand:
        return OnBody(closed * limit, hand, "it must pass over the hand, stretched", True)
    worn = assembly.piece.wraps * (wrist_mm + math.pi * thick) + wearer.ease_mm
    if worn * limit < hand:
        return OnBody(closed, hand / limit, "stretched, it must pass over the hand", False)
    why = f"at rest: girth, ease and its own thickness of {thick:.1f} mm"
    return OnBody(closed, worn, why, False)


def _coiled(assembly: Assembly) -> OnBody | None:
    """A coil needs turns × π × (coil diameter inside + its wire)."""
    main = assembly.main
    members = [assembly.members[i] for s in (main.stations if main else ()) for i in s.members]
    for member in members:
        wire, item = assembly.thing(member), member.strung
        if item is None or not isinstance(wire, Wire) or not wire.coil_mm:
            continue
        if main is None or main.length_mm is None:
            continue
        turn = math.pi * coil_across_mm(wire)
        wraps = assembly.piece.wraps
        words = f"{wraps:g} turns of {turn:.1f} mm"
        repeat = along_mm(item, item.pattern, assembly.things) or None
        return OnBody(main.length_mm, wraps * turn, words, False, turn, repeat)
    return None


def stretch_limit(assembly: Assembly) -> float:
    """How far the main strand stretches as a whole: only its elastic lengths do."""
    main = assembly.main
    total = stretched = 0.0
    for station in main.stations if main else ():
        limit = gives(assembly, assembly.members[station.members[0]])
        total += station.span_mm or 0.0
        stretched += limit * (station.span_mm or 0.0)
    return stretched / total if total else 1.0
