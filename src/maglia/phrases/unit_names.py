"""The name of a unit that is made: its own, or the one of the same unit that is there already."""

from collections.abc import Sequence

from msgspec.structs import replace

from maglia.core.parts.units import (
    Unit,
)
from maglia.phrases.here import Here, own_id
from maglia.phrases.words import (
    Misread,
)


def named_unit(
    unit: Unit, name: str, here: Here, others: Sequence[Unit] = (), *, given: bool = False
) -> Unit:
    """A unit under its name, the one there already if it is the same; one of a like name is told
    apart by a number, unless the name was given."""
    held = [t for t in (*here.things.values(), *others) if isinstance(t, Unit)]
    taken = {thing.name.lower() for thing in held}
    own, k = name[:120], 1
    while own.lower() in taken:
        alike = (t for t in held if t.name.lower() == own.lower() and type(t) is type(unit))
        same = next((t for t in alike if replace(unit, id=t.id, name=t.name) == t), None)
        if same is not None:
            return same
        if given:
            raise Misread(f"“{own}” is the name of another unit: give it one of its own")
        k += 1
        own = f"{name[:115]} {k}"
    named = replace(unit, name=own)
    return replace(named, id=own_id(named))
