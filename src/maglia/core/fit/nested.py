"""Nested strands between many-holed connectors: a clear gap at the centre front.

A strand outside another by e along a front that turns through θ is longer by θ × e (θ ≈ π for a
full U), e = half of both thicknesses + the clear gap + the difference of their holes' places. That
is where the search begins; the hang settles it. Beads come off in equal numbers at both ends and
patterns stay whole.
"""

import math
from itertools import pairwise

from maglia.core.assembly import Assembly
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.lever import Lever, lever_of
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.reach import Aim, reached
from maglia.core.lengths import member_width_mm
from maglia.core.measures import LengthUnit, plain_length
from maglia.core.piece import Piece
from maglia.core.record import DomainError
from maglia.core.wishes import NestedFit

TURNED_FIRST = ("strung", "chain", "repeat", "rings")
FULL_U = math.pi


def words(fit: NestedFit, shown: LengthUnit = "mm") -> str:
    return f"nested: {plain_length(fit.clear_mm, shown)} clear between {', '.join(fit.strands)}"


def longer_mm(e_mm: float, theta: float = FULL_U) -> float:
    """How much longer a strand is than one inside it by e along a front that turns through θ."""
    return theta * e_mm


def measured(fit: NestedFit, look: Look) -> tuple[Residual, ...]:
    """Clear gap of each pair at the centre front: gap of the falls less half of both widths."""
    falls = look.readings.falls_mm
    found = []
    for upper, lower in pairwise(fit.strands):
        if upper not in falls or lower not in falls:
            raise DomainError(f"fit “{fit.name}”: “{upper}” and “{lower}” must both hang")
        thick = (centre_width_mm(look.assembly, upper) + centre_width_mm(look.assembly, lower)) / 2
        clear = falls[lower] - falls[upper] - thick
        allowed = fit.tolerance_mm or _lever(fit, look.piece, lower).step_mm / 2
        found.append(Residual(f"clear gap {upper} to {lower}", fit.clear_mm, clear, allowed))
    return tuple(found)


def centre_width_mm(assembly: Assembly, run: str) -> float:
    """Width of what lies at the middle of a strand, mm."""
    path = next((p for p in assembly.paths if p.run == run), None)
    if path is None:
        raise DomainError(f"there is no run “{run}”")
    own = [s for s in path.stations if assembly.members[s.members[0]].run == run]
    middle = assembly.members[own[len(own) // 2].members[0]]
    return member_width_mm(assembly, middle)


def _lever(fit: NestedFit, piece: Piece, strand: str) -> Lever:
    return lever_of(piece, strand, fit.changes, TURNED_FIRST)


def solved(fit: NestedFit, piece: Piece, trials: Trials) -> Solution:
    """From the inside out: the first strand stays, each next is set against the wished sum, so
    that what is left over does not add up."""
    aims = []
    for k, strand in enumerate(fit.strands[1:]):

        def off(look: Look, k: int = k) -> float:
            return sum(r.off for r in measured(fit, look)[: k + 1])

        aims.append(Aim(_lever(fit, piece, strand), off))
    return reached(piece, aims, trials)


def targets(fit: NestedFit, piece: Piece) -> frozenset[str]:
    return frozenset(_lever(fit, piece, s).words for s in fit.strands[1:])
