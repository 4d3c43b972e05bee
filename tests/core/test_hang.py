"""Rest shapes against exact solutions and the reference networks (found by other methods).

Tolerances of design: chains 0.05 mm, nets and rods 0.1 mm, loops on a body 0.2 mm as curves.
"""

import json
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from scipy.optimize import brentq, check_grad

from maglia.core.assembly.expand import expand
from maglia.core.hang.bodies import Ball, Blend, ConeCapsule, Ellipsoid
from maglia.core.hang.forms import Waist
from maglia.core.hang.hung import hang
from maglia.core.hang.network import Network
from maglia.core.hang.rigid import rigid_points
from maglia.core.hang.solution import Cancelled
from maglia.core.hang.solve import solve
from maglia.core.parts.parts import Chain
from maglia.core.piece.piece import Closure
from maglia.core.report import evaluate
from maglia.demo import demo_path
from maglia.files.network_json import read_network
from maglia.files.piece_json import read_piece
from workshop import chain, drop, piece, rings, strand, unit

REFERENCE = Path(__file__).parent.parent / "data" / "reference"


def curve_error(a, b, segments):
    """Greatest distance of the points of a from the polyline through b, mm."""
    start, d = b[segments[:, 0]], b[segments[:, 1]] - b[segments[:, 0]]
    t = ((a[:, None] - start) * d).sum(-1) / (d * d).sum(1)
    nearest = start + np.clip(t, 0, 1)[..., None] * d
    return np.linalg.norm(a[:, None] - nearest, axis=-1).min(1).max()


@pytest.mark.parametrize("case", ["case1", "case2", "case6a", "case7b", "case10"])
def test_reference_positions_and_forces(case):
    path = REFERENCE / f"{case}.json"
    reference = json.loads(path.read_text())["reference"]
    found = solve(read_network(path))
    assert found.state == "converged"
    assert found.positions == pytest.approx(np.array(reference["positions"]), abs=0.01)
    if "segment_tension_gf" in reference:
        assert found.tension == pytest.approx(reference["segment_tension_gf"], abs=1e-3)
    if reference["rigid_axial_force_gf"]:
        assert found.axial == pytest.approx(reference["rigid_axial_force_gf"], abs=1e-3)


@pytest.mark.parametrize(("case", "tolerance"), [("case9a", 0.02), ("case8a", 0.25)])
def test_reference_loops_as_curves(case, tolerance):
    # case8a's reference is the continuum: chords of 5 mm cut 0.1 mm inside a radius of 30.
    path = REFERENCE / f"{case}.json"
    reference = np.array(json.loads(path.read_text())["reference"]["positions"])
    network = read_network(path)
    found = solve(network)
    assert found.state == "converged"
    assert curve_error(found.positions, reference, network.segments) < tolerance
    depth = network.radius - network.body.evaluate(found.positions).value
    assert depth.max() < 0.02


def test_catenary_of_a_piece():
    # y = a cosh(x/a): length 2 a sinh(150/a) = 500 over 300 mm; sag a (cosh(150/a) − 1)
    a = brentq(lambda a: 2 * a * np.sinh(150 / a) - 500, 30, 500)
    fine = Chain(id="fine", name="Fine", pitches_mm=(1.0,), inner_width_mm=1, wire_mm=0.3)
    made = piece(
        strand(chain(500, "fine")), parts=(fine,), pins=300.0, closure=Closure(kind="open")
    )
    found = evaluate(made)
    assert found.hung.state == "converged"
    sag = a * (np.cosh(150 / a) - 1)
    assert found.readings.falls_mm["Strand"] == pytest.approx(sag, abs=0.05)


def test_two_chain_bar_levels_where_moments_balance():
    # A weightless bar of 40 mm on two equal chains from one pin, 3 g at one end, 1 g at the
    # other, hangs so that the common centre of mass lies under the pin.
    start = np.array([[0.0, 0.0], [-20.0, -30.0], [20.0, -30.0]])
    network = Network(
        start=start, mass=np.array([0.0, 3.0, 1.0]), fixed=np.array([True, False, False]),
        segments=np.array([[0, 1], [0, 2]]), rest=np.array([40.0, 40.0]),
        rods=np.array([[1, 2]]), length=np.array([40.0]),
    )  # fmt: skip
    found = solve(network)
    centre = 0.75 * found.positions[1] + 0.25 * found.positions[2]
    assert centre[0] == pytest.approx(0.0, abs=1e-3)
    apex = np.sqrt(40**2 - 20**2)
    assert np.linalg.norm(found.positions[1:].mean(axis=0)) == pytest.approx(apex, abs=1e-3)
    assert found.axial[0] < 0  # a strut


