"""Can the clasp bite its catch, whatever that is? See `maglia.core.sheets.bite`."""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Joint, Member, member_name
from maglia.core.assembly.ports import Port
from maglia.core.checks.found import Check
from maglia.core.parts.parts import Clasp
from maglia.core.sheets.bite import cannot_bite, cannot_pass, opening_mm, thickness_at


def check(assembly: Assembly) -> Iterator[Check]:
    if assembly.clasp is None or assembly.catch is None:
        return
    yield from _no_mending_ring(assembly)
    clasp = assembly.thing(assembly.members[assembly.clasp])
    bitten = next((j for j in assembly.joints_of[assembly.clasp] if _bitten(assembly, j)), None)
    if not isinstance(clasp, Clasp) or bitten is None:
        return
    member, port = _other(assembly, bitten)
    inner = opening_mm(assembly, member, port)
    wire = thickness_at(assembly, member, port) or None
    for reason, repair in cannot_pass(assembly, clasp, inner):
        yield Check(
            code="toggle-cannot-reach",
            severity="stop",
            place=member_name(member),
            message=f"The bar cannot be drawn through its ring: {reason}.",
            repair=repair,
            run=member.run,
            item=member.item,
        )
    for reason, repair in cannot_bite(clasp, inner, wire, assembly.rules):
        yield Check(
            code="clasp-cannot-bite",
            severity="stop",
            place=member_name(member),
            message=f"“{clasp.name}” cannot bite “{assembly.thing(member).name}”: {reason}.",
            repair=repair,
            run=member.run,
            item=member.item,
        )


def _bitten(assembly: Assembly, joint: Joint) -> bool:
    return (joint.port_a if joint.a == assembly.clasp else joint.port_b) == "bite"


def _other(assembly: Assembly, joint: Joint) -> tuple[Member, Port]:
    if joint.a == assembly.clasp:
        return assembly.members[joint.b], joint.port_b
    return assembly.members[joint.a], joint.port_a


def _no_mending_ring(assembly: Assembly) -> Iterator[Check]:
    """One plain ring at each end, so that a length can be mended without restringing."""
    main = assembly.main
    if main is None or not main.closed:
        return
    line = [assembly.members[s.members[0]] for s in main.stations]
    closing = [m.kind in ("clasp", "ring") and m.run != main.run and m.item < 3 for m in line]
    for k, member in enumerate(line):
        if member.strung is not None and (closing[k - 1] or closing[(k + 1) % len(line)]):
            yield Check(
                code="no-mending-ring",
                severity="note",
                place=member_name(member),
                message="The strung end is joined to the clasp: to mend it, all is restrung.",
                repair="put a plain ring between them",
                run=member.run,
                item=member.item,
            )
