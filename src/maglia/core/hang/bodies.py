"""Smooth bodies that a piece can lie on: signed distance with analytic gradient and Hessian.

Every body answers `evaluate(points (N, dim) mm)` with φ (N,), ∇φ (N, dim) and ∇²φ (N, dim, dim);
φ is positive outside. Primitives and blend as in the reference networks' description. Inside,
arrays run over the points last, (dim, N), and a Hessian is kept as weighted squares of directions
until it is asked for: a blend then only weighs and adds directions, and the matrices are summed
once. This is what a hang on a body spends its time on.
"""

from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from maglia.core.values.record import DomainError, Value

Floats = NDArray[np.float64]
Ways = tuple[tuple[Floats, Floats], ...]
"""Weights (N,) and directions (dim, N or 1) whose weighted squares make a Hessian."""


class Field(NamedTuple):
    """Signed distance (N,), gradient (N, dim), Hessian (N, dim, dim) at N points."""

    value: Floats
    gradient: Floats
    hessian: Floats


class Bending(NamedTuple):
    """What one body says at points (dim, N): value (N,), gradient (dim, N), and the Hessian as
    diag(straight) + Σ weight v vᵀ, with straight (dim or 1, N) and v of each of the `ways`."""

    value: Floats
    gradient: Floats
    straight: Floats
    ways: Ways


class Body(Value, frozen=True):
    """Frozen, so that pictures and results can be kept by it."""

    def evaluate(self, points: Floats) -> Field:
        q = np.ascontiguousarray(points.T)
        here = self.bending(q)
        weights = np.stack([weight for weight, _ in here.ways])
        ways = np.empty((len(here.ways), *q.shape))
        for k, (_, way) in enumerate(here.ways):
            ways[k] = way
        hessian = np.einsum("kin,kjn->ijn", ways * weights[:, None], ways)
        axis = np.arange(len(q))
        hessian[axis, axis] += here.straight
        return Field(here.value, here.gradient.T, hessian.T)  # the Hessian is symmetric

    def slope(self, points: Floats) -> tuple[Floats, Floats]:
        """Value (N,) and gradient (N, dim) alone."""
        here = self.bending(np.ascontiguousarray(points.T))
        return here.value, here.gradient.T

    def distance(self, points: Floats) -> Floats:
        """The value alone, (N,): what a picture needs for its many points."""
        return self.gap(np.ascontiguousarray(points.T))

    def bending(self, q: Floats) -> Bending:
        """All of it at points (dim, N)."""
        raise NotImplementedError

    def gap(self, q: Floats) -> Floats:
        """The value alone at points (dim, N)."""
        raise NotImplementedError


def column(numbers: tuple[float, ...] | Floats) -> Floats:
    return np.asarray(numbers, float)[:, None]


def norm(q: Floats) -> Floats:
    return np.asarray(np.sqrt(np.einsum("in,in->n", q, q)))


class Ball(Body, frozen=True):
    """A sphere in space, a disc in the plane."""

    centre: tuple[float, ...]
    radius: float

    def bending(self, q: Floats) -> Bending:
        away = q - column(self.centre)
        distance = np.maximum(norm(away), 1e-9)
        normal, bend = away / distance, 1 / distance
        return Bending(distance - self.radius, normal, bend[None], ((-bend, normal),))

    def gap(self, q: Floats) -> Floats:
        return norm(q - column(self.centre)) - self.radius


class ConeCapsule(Body, frozen=True):
    """Distance to a segment p–q less a radius that is linear along it."""

    p: tuple[float, float, float]
    q: tuple[float, float, float]
    rp: float
    rq: float

    def bending(self, q: Floats) -> Bending:
        return next(_capsules((self,), q))

    def gap(self, q: Floats) -> Floats:
        axis = np.asarray(self.q, float) - np.asarray(self.p, float)
        from_p = q - column(self.p)
        within = np.clip((axis / (axis @ axis)) @ from_p, 0.0, 1.0)
        away = norm(from_p - within * axis[:, None])
        return np.asarray(away - (self.rp + within * (self.rq - self.rp)))


def _capsules(capsules: Sequence[ConeCapsule], q: Floats) -> Iterator[Bending]:
    """What each of several says, all worked out together."""
    p = np.array([own.p for own in capsules], float)
    axis = np.array([own.q for own in capsules], float) - p
    square = np.einsum("ci,ci->c", axis, axis)[:, None]
    radius = np.array([own.rp for own in capsules], float)[:, None]
    wider = np.array([own.rq for own in capsules], float)[:, None] - radius
    share = axis / square
    t = share @ q - np.einsum("ci,ci->c", share, p)[:, None]
    within = np.minimum(np.maximum(t, 0.0), 1.0)
    away = within[:, None] * axis[:, :, None]
    away += p[:, :, None]
    np.subtract(q, away, out=away)
    distance = np.sqrt(np.einsum("cin,cin->cn", away, away))
    bend = 1 / np.maximum(distance, 1e-9)
    away *= bend[:, None]  # now it is the direction
    value = distance - within * wider
    value -= radius
    beside = np.where(t == within, 1.0, 0.0)  # of the segment, not of one of its ends
    gradient = away - beside[:, None] * (wider * share)[:, :, None]
    u, inside = axis / np.sqrt(square), bend * beside
    for k in range(len(capsules)):
        ways = ((-bend[k], away[k]), (-inside[k], u[k][:, None]))
        yield Bending(value[k], gradient[k], bend[k][None], ways)


