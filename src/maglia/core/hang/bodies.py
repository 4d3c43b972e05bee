"""Smooth bodies that a piece can lie on: signed distance with analytic gradient and Hessian.

Every body answers `evaluate(points (N, dim) mm)` with φ (N,), ∇φ (N, dim) and ∇²φ (N, dim, dim);
φ is positive outside. Primitives and blend as in the reference networks' description. Inside,
arrays run over the points last, (dim, N): loops of numpy over hundreds of points are several times
as fast as loops over three coordinates, and this is what a hang on a body spends its time on.
"""

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from maglia.core.values.record import DomainError, Value

Floats = NDArray[np.float64]


class Field(NamedTuple):
    """Signed distance (N,), gradient (N, dim), Hessian (N, dim, dim) at N points; between bodies
    (N,), (dim, N), (dim, dim, N)."""

    value: Floats
    gradient: Floats
    hessian: Floats


class Body(Value, frozen=True):
    """Frozen, so that pictures and results can be kept by it."""

    def evaluate(self, points: Floats) -> Field:
        value, gradient, hessian = self.field(np.ascontiguousarray(points.T))
        return Field(value, gradient.T, hessian.T)  # the Hessian is symmetric

    def distance(self, points: Floats) -> Floats:
        """The value alone, (N,): what a picture needs for its many points."""
        return self.gap(np.ascontiguousarray(points.T))

    def field(self, q: Floats) -> Field:
        """All three at points (dim, N), with the points last."""
        raise NotImplementedError

    def gap(self, q: Floats) -> Floats:
        """The value alone at points (dim, N)."""
        raise NotImplementedError


def column(numbers: tuple[float, ...] | Floats) -> Floats:
    return np.asarray(numbers, float)[:, None]


def norm(q: Floats) -> Floats:
    return np.asarray(np.sqrt(np.einsum("in,in->n", q, q)))


def outer(a: Floats, b: Floats) -> Floats:
    return a[:, None] * b[None, :]


class Ball(Body, frozen=True):
    """A sphere in space, a disc in the plane."""

    centre: tuple[float, ...]
    radius: float

    def field(self, q: Floats) -> Field:
        away = q - column(self.centre)
        distance = np.maximum(norm(away), 1e-9)
        normal = away / distance
        hessian = (np.eye(len(q))[:, :, None] - outer(normal, normal)) / distance
        return Field(distance - self.radius, normal, hessian)

    def gap(self, q: Floats) -> Floats:
        return norm(q - column(self.centre)) - self.radius


class ConeCapsule(Body, frozen=True):
    """Distance to a segment p–q less a radius that is linear along it."""

    p: tuple[float, float, float]
    q: tuple[float, float, float]
    rp: float
    rq: float

    def _from_axis(self, points: Floats) -> tuple[Floats, Floats, Floats]:
        """The axis (3,), the share along it not cut off (N,), the way from it to each point."""
        axis = np.asarray(self.q, float) - np.asarray(self.p, float)
        from_p = points - column(self.p)
        t = axis @ from_p / (axis @ axis)
        return axis, t, from_p - np.clip(t, 0.0, 1.0) * axis[:, None]

    def field(self, q: Floats) -> Field:
        axis, t, away = self._from_axis(q)
        length = float(np.linalg.norm(axis))
        u = axis / length
        inside = np.where((t > 0) & (t < 1), 1.0, 0.0)
        distance = np.maximum(norm(away), 1e-9)
        normal = away / distance
        gradient = normal - inside * column(u * (self.rq - self.rp) / length)
        across = np.eye(3)[:, :, None] - inside * np.outer(u, u)[:, :, None]
        hessian = (across - outer(normal, normal)) / distance
        return Field(distance - self._radius(t), gradient, hessian)

    def gap(self, q: Floats) -> Floats:
        _, t, away = self._from_axis(q)
        return norm(away) - self._radius(t)

    def _radius(self, t: Floats) -> Floats:
        return self.rp + np.clip(t, 0.0, 1.0) * (self.rq - self.rp)


class Ellipsoid(Body, frozen=True):
    """k0 (k0 − 1) / k1 with k0 = |q/R|, k1 = |q/R²|: zero on the ellipsoid, near-distance by it."""

    centre: tuple[float, float, float]
    radii: tuple[float, float, float]

    def field(self, q: Floats) -> Field:
        away, r = q - column(self.centre), column(self.radii)
        a, b = away / r**2, away / r**4
        k0, k = np.maximum(norm(away / r), 1e-9), np.maximum(norm(a), 1e-12)
        g0, g1 = a / k0, b / k
        h0 = (np.diag(r[:, 0] ** -2.0)[:, :, None] - outer(g0, g0)) / k0
        h1 = (np.diag(r[:, 0] ** -4.0)[:, :, None] - outer(g1, g1)) / k
        top, slope = k0 * (k0 - 1), 2 * k0 - 1
        gt = slope * g0
        ht = 2 * outer(g0, g0) + slope * h0
        cross = outer(gt, g1)
        hessian = ht / k - (cross + cross.swapaxes(0, 1)) / k**2
        hessian += 2 * top / k**3 * outer(g1, g1) - top / k**2 * h1
        return Field(top / k, gt / k - top / k**2 * g1, hessian)

    def gap(self, q: Floats) -> Floats:
        away, r = q - column(self.centre), column(self.radii)
        k0, k1 = norm(away / r), norm(away / r**2)
        return k0 * (k0 - 1) / np.maximum(k1, 1e-12)


class Blend(Body, frozen=True):
    """Union of two bodies, rounded where they meet over a width k."""

    a: Body
    b: Body
    k: float

    def field(self, q: Floats) -> Field:
        a, b = self.a.field(q), self.b.field(q)
        h = self._share(a.value, b.value)
        step = a.gradient - b.gradient
        bend = np.where((h > 0) & (h < 1), 1 / (2 * self.k), 0.0)
        return Field(
            self._blended(a.value, b.value, h),
            (1 - h) * b.gradient + h * a.gradient,
            (1 - h) * b.hessian + h * a.hessian - bend * outer(step, step),
        )

    def gap(self, q: Floats) -> Floats:
        a, b = self.a.gap(q), self.b.gap(q)
        return self._blended(a, b, self._share(a, b))

    def _share(self, a: Floats, b: Floats) -> Floats:
        return np.clip(0.5 + 0.5 * (b - a) / self.k, 0.0, 1.0)

    def _blended(self, a: Floats, b: Floats, h: Floats) -> Floats:
        return b * (1 - h) + a * h - self.k * h * (1 - h)


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