def test_drops_hang_plumb_and_level():
    made = piece(
        strand(chain(41), rings()),
        drop("D", 5, rings(), chain(6), unit("dangle")),
        drop("Middle", 0, rings(), chain(6), unit("dangle"), lies="fold"),
    )
    found = evaluate(made)
    assert found.hung.state == "converged"
    hung = {
        m.side: found.hung.points_of(m.id)[-1] for m in found.assembly.members if m.kind == "dangle"
    }
    # The clasp is longer than the catch, so the fold stands off centre; sides still mirror.
    assert hung["left"][0] + hung["right"][0] == pytest.approx(2 * hung["fold"][0], abs=1.0)
    length = 4 + 18 + 10.6
    middle = found.readings.falls_mm["Middle"] - found.readings.falls_mm["Strand"]
    assert middle == pytest.approx(length, abs=0.2)


def test_too_short_says_by_how_much():
    found = evaluate(piece(strand(chain(21), rings()), pins=200.0))
    # 63 + 8 + 14 = 85 against 200
    assert found.hung.state == "too short"
    assert found.hung.solution.short_by_mm == pytest.approx(115.0)
    assert "115.0 mm" in found.checks[0].message


def test_nothing_holds_it():
    free = Network(
        start=np.array([[0.0, 0.0], [3.0, 0.0]]), mass=np.ones(2), fixed=np.zeros(2, bool),
        segments=np.array([[0, 1]]), rest=np.array([4.0]),
        rods=np.zeros((0, 2), int), length=np.zeros(0),
    )  # fmt: skip
    assert solve(free).state == "slides off"


def test_a_solve_can_be_stopped():
    with pytest.raises(Cancelled):
        solve(read_network(REFERENCE / "case9a.json"), cancelled=lambda: True)


BODIES = [
    Ball((0, 0, 0), 30.0),
    ConeCapsule((0, 0, -20), (10, 5, 60), 20.0, 12.0),
    Ellipsoid((0, 0, 0), (40.0, 25.0, 60.0)),
    Waist(26.0, 0.002),
    Blend(Ball((0, 0, 0), 30.0), ConeCapsule((0, 0, 0), (60, 0, 0), 15.0, 15.0), 20.0),
]


@pytest.mark.parametrize("body", BODIES, ids=lambda b: type(b).__name__)
def test_analytic_gradients_and_hessians(body):
    # Witness: central differences; agreement to 1e-5 over random points near the surface.
    rng = np.random.default_rng(7)
    for point in rng.uniform(-60, 60, (40, 3)):
        hessian = body.evaluate(point[None]).hessian
        error = check_grad(
            lambda p: body.evaluate(p[None]).value[0],
            lambda p: body.evaluate(p[None]).gradient[0],
            point,
        )
        assert error < 1e-5
        step = 1e-5
        numeric = np.array([
            body.evaluate((point + step * e)[None]).gradient[0]
            - body.evaluate((point - step * e)[None]).gradient[0]
            for e in np.eye(3)
        ]) / (2 * step)  # fmt: skip
        assert hessian[0] == pytest.approx(numeric, abs=1e-4)


def test_a_rigid_body_keeps_its_shape():
    local = np.array([[-10.0, 0], [10.0, 0], [0.0, -4.0], [3.0, 2.0]])
    body = rigid_points(local)
    assert len(body.rods) == 3
    turn = np.array([[0.6, 0.8], [-0.8, 0.6]])
    moved = local @ turn + (5, 7)
    for node, weights in body.rides.items():
        assert sum(w * moved[b] for b, w in weights) == pytest.approx(moved[node])


def test_a_piece_that_is_opened_hangs_in_its_plane_whatever_it_hung_on_before():
    closed = read_piece(demo_path("gallery-tiers"))
    opened = replace(closed, closure=Closure(), rows=(), runs=closed.runs[:1], fits=())
    round_it, loose = expand(closed), expand(opened)
    on_bust = hang(round_it)
    in_plane = hang(loose, before=(round_it, on_bust))
    assert (on_bust.network.dim, in_plane.network.dim, in_plane.state) == (3, 2, "converged")
    again = hang(round_it, before=(loose, in_plane))
    assert again.solution.positions == pytest.approx(on_bust.solution.positions, abs=1e-3)
