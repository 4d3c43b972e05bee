"""Mirror twins: which member on the other side is made like this one, and which of its ports.

Runs across the fold and paired runs mirror by construction; what lies on the fold is its own twin,
its near port the twin of its far one if the run lies across. A free run has no twins.
"""

from collections import defaultdict

from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.joining.openers import Opener
from maglia.core.values.record import Value

_SWAPPED = {"a": "b", "b": "a"}
_OTHER = {"left": "right", "right": "left"}


class Mirror(Value, frozen=True):
    """`twin` of every member by index, -1 for none; `across` are those that lie over the fold, and
    so are mirrored in themselves or in each other."""

    twin: tuple[int, ...]
    across: frozenset[int]
    links: tuple[int, ...]

    def of(self, opener: Opener) -> Opener | None:
        """The opener that mirrors this one, itself if it lies on the fold; None if nothing does."""
        member, port = opener
        other = self.twin[member]
        if other < 0:
            return None
        if member in self.across:
            if isinstance(port, int):
                port = self.links[member] + 1 - port
            else:
                port = _SWAPPED.get(port, port)
        return Opener(other, port)


def mirror_of(assembly: Assembly) -> Mirror:
    """The twins of an assembly, by the place each member is laid at."""
    lies = {run.name: run.lies for run in assembly.runs}
    at: dict[tuple[object, ...], list[int]] = defaultdict(list)
    centre: dict[str, list[Member]] = defaultdict(list)
    twin = [-1] * len(assembly.members)
    for m in assembly.members:
        if m.side in _OTHER:
            at[(m.run, m.side, m.item, m.number, m.ref, m.links)].append(m.id)
        elif m.woven is not None:
            continue  # a strip is woven from one end to the other
        elif lies.get(m.run) == "across":
            centre[m.run].append(m)
        elif lies.get(m.run) == "fold":
            twin[m.id] = m.id
    for (run, side, *rest), here in at.items():
        there = at.get((run, _OTHER[str(side)], *rest), [])
        if len(here) == len(there):
            for one, other in zip(here, there, strict=True):
                twin[one] = other
    for members in centre.values():
        _across(members, twin)
    across = frozenset(m.id for members in centre.values() for m in members)
    return Mirror(tuple(twin), across, tuple(m.links for m in assembly.members))


def _across(members: list[Member], twin: list[int]) -> None:
    """Rings in series on the fold mirror in each other, abreast ones in their order; what hangs
    within a unit there mirrors in what hangs at the mirrored place."""
    by_number: dict[tuple[object, ...], list[int]] = defaultdict(list)
    row = [m for m in members if m.made_in is None]
    last = max((m.number for m in row), default=0)
    for m in row:
        by_number[(m.number,)].append(m.id)
    for (number,), here in by_number.items():
        there = by_number.get((last + 1 - int(str(number)),), [])
        if len(here) == len(there):
            for one, other in zip(here, there, strict=True):
                twin[one] = other
    within = [m for m in members if m.made_in is not None]
    for m in within:
        twin[m.id] = m.id
