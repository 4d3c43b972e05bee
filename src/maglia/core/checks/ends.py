"""What finishes a thread, cord or ribbon holds it. Geometry: strands together, laid as tight as
circles lie, pass what they go into; a clamp folds over what is no wider than itself.
"""

import math
from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Member, member_name
from maglia.core.checks.found import Check
from maglia.core.parts.parts import End, Wire
from maglia.core.piece.items import StrungEnd, StrungItem
from maglia.core.piece.strung import cord_mm, is_bare

TIGHT = {1: 1.0, 2: 2.0, 3: 2.155, 4: 2.414, 5: 2.701, 6: 3.0, 7: 3.0, 8: 3.304}
"""Least circle round so many equal ones, in their diameters (known packings)."""
HOLDS_ITSELF = ("knotted", "slip knot", "looped", "goes on")


def check(assembly: Assembly) -> Iterator[Check]:
    for member in assembly.members:
        item, thread = member.strung, assembly.thing(member)
        if item is None or not isinstance(thread, Wire):
            continue
        for end in dict.fromkeys(item.ends):
            part = assembly.things.get(end.end or "")
            if isinstance(part, End):
                yield from _held(assembly, member, item, end, part)
            elif is_bare(item) and end.finish not in HOLDS_ITSELF:
                yield _found(
                    member,
                    f"Nothing holds the end of “{thread.name}”.",
                    "name a clamp or cord end for it, or knot it",
                )


def _held(
    assembly: Assembly, member: Member, item: StrungItem, end: StrungEnd, part: End
) -> Iterator[Check]:
    name = assembly.thing(member).name
    thick, wide = cord_mm(item, assembly.things)
    if part.sort == "clamp":
        if item.made == "folded":
            name, thick, wide = f"{name}, folded", 2 * thick, wide / 2
        if part.width_mm is not None and wide > part.width_mm:
            fold = ", fold it once" if item.made == "plain" and wide / 2 <= part.width_mm else ""
            yield _found(
                member,
                f"“{part.name}”, {part.width_mm:.1f} mm wide, does not hold “{name}”, "
                f"{wide:.1f} mm wide.",
                f"take a wider clamp{fold}",
            )
        through = thick
    elif part.sort == "cord end":
        through = max(thick, wide)
    elif part.sort == "crimp" and end.finish in ("crimped", "folded"):
        through = _crimped_mm(assembly, item)
    else:
        return
    if part.takes_mm is not None and through > part.takes_mm + 1e-9:
        twice = " there and back" if part.sort == "crimp" else ""
        yield _found(
            member,
            f"“{part.name}” takes {part.takes_mm:.2f} mm, and “{name}” is {through:.2f} mm{twice}.",
            "take one that takes more, or a thinner cord",
        )


def _crimped_mm(assembly: Assembly, item: StrungItem) -> float:
    """A crimp takes every strand twice: there, and back from the loop."""
    thread = assembly.things[item.thread]
    thick = (thread.wire_mm if isinstance(thread, Wire) else None) or 0.0
    passes = 2 * item.strands
    return float(thick * TIGHT.get(passes, 1.2 * math.sqrt(passes)))


def _found(member: Member, message: str, repair: str) -> Check:
    return Check(
        code="end-does-not-hold",
        severity="stop",
        place=member_name(member),
        message=message,
        repair=repair,
        run=member.run,
        item=member.item,
    )
