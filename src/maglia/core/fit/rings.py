"""Chains made of nothing but rings, of any sizes in a repeating order: the whole number of repeats
nearest a length. Length = sum of inner diameters."""

from maglia.core.assembly.rows import flattened
from maglia.core.edits.spots import item_of, spot_at
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.pattern import fill, filled, section_lever
from maglia.core.fit.said import Said
from maglia.core.fit.wish import Target, Wish
from maglia.core.piece.items import RepeatItem, RingItem
from maglia.core.piece.piece import Piece
from maglia.core.piece.wishes import RingsFit
from maglia.core.values.measures import LengthUnit, plain_length
from maglia.core.values.record import DomainError

KINDS = (RepeatItem, RingItem)


def words(fit: RingsFit, shown: LengthUnit) -> str:
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


def targets(fit: RingsFit, piece: Piece) -> frozenset[Target]:
    return frozenset({section_lever(piece, fit.stretch, KINDS).target})


def read(said: Said) -> RingsFit:
    at = said.item(KINDS, "chain of rings")
    return RingsFit(name=f"rings of {at.run}", stretch=at, mm=said.length())


WISH = Wish(
    record=RingsFit,
    begins=("rings",),
    forms=(("rings of NAME 200", "a chain of rings alone, nearest a length"),),
    read=read,
    written=lambda fit: f"rings of {fit.stretch.run} {fit.mm:.12g} mm",
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
    hangs=lambda _: False,
)
