"""Rings by size, and how they are readied: opened beforehand, or left closed."""

from collections import Counter

from maglia.core.assembly.assembly import Assembly
from maglia.core.joining.plan import Plan
from maglia.core.parts.parts import Charm, Ring
from maglia.core.parts.units import Cluster, hung_in_all
from maglia.core.sheets.count import copies_of, counts
from maglia.core.values.record import Value


class Rings(Value, frozen=True):
    """Rings of one size and how they are readied: opened beforehand, left closed."""

    id: str
    name: str
    letter: str
    count: int
    to_open: int
    leave_closed: int


def rings(assembly: Assembly, plan: Plan, copies: int = 1) -> tuple[Rings, ...]:
    """Rings by size, for all copies. The plan says which are opened; those in a tassel stay
    closed."""
    members, times = assembly.members, copies * copies_of(assembly.piece)
    opens = Counter(members[m].ref for m in plan.opened if members[m].kind == "ring")
    opens += _on_threads(assembly)
    return tuple(
        Rings(one.id, one.name, one.letter, one.count, opens[one.id] * times,
              one.count - opens[one.id] * times)
        for one in counts(assembly, copies)
        if isinstance(assembly.things[one.id], Ring)
    )  # fmt: skip


def _on_threads(assembly: Assembly) -> Counter[str]:
    """Rings that open in the clusters on a thread, which are no members: those that each thing
    hangs by, and a carrier that something hangs from which cannot open itself."""
    found: Counter[str] = Counter()
    for member in assembly.members:
        for ref in member.strung.refs if member.strung is not None else ():
            unit = assembly.things[ref]
            if not isinstance(unit, Cluster):
                continue
            hung = hung_in_all(unit)
            if unit.by is not None:
                _opens(assembly, unit.by, len(hung), found)
            elif any(isinstance(assembly.things[one], Charm) for one in hung):
                _opens(assembly, unit.carrier, 1, found)
    return found


def _opens(assembly: Assembly, ref: str, number: int, found: Counter[str]) -> None:
    ring = assembly.things[ref]
    if isinstance(ring, Ring) and ring.closure in ("open", "split"):
        found[ref] += number
