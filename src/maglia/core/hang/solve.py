"""The rest shape: least potential energy, threads no longer than their length, rods exactly theirs,
points outside the body. A primal-dual interior-point method; its multipliers are the forces.

Constraint forms (d a difference of points): thread (L² − |d|²)/2L ≥ 0, rod (|d|² − L²)/2L = 0,
contact φ(x) − radius ≥ 0. When taut, a multiplier is the tension itself, gf.
"""

from collections.abc import Callable, Iterator
from itertools import pairwise
from typing import Literal

import numpy as np
from msgspec.structs import replace

from maglia.core.hang.bodies import Floats
from maglia.core.hang.network import Network, Slider
from maglia.core.hang.reach import shortfall
from maglia.core.hang.riders import Blocks, Sides
from maglia.core.hang.spring_net import Topology, topology
from maglia.core.values.record import Value

State = Literal["converged", "too short", "unstable", "slides off"]
MOST_ITERATIONS = 160
"""Cold starts take 8–28; what needs many more goes nowhere."""
STEP_CAP_MM = 25.0
"""A longer step leaves the neighbourhood in which the linear model holds."""
RUN_AWAY_MM = 1500.0
"""A point this far below where it was drawn is no longer held by anything."""
MASS_FLOOR_G = 1e-4
"""Every point weighs something: then a net without contact has exactly one equilibrium."""
LENGTH_TOLERANCE_MM = 2e-4
"""A fiftieth of what answers are promised to (0.01 mm)."""
WARM_SLACK_MM = 0.02
"""Slack that a solve going on from an earlier one begins with: small, since it is nearly there."""
SHORT_MM = 0.05
"""Lengths violated by less are rounding, not a piece that is too short."""
RUNAWAY_PULL = 20.0
PATIENCE = 7
"""Too short: pulls of many times the whole weight, and no better for this many iterations."""
FORCE_TOLERANCE = 1e-6
"""Unbalanced force at any point, as a share of the whole weight."""
BARRIER_SHARE = 0.15
"""How much of the mean complementarity is left after each step."""
ROD_STIFFNESS = 100.0
"""Penalty of a rod's length, as a multiple of the whole weight; its multiplier does the rest."""
NEAREST, FURTHEST = 0.9, 0.995
"""How near to its bound a step may bring a slack: further as the barrier falls."""
MOST_SHIFTS = 40
FIRST_SHIFT, SHIFT_GROWTH = 1e-5, 4
"""Shift of a matrix that is not positive definite, as a share of the weight, and how it grows."""
NO_REST = f"it came to no rest in {MOST_ITERATIONS} steps"
TIPS = 1e-3
"""A shift still needed at the end, as a share of the weight: the shape would tip at a touch."""


NONE: Floats = np.zeros(0)
MOST_HOPS = 400
AT_STOP_MM = 0.05
NEAR_STRETCHES = 3
HOP_GAIN = 1e-7
"""What a step to another stretch must gain at least, gf mm."""


class Cancelled(Exception):
    """The caller asked for the solve to stop."""


class Solution(Value, frozen=True):
    """Where everything comes to rest. positions (N, dim) mm; forces gf per segment, rod, contact.

    For a state other than converged, `cause` says what and where, `short_by_mm` how much.
    """

    state: State
    positions: Floats
    tension: Floats
    slack: Floats
    axial: Floats
    contact: Floats
    iterations: int
    cause: str = ""
    short_by_mm: float = 0.0
    stretch: Floats = NONE
    """Pull of every elastic, gf."""
    riding: Floats = NONE
    """Tension of the thread of every slider, gf."""
    stands_on: tuple[tuple[int, int], ...] = ()
    """Between which points each slider's rider came to stand."""


class Warm(Value, frozen=True):
    """What a later solve of a similar network can start from, by segment, rod and contact."""

    tension: Floats
    axial: Floats
    contact: Floats


