"""What slides along a chain or thread: it passes over what it rides on, and something stops it at
both ends. Geometry.
"""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Joint, Member, member_name
from maglia.core.assembly.places import RIDES
from maglia.core.checks.found import Check
from maglia.core.checks.openings import CLEARANCE_MM
from maglia.core.sheets.bite import opening_mm
from maglia.core.sheets.lengths import member_width_mm


def check(assembly: Assembly) -> Iterator[Check]:
    for joint in assembly.joints:
        if joint.port_a != RIDES:
            continue
        host, rider = assembly.members[joint.a], assembly.members[joint.b]
        opening = opening_mm(assembly, rider, joint.port_b)
        if opening is None:
            continue
        yield from _too_narrow(assembly, host, rider, opening)
        yield from _unstopped(assembly, joint, opening)


def _too_narrow(assembly: Assembly, host: Member, rider: Member, opening: float) -> Iterator[Check]:
    wide = member_width_mm(assembly, host)
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


def _unstopped(assembly: Assembly, joint: Joint, opening: float) -> Iterator[Check]:
    """At both ends of what it rides on stands something that it does not pass."""
    host = assembly.members[joint.a]
    beside = [
        assembly.members[other.b if other.a == host.id else other.a]
        for other in assembly.joints_of[host.id]
        if other.inline
    ]
    past = [m for m in beside if 0 < member_width_mm(assembly, m) <= opening - CLEARANCE_MM]
    if not past and len(beside) == 2:
        return
    over = f"over “{assembly.thing(past[0]).name}”" if past else "off its open end"
    rider = assembly.members[joint.b]
    yield Check(
        code="rider-without-stop",
        severity="attention",
        place=member_name(rider),
        message=f"Nothing stops “{assembly.thing(rider).name}”: it slides {over}.",
        repair="put something wider there, or take a smaller rider",
        run=rider.run,
        item=rider.item,
    )
