"""What was done: how marks name where it stands and what it took, and which joints it made."""

from collections import Counter
from collections.abc import Mapping

from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.joining.openers import Joints, Opener
from maglia.core.values.record import Value


class Finished(Value, frozen=True):
    """The openers that are closed already, and the joints that each of them made."""

    closed: frozenset[Opener] = frozenset()
    made: Mapping[int, Opener] = {}


NOTHING_YET = Finished()


def finished(assembly: Assembly, joints: Joints, done: Mapping[str, str]) -> Finished:
    """What is done (place to sign) found again in an assembly, as far as it is still there."""
    members = assembly.members
    took: dict[Opener, Counter[str]] = {}
    for opener in joints.sorts:
        sign = done.get(place_of(members[opener.member], opener.port))
        if sign is not None:
            took[opener] = Counter(sign.split("|")[1:])
    made: dict[int, Opener] = {}
    for number in joints.to_make:
        one, other = joints.ends[number]
        for own, far in ((one, other), (other, one)):
            label = label_of(members[far.member], far.port)
            if number not in made and own in took and took[own][label]:
                took[own][label] -= 1
                made[number] = own
    return Finished(frozenset(took), made)


def place_of(member: Member, port: object) -> str:
    """A place in words that stay the same while nothing there is changed."""
    return f"{stand_of(member)}/{port}"


def stand_of(member: Member) -> str:
    """Where a member stands, in such words."""
    within = f".{member.ordinal}" if member.made_in else ""
    if member.woven is not None:
        within = f".{member.woven.abreast + 1}"
    return f"{member.run}/{member.side}/{member.item}.{member.number}{within}"


def label_of(member: Member, port: object) -> str:
    """What a mark calls something that was taken: its part, where, and its links."""
    return f"{member.ref}:{port}:{member.links}"
