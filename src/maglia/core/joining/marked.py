"""What was done: how marks name where it stands and what it took, and which joints it made."""

from collections import Counter
from collections.abc import Mapping

from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.joining.openers import Joints, Opener
from maglia.core.values.record import Record, Value


class Mark(Record, frozen=True, kw_only=True):
    """One thing that was done: where, what it was (as a sign that compares), whether it can be done
    again, what it is called, and of a closing the places of all that it took."""

    place: str
    sign: str = ""
    sort: str = "again"
    words: str = ""
    took: tuple[str, ...] = ()


class Finished(Value, frozen=True):
    """The openers that are closed already, and the joints that each of them made."""

    closed: frozenset[Opener] = frozenset()
    made: Mapping[int, Opener] = {}


NOTHING_YET = Finished()


def finished(assembly: Assembly, joints: Joints, done: Mapping[str, Mark]) -> Finished:
    """What is done, by its place, found again in an assembly, as far as it is still there: joint by
    joint where a mark says what it took; marks of before they did so by what that was called."""
    members = assembly.members
    took: dict[Opener, Counter[str]] = {}
    exact: set[Opener] = set()
    for opener in joints.sorts:
        mark = done.get(place_of(members[opener.member], opener.port))
        if mark is None:
            continue
        took[opener] = Counter(mark.took or mark.sign.split("|")[1:])
        if mark.took:
            exact.add(opener)
    made: dict[int, Opener] = {}
    for number in joints.to_make:
        one, other = joints.ends[number]
        for own, far in ((one, other), (other, one)):
            if own not in took or number in made:
                continue
            name = place_of if own in exact else label_of
            label = name(members[far.member], far.port)
            if took[own][label]:
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
