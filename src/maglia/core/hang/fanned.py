"""How far what hangs from one place is drawn turned aside, so that nothing hides its twin.

What hangs side by side leans apart by its own width; the hang does not know that strands touch.
Here the least turn about their common place is found at which no two cover each other; figures stay
as hung.
"""

import math
from collections import defaultdict
from collections.abc import Mapping
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from maglia.core.assembly.assembly import Assembly, Joint
from maglia.core.hang.bodies import Floats
from maglia.core.hang.hung import Hung
from maglia.core.hang.side_by_side import hangs_free
from maglia.core.sheets.lengths import member_width_mm

MOST_RAD = math.radians(16.0)
"""How far one is turned from the next at most."""
SEEN = 0.8
"""How much of their widths neighbours stand apart."""
MOST_MEMBERS = 4000
"""Of larger pieces only what hangs there itself is looked at."""


class Turn(NamedTuple):
    """A rotation about a place (x, height), radians, counter-clockwise as seen."""

    at: tuple[float, float]
    angle: float


Turns = Mapping[int, tuple[Turn, ...]]
"""By member, the innermost turn first."""


class _Guest(NamedTuple):
    """What hangs at a place: its members, and how wide it is at which depth below it."""

    members: tuple[int, ...]
    top: Floats
    profile: tuple[tuple[float, float, float], ...]


def fanned(assembly: Assembly, hung: Hung) -> Turns:
    """For each member that is drawn turned aside its turns, the innermost first."""
    groups: dict[tuple[int, object], list[Joint]] = defaultdict(list)
    for joint in assembly.joints:
        if not joint.inline and hangs_free(assembly, joint.b):
            groups[(joint.a, joint.port_a)].append(joint)
    found: dict[int, list[tuple[int, Turn]]] = defaultdict(list)
    for joints in groups.values():
        if len(joints) > 1:
            guests = [g for j in joints if (g := _guest(assembly, hung, j)) is not None]
            for guest, angle in _turned(guests):
                turn = Turn((float(guest.top[0]), float(guest.top[-1])), angle)
                for index in guest.members:
                    found[index].append((len(guest.members), turn))
    return {
        index: tuple(turn for _, turn in sorted(turns, key=lambda own: own[0]))
        for index, turns in found.items()
    }


def _guest(assembly: Assembly, hung: Hung, joint: Joint) -> _Guest | None:
    """All that hangs there by this joint alone; None if it leads on to something else."""
    seen, stack = {joint.b}, [joint.b]
    while stack:
        at = stack.pop()
        for other in assembly.neighbours[at]:
            if other == joint.a and at != joint.b:
                return None
            if other != joint.a and other not in seen:
                seen.add(other)
                stack.append(other)
        if len(seen) > MOST_MEMBERS:
            return None
    if not all(m in hung.drawn for m in seen):
        return None
    top = hung.points_of(joint.b)[-1 if joint.port_b == "b" else 0]
    profile = []
    for index in seen:
        depths = np.linalg.norm(hung.points_of(index) - top, axis=1)
        wide = member_width_mm(assembly, assembly.members[index])
        profile.append((float(depths.min()), float(depths.max()), wide))
    return _Guest(tuple(sorted(seen)), top, tuple(profile))


def _turned(guests: list[_Guest]) -> list[tuple[_Guest, float]]:
    """Each guest with its turn, alike to both sides of their middle."""
    order = sorted(guests, key=lambda guest: float(guest.top[0]))
    steps = [_apart(one, other) for one, other in pairwise(order)]
    at = [sum(steps[:k]) for k in range(len(order))]
    middle = at[-1] / 2 if at else 0.0
    return [(guest, angle - middle) for guest, angle in zip(order, at, strict=True) if steps]


def _apart(one: _Guest, other: _Guest) -> float:
    """The angle from one to the next at which neither covers the other."""
    between, most = abs(float(other.top[0] - one.top[0])), 0.0
    for low, high, wide in one.profile:
        for begun, ended, broad in other.profile:
            depth = (max(low, begun) + min(high, ended)) / 2
            if max(low, begun) <= min(high, ended) and depth > 0:
                need = SEEN * (wide + broad) / 2 - between
                most = max(most, math.atan2(need, depth) if need > 0 else 0.0)
    return min(most, MOST_RAD)


def turned_points(points: Floats, turns: tuple[Turn, ...], across: int = 0) -> Floats:
    """Points with their turns made, in the plane that is looked at."""
    made = np.array(points, float)
    for (x, y), angle in turns:
        dx, dy = made[:, across] - x, made[:, -1] - y
        cos, sin = math.cos(angle), math.sin(angle)
        made[:, across], made[:, -1] = x + cos * dx - sin * dy, y + sin * dx + cos * dy
    return made
