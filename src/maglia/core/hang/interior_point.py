"""One solve of a network at rest: a primal-dual interior-point method with predictor and corrector.

Constraint forms (d a difference of points): thread (L² − |d|²)/2L ≥ 0, rod (|d|² − L²)/2L = 0,
contact φ(x) − radius ≥ 0. When taut, a multiplier is the tension itself, gf.
"""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from maglia.core.hang.bodies import Floats
from maglia.core.hang.network import Network
from maglia.core.hang.riders import Sides
from maglia.core.hang.solution import NONE, Cancelled, Solution, State, Warm
from maglia.core.hang.spring_net import Topology

MOST_ITERATIONS = 160
"""Cold starts take 6–28; what needs many more goes nowhere."""
STEP_CAP_MM = 25.0
"""A longer step leaves the neighbourhood in which the linear model holds."""
RUN_AWAY_MM = 1500.0
"""A point this far below where it was drawn is no longer held by anything."""
MASS_FLOOR_G = 1e-4
"""Every point weighs something: then a net without contact has exactly one equilibrium."""
LENGTH_TOLERANCE_MM = 2e-4
"""A fiftieth of what answers are promised to (0.01 mm)."""
WARM_SLACK_MM, WARM_PULL = 0.02, 1e-4
"""Slack, and pull as a share of the weight, that a solve going on from an earlier one begins with
at least: small, since it is nearly there."""
SHORT_MM = 0.05
"""Lengths violated by less are rounding, not a piece that is too short."""
RUNAWAY_PULL = 20.0
PATIENCE = 7
"""Too short: pulls of many times the whole weight, and no better for this many iterations."""
FORCE_TOLERANCE = 1e-6
"""Unbalanced force at any point, as a share of the whole weight."""
BARRIER_SHARE = 0.15
"""How much of the mean complementarity is left after a step that no prediction is made for."""
CORRECTED, WENT = 16, 0.4
"""Steps are corrected where the prediction can be believed: in so many first iterations, after a
step that could be gone by this much, and where no shift is needed. Elsewhere the plain rule, which
lets the barrier fall no faster than lengths are met, comes to rest sooner."""
LEAST_SHARE, MOST_SHARE = 0.03, 0.3
"""Between what the predictor's cube is kept (Mehrotra's rule): bodies are curved, and a prediction
believed whole leaves slacks behind on them. Found over the reference networks and demo pieces."""
ROD_STIFFNESS = 100.0
"""Penalty of a rod's length, as a multiple of the whole weight; its multiplier does the rest."""
NEAREST, FURTHEST = 0.9, 0.995
"""How near to its bound a step may bring a slack: further as the barrier falls."""
MOST_SHIFTS = 40
FIRST_SHIFT, SHIFT_GROWTH, SHIFT_DECAY = 1e-5, 4, 4
"""Shift of a matrix that is not positive definite, as a share of the weight; how it grows, and by
how much less than the last one the next is begun with."""
NO_REST = f"it came to no rest in {MOST_ITERATIONS} steps"
TIPS = 1e-3
"""A shift still needed at the end, as a share of the weight: the shape would tip at a touch."""


class _Move(NamedTuple):
    """A step of points (F, dim), and how constraints, slacks and multipliers follow it."""

    dx: Floats
    along: Floats
    ds: Floats
    dlam: Floats


