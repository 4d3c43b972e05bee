"""Does the wire of a ring, loop or bail pass what it is to go through? Geometry: wire ≤ opening −
0.05 mm, and all wires through one opening together no wider than it."""

from collections import defaultdict
from collections.abc import Iterator
from typing import NamedTuple

from maglia.core.assembly.assembly import Assembly, Joint, Member, member_name
from maglia.core.assembly.ports import Port, stops_of
from maglia.core.checks.found import Check
from maglia.core.parts.parts import Charm, Ring
from maglia.core.parts.units import BeadLink, Dangle, wire_mm_of
from maglia.core.sheets.bite import opening_mm

CLEARANCE_MM = 0.05


def check(assembly: Assembly) -> Iterator[Check]:
    through: dict[tuple[int, Port], list[Passing]] = defaultdict(list)
    for joint in assembly.joints:
        if stops_of(joint.port_a) is not None:
            continue  # it goes round what it rides on
        for passing, other, port in _both_ways(assembly, joint):
            through[(other.id, port)].append(passing)
            yield from _one(assembly, passing, other, port)
    for (index, port), passing_all in through.items():
        yield from _together(assembly, passing_all, assembly.members[index], port)


class Passing(NamedTuple):
    """What goes through an opening: whose, what of it, and how thick that is, mm."""

    name: str
    what: str
    wire_mm: float


def _both_ways(assembly: Assembly, joint: Joint) -> Iterator[tuple[Passing, Member, Port]]:
    a, b = assembly.members[joint.a], assembly.members[joint.b]
    ways = ((a, joint.port_a, b, joint.port_b), (b, joint.port_b, a, joint.port_a))
    for one, own_port, other, port in ways:
        if passing := _passing(assembly, one, own_port):
            yield passing, other, port


def _passing(assembly: Assembly, member: Member, port: Port) -> Passing | None:
    """The wire that a ring, loop, bail or ear hook puts through what it joins."""
    thing = assembly.thing(member)
    wire, what = None, "loop"
    if isinstance(thing, Ring):
        wire, what = thing.wire_mm, "ring"
    elif isinstance(thing, BeadLink | Dangle) and port != "mid":
        wire = wire_mm_of(assembly.things.get(thing.wire))
    elif isinstance(thing, Charm):
        wire = thing.loop_wire_mm
    return Passing(thing.name, what, wire) if wire is not None else None


def _one(assembly: Assembly, passing: Passing, other: Member, port: Port) -> Iterator[Check]:
    opening = opening_mm(assembly, other, port)
    if opening is None or passing.wire_mm <= opening - CLEARANCE_MM:
        return
    yield Check(
        code=f"{passing.what}-too-thick",
        severity="stop",
        place=member_name(other, port),
        message=(
            f"“{passing.name}” of {passing.wire_mm:.2f} mm wire does not pass the {opening:.2f} mm "
            f"opening of “{assembly.thing(other).name}”."
        ),
        repair=f"take a {passing.what} of at most {max(opening - CLEARANCE_MM, 0):.2f} mm wire",
        run=other.run,
        item=other.item,
    )


def _together(
    assembly: Assembly, passing: list[Passing], other: Member, port: Port
) -> Iterator[Check]:
    opening = opening_mm(assembly, other, port)
    total = sum(one.wire_mm for one in passing)
    if other.woven is not None:  # what fits round its inside its weave says
        return
    if opening is None or len(passing) < 2 or total <= opening:
        return
    if any(one.wire_mm > opening - CLEARANCE_MM for one in passing):
        return  # said already, one by one
    what = "rings" if all(one.what == "ring" for one in passing) else "rings and loops"
    yield Check(
        code="opening-too-full",
        severity="stop",
        place=member_name(other, port),
        message=(
            f"{len(passing)} {what} share the {opening:.2f} mm opening of "
            f"“{assembly.thing(other).name}”; their wires take {total:.2f} mm."
        ),
        repair="take thinner ones, or hang some from the next link",
        run=other.run,
        item=other.item,
    )
