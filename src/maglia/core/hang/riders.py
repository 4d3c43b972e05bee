"""Riders on a thread without friction: the stretches beside a rider share one length.

A side of unknown length ℓ is a thread of its own, c = (ℓ − |d|²/ℓ) / 2 ≥ 0: unlike Σ|d| it has a
derivative where a rider lies against its stop. Σℓ is no longer than the thread, and its multiplier
is the tension on all sides; ℓ stays above a floor. ℓ couples only to its own d and to the sum, so
that it is taken out of every step by hand: what is left are blocks on d, and between the sides of
one rider.
"""

from typing import NamedTuple

import numpy as np

from maglia.core.hang.bodies import Floats
from maglia.core.hang.network import Ints, Network

FLOOR_MM = 0.005
"""How near a rider comes to its stop."""
SHRINK = 0.6
"""The most of a side that one step takes away."""
START_SLACK_MM = 1.0


class Blocks(NamedTuple):
    """What a step needs of the sides: a block for each, one for each pair of sides of one slider
    and its transpose, and a force for each."""

    own: Floats
    between: Floats
    force: Floats


class Sides:
    """The lengths of all sides, mm, with slacks and multipliers of their floors and sums."""

    def __init__(self, network: Network, start: Floats, weight: float, pairs: Ints) -> None:
        self.of = network.sides[1]
        self.pairs = pairs
        """Pairs of sides of one slider, numbered among the sides."""
        self.rest = np.array([own.rest_mm for own in network.sliders])
        apart = np.linalg.norm(start, axis=1)
        share = self.rest[self.of] / np.maximum(self._sum(apart), 1e-9)[self.of]
        self.length = np.maximum(apart * np.minimum(1.0, share), 4 * FLOOR_MM)
        self.over = np.maximum(self.length - FLOOR_MM, 3 * FLOOR_MM)
        self.spare = np.maximum(self.rest - self._sum(self.length), START_SLACK_MM)
        self.floor = np.full(len(self.of), 0.01 * weight)
        self.tension = np.full(len(self.rest), max(0.05 * weight, 1e-3))

    def _sum(self, values: Floats) -> Floats:
        return np.bincount(self.of, weights=values, minlength=len(self.rest)).astype(float)

    def evaluated(self, d: Floats) -> tuple[Floats, Floats]:
        """Constraint values and gradients with respect to d."""
        self.d, self.square = d, np.einsum("ij,ij->i", d, d)
        value = (self.length - self.square / self.length) / 2
        return value, -d / self.length[:, None]

    @property
    def by_length(self) -> Floats:
        """Derivative of each constraint by its length."""
        return np.asarray((1 + self.square / self.length**2) / 2)

    def gap(self) -> tuple[Floats, Floats]:
        """How far slacks are from what they stand for: of the sums, and of the floors."""
        return (
            self.rest - self._sum(self.length) - self.spare,
            self.length - FLOOR_MM - self.over,
        )

    @property
    def products(self) -> Floats:
        return np.asarray(np.r_[self.tension * self.spare, self.floor * self.over])

    def blocks(self, lam: Floats, slack: Floats, push: Floats, barrier: float) -> Blocks:
        """Blocks and forces with the lengths taken out (a Schur complement)."""
        dim = self.d.shape[1]
        ratio, slope, along = lam / slack, -self.d / self.length[:, None], self.by_length
        pull = lam / self.length
        outer = slope[:, :, None] * slope[:, None, :]
        own = pull[:, None, None] * np.eye(dim) + ratio[:, None, None] * outer
        to_length = (pull + ratio * along)[:, None] * slope
        self._couple = to_length
        self._stiff = (
            pull * self.square / self.length**2 + ratio * along**2 + self.floor / self.over
        )
        sums = self.tension / self.spare
        self._share = sums / (1 + sums * self._sum(1 / self._stiff))
        of_sum, of_floor = self.gap()
        push_sum = barrier / self.spare - sums * of_sum
        push_floor = barrier / self.over - self.floor / self.over * of_floor
        self._right = push * along - push_sum[self.of] + push_floor
        weight = 1 / self._stiff - self._share[self.of] / self._stiff**2
        own -= weight[:, None, None] * to_length[:, :, None] * to_length[:, None, :]
        a, b = self.pairs[:, 0], self.pairs[:, 1]
        shared = self._share[self.of[a]] / (self._stiff[a] * self._stiff[b])
        cross = shared[:, None, None] * to_length[a][:, :, None] * to_length[b][:, None, :]
        between = np.stack([cross, cross.transpose(0, 2, 1)], axis=1).reshape(-1, dim, dim)
        force = push[:, None] * slope - self._inverse(self._right)[:, None] * to_length
        return Blocks(own, between, force)

    def _inverse(self, values: Floats) -> Floats:
        """The lengths' own matrix, a diagonal and the sums, solved for a right-hand side."""
        plain = values / self._stiff
        return np.asarray(plain - self._share[self.of] * self._sum(plain)[self.of] / self._stiff)

    def step(self, dd: Floats, barrier: float) -> tuple[Floats, float, float]:
        """How lengths change with d; and how far slacks and multipliers allow to go."""
        self.dl = self._inverse(self._right - np.einsum("ij,ij->i", self._couple, dd))
        of_sum, of_floor = self.gap()
        self.ds_sum, self.ds_floor = of_sum - self._sum(self.dl), of_floor + self.dl
        self.dt = barrier / self.spare - self.tension * (1 + self.ds_sum / self.spare)
        self.df = barrier / self.over - self.floor * (1 + self.ds_floor / self.over)
        shrinking = self.dl < 0
        most = 1.0
        if shrinking.any():
            most = float((SHRINK * self.length[shrinking] / -self.dl[shrinking]).min())
        return self.dl, min(most, 1.0), 1.0

    def go(self, forward: float, dual: float) -> None:
        self.length = self.length + forward * self.dl
        self.spare = self.spare + forward * self.ds_sum
        self.over = self.over + forward * self.ds_floor
        self.tension = self.tension + dual * self.dt
        self.floor = self.floor + dual * self.df

    def worst(self) -> float:
        """By how much sums and floors are violated at most, mm."""
        return float(max(np.abs(gap).max(initial=0) for gap in self.gap()))

    def residual(self, lam: Floats) -> float:
        """Largest force not balanced at any length, gf."""
        left = lam * self.by_length - self.tension[self.of] + self.floor
        return float(np.abs(left).max(initial=0))
