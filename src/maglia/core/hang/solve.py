"""The rest shape: least potential energy, threads no longer than their length, rods exactly theirs,
points outside the body; and on which stretch of its thread every rider comes to stand."""

from collections.abc import Callable, Iterator
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from maglia.core.hang.interior_point import MASS_FLOOR_G, InteriorPoint
from maglia.core.hang.network import Network, Slider
from maglia.core.hang.reach import shortfall
from maglia.core.hang.solution import Solution, Warm, at_rest, refused
from maglia.core.hang.spring_net import Topology, topology

MOST_HOPS = 400
AT_STOP_MM = 0.05
NEAR_STRETCHES = 3
HOP_GAIN = 1e-7
"""What a step to another stretch must gain at least, gf mm."""


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
            return InteriorPoint(network, prepared or topology(network), warm).run(cancelled)
        return _ridden(network, cancelled)


def _ridden(network: Network, cancelled: Callable[[], bool]) -> Solution:
    """A net with riders. One that may stand anywhere on its thread steps to the neighbouring
    stretch on the side where it lies against its stop, while the energy falls."""
    found = InteriorPoint(network, topology(network), None).run(cancelled)
    best = replace(found, stands_on=tuple((own.a, own.b) for own in network.sliders))
    for _ in range(MOST_HOPS):
        if best.state != "converged":
            return best
        trials = [
            replace(network, start=best.positions, sliders=other) for other in _hops(network, best)
        ]
        for trial in trials:
            found = InteriorPoint(trial, topology(trial), None).run(cancelled)
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
