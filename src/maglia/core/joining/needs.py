"""What a day takes that is counted by the piece: bought parts, rings by how they are readied, and
the units that are made.
"""

from collections.abc import Iterable, Mapping, Sequence

from maglia.core.cutting.day import Making
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.rings import rings
from maglia.core.joining.ways import USUAL, Working
from maglia.core.parts.parts import Bead, Chain, Part, Pin, Ring, Wire
from maglia.core.parts.units import BeadLink, Cluster, Dangle, Tassel, Thing
from maglia.core.sheets.count import counts
from maglia.core.values.record import Value

MADE = (BeadLink, Dangle, Tassel, Cluster)


class Need(Value, frozen=True):
    """How many of one part or unit a day takes; of rings how many are opened beforehand and how
    many left closed. `lies` is what there is of it on the bench, `short` what that lacks."""

    thing: Thing
    count: int
    to_open: int = 0
    leave_closed: int = 0
    lies: int = 0

    @property
    def is_made(self) -> bool:
        return isinstance(self.thing, MADE)

    @property
    def short(self) -> int:
        return 0 if self.is_made else max(self.count - self.lies, 0)


INNER_MM, WIRE_MM, LONG_MM = 0.3, 0.2, 0.5
"""How far off a ring, a bead may be that takes the place of another."""


def would_do(need: Need, parts: Iterable[Part], bags: Mapping[str, int]) -> tuple[Part, ...]:
    """Parts of the tray that lie there in the number that is wanted and fit in span and hole."""
    thing = need.thing
    return tuple(part for part in parts if part.id != thing.id
                 and bags.get(part.id, 0) >= need.count and _fits(thing, part))  # fmt: skip


def _fits(thing: Thing, part: Part) -> bool:
    if isinstance(thing, Ring) and isinstance(part, Ring):
        return (thing.closure == part.closure and _near(thing.inner_mm, part.inner_mm, INNER_MM)
                and _near(thing.wire_mm, part.wire_mm, WIRE_MM))  # fmt: skip
    if isinstance(thing, Bead) and isinstance(part, Bead):
        hole = (part.hole_mm or 0.0) >= (thing.hole_mm or 0.0)
        return hole and _near(thing.length_mm, part.length_mm, LONG_MM)
    if isinstance(thing, Pin) and isinstance(part, Pin):
        long = (part.length_mm or 0.0) >= (thing.length_mm or 0.0)
        return long and _near(thing.wire_mm, part.wire_mm, WIRE_MM / 2)
    return False


def _near(one: float | None, other: float | None, within: float) -> bool:
    return one is not None and other is not None and abs(one - other) <= within + 1e-9


def needs_of(
    day: Sequence[Making], bags: Mapping[str, int], working: Working = USUAL
) -> tuple[Need, ...]:
    """Everything that is counted, units first, then parts, in the order of the pieces. Chain, wire
    and thread are not: they are cut."""
    found: dict[str, Need] = {}
    for making in day:
        assembly = making.assembly
        opened = {one.id: one for one in
                  rings(assembly, joining_plan(assembly, working), making.copies)}  # fmt: skip
        for one in counts(assembly, making.copies):
            thing = assembly.things[one.id]
            if not one.count or isinstance(thing, Chain | Wire):
                continue
            own, ring = found.get(one.id), opened.get(one.id)
            found[one.id] = Need(
                own.thing if own else thing, one.count + (own.count if own else 0),
                (ring.to_open if ring else 0) + (own.to_open if own else 0),
                (ring.leave_closed if ring else 0) + (own.leave_closed if own else 0),
                bags.get(one.id, 0),
            )  # fmt: skip
    return tuple(sorted(found.values(), key=lambda need: not need.is_made))
