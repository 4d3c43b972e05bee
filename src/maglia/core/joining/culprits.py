"""What cannot be joined, and why: joints that never open, and circles of threading."""

from maglia.core.assembly.assembly import Assembly, member_name
from maglia.core.joining.openers import Opener
from maglia.core.joining.plan import Plan
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Tassel
from maglia.core.values.record import Value


class Culprit(Value, frozen=True):
    """Joints of one kind that cannot be made: between which parts, members in a short cycle, and
    what to do."""

    joints: tuple[int, ...]
    between: tuple[str, str]
    cycle: tuple[int, ...]
    says: str
    threaded: bool = False
    """Whether something there should have been threaded on in time."""


def culprits_of(assembly: Assembly, plan: Plan) -> tuple[Culprit, ...]:
    """One for every pair of parts, with all their joints; the first names the place."""
    found: dict[tuple[str, str], list[int]] = {}
    for number in plan.stuck:
        one, other = plan.joints.ends[number]
        refs = sorted((assembly.members[one.member].ref, assembly.members[other.member].ref))
        found.setdefault((refs[0], refs[1]), []).append(number)
    return tuple(_culprit(assembly, plan, pair, tuple(own)) for pair, own in found.items())


def _culprit(
    assembly: Assembly, plan: Plan, between: tuple[str, str], joints: tuple[int, ...]
) -> Culprit:
    one, other = plan.joints.ends[joints[0]]
    members, names = assembly.members, []
    for opener in (one, other):
        member = members[opener.member]
        names.append(f"{member_name(member, opener.port)} ({_why(assembly, opener)})")
    more = f", and {len(joints) - 1} more like it" if len(joints) > 1 else ""
    threads = [o for o in (one, other) if plan.joints.sorts[o] == "threaded"]
    if threads:
        rider = member_name(members[threads[0].member])
        says = (f"{rider} must be threaded on before both ends of what carries it are shut, and "
                f"neither end can wait{more}: leave one end open longer, or hang it by an open "
                "ring.")  # fmt: skip
    else:
        says = (f"Nothing opens between {names[0]} and {names[1]}{more}: put an open ring between "
                "them, or open one of the two.")  # fmt: skip
    return Culprit(joints, between, (one.member, other.member), says, bool(threads))


def _why(assembly: Assembly, opener: Opener) -> str:
    thing = assembly.thing(assembly.members[opener.member])
    name = f"“{thing.name}”"
    if isinstance(thing, Ring):
        return f"{name} is bought {'closed' if thing.closure == 'closed' else thing.closure}"
    if isinstance(thing, Tassel):
        return f"{name} is bound on its closed ring"
    return {"chain": f"{name} is soldered", "connector": f"a hole of {name}",
            "charm": f"{name} has a closed loop", "clasp": f"the eye of {name}"}.get(
        thing.kind, f"{name} does not open")  # fmt: skip