class Ellipsoid(Body, frozen=True):
    """k0 (k0 − 1) / k1 with k0 = |q/R|, k1 = |q/R²|: zero on the ellipsoid, near-distance by it."""

    centre: tuple[float, float, float]
    radii: tuple[float, float, float]

    def bending(self, q: Floats) -> Bending:
        """With g0, g1 the gradients of k0, k1 and D = diag(1/R²): ∇²k0 = (D − g0 g0ᵀ)/k0,
        ∇²k1 = (D² − g1 g1ᵀ)/k1; the mixed terms g0 g1ᵀ + g1 g0ᵀ are completed to a square."""
        flat = column(self.radii) ** -2.0
        away = q - column(self.centre)
        a = away * flat
        b = a * flat
        k0 = np.maximum(np.sqrt(np.einsum("in,in->n", away, a)), 1e-9)
        k = np.maximum(norm(a), 1e-12)
        g0, g1 = a / k0, b / k
        value, slope = k0 * (k0 - 1) / k, 2 * k0 - 1
        bend, share = value / k**2, slope * k0 / k
        first, second = 1 / (k0 * k), 3 * bend - share * slope / k**2
        return Bending(
            value,
            (slope / k) * g0 - (value / k) * g1,
            (slope * first) * flat - bend * flat**2,
            ((first, g0 - share * g1), (second, g1)),
        )

    def gap(self, q: Floats) -> Floats:
        away, r = q - column(self.centre), column(self.radii)
        k0, k1 = norm(away / r), norm(away / r**2)
        return k0 * (k0 - 1) / np.maximum(k1, 1e-12)


class Blend(Body, frozen=True):
    """Union of two bodies, rounded where they meet over a width k."""

    a: Body
    b: Body
    k: float

    def bending(self, q: Floats) -> Bending:
        value, gradient, weigh = self._at(q)
        straight, ways = weigh(1.0)
        return Bending(value, gradient, straight, ways)

    def slope(self, points: Floats) -> tuple[Floats, Floats]:
        value, gradient, _ = self._at(np.ascontiguousarray(points.T))
        return value, gradient.T

    def _at(self, q: Floats) -> "_Met":
        """The primitives first, capsules together; then values and gradients from the leaves of
        the tree upward. Its root says downward how much each leaf weighs in the Hessian."""
        plain = list(self._primitives())
        together = _capsules([own for own in plain if isinstance(own, ConeCapsule)], q)
        said = [next(together) if isinstance(own, ConeCapsule) else own.bending(q) for own in plain]
        return self._met(iter(said))

    def _primitives(self) -> Iterator[Body]:
        for own in (self.a, self.b):
            yield from own._primitives() if isinstance(own, Blend) else (own,)

    def _met(self, said: Iterator[Bending]) -> "_Met":
        a, b = (
            own._met(said) if isinstance(own, Blend) else _leaf(next(said))
            for own in (self.a, self.b)
        )
        h = self._share(a.value, b.value)
        step = a.gradient - b.gradient

        def weigh(weight: Floats | float) -> tuple[Floats, Ways]:
            ours = weight * h
            theirs = weight - ours
            first, ways = a.weigh(ours)
            second, more = b.weigh(theirs)
            meet = np.asarray((h * (1 - h) > 0) * (weight * (-0.5 / self.k)))
            return first + second, (*ways, *more, (meet, step))

        return _Met(self._blended(a.value, b.value, h), b.gradient + h * step, weigh)

    def gap(self, q: Floats) -> Floats:
        a, b = self.a.gap(q), self.b.gap(q)
        return self._blended(a, b, self._share(a, b))

    def _share(self, a: Floats, b: Floats) -> Floats:
        h = b - a
        h *= 0.5 / self.k
        h += 0.5
        return np.minimum(np.maximum(h, 0.0, out=h), 1.0, out=h)

    def _blended(self, a: Floats, b: Floats, h: Floats) -> Floats:
        return b + h * (a - b - self.k * (1 - h))


class _Met(NamedTuple):
    """A node of a tree of blends: value, gradient, and its Hessian's parts once it is known how
    much they weigh."""

    value: Floats
    gradient: Floats
    weigh: Callable[[Floats | float], tuple[Floats, Ways]]


def _leaf(said: Bending) -> _Met:
    def weigh(weight: Floats | float) -> tuple[Floats, Ways]:
        return weight * said.straight, tuple((weight * own, way) for own, way in said.ways)

    return _Met(said.value, said.gradient, weigh)


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
