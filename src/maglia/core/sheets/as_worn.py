"""How a strand is worn: round the body, wound, as a coil, a bangle or an elastic; or laid on the
mat; and what is not hung as it is worn yet, so that no figure is given for what is not known.
"""

from typing import Literal

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly, InWeave, Member
from maglia.core.parts.parts import Ring, Wire
from maglia.core.values.record import Value
from maglia.core.weaves.kinds import woven
from maglia.core.weaves.pitch import spans_mm

LEAST_BANGLE_MM = 40.0
"""A closed ring this wide inside goes round a wrist itself."""
LEAST_WEAVE = 4
"""A ring of a weave holds that many others or more."""
What = Literal["wrap", "weave"]


class NotAsWorn(Value, frozen=True):
    """Why, and in words how it is shown instead."""

    what: What
    words: str


SHOWN: dict[What, str] = {
    "wrap": "it is wound several times and shown as one open loop: hang it on the wrist or ankle",
    "weave": "it is a weave of rings and shown as a line of them",
}


def not_as_worn(assembly: Assembly) -> NotAsWorn | None:
    """Why the main strand is not hung as it is worn; None if it is."""
    what = _what(assembly)
    return NotAsWorn(what, SHOWN[what]) if what else None


def turns_of(assembly: Assembly) -> int:
    """How often the strand is wound round a wrist or ankle; 1 if it is not, or not whole turns of a
    closed one."""
    piece, main = assembly.piece, assembly.main
    limb = piece.form.kind in ("wrist", "ankle")
    wound = limb and main is not None and main.closed and piece.wraps == int(piece.wraps)
    return int(piece.wraps) if wound else 1


def coil_across_mm(coil: Wire) -> float:
    """How wide a turn of a coil is from middle to middle of its wire: what is threaded sits centred
    on that, however thick it is."""
    return (coil.coil_mm or 0.0) + (coil.wire_mm or 0.0)


def coil_of(assembly: Assembly) -> Wire | None:
    """The memory coil that the strand is made on, if its diameter is known; a coil is rigid."""
    for member in _main_members(assembly):
        thing = assembly.thing(member)
        if isinstance(thing, Wire) and thing.sort == "memory coil" and thing.coil_mm:
            return thing
    return None


def bangle_of(assembly: Assembly) -> Ring | None:
    """The one rigid ring that the strand is, if it goes round a wrist by itself."""
    members = _main_members(assembly)
    ring = assembly.thing(members[0]) if len(members) == 1 else None
    if isinstance(ring, Ring) and not elastic(ring) and (ring.inner_mm or 0.0) >= LEAST_BANGLE_MM:
        return ring
    return None


def elastic(thing: object) -> bool:
    """Whether a ring or thread stretches, by as much as is known."""
    return isinstance(thing, Ring | Wire) and thing.stretch_limit > 1


def gives(assembly: Assembly, member: Member) -> float:
    """How many times as long as at rest a member of a strand can be drawn: rubber in a weave as far
    as its place then is, drawn flat."""
    thing, own = assembly.thing(member), member.woven
    if own is None:
        return thing.stretch_limit if isinstance(thing, Ring | Wire) else 1.0
    rubber = assembly.things.get(own.item.part_of("rubber") or "")
    triangles = own.item.weave == "stretch triangles"
    if not isinstance(rubber, Ring) or (own.role != "rubber" and not triangles):
        return 1.0
    rest, drawn = (_place_mm(own, assembly, stretch) for stretch in (1.0, rubber.stretch_limit))
    return drawn / rest if rest and drawn else 1.0


def _place_mm(own: InWeave, assembly: Assembly, stretch: float) -> float | None:
    """How long the place of a ring in a weave is, its rubber so far stretched, mm."""
    once = replace(own.item, rows=4, closes=True, end_rings=0)
    spans = spans_mm(once, woven(once), assembly.things, stretch)
    return None if spans is None else spans[own.place % (len(spans) // 4)]


def stretches(assembly: Assembly) -> bool:
    """Whether anything of the main strand is elastic."""
    return any(gives(assembly, member) > 1.0 for member in _main_members(assembly))


def _main_members(assembly: Assembly) -> list[Member]:
    stations = assembly.main.stations if assembly.main else ()
    return [assembly.members[index] for station in stations for index in station.members]


def _what(assembly: Assembly) -> What | None:
    if assembly.main is None or assembly.piece.form.kind == "mat":
        return None
    wound = assembly.piece.wraps > 1 and coil_of(assembly) is None
    if wound and turns_of(assembly) == 1:
        return "wrap"
    members = _main_members(assembly)
    if bangle_of(assembly) is not None or any(member.woven for member in members):
        return None
    if all(isinstance(assembly.thing(member), Ring) for member in members):
        crowded = [m for m in members if _rings_beside(assembly, m.id) >= LEAST_WEAVE]
        if len(crowded) > len(members) / 2:
            return "weave"
    return None


def _rings_beside(assembly: Assembly, member: int) -> int:
    beside = set(assembly.neighbours[member])
    return sum(assembly.members[other].kind == "ring" for other in beside)
