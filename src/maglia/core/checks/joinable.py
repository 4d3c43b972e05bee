"""Can every joint be closed? The joining plan says which cannot: closed ring to soldered link, two
parts that never open, what cannot be threaded any more.
"""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Member, member_name
from maglia.core.assembly.ports import Port
from maglia.core.checks.found import Check
from maglia.core.joining.culprits import Culprit, culprits_of
from maglia.core.joining.openers import passes_over
from maglia.core.joining.plan import Plan
from maglia.core.parts.units import BeadLink
from maglia.core.sheets.bite import opening_mm
from maglia.core.sheets.lengths import member_width_mm


def check(assembly: Assembly, plan: Plan) -> Iterator[Check]:
    yield from _crosswise(assembly)
    for culprit in culprits_of(assembly, plan):
        joint = assembly.joints[culprit.joints[0]]
        a, b = assembly.members[joint.a], assembly.members[joint.b]
        bail = not joint.inline and a.kind == "chain" and b.kind in ("charm", "connector")
        found = (
            _too_narrow(assembly, a, b, joint.port_b)
            if bail and not passes_over(assembly, joint)
            else _unjoined(assembly, culprit, a, joint.port_a)
        )
        yield found.times(len(culprit.joints))


def _unjoined(assembly: Assembly, culprit: Culprit, at: Member, port: Port) -> Check:
    one, other = (assembly.thing(assembly.members[m]).name for m in culprit.cycle)
    said = f"Nothing opens between “{one}” and “{other}”."
    return Check(
        code="cannot-be-joined",
        severity="stop",
        place=member_name(at, port),
        message=culprit.says if culprit.threaded else said,
        repair="put an open ring between them",
        run=at.run,
        item=at.item,
    )


def _too_narrow(assembly: Assembly, chain: Member, bail: Member, port: Port) -> Check:
    """A bail passes over the chain it rides on, or cannot be put on at all."""
    opening, wide = opening_mm(assembly, bail, port), member_width_mm(assembly, chain)
    return Check(
        code="bail-too-narrow",
        severity="stop",
        place=member_name(bail),
        message=(
            f"“{assembly.thing(chain).name}”, {wide:.1f} mm wide, does not pass the "
            f"{opening or 0:.1f} mm of “{assembly.thing(bail).name}”, and nothing opens there."
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
