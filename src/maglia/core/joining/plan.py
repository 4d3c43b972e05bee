"""The joining plan of an assembly: what is closed on the piece, in order, and what cannot be.

Raises nothing: a piece that cannot be made has its culprits named, and all else is still planned.
"""

from collections.abc import Mapping

from maglia.core.assembly.assembly import Assembly
from maglia.core.joining.cover import Cover, cover_of
from maglia.core.joining.marked import NOTHING_YET, Mark, finished
from maglia.core.joining.mirror import Mirror, mirror_of
from maglia.core.joining.openers import Joints, joints_of
from maglia.core.joining.order import Closing, ordered
from maglia.core.joining.strands import Strands, strands_of
from maglia.core.joining.ways import USUAL, Working
from maglia.core.values.record import Value


class Plan(Value, frozen=True):
    """Every closing in order. `stuck` are the joints that nothing can close or thread."""

    working: Working
    joints: Joints
    mirror: Mirror
    strands: Strands
    closings: tuple[Closing, ...]
    stuck: tuple[int, ...]
    opened: frozenset[int]
    """Members that are opened and closed on the piece: rings among them."""

    @property
    def feasible(self) -> bool:
        return not self.stuck


def joining_plan(
    assembly: Assembly, working: Working = USUAL, done: Mapping[str, Mark] | None = None
) -> Plan:
    """What is closed on the piece and in which order a person would do it. What is `done` already
    (marks by their places) stays as it is wherever it can."""
    joints = joints_of(assembly)
    mirror, strands = mirror_of(assembly), strands_of(assembly, joints)
    so_far = finished(assembly, joints, done) if done else NOTHING_YET
    cover: Cover = cover_of(assembly, joints, mirror, working, so_far)
    found = ordered(assembly, joints, cover, strands, working, so_far)
    blocked = set(found.blocked)
    stuck = {*cover.stuck, *(n for n in joints.to_make if blocked & set(joints.ends[n]))}
    opened = frozenset(c.opener.member for c in found.closings if c.sort == "again")
    return Plan(working, joints, mirror, strands, found.closings, tuple(sorted(stuck)), opened)
