"""Where in the piece a member stands: its strand, how deep that hangs, how far from the fold.

A strand is one physical copy of a run; depth is breadth-first over joined strands from the main
one, to which the closure belongs.
"""

from collections import defaultdict

from maglia.core.assembly.assembly import Assembly, Member, link_from_fold
from maglia.core.assembly.places import CLOSURE
from maglia.core.joining.openers import Joints, Opener
from maglia.core.values.record import Value

Strand = tuple[str, str]
_SIDES = {"fold": 0, "whole": 0, "left": 1, "right": 2}


class Strands(Value, frozen=True, dict=True):
    """The strand of each member, and of each strand its depth and the place of its run."""

    of: tuple[Strand, ...]
    depth: dict[Strand, int]
    order: dict[str, int]
    ties: frozenset[str]
    """Rows of tied links and what ties them."""
    rows: frozenset[str]
    """The rows themselves: they lie across the fold."""


def strands_of(assembly: Assembly, joints: Joints) -> Strands:
    """The strands of an assembly. Linear in members and joints."""
    main = assembly.main.run if assembly.main else (assembly.runs[0].name if assembly.runs else "")
    paired = {run.name for run in assembly.runs if run.lies == "paired"}
    of: list[Strand] = []
    for m in assembly.members:
        run = main if m.run == CLOSURE else m.run
        of.append((run, m.side if run in paired and m.run != CLOSURE else ""))
    beside: dict[Strand, dict[Strand, None]] = defaultdict(dict)
    for number, (one, other) in enumerate(joints.ends):
        s, t = of[one.member], of[other.member]
        if s != t and number not in joints.bites:
            beside[s][t] = beside[t][s] = None
    depth: dict[Strand, int] = {}
    for root in [(main, ""), *dict.fromkeys(of)]:
        if root in depth:
            continue
        depth[root], queue = 0, [root]
        for s in queue:
            for t in beside[s]:
                if t not in depth:
                    depth[t] = depth[s] + 1
                    queue.append(t)
    return Strands(
        tuple(of),
        depth,
        {run.name: k for k, run in enumerate(assembly.runs)},
        frozenset(r.name for r in assembly.runs if r.kind == "tie"),
        frozenset(r.name for r in assembly.runs if r.kind == "tie" and r.lies == "across"),
    )


def from_fold(member: Member, opener: Opener | None = None) -> tuple[int, int, int, int]:
    """How far out a member stands, to be sorted by: item, number or link, side, itself."""
    number = member.number
    if opener is not None and isinstance(opener.port, int) and member.kind == "chain":
        number = link_from_fold(member, opener.port)[1]
    return member.item, number, _SIDES[member.side], member.id
