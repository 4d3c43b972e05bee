"""How a piece is worn: named ways, wraps, and what the body needs of its length.

Inside length of a bracelet = closed length − π × thickness; a wrap needs turns × (girth +
π × thickness) + ease; an elastic passes the hand if its length × stretch limit ≥ hand girth.
"""

import math

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly, Path
from maglia.core.assembly.expand import expand
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.rows import Origin, written_out
from maglia.core.edits.renumber import without
from maglia.core.parts.parts import Chain, Ring, Wire, chain_length_mm
from maglia.core.piece.piece import DropRow, Override, Piece, Place, Side, SwagRow, Way
from maglia.core.sheets.lengths import closed_length_mm, thickness_mm
from maglia.core.values.record import DomainError, Value


class OnBody(Value, frozen=True):
    """What the body asks of the closed length: `needed_mm` at least, or exactly for a fitted
    bracelet; `why` names the rule."""

    has_mm: float
    needed_mm: float
    why: str
    at_least: bool

    @property
    def spare_mm(self) -> float:
        return self.has_mm - self.needed_mm


class Worn(Value, frozen=True):
    """One way to wear a piece: its own closed length, mm, and the assembly as worn."""

    name: str
    closed_length_mm: float | None
    wraps: float
    assembly: Assembly


def as_worn(piece: Piece, way: Way) -> Piece:
    """The piece with the runs of a way left off, and everything that hangs from them. A drop or
    swag that a row makes can be left off by itself. Raises DomainError for what does not exist."""
    origins = {run.name: origin for run, origin in written_out(piece)}
    owners = {owner.name for owner in piece.owners}
    made = [name for name in way.without if name not in owners]
    for name in made:
        if name not in origins:
            raise DomainError(f"way “{way.name}” leaves off “{name}”, which does not exist")
    worn = without(piece, set(way.without))
    for name in made:
        worn = _left_out(worn, way, name, origins[name])
    return replace(worn, ways=(), wraps=float(way.wraps))


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


def ways_worn(piece: Piece) -> tuple[Worn, ...]:
    """Every named way with its own length and counts."""
    found = []
    for way in piece.ways:
        assembly = expand(as_worn(piece, way))
        length = closed_length_mm(assembly)
        if way.hooked is not None:
            length = hooked_length_mm(assembly, way.hooked)
        found.append(Worn(way.name, length, float(way.wraps), assembly))
    return tuple(found)


def hooked_length_mm(assembly: Assembly, place: Place) -> float | None:
    """Closed length with the clasp hooked at a place of an extender, or of the strand itself."""
    base = closed_length_mm(assembly)
    if base is None or place.run == CLOSURE:
        return base
    for path in assembly.paths:
        if path.run != place.run:
            continue
        reach = _reach_mm(assembly, path, place)
        if reach is None:
            continue
        return base + reach if path.kind == "extender" else reach
    raise DomainError(f"the clasp cannot be hooked at {place.at} of run “{place.run}”: not there")


def _reach_mm(assembly: Assembly, path: Path, place: Place) -> float | None:
    """Along an extender from its start; along the strand from the hooked link to the clasp."""
    on_strand = path.kind != "extender"
    stations = path.stations
    if on_strand and assembly.piece.closure.clasp_side == "left":
        stations = tuple(reversed(stations))
    total, passed = 0.0, not on_strand
    for station in stations:
        member = assembly.members[station.members[0]]
        span = station.span_mm or 0.0
        here = member.item == place.item and (not on_strand or member.side == _far_side(assembly))
        if here and not passed:
            passed = True
            thing = assembly.thing(member)
            if isinstance(thing, Chain):
                span = chain_length_mm(thing, place.at) or 0.0
            total += span
            continue
        if here and passed and not on_strand:
            thing = assembly.thing(member)
            if not isinstance(thing, Chain):
                return total + span
            return total + (chain_length_mm(thing, min(place.at, member.links)) or 0.0)
        total += span if passed else 0.0
    return total if on_strand and passed else None


def _far_side(assembly: Assembly) -> Side:
    return "left" if assembly.piece.closure.clasp_side == "right" else "right"


def on_body(assembly: Assembly) -> OnBody | None:
    """What the wearer's body asks of the piece; None where nothing is known or asked."""
    piece, closed = assembly.piece, closed_length_mm(assembly)
    wearer, thick = piece.wearer, thickness_mm(assembly)
    if closed is None or (assembly.main and not assembly.main.closed):
        return _coiled(assembly)
    if piece.closure.kind == "over the head" and wearer.head_mm:
        return OnBody(closed, wearer.head_mm, "it must pass over the head", True)
    if piece.closure.kind in ("over the hand", "continuous") and piece.sort == "bracelet":
        if wearer.hand_mm is None:
            return None
        stretched = closed * stretch_limit(assembly)
        return OnBody(stretched, wearer.hand_mm, "it must pass over the hand", True)
    girth = {"bracelet": wearer.wrist_mm, "anklet": wearer.ankle_mm}.get(piece.sort)
    if girth is None:
        return None
    needed = piece.wraps * (girth + math.pi * thick) + wearer.ease_mm
    return OnBody(closed, needed, f"girth, ease and its own thickness of {thick:.1f} mm", False)


def _coiled(assembly: Assembly) -> OnBody | None:
    """A coil needs turns × π × (coil diameter + bead thickness)."""
    main = assembly.main
    members = [assembly.members[i] for s in (main.stations if main else ()) for i in s.members]
    strung = [m for m in members if m.strung is not None]
    for member in strung:
        wire = assembly.thing(member)
        if isinstance(wire, Wire) and wire.coil_mm and main and main.length_mm is not None:
            turn = math.pi * (wire.coil_mm + thickness_mm(assembly))
            return OnBody(
                main.length_mm, assembly.piece.wraps * turn,
                f"{assembly.piece.wraps:g} turns of {turn:.1f} mm", False,
            )  # fmt: skip
    return None


def stretch_limit(assembly: Assembly) -> float:
    """How far the main strand stretches as a whole: only its elastic lengths do."""
    main = assembly.main
    total = stretched = 0.0
    for station in main.stations if main else ():
        thing = assembly.thing(assembly.members[station.members[0]])
        limit = thing.stretch_limit if isinstance(thing, Ring | Wire) else 1.0
        total += station.span_mm or 0.0
        stretched += limit * (station.span_mm or 0.0)
    return stretched / total if total else 1.0
