"""What opens: every place where a member can be closed round another, and how.

*Again*: open or split ring, simple loop, far end of a hook link, link of openable chain, ear
finding, bead tip. *Once*: wrapped or doubled loop, both ends of a thread. *Threaded*: what goes on
a thread or over a chain before its second end is made. *Never*: soldered link, hole, bail, eye,
closed or elastic ring, a tassel bound on its ring. A clasp's bite is no joint to close.
"""

from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

from maglia.core.assembly.assembly import Assembly, Joint, Member
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.ports import BIGHT, Port, stops_of
from maglia.core.parts.parts import Chain, EarFinding, End, Ring
from maglia.core.parts.units import BeadLink, Dangle, HookLink, far_loop
from maglia.core.sheets.bite import opening_mm
from maglia.core.sheets.lengths import member_width_mm
from maglia.core.values.record import Value

Sort = Literal["again", "once", "threaded", "never"]
CLEARANCE_MM = 0.05
"""By so much a hole must be wider than what passes it."""
BITE = "bite"


class Opener(NamedTuple):
    """A port of a member; the ends of a thread are `a` and `b`."""

    member: int
    port: Port


Ends = tuple[Opener, Opener]


class Joints(Value, frozen=True):
    """What there is to join: for each joint of the assembly its two openers; those that are made
    with their unit (`before`) and the bites of a clasp are left out of `to_make`. `sorts` says of
    every opener how it opens."""

    ends: tuple[Ends, ...]
    before: frozenset[int]
    bites: frozenset[int]
    to_make: tuple[int, ...]
    sorts: Mapping[Opener, Sort]


def joints_of(assembly: Assembly) -> Joints:
    """Every joint by the openers that lie in it. Linear in the number of joints."""
    used: set[Opener] = set()
    ends: list[Ends] = []
    before: set[int] = set()
    bites: set[int] = set()
    sorts: dict[Opener, Sort] = {}
    for number, joint in enumerate(assembly.joints):
        pair = _ends(assembly, joint, used)
        ends.append(pair)
        used.update(pair)
        if BITE in (joint.port_a, joint.port_b):
            bites.add(number)
        elif _is_mid(assembly, joint):
            before.add(number)
        for opener in pair:
            if opener not in sorts:
                sorts[opener] = sort_of(assembly, opener)
        if _goes_over(assembly, joint, pair, sorts):
            sorts[pair[1]] = "threaded"
    out = before | bites
    to_make = tuple(n for n in range(len(ends)) if n not in out)
    return Joints(tuple(ends), frozenset(before), frozenset(bites), to_make, sorts)


def _is_mid(assembly: Assembly, joint: Joint) -> bool:
    """A mid ring is threaded while its link is made; a rubber is folded over its ring."""
    pairs = ((joint.a, joint.port_a), (joint.b, joint.port_b))
    if BIGHT in (joint.port_a, joint.port_b):
        return True
    return any(port == "mid" and isinstance(assembly.thing(assembly.members[m]), BeadLink)
               for m, port in pairs)  # fmt: skip


def _ends(assembly: Assembly, joint: Joint, used: set[Opener]) -> Ends:
    a, b = assembly.members[joint.a], assembly.members[joint.b]
    one = _thread_end(a, joint.port_a, used, last=True) if a.strung and joint.inline else None
    other = _thread_end(b, joint.port_b, used, last=False) if b.strung else None
    return Opener(a.id, one or joint.port_a), Opener(b.id, other or joint.port_b)


def _thread_end(member: Member, port: Port, used: set[Opener], *, last: bool) -> str | None:
    """Which end of a thread a path enters or leaves by; None for a place along it. A single bead is
    both its first and its last: then the end that is still free."""
    if port not in (1, member.links):
        return None
    if member.links > 1:
        return "a" if port == 1 else "b"
    near, far = ("b", "a") if last else ("a", "b")
    return far if Opener(member.id, near) in used else near


def sort_of(assembly: Assembly, opener: Opener) -> Sort:
    """How a member opens at a port."""
    member = assembly.members[opener.member]
    if member.strung is not None:
        return "once" if opener.port in ("a", "b") else "threaded"
    thing = assembly.thing(member)
    again = False
    if isinstance(thing, Ring):
        again = thing.closure in ("open", "split")
    elif isinstance(thing, Chain):
        again = thing.openable and stops_of(opener.port) is None
    elif isinstance(thing, BeadLink | Dangle):
        return _loop_sort(thing, opener.port)
    elif isinstance(thing, EarFinding):
        again = opener.port == "loop"
    elif isinstance(thing, End):
        again = thing.sort == "tip"
    return "again" if again else "never"


def _loop_sort(unit: BeadLink | Dangle, port: Port) -> Sort:
    if port == "mid":
        return "never"
    if isinstance(unit, HookLink) and port == "b":
        return "again"
    loop = far_loop(unit) if isinstance(unit, BeadLink) and port == "b" else unit.loop
    return "again" if loop.style == "simple" else "once"


def _goes_over(
    assembly: Assembly, joint: Joint, pair: Sequence[Opener], sorts: Mapping[Opener, Sort]
) -> bool:
    """Whether a closed bail or hole passes over the chain that it hangs on: then it is threaded on
    before the chain's second end is joined."""
    host, hung = pair
    chain = assembly.members[host.member]
    if joint.inline or chain.kind != "chain" or sorts[host] != "never" or sorts[hung] != "never":
        return False
    if stops_of(host.port) is not None:
        return True
    bail = assembly.members[hung.member].kind in ("charm", "connector")
    return bail and passes_over(assembly, joint)


def passes_over(assembly: Assembly, joint: Joint) -> bool:
    """Whether what hangs at a joint is wide enough for the chain it hangs on; what is not known is
    taken to be."""
    opening = opening_mm(assembly, assembly.members[joint.b], joint.port_b)
    wide = member_width_mm(assembly, assembly.members[joint.a])
    return opening is None or wide <= opening - CLEARANCE_MM


def is_catch(assembly: Assembly, member: Member) -> bool:
    """Whether it is the ring that a clasp or hooks close on: it stays closed if anything can."""
    return (
        member.id == assembly.catch
        and member.kind == "ring"
        and member.run == CLOSURE
        and (
            assembly.clasp is not None
            or any(assembly.members[n].kind == "hook link" for n in assembly.neighbours[member.id])
        )
    )
