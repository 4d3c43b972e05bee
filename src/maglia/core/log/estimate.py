"""How far off something comes out as a rule: an estimate that a slip does not move, its interval,
and which values stand apart.

Values further from the median than 3.5 times the scaled median deviation (Iglewicz and Hoaglin)
stand apart. The estimate is the Hodges-Lehmann one, the median of all means of two; its interval
comes from the signed-rank distribution, exact for any distribution that is even about its middle.
"""

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from maglia.core.values.record import Value

FEWEST = 6
"""With fewer there is no interval at 95 %."""
APART, SCALE = 3.5, 0.6745
LEVEL = 0.95
MOST_WRITTEN = 300
"""Values whose means are all written down."""
MOST_EXACT = 60
"""Values whose signed-rank distribution is counted out; of more it is taken as normal."""


class Estimate(Value, frozen=True):
    """The middle of `n` values with its interval at 95 %; `apart` are the places of those that
    stand apart: they count, but hardly move it."""

    value: float
    low: float
    high: float
    n: int
    apart: tuple[int, ...] = ()

    @property
    def half(self) -> float:
        return (self.high - self.low) / 2

    @property
    def is_sure(self) -> bool:
        """Whether zero lies outside the interval."""
        return self.low > 0 or self.high < 0


def apart(values: Sequence[float]) -> tuple[int, ...]:
    """The places of values that stand apart from all others."""
    own = np.asarray(values, float)
    if len(own) < FEWEST:
        return ()
    off = np.abs(own - np.median(own))
    spread = float(np.median(off))
    if spread == 0.0:
        return ()
    return tuple(int(k) for k in np.flatnonzero(SCALE * off / spread > APART))


def estimated(values: Sequence[float]) -> Estimate | None:
    """The estimate; None of too few values."""
    return _estimated(tuple(values)) if len(values) >= FEWEST else None


@lru_cache(maxsize=64)
def _estimated(values: tuple[float, ...]) -> Estimate:
    own = np.sort(np.asarray(values, float))
    pairs, lower = len(own) * (len(own) + 1) // 2, _rank(len(own))
    ranks = (lower, (pairs - 1) // 2, pairs // 2, pairs - 1 - lower)
    means = _means if len(own) <= MOST_WRITTEN else _searched
    low, below, above, high = means(own, ranks)
    return Estimate((below + above) / 2, low, high, len(own), apart(values))


def _means(own: np.ndarray, ranks: Sequence[int]) -> list[float]:
    """The means of two of sorted values, by their ranks from 0."""
    one, other = np.triu_indices(len(own))
    return [float(mean) for mean in np.sort((own[one] + own[other]) / 2)[list(ranks)]]


def _searched(own: np.ndarray, ranks: Sequence[int]) -> list[float]:
    """The same without writing them all down: halved until as many lie below, to 1e-9 of their
    range."""
    found = []
    for rank in ranks:
        low, high = float(own[0]), float(own[-1])
        while high - low > 1e-9 * (own[-1] - own[0]) and low < (mid := (low + high) / 2) < high:
            both_ways = int(np.searchsorted(own, 2 * mid - own, side="right").sum())
            alone = int(np.searchsorted(own, mid, side="right"))
            low, high = (low, mid) if (both_ways + alone) // 2 > rank else (mid, high)
        found.append(high)
    return found


@lru_cache(maxsize=256)
def _rank(n: int) -> int:
    """How many of the means of two lie below the interval."""
    if n > MOST_EXACT:
        middle, spread = n * (n + 1) / 4, math.sqrt(n * (n + 1) * (2 * n + 1) / 24)
        return max(0, math.floor(middle - 1.959964 * spread - 0.5) + 1)
    counts = np.zeros(n * (n + 1) // 2 + 1)
    counts[0] = 1.0
    for rank in range(1, n + 1):
        counts[rank:] = counts[rank:] + counts[:-rank]
    below = np.cumsum(counts) / counts.sum()
    return max(0, int(np.searchsorted(below, (1 - LEVEL) / 2, side="right")) - 1)
