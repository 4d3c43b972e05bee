"""Pulling the end of a dimension line: the fit that makes a reading come true.

A reading that a fit already holds changes that fit; any other gets one of its own.
"""

from itertools import pairwise

from msgspec.structs import replace

from maglia.core.assembly.rows import written_out
from maglia.core.fit.tiers import gap_mm
from maglia.core.hang.readings import Readings
from maglia.core.piece.piece import DropRow, Owner, Piece, SwagRow
from maglia.core.piece.wishes import Fit, HemFit, LengthFit, SagFit, TiersFit
from maglia.core.values.record import DomainError


def fall_pulled(piece: Piece, read: Readings, run: str, fall_mm: float) -> Fit:
    """The lowest point of a strand or drop to another fall, mm."""
    tiers = _tiers_with(piece, run)
    if tiers is not None:
        return _tier_at(tiers, read, run, fall_mm)
    row = _row_of(piece, run)
    if isinstance(row, DropRow):
        own = next((f for f in piece.fits if isinstance(f, HemFit) and f.row == row.name), None)
        own = own or HemFit(name=f"hem of {row.name}", row=row.name)
        return replace(own, foot_mm=_rounded(fall_mm), locked=False)
    if piece.run(run) is None:
        raise DomainError(f"“{run}” is made by its rule: its fall follows from the rows above it")
    own_fall = next(
        (f for f in piece.fits if isinstance(f, LengthFit) and f.to == "fall" and f.run == run),
        LengthFit(name=f"fall of {run}", run=run, to="fall"),
    )
    return replace(own_fall, mm=_rounded(fall_mm), locked=False)


def gap_pulled(piece: Piece, read: Readings, upper: str, lower: str, gap_mm: float) -> Fit:
    """The gap between two strands to another width, mm: the lower one is moved."""
    if gap_mm <= 0:
        raise DomainError(f"“{lower}” lies below “{upper}”: the gap must stay above zero")
    tiers = _tiers_with(piece, lower)
    if tiers is None:
        order = [upper, *(b for _, b, _ in read.gaps_mm if read.falls_mm[b] > read.falls_mm[upper])]
        gaps = [read.falls_mm[b] - read.falls_mm[a] for a, b in pairwise(order)]
        tiers = TiersFit(name="tiers", strands=tuple(order), gaps_mm=tuple(map(_rounded, gaps)))
    return _tier_at(tiers, read, lower, read.falls_mm[upper] + gap_mm)


def sag_pulled(piece: Piece, run: str, sag_mm: float) -> Fit:
    """A swag to another depth, mm; one of a row takes the whole row with it."""
    row = _row_of(piece, run)
    name = row.name if isinstance(row, SwagRow) else run
    own = next((f for f in piece.fits if isinstance(f, SagFit) and name in f.swags), None)
    own = own or SagFit(name=f"sag of {name}", swags=(name,))
    at = own.swags.index(name)
    first = max(sag_mm - at * own.step_mm, 0.5)
    return replace(own, sag_mm=_rounded(first), slack=None, locked=False)


def _tier_at(tiers: TiersFit, read: Readings, run: str, fall_mm: float) -> TiersFit:
    """Tiers with one strand's fall moved; those below keep their gaps."""
    k = tiers.strands.index(run)
    first = tiers.first_fall_mm
    if k == 0:
        return replace(tiers, first_fall_mm=_rounded(fall_mm), locked=False)
    gaps = [gap_mm(tiers, i) for i in range(len(tiers.strands) - 1)]
    above = (read.falls_mm[tiers.strands[0]] if first is None else first) + sum(gaps[: k - 1])
    gap = fall_mm - above
    if gap <= 0:
        raise DomainError(f"“{run}” cannot hang above the strand before it: pull it lower")
    gaps[k - 1] = _rounded(gap)
    return replace(tiers, gaps_mm=tuple(gaps), growth_mm=0.0, locked=False)


def _tiers_with(piece: Piece, run: str) -> TiersFit | None:
    return next((f for f in piece.fits if isinstance(f, TiersFit) and run in f.strands), None)


def _row_of(piece: Piece, run: str) -> Owner | None:
    """The row that a run is written out from, or the run itself."""
    origins = (origin for made, origin in written_out(piece) if made.name == run)
    origin = next(origins, None)
    return piece.owner(origin.owner) if origin else None


def _rounded(mm: float) -> float:
    """Half millimetres: what a hand can mean with a mouse."""
    return round(mm * 2) / 2
