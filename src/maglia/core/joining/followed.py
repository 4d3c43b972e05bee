"""Places through an edit: what a part that stays is called afterwards, so that what is finished
stays finished though something was put in before it.
"""

from collections.abc import Collection, Iterator, Mapping, Sequence
from difflib import SequenceMatcher

from maglia.core.assembly.assembly import Assembly
from maglia.core.joining.marked import stand_of

GONE = "gone "
Stands = dict[str, list[tuple[str, str]]]
"""Of each run and side, how its members are named and what they are, in order."""


def followed(before: Assembly, after: Assembly, moved: Mapping[str, str]) -> dict[str, str]:
    """Where the parts of one assembly stand in another, as far as that is called otherwise. What
    follows each other along a run is matched part by part; `moved` says how runs are called now, by
    how their places begin. What is gone gets a name that nothing bears."""
    there = _stands(after)
    found = {}
    for way, old in _stands(before).items():
        new = there.get(moved.get(way, way), [])
        to = {own: new[other][0] for own, other in
              _alike([ref for _, ref in old], [ref for _, ref in new])}  # fmt: skip
        for k, (stand, _) in enumerate(old):
            if to.get(k, GONE + stand) != stand:
                found[stand] = to.get(k, GONE + stand)
    return found


def _stands(assembly: Assembly) -> Stands:
    found: Stands = {}
    for member in assembly.members:
        way = f"{member.run}/{member.side}/"
        found.setdefault(way, []).append((stand_of(member), f"{member.ref} {member.made_in}"))
    return found


def _alike(old: list[str], new: list[str]) -> Iterator[tuple[int, int]]:
    """Pairs of what is the same, in order: from the front, from the end, and what lies between."""
    most = min(len(old), len(new))
    front = next((k for k in range(most) if old[k] != new[k]), most)
    rest = most - front
    back = next((k for k in range(rest) if old[-1 - k] != new[-1 - k]), rest)
    yield from ((k, k) for k in range(front))
    middle = old[front : len(old) - back], new[front : len(new) - back]
    for block in SequenceMatcher(None, *middle, autojunk=False).get_matching_blocks():
        yield from ((front + block.a + k, front + block.b + k) for k in range(block.size))
    yield from ((len(old) - k, len(new) - k) for k in range(back, 0, -1))


def renamed(places: Collection[str], stands: Mapping[str, str]) -> dict[str, str]:
    """Places of marks that bear another name: a stand and a port, or a verb before them. No two
    come to bear the same."""
    found: dict[str, str] = {}
    for place in places:
        stand, _, port = place.rpartition("/")
        verb, _, rest = stand.partition("/")
        if stand in stands:
            found[place] = f"{stands[stand]}/{port}"
        elif rest in stands:
            found[place] = f"{verb}/{stands[rest]}/{port}"
    taken = set(places) - set(found)
    for place, name in found.items():
        while name in taken:  # only of what has gone before
            name = GONE + name
        found[place] = name
        taken.add(name)
    return found


def renamed_took(
    took: Mapping[str, Sequence[str]], stands: Mapping[str, str]
) -> dict[str, tuple[str, ...]]:
    """By the places of marks, where all that they took stands now, of those for which that is
    called otherwise."""
    found = {}
    for place, far in took.items():
        now = tuple(_now(one, stands) for one in far)
        if now != tuple(far):
            found[place] = now
    return found


def _now(place: str, stands: Mapping[str, str]) -> str:
    stand, _, port = place.rpartition("/")
    return f"{stands.get(stand, stand)}/{port}"
