"""Can every joint be closed? Geometry: each needs one part that opens or is made around the other:
an open ring, a simple loop, an openable link, a wrapped loop while it is made, a strung end.

Wrapped loop to wrapped loop, closed ring to soldered link: nothing there opens.
"""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Member, Port, member_name
from maglia.core.checks.found import Check
from maglia.core.parts.parts import Chain, Clasp, EarFinding, End, Ring
from maglia.core.parts.units import BeadLink, Dangle, HookLink, Tassel, far_loop

OPENS, MADE_AROUND, CLOSED = 2, 1, 0


def way_at(assembly: Assembly, member: Member, port: Port) -> int:
    """Whether a member opens at a port, can be made around another, or neither."""
    thing = assembly.thing(member)
    if member.strung is not None or isinstance(thing, End):
        return OPENS  # its end is made last, around what it joins
    if isinstance(thing, Ring):
        return CLOSED if thing.closure == "closed" else OPENS
    if isinstance(thing, Chain):
        return OPENS if thing.openable else CLOSED
    if isinstance(thing, BeadLink | Dangle):
        if port == "mid":
            return OPENS
        loop = far_loop(thing) if isinstance(thing, BeadLink) and port == "b" else thing.loop
        hooks = isinstance(thing, HookLink) and port == "b"
        return OPENS if loop.style == "simple" or hooks else MADE_AROUND
    if isinstance(thing, Clasp):
        return OPENS if port == "bite" else CLOSED
    if isinstance(thing, EarFinding):
        return OPENS
    if isinstance(thing, Tassel):
        ring = assembly.things.get(thing.ring)
        return CLOSED if isinstance(ring, Ring) and ring.closure == "closed" else OPENS
    return CLOSED


def check(assembly: Assembly) -> Iterator[Check]:
    yield from _crosswise(assembly)
    for joint in assembly.joints:
        a, b = assembly.members[joint.a], assembly.members[joint.b]
        if a.made_in is not None and b.made_in is not None:
            continue
        ways = way_at(assembly, a, joint.port_a), way_at(assembly, b, joint.port_b)
        if max(ways) == OPENS or sum(ways) == MADE_AROUND:
            continue
        both = sum(ways) == 2 * MADE_AROUND
        one, other = assembly.thing(a).name, assembly.thing(b).name
        yield Check(
            code="cannot-be-joined",
            severity="stop",
            place=member_name(a, joint.port_a),
            message=(
                f"“{one}” and “{other}” are wrapped both, and neither opens again."
                if both
                else f"Nothing opens between “{one}” and “{other}”."
            ),
            repair="put an open ring between them, or make one loop simple",
            run=a.run,
            item=a.item,
        )


def _crosswise(assembly: Assembly) -> Iterator[Check]:
    """Links of tied rows lie flat only if both their loops do: crosswise ones twist."""
    seen: set[str] = set()
    tied = {run.name for run in assembly.runs if run.kind == "tie"}
    for member in assembly.members:
        unit = assembly.thing(member)
        crosswise = isinstance(unit, BeadLink) and unit.turned == "crosswise"
        if crosswise and member.run in tied and unit.id not in seen:
            seen.add(unit.id)
            yield Check(
                code="loops-crosswise",
                severity="attention",
                place=unit.name,
                thing=unit.id,
                message="Its loops stand crosswise: in a row tied to others it twists.",
                repair="turn its second loop parallel to the first",
                run=member.run,
                item=member.item,
            )
