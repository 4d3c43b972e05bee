"""Regrading: one piece for a list of wearers. Fitted quantities are solved again for each, given
ones stay; what cannot be had for one wearer is said in that wearer's line."""

from collections.abc import Iterable

from msgspec.structs import replace

from maglia.core.fit.found import Fitted
from maglia.core.fit.look import Trials
from maglia.core.fit.solve import solve
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.rings import Rings, rings
from maglia.core.piece.piece import Piece, Wearer
from maglia.core.sheets.count import copies_of
from maglia.core.sheets.cutting import Cut, cut_list
from maglia.core.sheets.lengths import RunLength, closed_length_mm, run_lengths
from maglia.core.values.record import DomainError, Value


class Graded(Value, frozen=True):
    """The piece for one wearer: lengths mm, links, rings, cuts and falls."""

    wearer: Wearer
    piece: Piece
    fitted: tuple[Fitted, ...]
    closed_length_mm: float | None
    runs: tuple[RunLength, ...]
    rings: tuple[Rings, ...]
    cuts: tuple[Cut, ...]
    falls_mm: dict[str, float]
    hindrance: str = ""


def regraded(
    piece: Piece, wearers: Iterable[Wearer], trials: Trials | None = None
) -> tuple[Graded, ...]:
    """The piece solved for every wearer, in order. Raises DomainError if it cannot be built."""
    shared = trials or Trials()
    found = []
    for wearer in wearers:
        # A hang on another body is no help to this one.
        own = Trials(shared.cancelled, shared.progress)
        found.append(_graded(replace(piece, wearer=wearer), own))
    return tuple(found)


def _graded(piece: Piece, trials: Trials) -> Graded:
    solved = solve(piece, trials)
    built = trials.built(solved.piece).assembly
    falls: dict[str, float] = {}
    hindrances = [f"{f.fit.name}: {f.hindrance}" for f in solved.fitted if f.hindrance]
    try:
        falls = trials.hung(solved.piece).readings.falls_mm
    except DomainError as fault:
        hindrances.append(str(fault))
    return Graded(
        wearer=piece.wearer,
        piece=solved.piece,
        fitted=solved.fitted,
        closed_length_mm=closed_length_mm(built),
        runs=run_lengths(built),
        rings=rings(built, joining_plan(built)),
        cuts=cut_list(built, copies_of(piece)),
        falls_mm=falls,
        hindrance="; ".join(dict.fromkeys(hindrances)),
    )
