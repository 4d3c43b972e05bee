"""Wire and thread: does it pass the beads, does it hold them, does it carry them.

Geometry: wire ≤ hole − 0.05 mm, n passes take n wires; the head at the foot of a dangle is larger
than the hole it stops at. Trade custom: 0.4–0.5 mm wire to 4 mm beads, 0.64 mm to 10 mm, 0.8 mm
above; loops of 1.5–3 mm inside. Mechanics: a strand's breaking load is at least ten times its
weight.
"""

import math
from collections.abc import Iterator, Sequence

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly, Member, member_name
from maglia.core.checks.found import Check
from maglia.core.checks.openings import CLEARANCE_MM
from maglia.core.parts.parts import Bead, Pin, Wire
from maglia.core.parts.units import (
    BeadLink,
    Dangle,
    Tassel,
    Thing,
    faced,
    legs_of,
    loops_of,
    wire_mm_of,
    wire_needed_mm,
)
from maglia.core.piece.items import StrungItem
from maglia.core.piece.needed import made_of
from maglia.core.sheets.mass import masses_g, unweighed
from maglia.core.values.references import things_named

GAUGES = ((4.0, 0.4, 0.5), (10.0, 0.5, 0.64), (float("inf"), 0.64, 0.8))
"""Beads up to a width, and the wire that suits them, mm; a tenth over is let pass."""
SLACK = 1.3
TIMES_ITS_WEIGHT = 10.0


def check(assembly: Assembly) -> Iterator[Check]:
    seen: set[str] = set()
    masses = masses_g(assembly)
    for member in assembly.members:
        thing = assembly.thing(member)
        if isinstance(thing, BeadLink | Dangle) and thing.id not in seen:
            seen.add(thing.id)
            yield from _unit(assembly, member, thing)
        if isinstance(thing, Tassel) and thing.id not in seen:
            seen.add(thing.id)
            yield from _halo(assembly, member, thing)
        if member.strung is not None:
            yield from _caps(assembly, member, member.strung.beads, member_name(member), None)
            yield from _strung(assembly, member, masses[member.id])


def _unit(assembly: Assembly, member: Member, unit: BeadLink | Dangle) -> Iterator[Check]:
    wire = assembly.things.get(unit.wire)
    wire_mm = wire_mm_of(wire)
    beads = [assembly.things[ref] for ref in (*legs_of(unit), *unit.stack)]
    if wire_mm is None:
        return
    for bead in beads:
        hole = _hole_mm(bead)
        if hole is not None and wire_mm > hole - CLEARANCE_MM:
            bare = _no_way(member, unit.name, bead, f"{wire_mm:.2f} mm wire", hole)
            yield replace(bare, thing=unit.id)
    last, head = beads[-1], _head_mm(wire)
    hole = _hole_mm(last)
    if isinstance(unit, Dangle) and head is not None and hole is not None and head <= hole:
        yield Check(
            code="slips-off",
            severity="stop",
            place=unit.name,
            thing=unit.id,
            message=(
                f"The head of {head:.1f} mm slips through the {hole:.1f} mm hole of “{last.name}”."
            ),
            repair="put a smaller bead or a cap below it",
            run=member.run,
            item=member.item,
        )
    yield from _caps(assembly, member, unit.stack, unit.name, unit.id)
    yield from _no_spiral(member, unit, wire, wire_mm)
    if isinstance(unit, Dangle) and unit.crossed and isinstance(wire, Pin):
        yield Check(
            code="legs-on-pin",
            severity="stop",
            place=unit.name,
            thing=unit.id,
            message=f"“{wire.name}” ends in a head: it does not come up again on the other side.",
            repair="make it on wire",
            run=member.run,
            item=member.item,
        )
    yield from _too_short(assembly, member, unit, wire)
    yield from _no_loop(member, unit, wire)
    yield from _custom(assembly, member, unit, wire, wire_mm)


