"""What a day takes that is counted by the piece: bought parts, rings by how they are readied, and
the units that are made.
"""

from collections.abc import Mapping, Sequence

from maglia.core.cutting.day import Making
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.rings import rings
from maglia.core.joining.ways import USUAL, Working
from maglia.core.parts.parts import Chain, Wire
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
