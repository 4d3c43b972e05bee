"""Nested strands between many-holed connectors: a clear gap at the centre front.

Read off the hang: the gap of two falls less half of both widths. The search begins with the strands
as they are and turns each one's count until its gap is met; of strung ones single beads come off
or are added at both ends alike, whole patterns where beads differ. A strand whose counts are pinned
is held, the outer ones too.
"""

from itertools import pairwise

from maglia.core.assembly.assembly import Assembly
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.lever import Lever, lever_of
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.reach import Aim, reached
from maglia.core.fit.said import Said
from maglia.core.fit.wish import Target, Wish
from maglia.core.piece.items import ChainItem, RepeatItem, RingItem, StrungItem
from maglia.core.piece.piece import Piece
from maglia.core.piece.wishes import NestedFit
from maglia.core.sheets.lengths import member_width_mm
from maglia.core.values.measures import LengthUnit, plain_length
from maglia.core.values.record import DomainError

TURNED_FIRST = (StrungItem, ChainItem, RepeatItem, RingItem)


def words(fit: NestedFit, shown: LengthUnit) -> str:
    return f"nested: {plain_length(fit.clear_mm, shown)} clear between {', '.join(fit.strands)}"


def measured(fit: NestedFit, look: Look) -> tuple[Residual, ...]:
    """Clear gap of each pair at the centre front: gap of the falls less half of both widths."""
    falls = look.readings.falls_mm
    found = []
    for upper, lower in pairwise(fit.strands):
        if upper not in falls or lower not in falls:
            raise DomainError(f"fit “{fit.name}”: “{upper}” and “{lower}” must both hang")
        thick = (centre_width_mm(look.assembly, upper) + centre_width_mm(look.assembly, lower)) / 2
        clear = falls[lower] - falls[upper] - thick
        turned = upper if fit.strands.index(lower) in _held(fit, look.piece) else lower
        allowed = fit.tolerance_mm or _step_mm(fit, look.piece, turned) / 2
        what = f"clear gap {upper} to {lower}"
        found.append(Residual(what, fit.clear_mm, clear, allowed, run=lower))
    return tuple(found)


def _step_mm(fit: NestedFit, piece: Piece, strand: str) -> float:
    """What one count more does; of two that are held none is turned, and they are as they are."""
    try:
        return _lever(fit, piece, strand).step_mm
    except DomainError:
        return 0.0


def centre_width_mm(assembly: Assembly, run: str) -> float:
    """Width of what lies at the middle of a strand, mm."""
    path = next((p for p in assembly.paths if p.run == run), None)
    if path is None:
        raise DomainError(f"there is no run “{run}”")
    own = [s for s in path.stations if assembly.members[s.members[0]].run == run]
    middle = assembly.members[own[len(own) // 2].members[0]]
    return member_width_mm(assembly, middle)


def _lever(fit: NestedFit, piece: Piece, strand: str) -> Lever:
    by_bead = lever_of(piece, strand, fit.changes, TURNED_FIRST, single=True)
    return by_bead if by_bead.rises else lever_of(piece, strand, fit.changes, TURNED_FIRST)


def solved(fit: NestedFit, piece: Piece, trials: Trials) -> Solution:
    """Each strand that is turned is set against the wished sum from the nearest one that is held,
    so that what is left over does not add up."""
    held = _held(fit, piece)
    aims = []
    for k, strand in enumerate(fit.strands):
        if k in held:
            continue
        anchor = min(held, key=lambda h, k=k: abs(h - k))  # type: ignore[misc]

        def off(look: Look, k: int = k, anchor: int = anchor) -> float:
            gaps = measured(fit, look)[min(k, anchor) : max(k, anchor)]
            return sum(gap.off for gap in gaps) * (1 if k > anchor else -1)

        aims.append(Aim(_lever(fit, piece, strand), off))
    if not aims:
        raise DomainError(f"fit “{fit.name}”: every strand is held; free one")
    return reached(piece, aims, trials)


def _held(fit: NestedFit, piece: Piece) -> list[int]:
    """Which strands stay as they are: those the maker holds, else the first."""
    pinned = {quantity.run for quantity in piece.pinned}
    return [k for k, strand in enumerate(fit.strands) if strand in pinned] or [0]


def targets(fit: NestedFit, piece: Piece) -> frozenset[Target]:
    held = _held(fit, piece)
    turned = (strand for k, strand in enumerate(fit.strands) if k not in held)
    return frozenset(_lever(fit, piece, strand).target for strand in turned)


def read(said: Said) -> NestedFit:
    strands = said.names or [r.name for r in said.piece.runs if r.kind == "strand"]
    if len(strands) < 2:
        raise DomainError(f"“{said.text}”: nested strands are two or more; this piece has one")
    return NestedFit(name="nested", strands=tuple(strands), clear_mm=said.length())


WISH = Wish(
    record=NestedFit,
    begins=("nested",),
    forms=(("nested clear 3", "air between nested strands at the centre front"),),
    read=read,
    written=lambda fit: f"nested {', '.join(fit.strands)} clear {fit.clear_mm:.12g} mm",
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
    accepts=("clear",),
)