def _no_spiral(
    member: Member, unit: BeadLink | Dangle, wire: Thing | None, wire_mm: float
) -> Iterator[Check]:
    """A spiral is wound of wire, two turns wide at least; a pin has a head in its place."""
    if not isinstance(unit, Dangle) or unit.spiral_mm is None:
        return
    if isinstance(wire, Wire) and unit.spiral_mm >= 3 * wire_mm:
        return
    yield Check(
        code="no-spiral",
        severity="attention",
        place=unit.name,
        thing=unit.id,
        message=(
            f"“{wire.name}” ends in a head: no spiral is wound of it."
            if isinstance(wire, Pin)
            else f"A spiral of {unit.spiral_mm:.1f} mm is too small for {wire_mm:.1f} mm wire."
        ),
        repair="make it on wire" if isinstance(wire, Pin) else f"make it {3 * wire_mm:.1f} mm wide",
        run=member.run,
        item=member.item,
    )


def _caps(
    assembly: Assembly, member: Member, refs: Sequence[object], place: str, of: str | None
) -> Iterator[Check]:
    """A cap that says how deep it sits has a bead beside it to sit on, longer than that."""
    seen = set()
    for ref, over in zip(refs, faced(refs, assembly.things), strict=True):
        cap = assembly.things.get(str(ref))
        if ref in seen or not isinstance(cap, Bead) or not cap.covers_mm:
            continue
        under = assembly.things[str(refs[over])] if over is not None else None
        long = under.length_mm if isinstance(under, Bead) else None
        if under is not None and (long is None or long > cap.covers_mm):
            continue
        seen.add(ref)
        what = f"“{under.name}” is {long:.1f} mm long" if under else "no bead lies beside it"
        yield Check(
            code="cap-sits-on-nothing",
            severity="attention",
            place=place,
            thing=of,
            message=f"“{cap.name}” is to sit {cap.covers_mm:.1f} mm over a bead, and {what}.",
            repair="put a bead beside it, or say no depth for this cap",
            run=member.run,
            item=member.item,
        )


def _halo(assembly: Assembly, member: Member, tassel: Tassel) -> Iterator[Check]:
    """Small beads round a neck close it: their string is as long as the circle of their middles,
    to half a bead."""
    bead = assembly.things.get(tassel.halo or "")
    if not isinstance(bead, Bead) or not bead.width_mm or not tassel.halo_count:
        return
    ring = math.pi * (tassel.neck_mm + bead.width_mm)
    along = bead.length_mm or bead.width_mm
    right = round(ring / along)
    if abs(tassel.halo_count - right) <= 0.5:
        return
    many = "too many" if tassel.halo_count > right else "too few"
    yield Check(
        code="halo-does-not-close",
        severity="attention",
        place=tassel.name,
        thing=tassel.id,
        message=(
            f"{tassel.halo_count} beads of {along:.1f} mm are {many} round a neck of "
            f"{tassel.neck_mm:.1f} mm."
        ),
        repair=f"take {right}",
        run=member.run,
        item=member.item,
    )


def _too_short(
    assembly: Assembly, member: Member, unit: BeadLink | Dangle, wire: Thing | None
) -> Iterator[Check]:
    """A pin is long enough: stack + π × (loop inner + wire) [+ wraps] ≤ its length."""
    needed = wire_needed_mm(unit, assembly.things, assembly.rules)
    if not isinstance(wire, Pin) or wire.length_mm is None or needed is None:
        return
    if needed <= wire.length_mm:
        return
    yield Check(
        code="pin-too-short",
        severity="stop",
        place=unit.name,
        thing=unit.id,
        message=(
            f"“{wire.name}” of {wire.length_mm:.1f} mm is {needed - wire.length_mm:.1f} mm too "
            f"short: stack and loop take {needed:.1f} mm."
        ),
        repair="take a longer pin or wire, a smaller loop, or fewer beads",
        run=member.run,
        item=member.item,
    )


def _no_loop(member: Member, unit: BeadLink | Dangle, wire: Thing | None) -> Iterator[Check]:
    """A loop is turned in wire; what is soft holds none."""
    if not isinstance(wire, Wire) or wire.sort in ("wire", "memory coil"):
        return
    yield Check(
        code="loop-of-thread",
        severity="stop",
        place=unit.name,
        thing=unit.id,
        message=f"Its loops are of {wire.sort} (“{wire.name}”), and no loop turned in that holds.",
        repair="take wire, or string the beads and finish the ends",
        run=member.run,
        item=member.item,
    )


