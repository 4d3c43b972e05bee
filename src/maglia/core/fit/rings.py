"""Chains made of nothing but rings, of any sizes in a repeating order: the whole number of repeats
nearest a length. Length = sum of inner diameters."""

from maglia.core.edit import item_of, spot_at
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.pattern import fill, filled, section_lever
from maglia.core.measures import LengthUnit, plain_length
from maglia.core.piece import Piece, RingItem
from maglia.core.record import DomainError
from maglia.core.rows import flattened
from maglia.core.wishes import RingsFit

KINDS = ("repeat", "rings")


def words(fit: RingsFit, shown: LengthUnit = "mm") -> str:
    return f"rings of “{fit.stretch.run}” nearest {plain_length(fit.mm, shown)}"


def measured(fit: RingsFit, look: Look) -> tuple[Residual, ...]:
    lever = section_lever(look.piece, fit.stretch, KINDS)
    what = f"rings of {fit.stretch.run}"
    return (filled(look, fit.stretch, fit.mm, fit.tolerance_mm, lever, what),)


def solved(fit: RingsFit, piece: Piece, trials: Trials) -> Solution:
    item = item_of(piece, spot_at(piece, fit.stretch))
    other = next((i for i in flattened((item,)) if not isinstance(i, RingItem)), None)
    if other is not None:
        raise DomainError(f"“{fit.stretch.run}” holds a {other.kind} there: rings alone are asked")
    return fill(fit, fit.stretch, piece, KINDS)


def targets(fit: RingsFit, piece: Piece) -> frozenset[str]:
    return frozenset({section_lever(piece, fit.stretch, KINDS).words})
