"""What is not hung as it is worn yet, so that no figure is given for what is not known."""

from typing import Literal

from maglia.core.assembly.assembly import Assembly
from maglia.core.parts.parts import Ring, Wire
from maglia.core.values.record import Value

LEAST_BANGLE_MM = 40.0
"""A closed ring this wide inside goes round a wrist itself."""
LEAST_WEAVE = 4
"""A ring of a weave holds that many others or more."""
What = Literal["wrap", "coil", "bangle", "elastic", "weave"]


class NotAsWorn(Value, frozen=True):
    """Why, and in words how it is shown instead."""

    what: What
    words: str


SHOWN: dict[What, str] = {
    "wrap": "it is wound several times and shown as one open loop",
    "coil": "it is a coil and shown as a plain line",
    "bangle": "it is a rigid round and shown as a ring",
    "elastic": "it is worn stretched and shown at rest",
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


def _what(assembly: Assembly) -> What | None:
    main = assembly.main
    if main is None:
        return None
    members = [assembly.members[index] for station in main.stations for index in station.members]
    things = [assembly.thing(member) for member in members]
    if any(isinstance(t, Wire) and t.sort == "memory coil" for t in things):
        return "coil"
    if assembly.piece.wraps > 1 and turns_of(assembly) == 1:
        return "wrap"
    rings = [thing for thing in things if isinstance(thing, Ring)]
    if len(rings) == len(things):
        if any((ring.inner_mm or 0.0) >= LEAST_BANGLE_MM for ring in rings):
            return "bangle"
        crowded = [m for m in members if _rings_beside(assembly, m.id) >= LEAST_WEAVE]
        if len(crowded) > len(members) / 2:
            return "weave"
    stretches = any(
        (isinstance(t, Wire) and t.sort == "elastic")
        or (isinstance(t, Ring | Wire) and t.stretch_limit > 1)
        for t in things
    )
    return "elastic" if stretches else None


def _rings_beside(assembly: Assembly, member: int) -> int:
    beside = set(assembly.neighbours[member])
    return sum(assembly.members[other].kind == "ring" for other in beside)