def _meant_large(assembly: Assembly, unit: BeadLink | Dangle) -> set[int]:
    """Loops of a unit, 0 near and 1 far, that are a catch for the clasp or a bail on a strand."""
    strands = {run.name for run in assembly.runs if run.kind == "strand"}
    found = set()
    for member in assembly.members:
        if member.ref != unit.id:
            continue
        for joint in assembly.joints_of[member.id]:
            mine = joint.a == member.id
            port, other = (joint.port_a, joint.b) if mine else (joint.port_b, joint.a)
            bitten = other == assembly.clasp
            rides = not joint.inline and not mine and assembly.members[other].run in strands
            if bitten or rides:
                found.add(1 if port == "b" else 0)
    return found


def _hole_mm(thing: Thing) -> float | None:
    return thing.hole_mm if isinstance(thing, Bead) else None


def _head_mm(wire: Thing | None) -> float | None:
    """The head of a head pin, mm; None for what has none or of unknown size."""
    return wire.head_mm if isinstance(wire, Pin) and wire.head == "head" else None


def _custom(
    assembly: Assembly,
    member: Member,
    unit: BeadLink | Dangle,
    wire: Thing | None,
    wire_mm: float,
) -> Iterator[Check]:
    rules, large_meant = assembly.rules, _meant_large(assembly, unit)
    beads = [assembly.things[ref] for ref in unit.stack]
    width = max((b.width_mm or 0.0 for b in beads if isinstance(b, Bead)), default=0.0)
    low, high = next((a, b) for top, a, b in GAUGES if width <= top)
    if isinstance(wire, Wire) and width and not low / SLACK <= wire_mm <= high * SLACK:
        yield Check(
            code="wire-gauge",
            severity="note",
            place=unit.name,
            thing=unit.id,
            message=(
                f"Wire of {wire_mm:.2f} mm is unusual for beads of {width:.0f} mm: {low:g} to "
                f"{high:g} mm is the custom."
            ),
            repair="take another wire, or keep it with a note",
            run=member.run,
            item=member.item,
        )
    for k, loop in enumerate(loops_of(unit)):
        if k in large_meant and loop.inner_mm > rules.loop_most_mm:
            continue
        if loop.inner_mm < rules.loop_least_mm or loop.inner_mm > rules.loop_most_mm + 1.0:
            yield Check(
                code="loop-size",
                severity="note",
                place=unit.name,
                thing=unit.id,
                message=f"A loop of {loop.inner_mm:.1f} mm inside: "
                f"{rules.loop_least_mm:g} to {rules.loop_most_mm:g} mm is the custom.",
                repair="turn it smaller or larger, or keep it with a note",
                run=member.run,
                item=member.item,
            )


def _no_way(member: Member, where: str, bead: Thing, what: str, hole: float) -> Check:
    return Check(
        code="does-not-pass-bead",
        severity="stop",
        place=where,
        message=f"{what.capitalize()} does not pass the {hole:.2f} mm hole of “{bead.name}”.",
        repair="take thinner wire, or a bead with a larger hole",
        run=member.run,
        item=member.item,
    )


def _sure(assembly: Assembly, item: StrungItem) -> str:
    made = {thing.id for thing in made_of(things_named(item), assembly.things)}
    return "at least " if made & set(unweighed(assembly)) else ""


def _strung(assembly: Assembly, member: Member, mass: float) -> Iterator[Check]:
    item, thread = member.strung, assembly.thing(member)
    assert item is not None
    if isinstance(thread, Wire) and thread.wire_mm is not None:
        through = item.strands * thread.wire_mm
        for ref in dict.fromkeys(item.refs):
            bead = assembly.things[ref]
            hole = _hole_mm(bead)
            if hole is not None and through > hole - CLEARANCE_MM:
                passes = f"{item.strands} × {thread.wire_mm:.2f} mm of “{thread.name}”"
                yield _no_way(member, member_name(member), bead, passes, hole)
    load = thread.breaking_load_g if isinstance(thread, Wire) else None
    if load is not None and load * item.strands < TIMES_ITS_WEIGHT * mass:
        yield Check(
            code="thread-too-weak",
            severity="attention",
            place=member_name(member),
            message=(
                f"“{thread.name}” breaks at about {load * item.strands:.0f} g and carries "
                f"{_sure(assembly, item)}{mass:.0f} g; ten times as much is the custom."
            ),
            repair="take stronger thread, or more strands of it",
            run=member.run,
            item=member.item,
        )
