"""A flat rigid body from a handful of points: which rods hold it, and what rides on them."""

import numpy as np

from maglia.core.hang.bodies import Floats
from maglia.core.values.record import Value

SAME_MM = 1e-6


class RigidPoints(Value, frozen=True):
    """Points (k, 2) of a flat body. rods: (i, j, mm) that hold it; rides: other points as fixed
    combinations of those; base: the points that carry it, two on a line or three in a plane."""

    local: Floats
    base: tuple[int, ...]
    rods: tuple[tuple[int, int, float], ...]
    rides: dict[int, tuple[tuple[int, float], ...]]

    def frame(self, positions: Floats) -> Floats:
        """Linear map (2, dim) and origin (1, dim), stacked (3, dim), from local to the positions
        (k, dim) of its points, by least squares. Points in one line leave it free to turn about
        that: then it faces the front."""
        ones = np.c_[self.local, np.ones(len(self.local))]
        found, *_ = np.linalg.lstsq(ones, positions, rcond=None)
        if len(self.base) != 2:
            return np.asarray(found)
        one, other = self.base
        along = self.local[other] - self.local[one]
        led = positions[other] - positions[one]
        along, led = along / np.linalg.norm(along), led / max(float(np.linalg.norm(led)), 1e-9)
        across = np.zeros_like(led)  # square to it, in the plane that is seen
        across[0], across[-1] = -led[-1], led[0]
        across = across / max(float(np.linalg.norm(across)), 1e-9)
        turned = np.outer(along, led) + np.outer((-along[1], along[0]), across)
        return np.vstack([turned, positions[one] - self.local[one] @ turned])


def rigid_points(local: Floats) -> RigidPoints:
    """Choose base points of a body: the two farthest apart, and a third if they are not in line."""
    count = len(local)
    apart = np.linalg.norm(local[:, None] - local[None], axis=2)
    i, j = divmod(int(apart.argmax()), count)
    if apart[i, j] < SAME_MM:
        return RigidPoints(local, (0,), (), {k: ((0, 1.0),) for k in range(1, count)})  # noqa: C420
    along = (local[j] - local[i]) / apart[i, j]
    off = (local - local[i]) @ np.array([-along[1], along[0]])
    third = int(np.abs(off).argmax())
    base: tuple[int, ...] = (i, j) if abs(off[third]) < SAME_MM else (i, j, third)
    corners = np.c_[local[list(base)], np.ones(len(base))]
    rides: dict[int, tuple[tuple[int, float], ...]] = {}
    for k in range(count):
        if k not in base:
            weights, *_ = np.linalg.lstsq(corners.T, np.r_[local[k], 1.0], rcond=None)
            rides[k] = tuple(
                (b, float(w)) for b, w in zip(base, weights, strict=True) if abs(w) > 1e-12
            )
    rods = tuple((a, b, float(apart[a, b])) for n, a in enumerate(base) for b in base[n + 1 :])
    return RigidPoints(local, base, rods, rides)
