"""Symmetry as a fact: the two sides of a piece compared part by part, each difference named."""

from collections import defaultdict
from difflib import SequenceMatcher
from itertools import takewhile

from maglia.core.assembly.assembly import Assembly, Member

MOST_COMPARED = 400
"""Parts of a run that are compared one by one once what is alike at both ends is left out."""


def differences(assembly: Assembly) -> tuple[str, ...]:
    """What one side has and the other has not; empty for a strict mirror.

    Runs laid across the fold or in pairs mirror by construction; free runs stand on the side of
    their place, or are read from both ends towards the middle. What hangs by one end has no sides.
    """
    found = []
    sides: dict[str, list[str]] = defaultdict(list)
    by_run: dict[str, list[Member]] = defaultdict(list)
    for member in assembly.members:
        if member.made_in is None:  # what a unit holds is compared with it
            by_run[member.run].append(member)
    main = assembly.main
    for run in assembly.runs:
        if run.lies != "free":
            continue
        place = run.start or run.end
        if place is not None and place.side is not None:
            sides[place.side].append(_words(assembly, by_run[run.name]))
        elif (main and main.closed and run.name == main.run) or (run.start and run.end):
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
    """Where a run read from its left end and from its right end are not alike: what has been put in
    on one side is one difference, however it shifts the rest."""
    line = [(m.ref, m.links, m.strung) for m in members]
    back = line[::-1]
    if line == back:
        return []
    alike = sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], zip(line, back, strict=True)))
    inner = slice(alike, len(line) - alike)
    if len(line[inner]) > MOST_COMPARED:
        return [f"{run}: its two sides differ throughout"]
    found, last = [], len(line) - 1
    matcher = SequenceMatcher(None, line[inner], back[inner], autojunk=False)
    steps = [step for step in matcher.get_opcodes() if step[0] != "equal"]
    own = sum(hi - lo for _, lo, hi, _, _ in steps)
    if own > len(line) / 2 and own > 2:
        return [f"{run}: its two sides differ throughout"]
    for kind, lo, hi, other, _ in steps:
        for step in range(hi - lo):
            k = alike + lo + step
            if kind == "replace" and other + step < len(line[inner]):
                mate = last - (alike + other + step)
                if k < mate:
                    found.append(
                        f"{run}, part {k + 1} from each end: left {_words(assembly, [members[k]])},"
                        f" right {_words(assembly, [members[mate]])}"
                    )
                continue
            side, number = ("left", k + 1) if k < len(line) / 2 else ("right", len(line) - k)
            words = _words(assembly, [members[k]])
            found.append(f"{run}, only {side}: {words}, part {number} from that end")
    return found