class InteriorPoint:
    """State of one solve. Arrays are ordered threads, rods, guides, contacts, sides of riders, as
    in the topology."""

    def __init__(self, network: Network, topo: Topology, warm: Warm | None) -> None:
        self.network, self.topo = network, topo
        _, lengths, self.gives = network.threads
        self.m, self.rods = len(lengths), len(network.rods)
        self.stretching = np.flatnonzero(self.gives)
        self.r = self.rods + len(network.guides)  # equalities: rods, then guides
        self.normals = np.array([own.normal for own in network.guides]).reshape(-1, network.dim)
        self.planes = np.array([own.offset for own in network.guides])
        self.c = len(network.contact)
        self.k = len(network.sides[1])
        mass = np.maximum(network.mass, MASS_FLOOR_G)
        self.weight = float(mass.sum())
        pull = np.zeros_like(network.start)
        pull[:, -1] = mass
        self.gravity = topo.points.T @ pull
        self.x = network.start[topo.free].copy()
        still = np.where(network.fixed[:, None], network.start, 0.0)
        self.constant, self.offset = topo.pinned @ still, topo.offsets @ still
        sign = np.ones(self.m + self.rods)
        sign[: self.m] = -1.0
        length = np.concatenate([lengths, network.length])
        self.length, self.signed = length, (sign / length)[:, None]
        self.half = sign * length / 2
        self.stiff = ROD_STIFFNESS * self.weight
        self.shifted = 0.0
        self.shifted_last = 0.0
        """The last shift that was needed at all."""
        self.went = 1.0
        """How much of the last step was gone."""
        self.history: list[float] = []
        """By how much lengths were violated at most, after every step."""
        self._equal = slice(self.m, self.m + self.r)
        self._unequal = np.r_[0 : self.m, self.m + self.r : self.m + self.r + self.c + self.k]
        """Which constraints are inequalities: threads, contacts, sides of riders."""
        self.sides: Sides | None = None
        if self.k:
            drawn = topo.vectors @ self.x + self.offset
            first = self.m + self.r + self.c
            self.sides = Sides(network, drawn[first:], self.weight, topo.pairs - first)
        self.value, self.slope, self.bend = self._evaluated()
        self.s = np.maximum(self.value[self._unequal], WARM_SLACK_MM if warm else 1.0)
        self.nu = np.zeros(self.r)
        if warm is None:
            self.lam = np.full(len(self.s), max(0.05 * self.weight, 1e-3))
        else:
            held = np.r_[warm.tension, warm.contact, np.zeros(self.k)]
            self.lam = np.maximum(held, WARM_PULL * self.weight)
            self.nu[: self.rods] = warm.axial

    def _evaluated(self) -> tuple[Floats, Floats, Floats | None]:
        """Constraint values, gradients with respect to their vectors, and body curvature."""
        topo, m, r, c = self.topo, self.m, self.r, self.c
        d = topo.vectors @ self.x
        d += self.offset
        value, slope, bend = np.empty(len(d)), np.empty_like(d), None
        held = m + self.rods
        bars, guided = d[:held], d[held : m + r]
        np.multiply(bars, self.signed, out=slope[:held])
        value[:held] = np.einsum("ij,ij->i", bars, slope[:held]) / 2 - self.half
        if len(self.stretching):
            at = self.stretching
            self.reach = np.maximum(np.linalg.norm(bars[at], axis=1), 1e-9)
            value[at], slope[at] = self.length[at] - self.reach, -bars[at] / self.reach[:, None]
        value[held : m + r] = np.einsum("ij,ij->i", guided, self.normals) - self.planes
        slope[held : m + r] = self.normals
        if c and self.network.body is not None:
            touch = self.network.body.evaluate(d[m + r : m + r + c])
            value[m + r : m + r + c] = touch.value - self.network.radius
            slope[m + r : m + r + c] = touch.gradient
            bend = touch.hessian
        if self.sides is not None:
            value[m + r + c :], slope[m + r + c :] = self.sides.evaluated(d[m + r + c :])
        return value, slope, bend

    def _gap(self) -> Floats:
        """How far slacks are from what they stand for; an elastic gives with its pull."""
        gap = self.value[self._unequal] - self.s
        if len(self.stretching):
            gap[: self.m] += self.gives * self.lam[: self.m]
        return gap

    def _complementarity(self) -> Floats:
        product = self.lam * self.s
        return product if self.sides is None else np.r_[product, self.sides.products]

    def run(self, cancelled: Callable[[], bool]) -> Solution:
        """Step until it rests, or cannot. Raises Cancelled when `cancelled()` becomes true."""
        barrier = float(self._complementarity().mean()) if len(self.s) else 0.0
        for iteration in range(1, MOST_ITERATIONS + 1):
            if cancelled():
                raise Cancelled
            outcome = self._step(barrier)
            if outcome is not None:
                return self._finish(outcome, iteration)
            product = self._complementarity()
            barrier = BARRIER_SHARE * float(product.mean()) if len(product) else 0.0
            self.history.append(self._worst())
            if self._done(float(product.max(initial=0))):
                return self._finish("converged", iteration)
            if self._ran_away():
                return self._finish("slides off", iteration)
            if self._cannot_be_met():
                return self._finish("too short", iteration)
        violated = self.history[-1] > SHORT_MM
        found = self._finish("too short" if violated else "unstable", MOST_ITERATIONS)
        return found if violated else replace(found, cause=NO_REST)

    def _worst(self) -> float:
        """By how much lengths and contacts are violated at most, mm."""
        equal = self.value[self._equal]
        beside = self.sides.worst() if self.sides is not None else 0.0
        return float(max(np.abs(self._gap()).max(initial=0), np.abs(equal).max(initial=0), beside))

    def _cannot_be_met(self) -> bool:
        """Forces run away while lengths stay violated: there is no shape with these lengths."""
        pull = max(self.lam.max(initial=0), np.abs(self.nu).max(initial=0)) / self.weight
        if pull < RUNAWAY_PULL or len(self.history) <= PATIENCE:
            return False
        stuck = self.history[-1] > 0.8 * self.history[-1 - PATIENCE]
        return stuck and self.history[-1] > SHORT_MM

    def _step(self, barrier: float) -> State | None:
        ratio, gap = self.lam / self.s, self._gap()
        if len(at := self.stretching):  # an elastic's slack follows its pull
            ratio[at] = 1.0 / (self.s[at] / self.lam[at] + self.gives[at])
        if self.sides is not None:
            return self._step_with_riders(ratio, gap, barrier)
        factor = self._factored(self._blocks(ratio))
        if factor is None:
            return "unstable"
        target: Floats | float = self._corrected(factor, ratio, gap, barrier)
        push = self._push(ratio, gap, target)
        return self._go(self._move(factor, push, ratio, gap, target), barrier, 1.0)

    def _step_with_riders(self, ratio: Floats, gap: Floats, barrier: float) -> State | None:
        own = self.sides
        assert own is not None
        push = self._push(ratio, gap, barrier)
        beside = own.blocks(self.lam[-self.k :], self.s[-self.k :], push[-self.k :], barrier)
        blocks = self._blocks(ratio)
        blocks[-self.k :] = beside.own
        factor = self._factored(np.concatenate([blocks, beside.between]))
        if factor is None:
            return "unstable"
        force = push[:, None] * self.slope
        force[-self.k :] = beside.force
        dx = self.topo.solve(factor, self.topo.gathered @ force - self.gravity)
        moved = self.topo.vectors @ dx
        longer, most, _ = own.step(moved[-self.k :], barrier)
        along = np.einsum("ij,ij->i", moved, self.slope)
        along[-self.k :] += own.by_length * longer
        return self._go(self._followed(dx, along, ratio, gap, push, barrier), barrier, most)

    def _push(self, ratio: Floats, gap: Floats, target: Floats | float) -> Floats:
        """The force of every constraint toward a complementarity of `target`, gf."""
        push = np.empty(len(self.value))
        pushed = target / self.s - ratio * gap
        if len(at := self.stretching):
            pull, slack = self.lam[at], self.s[at]
            aim = np.broadcast_to(target, self.s.shape)[at]
            pushed[at] = pull + ratio[at] * (aim / pull - slack - gap[at])
        push[self._unequal] = pushed
        push[self._equal] = -(self.nu + self.stiff * self.value[self._equal])
        return push

    def _move(
        self, factor: Floats, push: Floats, ratio: Floats, gap: Floats, target: Floats | float
    ) -> _Move:
        force = self.topo.gathered @ (push[:, None] * self.slope)
        dx = self.topo.solve(factor, force - self.gravity)
        along = np.einsum("ij,ij->i", self.topo.vectors @ dx, self.slope)
        return self._followed(dx, along, ratio, gap, push, target)

    def _followed(
        self, dx: Floats, along: Floats, ratio: Floats, gap: Floats, push: Floats,
        target: Floats | float,
    ) -> _Move:  # fmt: skip
        """How slacks and multipliers follow a step of the points."""
        ds = along[self._unequal] + gap
        dlam = target / self.s - self.lam - ratio * ds
        if len(at := self.stretching):
            dlam[at] = push[at] - self.lam[at] - ratio[at] * along[at]
            ds[at] += self.gives[at] * dlam[at]
        return _Move(dx, along, ds, dlam)

    def _corrected(
        self, factor: Floats, ratio: Floats, gap: Floats, barrier: float
    ) -> Floats | float:
        """What complementarity to aim for: by a trial step to none at all, as much less as that
        step gets to, and less what slack and multiplier change together on it."""
        believed = len(self.history) < CORRECTED and self.went >= WENT and not self.shifted
        if not len(self.s) or not believed:
            return barrier
        trial = self._move(factor, self._push(ratio, gap, 0.0), ratio, gap, 0.0)
        if not np.abs(trial.dx).max(initial=0) < STEP_CAP_MM:  # too far to believe it
            return barrier
        now = float((self.s * self.lam).mean())
        s = self.s + _fraction(self.s, trial.ds, 1.0) * trial.ds
        lam = self.lam + _fraction(self.lam, trial.dlam, 1.0) * trial.dlam
        share = (float((s * lam).mean()) / now) ** 3
        together = np.minimum(np.maximum(trial.ds * trial.dlam, -now), now)
        return np.asarray(min(max(share, LEAST_SHARE), MOST_SHARE) * now - together)

    def _go(self, move: _Move, barrier: float, most: float) -> State | None:
        """Take as much of a step as slacks and multipliers allow."""
        dx, along, ds, dlam = move
        reach = float(np.abs(dx).max(initial=0))
        if not np.isfinite(reach) or not np.isfinite(dlam).all():
            return "unstable"
        near = min(FURTHEST, max(NEAREST, 1 - 10 * barrier))
        forward = min(_fraction(self.s, ds, near), STEP_CAP_MM / max(reach, 1e-12), most)
        dual = _fraction(self.lam, dlam, near)
        if (own := self.sides) is not None:
            forward = min(forward, _fraction(own.spare, own.ds_sum, near),
                          _fraction(own.over, own.ds_floor, near))  # fmt: skip
            dual = min(
                dual, _fraction(own.tension, own.dt, near), _fraction(own.floor, own.df, near)
            )
            own.go(forward, dual)
        self.went = forward
        self.x += forward * dx
        self.s += forward * ds
        self.lam += dual * dlam
        self.nu += forward * self.stiff * (self.value[self._equal] + along[self._equal])
        self.value, self.slope, self.bend = self._evaluated()
        return None

    def _blocks(self, ratio: Floats) -> Floats:
        """The matrix of every constraint on its own vector, (K, dim, dim)."""
        m, r, c, held = self.m, self.r, self.c, self.m + self.rods
        every = np.empty(len(self.value))
        every[self._unequal] = ratio
        every[self._equal] = self.stiff
        blocks = (every[:, None] * self.slope)[:, :, None] * self.slope[:, None, :]
        pull = np.concatenate([self.lam[:m], self.nu[: self.rods]]) / self.length
        if len(at := self.stretching):  # only across its own direction, and by its true length
            pull[at] = self.lam[at] / self.reach
            unit = self.slope[at]
            blocks[at] -= pull[at][:, None, None] * unit[:, :, None] * unit[:, None, :]
        for axis in range(blocks.shape[1]):
            blocks[:held, axis, axis] += pull
        if self.bend is not None:
            blocks[m + r : m + r + c] -= self.lam[m : m + c][:, None, None] * self.bend
        return blocks

    def _factored(self, blocks: Floats) -> Floats | None:
        """The factor of all blocks, shifted by as little as makes them positive definite."""
        matrix = self.topo.matrix(blocks)
        shift = 0.0
        for _ in range(MOST_SHIFTS):
            factor = self.topo.factor(matrix, shift)
            if factor is not None:
                self.shifted = shift
                self.shifted_last = shift or self.shifted_last
                return factor
            again = self.shifted_last / SHIFT_DECAY
            shift = max(SHIFT_GROWTH * shift, FIRST_SHIFT * self.weight, 0.0 if shift else again)
        return None

    def _done(self, product: float) -> bool:
        return (
            self.history[-1] < LENGTH_TOLERANCE_MM
            and product < 1e-6 * self.weight
            and self._residual() < FORCE_TOLERANCE * self.weight
        )

    def _residual(self) -> float:
        """Largest force not balanced at any free point, gf."""
        force = np.empty(len(self.value))
        force[self._unequal] = self.lam
        force[self._equal] = -self.nu
        unbalanced = self.topo.gathered @ (force[:, None] * self.slope) - self.gravity
        worst = float(np.abs(unbalanced).max(initial=0))
        return worst if self.sides is None else max(worst, self.sides.residual(self.lam[-self.k :]))

    def _ran_away(self) -> bool:
        drawn = self.network.start[self.topo.free, -1]
        return bool((drawn - self.x[:, -1]).max(initial=0) > RUN_AWAY_MM)

    def _finish(self, state: State, iterations: int) -> Solution:
        network, m = self.network, self.m
        if state == "converged" and self._is_saddle():
            state = "unstable"
        positions = self.topo.points @ self.x + self.constant
        positions = np.nan_to_num(positions)
        d = positions[network.segments[:, 1]] - positions[network.segments[:, 0]]
        slack = network.rest - np.linalg.norm(d, axis=1)
        cause, short_by = "", 0.0
        if state == "too short":
            cause, short_by = self._what_is_short(slack)
        elif state == "unstable":
            cause = "it stands on its head or on edge and would tip over"
        elif state == "slides off":
            cause = "nothing holds it on the form"
        held = len(network.segments)
        return Solution(
            state=state,
            positions=positions,
            tension=self.lam[:held],
            slack=np.maximum(slack, 0.0) if state == "converged" else slack,
            axial=self.nu[: self.rods].copy(),
            contact=self.lam[m : m + self.c],
            iterations=iterations,
            cause=cause,
            short_by_mm=short_by,
            stretch=self._stretch(),
            riding=self.sides.tension if self.sides is not None else NONE,
        )

    def _stretch(self) -> Floats:
        """The pull of every elastic, gf: its own, and at its limit what holds it there."""
        count = len(self.network.elastics)
        own, limit = self.lam[self.m - count : self.m], self.lam[self.m - 2 * count :][:count]
        return np.asarray(own + limit)

    def _is_saddle(self) -> bool:
        """Whether the energy can still fall from here: the shape would tip at a touch."""
        return self.shifted > TIPS * self.weight

    def _what_is_short(self, slack: Floats) -> tuple[str, float]:
        """The run whose members are over their length the most, and by how much in all."""
        over: dict[str, float] = {}
        labels = self.network.labels or ("",) * self.m
        for label, gap in zip(labels, slack, strict=False):
            over[label] = over.get(label, 0.0) + max(-float(gap), 0.0)
        squeezed = float(np.abs(self.value[self.m : self.m + self.rods]).sum())
        short_by = sum(over.values()) + squeezed
        run = max(over, key=lambda name: over[name], default="")
        if over.get(run, 0.0) < squeezed:  # only rods give way: name what most parts belong to
            run = max(over, key=labels.count, default="")
        where = f"run “{run}”" if run else "the chain"
        return f"{where} is too short by about {short_by:.1f} mm", short_by


def _fraction(value: Floats, change: Floats, near: float) -> float:
    """Largest step ≤ 1 that keeps every value above (1 − near) of itself."""
    falling = change < 0
    if not falling.any():
        return 1.0
    return min(1.0, float(near * (-value[falling] / change[falling]).min()))
