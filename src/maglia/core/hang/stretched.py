"""Elastics: how far what stretches in a strand has to, to go round what it is worn on.

Without friction the pull is the same all round, so that all of it stretches alike: as much as is
missing, shared over the lengths that give. The stiffness of rubber decides how hard it presses, not
where it lies.
"""

from maglia.core.assembly.assembly import Assembly
from maglia.core.sheets.as_worn import gives

SPARE_MM = 0.5
"""So that it goes round by a hair."""


def stretched_by(assembly: Assembly, short_mm: float) -> float:
    """How many times as long as at rest the elastic lengths are that make up for what is missing; 1
    if nothing gives, or not so far."""
    main = assembly.main
    length, limit = 0.0, float("inf")
    for station in main.stations if main else ():
        member = assembly.members[station.members[0]]
        if (far := gives(assembly, member)) > 1.0:
            length += station.span_mm or 0.0
            limit = min(limit, far)
    if not length:
        return 1.0
    needed = 1.0 + (short_mm + SPARE_MM) / length
    return needed if needed <= limit else 1.0
