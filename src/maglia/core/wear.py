"""How a piece is worn: named ways, wraps, what the body needs of its length, and its mirror.

Inside length of a bracelet = closed length − π × thickness; a wrap needs turns × (girth +
π × thickness) + ease; an elastic passes the hand if its length × stretch limit ≥ hand girth.
"""

import math

from msgspec.structs import replace

from maglia.core.assembly import Assembly, Path
from maglia.core.expand import expand
from maglia.core.lengths import closed_length_mm, thickness_mm
from maglia.core.parts import Connector, Ring, Wire, chain_length_mm
from maglia.core.piece import ConnectorItem, Piece, Place, Run, Side, TiedRows, Way, catalogue
from maglia.core.places import CLOSURE, mirror_hole
from maglia.core.record import DomainError, Value
from maglia.core.rows import item_at, written_out


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
    """The piece with the runs of a way left off, and everything that hangs from them."""
    known = {run.name for run in written_out(piece)} | {row.name for row in piece.rows}
    for name in way.without:
        if name not in known:
            raise DomainError(f"way “{way.name}” leaves off “{name}”, which does not exist")
    gone = set(way.without)
    while True:
        hanging = {
            run.name
            for run in piece.runs
            if run.name not in gone
            and any(place and place.run in gone for place in (run.start, run.end))
        }
        if not hanging:
            break
        gone |= hanging
    return replace(
        piece,
        runs=tuple(run for run in piece.runs if run.name not in gone),
        rows=tuple(
            r for r in piece.rows if r.name not in gone and getattr(r, "run", "") not in gone
        ),
        ways=(),
        wraps=float(way.wraps),
    )


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
            total += chain_length_mm(thing, place.at) or 0.0 if member.links else span
            continue
        if here and passed and not on_strand:
            thing = assembly.thing(member)
            if not member.links:
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


def mirrored(piece: Piece) -> Piece:
    """The mirror image: the other earring, or the piece with its free sides exchanged."""
    other: dict[str | None, Side | None] = {"left": "right", "right": "left", None: None}

    def turned(run: Run, place: Place | None) -> Place | None:
        if place is None:
            return None
        port = place.port if run.lies == "paired" else _mirrored_port(piece, place)
        return replace(place, side=other[place.side], port=port)

    runs = tuple(
        replace(run, start=turned(run, run.start), end=turned(run, run.end)) for run in piece.runs
    )
    rows = tuple(
        r
        if isinstance(r, TiedRows)
        else replace(r, overrides=tuple(replace(o, side=other[o.side]) for o in r.overrides))
        for r in piece.rows
    )
    side: Side = "left" if piece.closure.clasp_side == "right" else "right"
    closure = replace(piece.closure, clasp_side=side)
    return replace(piece, runs=runs, rows=rows, closure=closure)


def _mirrored_port(piece: Piece, place: Place) -> str | None:
    """A hole of a connector that lies on the fold changes sides; every other port stays."""
    host = piece.run(place.run)
    item = item_at(host, place.item) if host and (host.lies == "fold" or not place.item) else None
    connector = catalogue(piece).get(item.part) if isinstance(item, ConnectorItem) else None
    if place.port is None or not isinstance(connector, Connector):
        return place.port
    return mirror_hole(connector, place.port) or place.port
