"""A network at rest: points with mass, threads no longer than their length, rods, a body.

Lengths mm, masses g, forces gf (the weight of 1 g), gravity along the last axis, downward.
"""

from itertools import pairwise
from typing import NamedTuple

import numpy as np
from msgspec import field
from numpy.typing import NDArray

from maglia.core.hang.bodies import Body, Floats
from maglia.core.values.record import Value

Ints = NDArray[np.int64]
Weights = tuple[tuple[int, float], ...]


class Guide(NamedTuple):
    """A combination of points that is held on the plane normal · x = offset, mm."""

    points: Weights
    normal: tuple[float, ...]
    offset: float = 0.0


class Elastic(Value, frozen=True):
    """A stretch between two points: its pull is `stiffness_gf` × (length / rest − 1) when longer
    than `rest_mm`, else none; at `limit` × rest it gives no further."""

    ends: tuple[int, int]
    rest_mm: float
    limit: float
    stiffness_gf: float


class Slider(Value, frozen=True):
    """Points that a thread runs through without friction: a → through … → b is no longer than
    `rest_mm` in all. `thread`: nodes of the whole thread, if the rider may stand on any stretch
    between neighbours of it, each `rest_mm` long; empty if it stays on the one that is drawn."""

    a: int
    b: int
    through: tuple[int, ...]
    rest_mm: float
    thread: tuple[int, ...] = ()
    rests: tuple[float, ...] = ()
    """Length of every stretch of the thread, mm; empty if all are as long as this one."""

    def on(self, stretch: int) -> "Slider":
        """The same rider on another stretch of its thread, numbered from 0."""
        rest = self.rests[stretch] if self.rests else self.rest_mm
        return Slider(self.thread[stretch], self.thread[stretch + 1], self.through, rest,
                      self.thread, self.rests)  # fmt: skip

    @property
    def sides(self) -> tuple[tuple[int, int], ...]:
        return tuple(pairwise((self.a, *self.through, self.b)))


class Network(Value, frozen=True):
    """What is solved.

    start (N, dim): a drawn layout, with fixed points in place. attached: points that are fixed
    combinations of others (a hole on a rigid part), not unknowns of their own. labels: per
    segment, the run it belongs to. contact: points kept at least `radius` (one, or one for each)
    outside the body. guides: points held on a plane, free within it.
    """

    start: Floats
    mass: Floats
    fixed: NDArray[np.bool_]
    segments: Ints
    rest: Floats
    rods: Ints
    length: Floats
    attached: dict[int, Weights] = field(default_factory=dict)
    body: Body | None = None
    contact: Ints = field(default_factory=lambda: np.zeros(0, np.int64))
    radius: Floats | float = 0.0
    guides: tuple[Guide, ...] = ()
    elastics: tuple[Elastic, ...] = ()
    sliders: tuple[Slider, ...] = ()
    labels: tuple[str, ...] = ()

    @property
    def dim(self) -> int:
        return int(self.start.shape[1])

    @property
    def threads(self) -> tuple[Ints, Floats, Floats]:
        """Everything that pulls and never pushes: pairs of points (M, 2), lengths, and how each
        gives, mm a gf: segments and limits of elastics not at all, then elastics themselves."""
        if not self.elastics:
            return self.segments, self.rest, np.zeros(len(self.rest))
        ends = np.array([own.ends for own in self.elastics], np.int64)
        rest = np.array([own.rest_mm for own in self.elastics])
        limit = rest * np.array([own.limit for own in self.elastics])
        gives = rest / np.array([own.stiffness_gf for own in self.elastics])
        pairs = np.vstack([self.segments.reshape(-1, 2), ends, ends]).astype(np.int64)
        stiff = np.zeros(len(self.rest) + len(ends))
        return pairs, np.r_[self.rest, limit, rest], np.r_[stiff, gives]

    @property
    def sides(self) -> tuple[Ints, Ints]:
        """The stretches between riders and what is beside them (S, 2), and the slider of each."""
        pairs = [side for own in self.sliders for side in own.sides]
        of = [k for k, own in enumerate(self.sliders) for _ in own.sides]
        return np.array(pairs, np.int64).reshape(-1, 2), np.array(of, np.int64)

    def resolved(self) -> dict[int, Weights]:
        """Attached points as combinations of points that are not attached themselves."""
        return {node: _grounded(node, self.attached, 0) for node in self.attached}


def _grounded(node: int, attached: dict[int, Weights], depth: int) -> Weights:
    if node not in attached or depth > 20:
        return ((node, 1.0),)
    total: dict[int, float] = {}
    for base, weight in attached[node]:
        for ground, share in _grounded(base, attached, depth + 1):
            total[ground] = total.get(ground, 0.0) + weight * share
    return tuple(total.items())
