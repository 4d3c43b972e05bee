"""Runs that hang from one place: beside each other on the arc that bears them, by how thick each is
where it bears, so that the outer ones hang a little higher.
"""

import math
from collections.abc import Sequence
from itertools import pairwise

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.ports import Port
from maglia.core.sheets.bite import thickness_at
from maglia.core.sheets.lengths import member_width_mm

MOST_RAD = math.radians(60.0)
"""How far up an arc things hang on either side of its lowest point; more would slide down."""
UNKNOWN_MM = 0.8


def angles_on_arc(widths: Sequence[float], radius: float) -> list[float]:
    """Where things of some widths, mm, bear on the inside of an arc, as angles from its lowest
    point, from the left; closer together where the arc has no room for all."""
    steps = [(one + other) / 2 for one, other in pairwise(widths)]
    at = [sum(steps[:k]) for k in range(len(widths))]
    found = [(place - at[-1] / 2) / max(radius, 1e-6) for place in at]
    most = max(map(abs, found), default=0.0)
    return [angle * min(1.0, MOST_RAD / most) for angle in found] if most else found


def bearing_mm(assembly: Assembly, member: int, port: Port) -> float:
    """How much room along an arc takes what hangs on it: strung beads and chain their width, a ring
    or a loop its wire."""
    own = assembly.members[member]
    if own.links:
        return member_width_mm(assembly, own) or UNKNOWN_MM
    return thickness_at(assembly, own, port) or UNKNOWN_MM


def hangs_free(assembly: Assembly, member: int) -> bool:
    """Whether what begins with a member hangs down, rather than leading on to another place."""
    own = assembly.members[member]
    run = assembly.run_of.get(own.run)
    return run is None or run.kind in ("drop", "extender") or own.made_in is not None
