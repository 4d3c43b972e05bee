"""Does a ring's wire pass what it is to go through? Geometry: wire ≤ opening − 0.05 mm, and all
wires through one opening together no wider than it."""

from collections import defaultdict
from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Joint, Member, Port, member_name
from maglia.core.checks.found import Check
from maglia.core.parts.parts import Chain, Charm, Clasp, Connector, EarFinding, End, Ring, hole_of
from maglia.core.parts.units import BeadLink, Dangle, Tassel, far_loop, loop_inner_mm

CLEARANCE_MM = 0.05


def opening_mm(assembly: Assembly, member: Member, port: Port) -> float | None:
    """Diameter or width of the opening at a port, mm; None if unknown."""
    thing = assembly.thing(member)
    if isinstance(thing, Chain):
        return thing.inner_width_mm
    if isinstance(thing, Ring):
        return min(thing.inner_mm or 0.0, thing.inner_width_mm or 1e9) or None
    if isinstance(thing, Connector):
        hole = hole_of(thing, str(port))
        return hole.diameter_mm if hole else None
    if isinstance(thing, BeadLink | Dangle):
        if port == "mid":
            return None
        wire = assembly.things.get(thing.wire)
        if isinstance(thing, BeadLink) and port == "b":
            return far_loop(thing).inner_mm
        return loop_inner_mm(wire, thing.loop, first=True)
    if isinstance(thing, Clasp):
        return thing.eye_mm if port == "eye" else None
    if isinstance(thing, Charm | EarFinding | End):
        return thing.loop_mm
    if isinstance(thing, Tassel):
        ring = assembly.things.get(thing.ring)
        return ring.inner_mm if isinstance(ring, Ring) else None
    return None


def check(assembly: Assembly) -> Iterator[Check]:
    through: dict[tuple[int, Port], list[Ring]] = defaultdict(list)
    for joint in assembly.joints:
        for ring, other, port in _both_ways(assembly, joint):
            through[(other.id, port)].append(ring)
            yield from _one(assembly, ring, other, port)
    for (index, port), rings in through.items():
        yield from _together(assembly, rings, assembly.members[index], port)


def _both_ways(assembly: Assembly, joint: Joint) -> Iterator[tuple[Ring, Member, Port]]:
    a, b = assembly.members[joint.a], assembly.members[joint.b]
    for one, other, port in ((a, b, joint.port_b), (b, a, joint.port_a)):
        thing = assembly.thing(one)
        if isinstance(thing, Ring):
            yield thing, other, port


def _one(assembly: Assembly, ring: Ring, other: Member, port: Port) -> Iterator[Check]:
    opening = opening_mm(assembly, other, port)
    if ring.wire_mm is None or opening is None or ring.wire_mm <= opening - CLEARANCE_MM:
        return
    yield Check(
        code="ring-too-thick",
        severity="stop",
        place=member_name(other, port),
        message=(
            f"“{ring.name}” of {ring.wire_mm:.2f} mm wire does not pass the {opening:.2f} mm "
            f"opening of “{assembly.thing(other).name}”."
        ),
        repair=f"take a ring of at most {max(opening - CLEARANCE_MM, 0):.2f} mm wire",
        run=other.run,
        item=other.item,
    )


def _together(assembly: Assembly, rings: list[Ring], other: Member, port: Port) -> Iterator[Check]:
    opening = opening_mm(assembly, other, port)
    total = sum(ring.wire_mm or 0.0 for ring in rings)
    if opening is None or len(rings) < 2 or total <= opening:
        return
    if any((ring.wire_mm or 0.0) > opening - CLEARANCE_MM for ring in rings):
        return  # said already, ring by ring
    yield Check(
        code="opening-too-full",
        severity="stop",
        place=member_name(other, port),
        message=(
            f"{len(rings)} rings share the {opening:.2f} mm opening of "
            f"“{assembly.thing(other).name}”; their wires take {total:.2f} mm."
        ),
        repair="take thinner rings, or hang some from the next link",
        run=other.run,
        item=other.item,
    )
