"""Can every joint be closed? Geometry: each needs one part that opens or is made around the other:
an open ring, a simple loop, an openable link, a wrapped loop while it is made, a strung end.

Closed ring to soldered link: nothing there opens. A closed bail is threaded on if it is wider than
the chain it rides on.
"""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Joint, Member, member_name
from maglia.core.assembly.ports import Port, stops_of
from maglia.core.checks.found import Check
from maglia.core.checks.openings import CLEARANCE_MM
from maglia.core.parts.parts import Chain, Clasp, EarFinding, End, Ring
from maglia.core.parts.units import BeadLink, Cluster, Dangle, HookLink, Tassel, far_loop
from maglia.core.sheets.bite import opening_mm
from maglia.core.sheets.lengths import member_width_mm

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
        yield from unjoined(assembly, joint)


def unjoined(assembly: Assembly, joint: Joint) -> Iterator[Check]:
    """What is wrong with one joint: nothing there opens or is made around the other."""
    a, b = assembly.members[joint.a], assembly.members[joint.b]
    made_in = assembly.things.get(a.made_in or "")
    if a.made_in == b.made_in is not None and not isinstance(made_in, Cluster):
        return
    if stops_of(joint.port_a) is not None:
        return  # it is threaded before an end is closed
    ways = way_at(assembly, a, joint.port_a), way_at(assembly, b, joint.port_b)
    if max(ways) > CLOSED:
        return
    one, other = assembly.thing(a).name, assembly.thing(b).name
    if not joint.inline and a.kind == "chain" and b.kind in ("charm", "connector"):
        yield from _threaded(assembly, a, b, joint.port_b)
        return
    yield Check(
        code="cannot-be-joined",
        severity="stop",
        place=member_name(a, joint.port_a),
        message=f"Nothing opens between “{one}” and “{other}”.",
        repair="put an open ring between them",
        run=a.run,
        item=a.item,
    )


def _threaded(assembly: Assembly, chain: Member, bail: Member, port: Port) -> Iterator[Check]:
    """A bail passes over the chain it rides on, or cannot be put on at all."""
    opening, wide = opening_mm(assembly, bail, port), member_width_mm(assembly, chain)
    if opening is None or wide <= opening - CLEARANCE_MM:
        return
    yield Check(
        code="bail-too-narrow",
        severity="stop",
        place=member_name(bail),
        message=(
            f"“{assembly.thing(chain).name}”, {wide:.1f} mm wide, does not pass the "
            f"{opening:.1f} mm of “{assembly.thing(bail).name}”, and nothing opens there."
        ),
        repair="hang it by an open ring, or take a wider bail or a narrower chain",
        run=bail.run,
        item=bail.item,
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
