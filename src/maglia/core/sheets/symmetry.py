"""Symmetry as a fact: the two sides of a piece compared part by part, each difference named."""

from collections import defaultdict

from maglia.core.assembly.assembly import Assembly, Member


def differences(assembly: Assembly) -> tuple[str, ...]:
    """What one side has and the other has not; empty for a strict mirror.

    Runs laid across the fold or in pairs mirror by construction; free runs stand on the side of
    their place, or are read from both ends towards the middle.
    """
    found = []
    sides: dict[str, list[str]] = defaultdict(list)
    by_run: dict[str, list[Member]] = defaultdict(list)
    for member in assembly.members:
        by_run[member.run].append(member)
    for run in assembly.runs:
        if run.lies != "free":
            continue
        place = run.start or run.end
        if place is not None and place.side is not None:
            sides[place.side].append(_words(assembly, by_run[run.name]))
        elif run.kind != "extender":
            found += _uneven(assembly, run.name, by_run[run.name])
    left, right = sorted(sides["left"]), sorted(sides["right"])
    for words in dict.fromkeys(left + right):
        more = left.count(words) - right.count(words)
        if more:
            found.append(f"only {'left' if more > 0 else 'right'}: {words}")
    return tuple(found)


def _words(assembly: Assembly, members: list[Member]) -> str:
    return " + ".join(
        f"{m.links} × {assembly.thing(m).name}" if m.links else assembly.thing(m).name
        for m in members
    )


def _uneven(assembly: Assembly, run: str, members: list[Member]) -> list[str]:
    found = []
    for k in range(len(members) // 2):
        left, right = members[k], members[-1 - k]
        if (left.ref, left.links) != (right.ref, right.links):
            found.append(
                f"{run}, part {k + 1} from each end: left {_words(assembly, [left])}, "
                f"right {_words(assembly, [right])}"
            )
    return found
