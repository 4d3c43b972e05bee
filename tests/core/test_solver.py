"""The solver on nets made at random: forces balance, lengths hold, and a second method agrees."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.optimize import minimize

from maglia.core.hang.bodies import Ball, ConeCapsule
from maglia.core.hang.network import Guide, Network, Slider
from maglia.core.hang.reach import shortfall
from maglia.core.hang.solution import Warm
from maglia.core.hang.solve import solve
from maglia.core.hang.spring_net import forget, topology

NO_RODS = {"rods": np.zeros((0, 2), int), "length": np.zeros(0)}


def chain(count, span, slack, dim=2, seed=0):
    """A chain of `count` segments between two pins `span` apart, longer by the factor `slack`."""
    rng = np.random.default_rng(seed)
    rest = rng.uniform(0.6, 1.4, count)
    rest *= span * slack / rest.sum()
    start = np.zeros((count + 1, dim))
    start[:, 0] = np.linspace(0, span, count + 1)
    start[:, -1] = -span * slack * 0.3 * np.sin(np.linspace(0, np.pi, count + 1))
    fixed = np.zeros(count + 1, bool)
    fixed[[0, -1]] = True
    return Network(
        start=start, mass=rng.uniform(0.05, 2.0, count + 1), fixed=fixed,
        segments=np.c_[np.arange(count), np.arange(1, count + 1)], rest=rest, **NO_RODS,
    )  # fmt: skip


def unbalanced(network, found):
    """Largest force left over at any free point that nothing rides on, gf."""
    x = found.positions
    force = np.zeros_like(x)
    force[:, -1] -= np.maximum(network.mass, 1e-4)
    for ends, pull in ((network.segments, found.tension), (network.rods, found.axial)):
        d = x[ends[:, 1]] - x[ends[:, 0]]
        d /= np.maximum(np.linalg.norm(d, axis=1), 1e-12)[:, None]
        np.add.at(force, ends[:, 0], pull[:, None] * d)
        np.add.at(force, ends[:, 1], -pull[:, None] * d)
    if network.body is not None:
        normal = network.body.evaluate(x[network.contact]).gradient
        force[network.contact] += found.contact[:, None] * normal
    free = ~network.fixed
    free[list(network.attached)] = False
    return float(np.abs(force[free]).max())


@given(st.integers(2, 60), st.floats(20, 400), st.floats(1.02, 3.0), st.sampled_from([2, 3]),
       st.integers(0, 99))  # fmt: skip
@settings(max_examples=60, deadline=None)
def test_forces_balance_in_any_chain(count, span, slack, dim, seed):
    network = chain(count, span, slack, dim, seed)
    found = solve(network)
    assert found.state == "converged"
    d = np.diff(found.positions, axis=0)
    assert (np.linalg.norm(d, axis=1) - network.rest).max() < 1e-3
    assert unbalanced(network, found) < 1e-3 * network.mass.sum()
    assert (found.tension >= 0).all()
    # the horizontal pull is the same all along
    horizontal = found.tension * d[:, 0] / network.rest
    assert np.ptp(horizontal) < 2e-3 * network.mass.sum()


@pytest.mark.parametrize("seed", range(6))
def test_a_second_method_finds_the_same_rest(seed):
    # Sequential quadratic programming on the same problem, small enough for it.
    network = chain(7, 60.0, 1.4, seed=seed)
    rest, mass = network.rest, network.mass

    def placed(flat):
        x = network.start.copy()
        x[1:-1] = flat.reshape(-1, 2)
        return x

    def room(flat):
        return rest**2 - (np.diff(placed(flat), axis=0) ** 2).sum(axis=1)

    other = minimize(
        lambda flat: mass @ placed(flat)[:, 1], network.start[1:-1].ravel(), method="SLSQP",
        constraints={"type": "ineq", "fun": room}, options={"maxiter": 500, "ftol": 1e-12},
    )  # fmt: skip
    found = solve(network)
    assert found.positions == pytest.approx(placed(other.x), abs=0.02)
    assert mass @ found.positions[:, 1] <= other.fun + 1e-4


def ladder(seed):
    """Two chains that carry three rods, one of which has a weight riding on it."""
    rng = np.random.default_rng(seed)
    start = np.array([[-20, 0], [20, 0], *[(x, -12.0 * k) for k in (1, 2, 3) for x in (-18, 18)],
                      [4, -36]], float)  # fmt: skip
    fixed = np.zeros(9, bool)
    fixed[:2] = True
    return Network(
        start=start, mass=np.r_[rng.uniform(0.1, 2, 8), 3.0], fixed=fixed,
        segments=np.array([[0, 2], [1, 3], [2, 4], [3, 5], [4, 6], [5, 7]]),
        rest=rng.uniform(11, 13, 6),
        rods=np.array([[2, 3], [4, 5], [6, 7]]), length=np.full(3, 36.0),
        attached={8: ((6, 0.4), (7, 0.6))},
    )  # fmt: skip


@pytest.mark.parametrize("seed", range(8))
def test_rods_keep_their_length_and_what_rides_on_them_its_place(seed):
    network = ladder(seed)
    found = solve(network)
    assert found.state == "converged"
    x = found.positions
    bars = np.linalg.norm(x[network.rods[:, 1]] - x[network.rods[:, 0]], axis=1)
    assert bars == pytest.approx(network.length, abs=1e-3)
    assert x[8] == pytest.approx(0.4 * x[6] + 0.6 * x[7], abs=1e-9)
    carried = network.mass[2:].sum()
    up = sum(found.tension[k] * (x[k, 1] - x[k + 2, 1]) / network.rest[k] for k in (0, 1))
    assert up == pytest.approx(carried, rel=1e-4)


def test_an_upright_bar_would_tip():
    # Weight on top of a bar that stands on a pin: at rest, but not to stay.
    network = Network(
        start=np.array([[0.0, 0.0], [0.0, 20.0]]), mass=np.array([0.0, 5.0]),
        fixed=np.array([True, False]), segments=np.zeros((0, 2), int), rest=np.zeros(0),
        rods=np.array([[0, 1]]), length=np.array([20.0]),
    )  # fmt: skip
    found = solve(network)
    if found.state == "converged":  # it may fall to where it hangs, but never stay upright
        assert found.positions[1, 1] == pytest.approx(-20.0, abs=1e-2)
    else:
        assert found.state == "unstable"
        assert "tip over" in found.cause


def test_a_chain_laid_over_a_ball_slides_off():
    count = 21
    start = np.c_[np.linspace(-2, 38, count), np.zeros(count), np.full(count, 41.0)]
    network = Network(
        start=start, mass=np.full(count, 0.1), fixed=np.zeros(count, bool),
        segments=np.c_[np.arange(count - 1), np.arange(1, count)], rest=np.full(count - 1, 2.0),
        body=Ball((0, 0, 0), 40.0), contact=np.arange(count), radius=1.0, **NO_RODS,
    )  # fmt: skip
    found = solve(network)
    assert found.state in ("slides off", "unstable")
    assert np.isfinite(found.positions).all()


def test_a_loop_too_small_for_a_post_comes_to_rest_on_its_dome():
    # Circumradius R of its polygon; on a dome of 31 mm about z = 60 it lies at 60 + √(31² − R²).
    count = 40
    angle = np.linspace(0, 2 * np.pi, count, endpoint=False)
    start = np.c_[36 * np.cos(angle), 36 * np.sin(angle), np.zeros(count)]
    post = ConeCapsule((0, 0, -60), (0, 0, 60), 34.0, 30.0)
    network = Network(
        start=start, mass=np.full(count, 0.1), fixed=np.zeros(count, bool),
        segments=np.c_[np.arange(count), np.roll(np.arange(count), -1)],
        rest=np.full(count, 2 * np.pi * 28 / count), body=post, contact=np.arange(count),
        radius=1.0, labels=("Ring",) * count, **NO_RODS,
    )  # fmt: skip
    found = solve(network)
    assert found.state == "converged"
    radius = 2 * np.pi * 28 / count / (2 * np.sin(np.pi / count))
    height = 60 + np.sqrt(31**2 - radius**2)
    assert found.positions[:, 2] == pytest.approx(height, abs=0.01)


@pytest.mark.parametrize(("apart", "short"), [(50.0, None), (60.0, None), (75.0, 15.0)])
def test_reach_is_judged_before_solving(apart, short):
    network = chain(6, 60.0, 1.0)
    start = network.start.copy()
    start[-1, 0] = apart
    found = shortfall(replace(network, start=start, rest=np.full(6, 10.0)))
    if short is None:
        assert found is None
    else:
        assert found.millimetres == pytest.approx(short)
        assert "15.0 mm" in found.words


def test_going_on_with_forces_takes_fewer_steps():
    network = chain(80, 200.0, 1.5)
    cold = solve(network)
    warm = Warm(cold.tension, cold.axial, cold.contact)
    again = solve(replace(network, start=cold.positions), warm=warm)
    assert again.iterations < cold.iterations
    assert again.positions == pytest.approx(cold.positions, abs=1e-3)


def test_the_layout_of_the_matrix_serves_every_step():
    network = ladder(1)
    prepared = topology(network)
    assert prepared.vectors.shape == (9, 6)
    assert prepared.band < 12
    assert solve(network, prepared=prepared).positions == pytest.approx(solve(network).positions)


def test_scale_does_not_matter():
    # The same net in grams or in kilograms rests in the same place.
    light, heavy = chain(30, 100.0, 1.3, seed=4), chain(30, 100.0, 1.3, seed=4)
    heavy = replace(heavy, mass=heavy.mass * 1000)
    assert solve(heavy).positions == pytest.approx(solve(light).positions, abs=2e-3)
    assert solve(heavy).tension == pytest.approx(1000 * solve(light).tension, rel=1e-3)


def test_what_is_too_short_to_reach_its_pins_is_named():
    # 100 mm apart: 10 × 15 mm of long thread reach, 6 × 15 mm of short thread beside it do not
    points = [[x, 0.0] for x in np.linspace(0, 100, 11)] + [[x, 0.0] for x in (20, 40, 60, 80)]
    long = [(k, k + 1) for k in range(10)]
    short = [(0, 11), (11, 12), (12, 13), (13, 14), (14, 10)]
    fixed = np.zeros(15, bool)
    fixed[[0, 10]] = True
    network = Network(
        start=np.array(points), mass=np.ones(15), fixed=fixed,
        segments=np.array(long + short), rest=np.r_[np.full(10, 15.0), np.full(5, 15.0)],
        rods=np.zeros((0, 2), int), length=np.zeros(0), attached={}, body=None,
        contact=np.zeros(0, int), radius=0.0, labels=("Long",) * 10 + ("Short",) * 5,
    )  # fmt: skip
    found = solve(network)
    assert found.state == "too short"
    assert found.short_by_mm == pytest.approx(25.0)
    assert "run “Short” is too short by 25.0 mm" in found.cause


@pytest.mark.parametrize("seed", range(6))
def test_the_band_is_the_sum_of_all_blocks(seed):
    """Against the same sum written out densely, with fixed and attached points, rods, a guide and a
    rider; to rounding."""
    rng = np.random.default_rng(seed)
    count = 12
    pairs = np.array([(k, k + 1) for k in range(count - 1)] + [(0, 5), (3, 9)])
    fixed = np.zeros(count, bool)
    fixed[[0, 7]] = True
    network = Network(
        start=rng.normal(0, 5, (count, 3)), mass=np.ones(count), fixed=fixed, segments=pairs,
        rest=np.full(len(pairs), 30.0), rods=np.array([(2, 8)]), length=np.array([9.0]),
        attached={4: ((3, 0.5), (5, 0.5)), 10: ((9, 0.3), (11, 0.7))},
        contact=np.array([1, 6, 9]), guides=(Guide(((2, 0.4), (3, 0.6)), (1.0, 0.0, 0.0)),),
        sliders=(Slider(1, 11, (6,), 40.0),),
    )  # fmt: skip
    topo = topology(network)
    half = rng.normal(0, 1, (topo.vectors.shape[0], 3, 3))
    blocks = half + half.transpose(0, 2, 1)
    cross = rng.normal(0, 1, (len(topo.pairs), 3, 3))
    between = np.stack([cross, cross.transpose(0, 2, 1)], axis=1).reshape(-1, 3, 3)
    dense = topo.vectors.toarray()
    whole = sum(np.kron(np.outer(w, w), block) for w, block in zip(dense, blocks, strict=True))
    for (a, b), block in zip(topo.pairs, cross, strict=True):
        one = np.kron(np.outer(dense[a], dense[b]), block)
        whole = whole + one + one.T
    banded = topo.matrix(np.concatenate([blocks, between]))
    size = len(whole)
    for below in range(topo.band + 1):
        told = banded[below, : size - below]
        assert told == pytest.approx(np.diagonal(whole, -below), abs=1e-12)
    assert not np.tril(whole, -topo.band - 1).any()


def test_a_topology_is_kept_while_only_lengths_masses_and_places_change():
    network = chain(30, 100.0, 1.2)
    kept = topology(network)
    longer = replace(
        network, rest=network.rest * 1.1, mass=network.mass * 2, start=network.start + 1
    )
    assert topology(longer) is kept
    fixed = network.fixed.copy()
    fixed[15] = True
    assert topology(replace(network, fixed=fixed)) is not kept
    forget()
    assert topology(network) is not kept


def test_what_fixed_points_add_is_added():
    """The point halfway between a pin and a free one: half the pin's place stays."""
    network = replace(chain(4, 8.0, 1.3), attached={2: ((0, 0.5), (1, 0.5))})
    found = solve(network)
    middle = (found.positions[0] + found.positions[1]) / 2
    assert found.positions[2] == pytest.approx(middle, abs=1e-9)
