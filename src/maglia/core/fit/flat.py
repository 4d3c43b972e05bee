"""Lies flat: rings between the bead links of a row and between rows, row by row, so that the four
signals vanish: slack, pressed, overlap, tilted.

Numbers are small and whole. Where nothing is wrong nothing is changed. Else first every row alike,
then one row at a time from the best states so far, until no single change is better; every hang
begins from the one before. Fewest changes of what the maker wrote win ties, then fewer rings.
"""

import heapq
from collections.abc import Iterator

from msgspec.structs import replace

from maglia.core.assembly.rows import between
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.said import Said
from maglia.core.fit.wish import RowCount, Target, Wish
from maglia.core.hang.flat import OVERLAP_MM, PRESSED_GF, SLACK_MM, TILT_DEG, lies_flat
from maglia.core.piece.piece import Piece, TiedRows
from maglia.core.piece.wishes import FlatFit
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import DomainError, Value

SIGNALS = {
    "slack": (SLACK_MM, "mm"),
    "pressed": (PRESSED_GF, "gf"),
    "overlap": (OVERLAP_MM, "mm"),
    "tilted": (TILT_DEG, "°"),
}
MOST_BETWEEN = 3
MOST_HANG = 4
MOST_LOOKS = 60
STATES_FOLLOWED = 3


def words(fit: FlatFit, shown: LengthUnit) -> str:
    return f"“{fit.row}” lies flat"


def measured(fit: FlatFit, look: Look) -> tuple[Residual, ...]:
    """Each signal's amounts added up over all its places."""
    row_of(look.piece, fit)
    if look.hung is None or look.hung.state != "converged":
        raise DomainError("whether it lies flat is read off the hang, and the piece does not hang")
    sums = dict.fromkeys(SIGNALS, 0.0)
    for mark in lies_flat(look.assembly, look.hung).marks:
        sums[mark.signal] += mark.amount
    return tuple(
        Residual(signal, 0.0, got, 0.0, unit=SIGNALS[signal][1]) for signal, got in sums.items()
    )


def unflatness(fit: FlatFit, look: Look) -> float:
    """One figure for all signals: each amount in its own threshold, added up; 0 is flat."""
    return sum(r.got / SIGNALS[r.what][0] for r in measured(fit, look))


def row_of(piece: Piece, fit: FlatFit) -> TiedRows:
    row = piece.owner(fit.row)
    if not isinstance(row, TiedRows):
        raise DomainError(f"fit “{fit.name}”: there are no tied rows “{fit.row}”")
    return row


class Rings(Value, frozen=True, order=True):
    """Rings between the links of each row, and between each row and the one above it."""

    between: tuple[int, ...]
    hang: tuple[int, ...]


def rings_of(row: TiedRows) -> Rings:
    levels = range(len(row.rows))
    return Rings(
        tuple(between(row, k) for k in levels),
        tuple(row.hang[min(k, len(row.hang) - 1)] for k in levels[:-1]),
    )


def with_rings(piece: Piece, fit: FlatFit, rings: Rings) -> Piece:
    row = row_of(piece, fit)
    changed = replace(row, between=_brief(rings.between), hang=_brief(rings.hang) or row.hang)
    return piece.replaced(row, changed)


def _brief(values: tuple[int, ...]) -> tuple[int, ...]:
    """Without what the last number says anyway, since it holds on."""
    while len(values) > 1 and values[-1] == values[-2]:
        values = values[:-1]
    return values


def allowed_between(row: TiedRows, level: int) -> tuple[int, ...]:
    """A row of one link has nothing between."""
    return (1,) if row.rows[level] == 1 else tuple(range(1, MOST_BETWEEN + 1))


def alike(row: TiedRows) -> Iterator[Rings]:
    """Every row alike: the states a maker would try first."""
    levels = range(len(row.rows))
    for ring in range(1, MOST_BETWEEN + 1):
        every = tuple(
            min(allowed_between(row, k), key=lambda n: (abs(n - ring), n)) for k in levels
        )
        for hang in range(1, MOST_HANG + 1):
            yield Rings(every, (hang,) * (len(row.rows) - 1))


def beside(row: TiedRows, rings: Rings) -> Iterator[Rings]:
    """States one step away: one row's rings more or fewer."""
    for k, hang in enumerate(rings.hang):
        for other in (hang - 1, hang + 1):
            if 1 <= other <= MOST_HANG:
                yield replace(rings, hang=_put(rings.hang, k, other))
    for k, now in enumerate(rings.between):
        allowed = allowed_between(row, k)
        at = allowed.index(now) if now in allowed else 0
        for other in allowed[max(at - 1, 0) : at + 2]:
            if other != now:
                yield replace(rings, between=_put(rings.between, k, other))


def _sum(rings: Rings) -> int:
    return sum(rings.between) + sum(rings.hang)


def _put(values: tuple[int, ...], k: int, value: int) -> tuple[int, ...]:
    return (*values[:k], value, *values[k + 1 :])


Ranked = tuple[float, int, int, Rings]
"""Unflatness, rows changed, rings in all, and the state: the smallest is best."""


def _rank(fit: FlatFit, piece: Piece, rings: Rings, trials: Trials) -> Ranked:
    row = row_of(piece, fit)
    total = sum(n * (count - 1) for n, count in zip(rings.between, row.rows, strict=True))
    total += sum(rings.hang)
    try:
        score = unflatness(fit, trials.hung(with_rings(piece, fit, rings)))
    except DomainError:
        score = float("inf")
    now = rings_of(row)
    pairs = zip((*rings.between, *rings.hang), (*now.between, *now.hang), strict=True)
    return round(score, 6), sum(a != b for a, b in pairs), total, rings


def solved(fit: FlatFit, piece: Piece, trials: Trials) -> Solution:
    row = row_of(piece, fit)
    first = trials.looks
    known: dict[Rings, Ranked] = {}
    now = rings_of(row)
    known[now] = _rank(fit, piece, now, trials)
    if known[now][0] == 0:
        return Solution(piece)
    for rings in (*beside(row, now), *sorted(alike(row), key=_sum)):
        if rings not in known:
            known[rings] = _rank(fit, piece, rings, trials)
        if known[rings][0] == 0:
            break
    followed: set[Rings] = set()
    while trials.looks - first < MOST_LOOKS:
        best = heapq.nsmallest(STATES_FOLLOWED, known.values())
        following = next((entry for entry in best if entry[-1] not in followed), None)
        if following is None or best[0][0] == 0:
            break
        followed.add(following[-1])
        for rings in beside(row, following[-1]):
            if rings not in known:
                known[rings] = _rank(fit, piece, rings, trials)
    ranked = heapq.nsmallest(3, known.values())
    pieces = [with_rings(piece, fit, entry[-1]) for entry in ranked]
    left = ranked[0][0]
    if left == float("inf"):
        trials.hung(piece)  # says why none of them hangs
    reason = "" if left == 0 else "no number of rings makes it lie flat; this is the flattest"
    return Solution(pieces[0], others=tuple(pieces[1:]), hindrance=reason)


def targets(fit: FlatFit, piece: Piece) -> frozenset[Target]:
    row_of(piece, fit)
    return frozenset({RowCount(fit.row, "rings")})


def read(said: Said) -> FlatFit:
    row = said.one(TiedRows, "tied rows")
    return FlatFit(name=f"{row} flat", row=row)


WISH = Wish(
    record=FlatFit,
    begins=("flat",),
    forms=(("flat NAME", "rings between bead links and rows, so that they lie flat"),),
    read=read,
    written=lambda fit: f"flat {fit.row}",
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
)
