"""Smooth bodies that a piece can lie on: signed distance with analytic gradient and Hessian.

Every body answers `evaluate(points (N, dim) mm)` with φ (N,), ∇φ (N, dim) and ∇²φ (N, dim, dim);
φ is positive outside. Primitives and blend as in the reference networks' description.
"""

from typing import Any, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from maglia.core.record import DomainError, Value

Floats = NDArray[np.float64]


class Field(NamedTuple):
    """Signed distance (N,), gradient (N, dim), Hessian (N, dim, dim) at N points."""

    value: Floats
    gradient: Floats
    hessian: Floats


class Body(Protocol):
    """Frozen, so that pictures and results can be kept by it."""

    def evaluate(self, points: Floats) -> Field: ...

    def distance(self, points: Floats) -> Floats:
        """The value alone, (N,): what a picture needs for its many points."""
        ...

    def __hash__(self) -> int: ...


def _outer(a: Floats, b: Floats) -> Floats:
    return a[:, :, None] * b[:, None, :]


class Ball(Value, frozen=True):
    """A sphere in space, a disc in the plane."""

    centre: tuple[float, ...]
    radius: float

    def evaluate(self, points: Floats) -> Field:
        q = points - np.asarray(self.centre, float)
        distance = np.maximum(np.linalg.norm(q, axis=1), 1e-9)
        normal = q / distance[:, None]
        eye = np.eye(points.shape[1])
        hessian = (eye - _outer(normal, normal)) / distance[:, None, None]
        return Field(distance - self.radius, normal, hessian)

    def distance(self, points: Floats) -> Floats:
        return np.asarray(np.linalg.norm(points - np.asarray(self.centre), axis=1) - self.radius)


class ConeCapsule(Value, frozen=True):
    """Distance to a segment p–q less a radius that is linear along it."""

    p: tuple[float, float, float]
    q: tuple[float, float, float]
    rp: float
    rq: float

    def evaluate(self, points: Floats) -> Field:
        p, axis = np.asarray(self.p, float), np.asarray(self.q, float) - np.asarray(self.p, float)
        length = float(np.linalg.norm(axis))
        u = axis / length
        t = (points - p) @ u / length
        inside = (t > 0) & (t < 1)
        t = np.clip(t, 0.0, 1.0)
        w = points - p - t[:, None] * axis
        distance = np.maximum(np.linalg.norm(w, axis=1), 1e-9)
        normal = w / distance[:, None]
        slope = (self.rq - self.rp) / length
        gradient = normal - np.where(inside, slope, 0.0)[:, None] * u
        across = np.eye(3) - np.where(inside, 1.0, 0.0)[:, None, None] * np.outer(u, u)
        hessian = (across - _outer(normal, normal)) / distance[:, None, None]
        return Field(distance - (self.rp + t * (self.rq - self.rp)), gradient, hessian)

    def distance(self, points: Floats) -> Floats:
        p, axis = np.asarray(self.p, float), np.asarray(self.q, float) - np.asarray(self.p, float)
        t = np.clip((points - p) @ axis / float(axis @ axis), 0.0, 1.0)
        off = np.linalg.norm(points - p - t[:, None] * axis, axis=1)
        return np.asarray(off - (self.rp + t * (self.rq - self.rp)))


class Ellipsoid(Value, frozen=True):
    """k0 (k0 − 1) / k1 with k0 = |q/R|, k1 = |q/R²|: zero on the ellipsoid, near-distance by it."""

    centre: tuple[float, float, float]
    radii: tuple[float, float, float]

    def evaluate(self, points: Floats) -> Field:
        q, r = points - np.asarray(self.centre, float), np.asarray(self.radii, float)
        a, b = q / r**2, q / r**4
        k0 = np.maximum(np.linalg.norm(q / r, axis=1), 1e-9)
        k1 = np.maximum(np.linalg.norm(a, axis=1), 1e-12)
        g0, g1 = a / k0[:, None], b / k1[:, None]
        h0 = (np.diag(r**-2.0) - _outer(g0, g0)) / k0[:, None, None]
        h1 = (np.diag(r**-4.0) - _outer(g1, g1)) / k1[:, None, None]
        top = k0 * (k0 - 1)
        gt = (2 * k0 - 1)[:, None] * g0
        ht = 2 * _outer(g0, g0) + (2 * k0 - 1)[:, None, None] * h0
        k, kk = k1[:, None], k1[:, None, None]
        gradient = gt / k - top[:, None] * g1 / k**2
        cross = _outer(gt, g1) + _outer(g1, gt)
        bend = top[:, None, None] * (2 * _outer(g1, g1) / kk**3 - h1 / kk**2)
        return Field(top / k1, gradient, ht / kk - cross / kk**2 + bend)

    def distance(self, points: Floats) -> Floats:
        q, r = points - np.asarray(self.centre, float), np.asarray(self.radii, float)
        k0, k1 = np.linalg.norm(q / r, axis=1), np.linalg.norm(q / r**2, axis=1)
        return np.asarray(k0 * (k0 - 1) / np.maximum(k1, 1e-12))


class Blend(Value, frozen=True):
    """Union of two bodies, rounded where they meet over a width k."""

    a: Body
    b: Body
    k: float

    def evaluate(self, points: Floats) -> Field:
        a, b = self.a.evaluate(points), self.b.evaluate(points)
        h = np.clip(0.5 + 0.5 * (b.value - a.value) / self.k, 0.0, 1.0)
        between = (h > 0) & (h < 1)
        value = b.value * (1 - h) + a.value * h - self.k * h * (1 - h)
        gradient = (1 - h)[:, None] * b.gradient + h[:, None] * a.gradient
        step = a.gradient - b.gradient
        bend = _outer(step, step) * np.where(between, 1 / (2 * self.k), 0.0)[:, None, None]
        hh = h[:, None, None]
        return Field(value, gradient, (1 - hh) * b.hessian + hh * a.hessian - bend)

    def distance(self, points: Floats) -> Floats:
        a, b = self.a.distance(points), self.b.distance(points)
        h = np.clip(0.5 + 0.5 * (b - a) / self.k, 0.0, 1.0)
        return np.asarray(b * (1 - h) + a * h - self.k * h * (1 - h))


def body_from(description: dict[str, Any]) -> Body:
    """A body from its description in a network file. Raises DomainError for an unknown kind."""
    kind = description.get("kind")
    try:
        if kind in ("sphere", "disc"):
            return Ball(tuple(description["center"]), float(description["radius"]))
        if kind == "cone_capsule":
            p, q = tuple(description["p"]), tuple(description["q"])
            return ConeCapsule(p, q, float(description["rp"]), float(description["rq"]))
        if kind == "ellipsoid":
            return Ellipsoid(tuple(description["center"]), tuple(description["radii"]))
        if kind == "blend":
            one, other = body_from(description["a"]), body_from(description["b"])
            return Blend(one, other, float(description["k"]))
    except KeyError as missing:
        raise DomainError(f"the body of kind “{kind}” lacks {missing}") from None
    known = "sphere, disc, cone_capsule, ellipsoid, blend"
    raise DomainError(f"a body of kind “{kind}” is not known; known are {known}")
