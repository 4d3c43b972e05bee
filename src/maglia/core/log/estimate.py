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
    own = np.asarray(values, float)
    if len(own) < FEWEST:
        return None
    one, other = np.triu_indices(len(own))
    means = np.sort((own[one] + own[other]) / 2)
    lower = _rank(len(own))
    return Estimate(float(np.median(means)), float(means[lower]), float(means[-1 - lower]),
                    len(own), apart(values))  # fmt: skip


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
