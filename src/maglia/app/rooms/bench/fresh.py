"""What a phrase would add to a piece: members of one assembly that another has not."""

from maglia.core.assembly.assembly import Assembly, Member


def fresh_members(old: Assembly, new: Assembly) -> frozenset[int]:
    """Members of an assembly that another has not: those between what is alike at both ends of a
    run."""
    found: set[int] = set()
    before = _by_run(old)
    for key, members in _by_run(new).items():
        own = [(m.ref, m.links) for m in members]
        other = [(m.ref, m.links) for m in before.get(key, [])]
        head = 0
        while head < min(len(own), len(other)) and own[head] == other[head]:
            head += 1
        tail = 0
        while tail < min(len(own), len(other)) - head and own[-1 - tail] == other[-1 - tail]:
            tail += 1
        found |= {m.id for m in members[head : len(members) - tail]}
    return frozenset(found)


def _by_run(assembly: Assembly) -> dict[tuple[str, str], list[Member]]:
    found: dict[tuple[str, str], list[Member]] = {}
    for member in assembly.members:
        found.setdefault((member.run, member.side), []).append(member)
    return found
