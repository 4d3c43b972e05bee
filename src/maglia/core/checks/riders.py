"""What slides along a chain or thread: it passes over what it rides on, and something stops it at
both ends. Geometry.
"""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Joint, Member, member_name
from maglia.core.assembly.ports import stops_of
from maglia.core.checks.found import Check
from maglia.core.checks.openings import CLEARANCE_MM
from maglia.core.parts.parts import End
from maglia.core.sheets.bite import opening_mm
from maglia.core.sheets.lengths import member_width_mm, widths_mm


def check(assembly: Assembly) -> Iterator[Check]:
    for joint in assembly.joints:
        stops = stops_of(joint.port_a)
        if stops is None:
            continue
        host, rider = assembly.members[joint.a], assembly.members[joint.b]
        opening = opening_mm(assembly, rider, joint.port_b)
        if opening is None:
            continue
        yield from _too_narrow(assembly, host, rider, opening, stops)
        if stops[1]:
            yield from _passed(assembly, host, rider, opening, stops)
        else:
            yield from _unstopped(assembly, joint, opening)


def _too_narrow(
    assembly: Assembly, host: Member, rider: Member, opening: float, stops: tuple[int, int]
) -> Iterator[Check]:
    between = range(stops[0] + 1, stops[1]) if stops[1] else None
    wide = member_width_mm(assembly, host)
    if between is not None:
        wide = max(widths_mm(assembly, host)[number - 1] for number in between)
    if wide > opening - CLEARANCE_MM:
        yield Check(
            code="rider-too-narrow",
            severity="stop",
            place=member_name(rider),
            message=(
                f"“{assembly.thing(rider).name}”, {opening:.1f} mm inside, does not slide over "
                f"“{assembly.thing(host).name}”, {wide:.1f} mm wide."
            ),
            repair=f"take one of more than {wide + CLEARANCE_MM:.1f} mm inside",
            run=rider.run,
            item=rider.item,
        )


def _passed(
    assembly: Assembly, host: Member, rider: Member, opening: float, stops: tuple[int, int]
) -> Iterator[Check]:
    """The links or beads that it is to stop at are wider than it is inside."""
    for number in stops:
        wide = widths_mm(assembly, host)[number - 1]
        if wide > opening - CLEARANCE_MM:
            continue
        what = "link" if host.kind == "chain" else "bead"
        yield _without_stop(
            assembly,
            rider,
            f"it slides over {what} {number} of “{assembly.thing(host).name}”, {wide:.1f} mm wide",
        )
        return


def _unstopped(assembly: Assembly, joint: Joint, opening: float) -> Iterator[Check]:
    """At both ends of what it rides on stands something that it does not pass."""
    host = assembly.members[joint.a]
    beside = [
        assembly.members[other.b if other.a == host.id else other.a]
        for other in assembly.joints_of[host.id]
        if other.inline
    ]
    if host.strung is not None and all(
        isinstance(end := assembly.things.get(way.end or ""), End)
        and (end.width_mm or 0.0) > opening - CLEARANCE_MM
        for way in host.strung.ends
    ):
        return  # the clamps or cord ends at its ends do
    past = [m for m in beside if 0 < member_width_mm(assembly, m) <= opening - CLEARANCE_MM]
    if not past and len(beside) == 2:
        return
    over = f"over “{assembly.thing(past[0]).name}”" if past else "off its open end"
    yield _without_stop(assembly, assembly.members[joint.b], f"it slides {over}")


def _without_stop(assembly: Assembly, rider: Member, why: str) -> Check:
    return Check(
        code="rider-without-stop",
        severity="attention",
        place=member_name(rider),
        message=f"Nothing stops “{assembly.thing(rider).name}”: {why}.",
        repair="put something wider there, or take a smaller rider",
        run=rider.run,
        item=rider.item,
    )
