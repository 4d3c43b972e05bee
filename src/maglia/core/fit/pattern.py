"""Bead patterns: among the counts whose pattern is whole and mirror-true, the one nearest a
length; one step shorter and longer beside it."""

from maglia.core.assembly.rows import flattened
from maglia.core.edits.spots import first_number, item_of, spot_at
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.lever import Lever, lever_at
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.said import Said
from maglia.core.fit.wish import Target, Wish
from maglia.core.piece.items import Item, StrungItem
from maglia.core.piece.piece import Piece
from maglia.core.piece.wishes import PatternFit, Quantity, RingsFit
from maglia.core.values.measures import LengthUnit, plain_length
from maglia.core.values.record import DomainError


def words(fit: PatternFit, shown: LengthUnit) -> str:
    return f"beads of “{fit.section.run}” whole, nearest {plain_length(fit.mm, shown)}"


def measured(fit: PatternFit, look: Look) -> tuple[Residual, ...]:
    lever = section_lever(look.piece, fit.section, (StrungItem,))
    what = f"beads of {fit.section.run}"
    return (filled(look, fit.section, fit.mm, fit.tolerance_mm, lever, what),)


def filled(
    look: Look, at: Quantity, mm: float, tolerance: float | None, lever: Lever, what: str
) -> Residual:
    """The length of what stands at a quantity, as built, against its wish."""
    spot = spot_at(look.piece, at)
    first = first_number(look.piece, spot)
    numbers = range(first, first + len(list(flattened((item_of(look.piece, spot),)))))
    run = spot.owner
    total = 0.0
    for path in look.assembly.paths_of(run):
        sides = {look.assembly.members[s.members[0]].side for s in path.stations}
        side = "fold" if at.item == 0 else ("right" if "right" in sides else next(iter(sides)))
        for station in path.stations:
            member = look.assembly.members[station.members[0]]
            if member.run == run and member.item in numbers and member.side == side:
                total += station.span_mm or 0.0
        break
    return Residual(what, mm, total, tolerance or lever.step_mm / 2 / max(lever.copies, 1))


def section_lever(piece: Piece, at: Quantity, kinds: tuple[type[Item], ...]) -> Lever:
    """The lever at a quantity, which must be of one of some kinds and not pinned."""
    spot = spot_at(piece, at)
    item = item_of(piece, spot)
    if not isinstance(item, kinds):
        wanted = " or ".join(str(kind.__struct_config__.tag) for kind in kinds)
        raise DomainError(f"“{at.run}”, item {at.item} is a {item.kind}, not {wanted}")
    return lever_at(piece, spot, single=isinstance(item, StrungItem))


def solved(fit: PatternFit, piece: Piece, trials: Trials) -> Solution:
    return fill(fit, fit.section, piece, (StrungItem,))


def fill(
    fit: PatternFit | RingsFit, at: Quantity, piece: Piece, kinds: tuple[type[Item], ...]
) -> Solution:
    """The whole count nearest the wished length, with its neighbours."""
    if at in piece.pinned:
        raise DomainError(f"“{at.run}” is pinned: free it first")
    lever = section_lever(piece, at, kinds)
    best = lever.nearest(fit.mm)
    below = lever.allowed(best - lever.step)
    return Solution(
        lever.put(piece, best),
        lever.put(piece, below) if below != best else None,
        lever.put(piece, lever.allowed(best + lever.step)),
    )


def targets(fit: PatternFit, piece: Piece) -> frozenset[Target]:
    return frozenset({section_lever(piece, fit.section, (StrungItem,)).target})


def read(said: Said) -> PatternFit:
    at = said.item((StrungItem,), "strung section")
    return PatternFit(name=f"beads of {at.run}", section=at, mm=said.length())


WISH = Wish(
    record=PatternFit,
    begins=("beads",),
    forms=(("beads of NAME 180", "beads with their pattern whole, nearest a length"),),
    read=read,
    written=lambda fit: f"beads of {fit.section.run} {fit.mm:.12g} mm",
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
    hangs=lambda _: False,
)