def solve(
    network: Network,
    *,
    warm: Warm | None = None,
    prepared: Topology | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Solution:
    """Rest shape of a network, always in one of the four states; never NaN.

    `warm` continues from forces of an earlier solve with `network.start` as positions. Raises
    Cancelled when `cancelled()` becomes true.
    """
    missing = shortfall(network)
    if missing is not None:
        return refused(network, "too short", missing.words, missing.millimetres)
    if not network.fixed.any() and network.body is None:
        return refused(network, "slides off", "nothing holds it: it is neither pinned nor worn")
    free = ~network.fixed
    free[list(network.attached)] = False
    if not free.any():
        return at_rest(network)
    with np.errstate(all="ignore"):
        if not network.sliders:
            return _InteriorPoint(network, prepared or topology(network), warm).run(cancelled)
        return _ridden(network, cancelled)


def _ridden(network: Network, cancelled: Callable[[], bool]) -> Solution:
    """A net with riders. One that may stand anywhere on its thread steps to the neighbouring
    stretch on the side where it lies against its stop, while the energy falls."""
    found = _InteriorPoint(network, topology(network), None).run(cancelled)
    best = replace(found, stands_on=tuple((own.a, own.b) for own in network.sliders))
    for _ in range(MOST_HOPS):
        if best.state != "converged":
            return best
        trials = [
            replace(network, start=best.positions, sliders=other) for other in _hops(network, best)
        ]
        for trial in trials:
            found = _InteriorPoint(trial, topology(trial), None).run(cancelled)
            better = _energy(trial, found) < _energy(network, best) - HOP_GAIN
            if found.state == "converged" and better:
                ends = tuple((own.a, own.b) for own in trial.sliders)
                network, best = trial, replace(found, stands_on=ends)
                break
        else:
            return best
    return best


def _hops(network: Network, found: Solution) -> Iterator[tuple[Slider, ...]]:
    """The sliders with one of them on the stretch beside the one where it lies at a stop."""
    for k, own in enumerate(network.sliders):
        if not own.thread:
            continue
        order = list(own.thread)
        at = next(
            (i for i, pair in enumerate(pairwise(order)) if set(pair) == {own.a, own.b}), None
        )
        if at is None:
            continue
        low = int(np.argmin(found.positions[order, -1]))  # far from it, it goes there at once
        if abs(low - at) > NEAR_STRETCHES:
            there = own.on(min(low, len(order) - 2))
            yield (*network.sliders[:k], there, *network.sliders[k + 1 :])
        for end, other in ((order[at], at - 1), (order[at + 1], at + 1)):
            rider = own.through[0 if end == own.a else -1]
            near = float(np.linalg.norm(found.positions[rider] - found.positions[end]))
            if near < AT_STOP_MM and 0 <= other < len(order) - 1:
                yield (*network.sliders[:k], own.on(other), *network.sliders[k + 1 :])


def _energy(network: Network, found: Solution) -> float:
    """Height of all mass, and what elastics hold, gf mm."""
    height = float(np.maximum(network.mass, MASS_FLOOR_G) @ found.positions[:, -1])
    for own in network.elastics:
        a, b = own.ends
        longer = float(np.linalg.norm(found.positions[b] - found.positions[a])) - own.rest_mm
        height += own.stiffness_gf * max(longer, 0.0) ** 2 / (2 * own.rest_mm)
    return height


def at_rest(network: Network) -> Solution:
    """Everything where it begins, with nothing that pulls: what is laid down."""
    zeros = np.zeros(len(network.segments))
    d = network.start[network.segments[:, 1]] - network.start[network.segments[:, 0]]
    slack = network.rest - np.linalg.norm(d, axis=1)
    rods, touching = np.zeros(len(network.rods)), np.zeros(len(network.contact))
    return Solution("converged", network.start, zeros, slack, rods, touching, 0)


def refused(network: Network, state: State, cause: str, short_by: float = 0.0) -> Solution:
    """An answer for what cannot be hung: as it was drawn."""
    still = at_rest(network)
    start = np.nan_to_num(network.start)
    return Solution(
        state, start, still.tension, still.slack, still.axial, still.contact, 0, cause, short_by
    )


class _InteriorPoint:
    """State of one solve. Arrays are ordered threads, rods, contacts, as in the topology."""

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
        self.length = np.r_[lengths, network.length]
        self.stiff = ROD_STIFFNESS * self.weight
        self.shifted = 0.0
        self.history: list[float] = []
        """By how much lengths were violated at most, after every step."""
        self._unequal = np.r_[0 : self.m, self.m + self.r : self.m + self.r + self.c + self.k]
        """Which constraints are inequalities: threads, contacts, sides of riders."""
        self.sides: Sides | None = None
        if self.k:
            drawn = topo.vectors @ self.x + topo.offset
            first = self.m + self.r + self.c
            self.sides = Sides(network, drawn[first:], self.weight, topo.pairs - first)
        self.value, self.slope, self.bend = self._evaluated()
        self.s = np.maximum(self.value[self._unequal], WARM_SLACK_MM if warm else 1.0)
        self.nu = np.zeros(self.r)
        if warm is None:
            self.lam = np.full(len(self.s), max(0.05 * self.weight, 1e-3))
        else:
            held = np.r_[warm.tension, warm.contact, np.zeros(self.k)]
            self.lam = np.maximum(held, 1e-4 * self.weight)
            self.nu[: self.rods] = warm.axial

    def _evaluated(self) -> tuple[Floats, Floats, Floats | None]:
        """Constraint values, gradients with respect to their vectors, and body curvature."""
        topo, m, r = self.topo, self.m, self.r
        d = topo.vectors @ self.x + topo.offset
        held = self.m + self.rods
        bars, guided = d[:held], d[held : m + r]
        square = np.einsum("ij,ij->i", bars, bars)
        sign = np.r_[-np.ones(m), np.ones(self.rods)]
        value = sign * (square - self.length**2) / (2 * self.length)
        slope = sign[:, None] * bars / self.length[:, None]
        if len(self.stretching):
            at = self.stretching
            reach = np.maximum(np.sqrt(square[at]), 1e-9)
            value[at], slope[at] = self.length[at] - reach, -bars[at] / reach[:, None]
            self.reach = reach
        value = np.r_[value, np.einsum("ij,ij->i", guided, self.normals) - self.planes]
        slope = np.vstack([slope, self.normals])
        bend = None
        if self.c and self.network.body is not None:
            touch = self.network.body.evaluate(d[m + r : m + r + self.c])
            value = np.r_[value, touch.value - self.network.radius]
            slope = np.vstack([slope, touch.gradient])
            bend = touch.hessian
        if self.sides is not None:
            beside, by_side = self.sides.evaluated(d[m + r + self.c :])
            value, slope = np.r_[value, beside], np.vstack([slope, by_side])
        return value, slope, bend

    def _gap(self) -> Floats:
        """How far slacks are from what they stand for; an elastic gives with its pull."""
        gap = self.value[self._unequal] - self.s
        gap[: self.m] += self.gives * self.lam[: self.m]
        return gap

    def _complementarity(self) -> Floats:
        product = self.lam * self.s
        return product if self.sides is None else np.r_[product, self.sides.products]

    def run(self, cancelled: Callable[[], bool]) -> Solution:
        barrier = float(self._complementarity().mean()) if len(self.s) else 0.0
        for iteration in range(1, MOST_ITERATIONS + 1):
            if cancelled():
                raise Cancelled
            outcome = self._step(barrier)
            if outcome is not None:
                return self._finish(outcome, iteration)
            barrier = BARRIER_SHARE * float(self._complementarity().mean()) if len(self.s) else 0.0
            if self._done():
                return self._finish("converged", iteration)
            if self._ran_away():
                return self._finish("slides off", iteration)
            if self._cannot_be_met():
                return self._finish("too short", iteration)
        violated = self._worst() > SHORT_MM
        found = self._finish("too short" if violated else "unstable", MOST_ITERATIONS)
        return found if violated else replace(found, cause=NO_REST)

    def _worst(self) -> float:
        """By how much lengths and contacts are violated at most, mm."""
        equal = self.value[self.m : self.m + self.r]
        beside = self.sides.worst() if self.sides is not None else 0.0
        return float(max(np.abs(self._gap()).max(initial=0), np.abs(equal).max(initial=0), beside))

    def _cannot_be_met(self) -> bool:
        """Forces run away while lengths stay violated: there is no shape with these lengths."""
        self.history.append(self._worst())
        pull = max(self.lam.max(initial=0), np.abs(self.nu).max(initial=0)) / self.weight
        if pull < RUNAWAY_PULL or len(self.history) <= PATIENCE:
            return False
        stuck = self.history[-1] > 0.8 * self.history[-1 - PATIENCE]
        return stuck and self.history[-1] > SHORT_MM

    def _step(self, barrier: float) -> State | None:
        topo, m, r = self.topo, self.m, self.r
        ratio, gap = self.lam / self.s, self._gap()
        pushed = barrier / self.s - ratio * gap
        at = self.stretching
        if len(at):  # an elastic's slack follows its pull
            pull, slack = self.lam[at], self.s[at]
            ratio[at] = 1.0 / (slack / pull + self.gives[at])
            pushed[at] = pull + ratio[at] * (barrier / pull - slack - gap[at])
        push = np.empty(m + r + self.c + self.k)
        push[self._unequal] = pushed
        push[m : m + r] = -(self.nu + self.stiff * self.value[m : m + r])
        force, beside = push[:, None] * self.slope, None
        if self.sides is not None:
            last = slice(len(push) - self.k, None)
            pulls, slacks = self.lam[-self.k :], self.s[-self.k :]
            beside = self.sides.blocks(pulls, slacks, push[last], barrier)
            force[last] = beside.force
        factor = self._factored(ratio, beside)
        if factor is None:
            return "unstable"
        dx = topo.solve(factor, -self.gravity + topo.gathered @ force)
        moved = topo.vectors @ dx
        along = np.einsum("ij,ij->i", moved, self.slope)
        most = 1.0
        if self.sides is not None:
            longer, most, _ = self.sides.step(moved[-self.k :], barrier)
            along[-self.k :] += self.sides.by_length * longer
        ds = along[self._unequal] + gap
        dlam = barrier / self.s - self.lam - ratio * ds
        if len(at):
            dlam[at] = pushed[at] - self.lam[at] - ratio[at] * along[at]
            ds[at] += self.gives[at] * dlam[at]
        reach = float(np.abs(dx).max(initial=0))
        if not np.isfinite(reach) or not np.isfinite(dlam).all():
            return "unstable"
        near = min(FURTHEST, max(NEAREST, 1 - 10 * barrier))
        forward = min(_fraction(self.s, ds, near), STEP_CAP_MM / max(reach, 1e-12), most)
        dual = _fraction(self.lam, dlam, near)
        if self.sides is not None:
            own = self.sides
            forward = min(forward, _fraction(own.spare, own.ds_sum, near),
                          _fraction(own.over, own.ds_floor, near))  # fmt: skip
            dual = min(
                dual, _fraction(own.tension, own.dt, near), _fraction(own.floor, own.df, near)
            )
            own.go(forward, dual)
        self.x += forward * dx
        self.s += forward * ds
        self.lam += dual * dlam
        self.nu += forward * self.stiff * (self.value[m : m + r] + along[m : m + r])
        self.value, self.slope, self.bend = self._evaluated()
        return None

    def _factored(self, ratio: Floats, beside: Blocks | None) -> Floats | None:
        topo, m, r, dim = self.topo, self.m, self.r, self.network.dim
        eye = np.eye(dim)
        every = np.empty(m + r + self.c + self.k)
        every[self._unequal] = ratio
        every[m : m + r] = self.stiff
        blocks = every[:, None, None] * self.slope[:, :, None] * self.slope[:, None, :]
        pull = np.r_[self.lam[:m], self.nu[: self.rods]] / self.length
        if len(self.stretching):  # only across its own direction, and by its true length
            at = self.stretching
            pull[at] = self.lam[at] / self.reach
            unit = self.slope[at]
            blocks[at] -= pull[at][:, None, None] * unit[:, :, None] * unit[:, None, :]
        blocks[: m + self.rods] += pull[:, None, None] * eye
        if self.bend is not None:
            touching = self.lam[m : m + self.c]
            blocks[m + r : m + r + self.c] -= touching[:, None, None] * self.bend
        if beside is not None:
            blocks[-self.k :] = beside.own
            blocks = np.concatenate([blocks, beside.between])
        self.shifted = 0.0
        shift = 0.0
        for _ in range(MOST_SHIFTS):
            factor = topo.factor(blocks, shift)
            if factor is not None:
                self.shifted = shift
                return factor
            shift = max(SHIFT_GROWTH * shift, FIRST_SHIFT * self.weight)
        return None

    def _done(self) -> bool:
        product = float(self._complementarity().max(initial=0))
        return (
            self._worst() < LENGTH_TOLERANCE_MM
            and product < 1e-6 * self.weight
            and self._residual() < FORCE_TOLERANCE * self.weight
        )

    def _residual(self) -> float:
        """Largest force not balanced at any free point, gf."""
        force = np.empty(self.m + self.r + self.c + self.k)
        force[self._unequal] = self.lam
        force[self.m : self.m + self.r] = -self.nu
        unbalanced = -self.gravity + self.topo.gathered @ (force[:, None] * self.slope)
        worst = float(np.abs(unbalanced).max(initial=0))
        return worst if self.sides is None else max(worst, self.sides.residual(self.lam[-self.k :]))

    def _ran_away(self) -> bool:
        drawn = self.network.start[self.topo.free, -1]
        return bool((drawn - self.x[:, -1]).max(initial=0) > RUN_AWAY_MM)

    def _finish(self, state: State, iterations: int) -> Solution:
        network, m = self.network, self.m
        if state == "converged" and self._is_saddle():
            state = "unstable"
        positions = self.topo.points @ self.x + self.topo.constant
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
