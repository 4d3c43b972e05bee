"""Matching: a drop ends level with another, a run is as long as another or made of the same.

A pair of earrings is mirrored, not copied: the second is the mirror of the first, and what stands
free on one side of it stands on the other side of the second.
"""

from itertools import zip_longest

from msgspec.structs import replace

from maglia.core.edits.spots import owner_of
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.lever import CHANGED_FIRST, Lever, lever_of
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.reach import Aim, reached
from maglia.core.fit.said import Said
from maglia.core.fit.wish import RowCount, Target, Wish
from maglia.core.piece.piece import Piece, Run
from maglia.core.piece.wishes import How, MatchFit
from maglia.core.sheets.lengths import run_lengths
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import DomainError


def words(fit: MatchFit, shown: LengthUnit) -> str:
    how = {"level": "ends level with", "length": "as long as", "mirror": "made as"}[fit.how]
    return f"“{fit.run}” {how} “{fit.to}”"


def measured(fit: MatchFit, look: Look) -> tuple[Residual, ...]:
    if fit.how == "mirror":
        own, other = (owner_of(look.piece, name).own_items for name in (fit.run, fit.to))
        differing = sum(a != b for a, b in zip_longest(own, other))
        return (Residual(f"{fit.run} as {fit.to}", 0.0, differing, 0.0, unit="parts"),)
    feet = look.readings.hems_mm if fit.how == "level" else _lengths(look)
    for name in (fit.run, fit.to):
        if name not in feet:
            raise DomainError(f"fit “{fit.name}”: there is no “{name}” that could be compared")
    allowed = fit.tolerance_mm or _half_step(fit, look.piece)
    what = f"foot of {fit.run}" if fit.how == "level" else f"length of {fit.run}"
    return (Residual(what, feet[fit.to], feet[fit.run], allowed),)


def _lengths(look: Look) -> dict[str, float]:
    return {r.name: r.length_mm for r in run_lengths(look.assembly) if r.length_mm is not None}


def _half_step(fit: MatchFit, piece: Piece) -> float:
    try:
        return _lever(fit, piece).step_mm / 2
    except DomainError:
        return 0.5


def _lever(fit: MatchFit, piece: Piece) -> Lever:
    return lever_of(piece, fit.run, fit.changes, CHANGED_FIRST)


def solved(fit: MatchFit, piece: Piece, trials: Trials) -> Solution:
    if fit.run == fit.to:
        raise DomainError(f"fit “{fit.name}” compares “{fit.run}” with itself")
    if fit.how == "mirror":
        return Solution(_made_as(fit, piece))
    lever = _lever(fit, piece)
    if fit.how == "level":
        return reached(piece, [Aim(lever, lambda look: measured(fit, look)[0].off, 1.0)], trials)
    over = measured(fit, trials.built(piece))[0].off
    best = lever.nearest(lever.length_of(lever.count) - over / lever.copies)
    below = lever.allowed(best - lever.step)
    return Solution(
        lever.put(piece, best),
        lever.put(piece, below) if below != best else None,
        lever.put(piece, lever.allowed(best + lever.step)),
    )


def _made_as(fit: MatchFit, piece: Piece) -> Piece:
    """The run made of the other's parts; of an earring, the second mirrors the first."""
    run, other = owner_of(piece, fit.run), owner_of(piece, fit.to)
    if not isinstance(run, Run) or not isinstance(other, Run):
        raise DomainError(f"fit “{fit.name}”: rows are made by their rule; match single runs")
    changed = replace(run, items=other.items, centre=other.centre)
    pair = piece.pair or piece.sort == "earring"
    return replace(piece.replaced(run, changed), pair=pair)


def targets(fit: MatchFit, piece: Piece) -> frozenset[Target]:
    if fit.how == "mirror":
        return frozenset({RowCount(fit.run, "parts")})
    return frozenset({_lever(fit, piece).target})


def read(said: Said) -> MatchFit:
    if len(said.names) != 2:
        raise DomainError(f"“{said.text}” needs two runs: match NAME to NAME")
    run, to = said.names
    how: How = "level"
    if "mirror" in said.words or "length" in said.words:
        how = "mirror" if "mirror" in said.words else "length"
    return MatchFit(name=f"{run} as {to}", run=run, to=to, how=how)


WISH = Wish(
    record=MatchFit,
    begins=("match",),
    forms=(("match NAME to NAME", "feet level; “match length …”, “match mirror …”"),),
    read=read,
    written=lambda f: f"match {'' if f.how == 'level' else f.how + ' '}{f.run} to {f.to}",
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
    accepts=("mirror", "length", "level"),
    hangs=lambda fit: fit.how == "level",
)
