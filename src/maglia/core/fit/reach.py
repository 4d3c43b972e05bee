"""The search shared by every wish that is read off a hang: turn levers until the readings agree.

Readings grow with their lever. Each round hangs the piece once and moves every lever along the
line through its last two readings; at the end the piece one step below and one step above, in all
levers at once, is hung too, so that the answer is proven best of its neighbours.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from maglia.core.fit.found import Solution
from maglia.core.fit.lever import Lever
from maglia.core.fit.look import Look, Trials
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError

MOST_ROUNDS = 14
TRIED_LONGER = (1.25, 1.6, 2.2, 3.5, 6.0)
"""How many times as long, where a run is too short for the piece to hang."""
SAME_MM = 1e-3


@dataclass
class Aim:
    """A lever and how far off its reading is: positive when there is too much."""

    lever: Lever
    off: Callable[[Look], float]
    slope: float = 0.5
    """First guess of what the reading gains for each mm of length."""
    known: dict[int, float] = field(default_factory=dict)

    def next_count(self, count: int) -> int:
        """Where the line through the two nearest readings meets zero."""
        lever, off = self.lever, self.known[count]
        below = [n for n in self.known if self.known[n] <= 0]
        above = [n for n in self.known if self.known[n] > 0]
        low, high = max(below, default=None), min(above, default=None)
        per_step = self.slope * lever.step_mm
        others = [n for n in self.known if n != count]
        if others:
            other = min(others, key=lambda n: abs(n - count))
            gained = (off - self.known[other]) / ((count - other) / lever.step)
            if gained > 0.02 * abs(lever.step_mm):
                per_step = gained
        wanted = lever.allowed(count - off / per_step * lever.step)
        if low is not None and high is not None and low < high:
            if high - low <= lever.step:
                return min((low, high), key=lambda n: abs(self.known[n]))
            wanted = min(max(wanted, low), high)
        return wanted


def _first_that_hang(piece: Piece, aims: Sequence[Aim], trials: Trials) -> list[int]:
    """Counts to begin with: as they are, or longer if they are too short to hang at all. Raises
    DomainError, with the first cause, if none of them hangs."""
    cause: DomainError | None = None
    for growth in (1.0, *TRIED_LONGER):
        counts = [aim.lever.allowed(round(aim.lever.count * growth)) for aim in aims]
        try:
            trials.hung(with_counts(piece, aims, counts))
            return counts
        except DomainError as fault:
            cause = cause or fault
    assert cause is not None
    raise cause


def with_counts(piece: Piece, aims: Sequence[Aim], counts: Sequence[int]) -> Piece:
    for aim, count in zip(aims, counts, strict=True):
        piece = aim.lever.put(piece, count)
    return piece


def reached(piece: Piece, aims: Sequence[Aim], trials: Trials) -> Solution:
    """The piece whose readings are nearest to the aims, with its neighbours below and above."""
    if not aims:
        return Solution(piece, hindrance="there is nothing to change")
    counts = _first_that_hang(piece, aims, trials)
    counts = _closed_in(piece, aims, counts, trials)
    for _ in range(3):
        below = _beside(piece, aims, counts, -1, trials)
        above = _beside(piece, aims, counts, +1, trials)
        better = [
            min(aim.known, key=lambda n, a=aim: (abs(a.known[n]), n))  # type: ignore[misc]
            for aim in aims
        ]
        if better == counts:
            break
        counts = better
        _read(with_counts(piece, aims, counts), aims, counts, trials)
    return Solution(with_counts(piece, aims, counts), below, above)


def _read(piece: Piece, aims: Sequence[Aim], counts: Sequence[int], trials: Trials) -> None:
    look = trials.hung(piece)
    for aim, count in zip(aims, counts, strict=True):
        aim.known[count] = aim.off(look)


def _closed_in(piece: Piece, aims: Sequence[Aim], counts: list[int], trials: Trials) -> list[int]:
    tried: set[tuple[int, ...]] = set()
    for _ in range(MOST_ROUNDS):
        _read(with_counts(piece, aims, counts), aims, counts, trials)
        tried.add(tuple(counts))
        following = [aim.next_count(n) for aim, n in zip(aims, counts, strict=True)]
        if following == counts or tuple(following) in tried:
            break
        counts = following
    return counts


def _beside(
    piece: Piece, aims: Sequence[Aim], counts: Sequence[int], by: int, trials: Trials
) -> Piece | None:
    """The piece with every lever one step further, if it can be had and hangs."""
    moved = [
        aim.lever.allowed(n + by * aim.lever.step) for aim, n in zip(aims, counts, strict=True)
    ]
    if moved == list(counts):
        return None
    other = with_counts(piece, aims, moved)
    try:
        _read(other, aims, moved, trials)
    except DomainError:
        return None
    return other
