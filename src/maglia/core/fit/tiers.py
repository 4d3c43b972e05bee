"""Tiers: the first fall and the gaps, for any number of strands, read off the hang on the form."""

from itertools import pairwise

from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.lever import CHANGED_FIRST, lever_of
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.reach import Aim, reached
from maglia.core.fit.said import Said
from maglia.core.fit.wish import Target, Wish
from maglia.core.piece.piece import Piece
from maglia.core.piece.wishes import TiersFit
from maglia.core.values.measures import LengthUnit, plain_length
from maglia.core.values.record import DomainError


def words(fit: TiersFit, shown: LengthUnit) -> str:
    gaps = ", ".join(plain_length(gap, shown) for gap in fit.gaps_mm)
    grow = f" growing by {plain_length(fit.growth_mm, shown)}" if fit.growth_mm else ""
    first = (
        ""
        if fit.first_fall_mm is None
        else f"first fall {plain_length(fit.first_fall_mm, shown)}, "
    )
    return f"tiers: {first}gaps {gaps}{grow}"


def gap_mm(fit: TiersFit, k: int) -> float:
    """Wished gap between strand k and the next: the last one given holds on, growing."""
    last = len(fit.gaps_mm) - 1
    return fit.gaps_mm[min(k, last)] + fit.growth_mm * max(0, k - last)


def measured(fit: TiersFit, look: Look) -> tuple[Residual, ...]:
    """Every fall against its own wish, so that nothing adds up from tier to tier."""
    falls = look.readings.falls_mm
    missing = [name for name in fit.strands if name not in falls]
    if missing:
        raise DomainError(f"fit “{fit.name}”: “{missing[0]}” is no strand that hangs")
    first = falls[fit.strands[0]]
    wished = [first if fit.first_fall_mm is None else fit.first_fall_mm]
    for k, _ in enumerate(pairwise(fit.strands)):
        wished.append(wished[-1] + gap_mm(fit, k))
    return tuple(
        Residual(f"fall of {name}", wish, falls[name], _allowed(fit, look.piece, name), run=name)
        for name, wish in zip(fit.strands, wished, strict=True)
    )


def _allowed(fit: TiersFit, piece: Piece, strand: str) -> float:
    if fit.tolerance_mm is not None:
        return fit.tolerance_mm
    try:
        return lever_of(piece, strand, fit.changes, CHANGED_FIRST).step_mm / 2
    except DomainError:
        return 0.5


def turned(fit: TiersFit) -> tuple[str, ...]:
    """The strands that are changed: all, or all but the first where it stays as it is."""
    return fit.strands if fit.first_fall_mm is not None else fit.strands[1:]


def solved(fit: TiersFit, piece: Piece, trials: Trials) -> Solution:
    aims = []
    for name in _free(fit, piece):
        k = fit.strands.index(name)
        lever = lever_of(piece, name, fit.changes, CHANGED_FIRST)
        aims.append(Aim(lever, lambda look, k=k: measured(fit, look)[k].off))  # type: ignore[misc]
    return reached(piece, aims, trials)


def targets(fit: TiersFit, piece: Piece) -> frozenset[Target]:
    return frozenset(
        lever_of(piece, name, fit.changes, CHANGED_FIRST).target for name in _free(fit, piece)
    )


def _free(fit: TiersFit, piece: Piece) -> list[str]:
    """The strands to change that are not pinned; if all are, the first one says why."""
    found = []
    for name in turned(fit):
        try:
            lever_of(piece, name, fit.changes, CHANGED_FIRST)
        except DomainError:
            if not any(q.run == name for q in piece.pinned):
                raise
            continue
        found.append(name)
    return found or list(turned(fit))[:1]


def read(said: Said) -> TiersFit:
    strands = said.names or [r.name for r in said.piece.runs if r.kind == "strand"]
    if len(strands) < 2:
        raise DomainError(f"“{said.text}”: tiers need two strands or more; this piece has one")
    plain = said.lengths()
    first = said.after("first") or plain[:1]
    gaps = said.after("gaps", "gap") or (plain[1:] if not said.after("first") else plain)
    if not gaps:
        raise DomainError(f"“{said.text}” gives no gap: write “tiers first 40 gaps 25”")
    if min(gaps) <= 0:
        raise DomainError(f"“{said.text}”: a gap is a length above zero, such as 25")
    growth = said.after("growing")
    return TiersFit(
        name="tiers", strands=tuple(strands), first_fall_mm=first[0] if first else None,
        gaps_mm=tuple(gaps), growth_mm=growth[0] if growth else 0.0,
    )  # fmt: skip


def written(fit: TiersFit) -> str:
    first = "" if fit.first_fall_mm is None else f"first {fit.first_fall_mm:.12g} mm "
    gaps = " ".join(f"{gap:.12g} mm" for gap in fit.gaps_mm)
    grow = f" growing {fit.growth_mm:.12g} mm" if fit.growth_mm else ""
    return f"tiers of {', '.join(fit.strands)}: {first}gaps {gaps}{grow}"


WISH = Wish(
    record=TiersFit,
    begins=("tiers",),
    forms=(("tiers first 40 gaps 25 30", "falls of all strands; “growing 5” makes gaps larger"),),
    read=read,
    written=written,
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
    accepts=("first", "gaps", "gap", "growing"),
)
