"""A network at rest: points with mass, threads no longer than their length, rods, a body.

Lengths mm, masses g, forces gf (the weight of 1 g), gravity along the last axis, downward.
"""

import numpy as np
from msgspec import field
from numpy.typing import NDArray

from maglia.core.hang.bodies import Body, Floats
from maglia.core.values.record import Value

Ints = NDArray[np.int64]
Weights = tuple[tuple[int, float], ...]
Guide = tuple[Weights, tuple[float, ...]]
"""A combination of points that is held on the plane through the origin with this normal."""


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
    labels: tuple[str, ...] = ()

    @property
    def dim(self) -> int:
        return int(self.start.shape[1])

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
