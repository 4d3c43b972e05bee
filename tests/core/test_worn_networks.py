"""Riders, elastics and guides: the reference networks as a maker wears them, closed forms, and a
second method for random ones.
"""

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq, minimize

from maglia.core.hang.network import Network
from maglia.core.hang.solve import solve
from maglia.core.values.record import DomainError
from maglia.files.network_json import answer, network_from, read_named

REFERENCE = Path(__file__).parent.parent / "data" / "reference"
WORN = sorted(path for path in REFERENCE.glob("worn-*.json") if "refuse" not in path.name)


@pytest.mark.parametrize("path", WORN, ids=lambda path: path.stem)
def test_reference_networks_as_worn(path):
    told = json.loads(path.read_text())
    reference, tolerance = told["reference"], told["tolerance"]
    network, ids = read_named(path)
    found = answer(solve(network), 0.0, network, ids)
    assert found["state"] == "converged"
    places = np.array(found["positions"])
    off = np.linalg.norm(places - np.array(reference["positions"]), axis=1).max()
    assert off < min(tolerance["position_mm"], 0.01)
    for name in ("segment_tension_gf", "slider_tension_gf", "elastic_tension_gf"):
        if reference.get(name):
            assert found[name] == pytest.approx(reference[name], abs=tolerance["force_gf"] / 2)
    if reference.get("elastic_length_mm"):
        assert found["elastic_length_mm"] == pytest.approx(reference["elastic_length_mm"], abs=0.01)


def test_a_thread_shorter_than_its_pins_are_apart_is_refused():
    network, _ = read_named(REFERENCE / "worn-refuse-slider.json")
    found = solve(network)
    # √(60² + 22²) − 60
    assert (found.state, found.short_by_mm) == ("too short", pytest.approx(3.90618, abs=1e-5))


def net(nodes, **more):
    """Nodes as (mass, place, fixed)."""
    told = [
        {"id": k, "mass": mass, "fixed": fixed, "pos": place}
        for k, (mass, place, fixed) in enumerate(nodes)
    ]
    return network_from({"dim": 2, "nodes": told, "layout": [p for _, p, _ in nodes], **more})


def test_a_weight_on_an_elastic_stretches_it_by_hooke_up_to_its_limit():
    nodes = [(0.0, [0, 0], True), (30.0, [1, -40], False)]
    stretchy = {"i": 0, "j": 1, "rest": 50, "limit": 1.6, "stiffness_gf_per_unit_strain": 100}
    found = solve(net(nodes, elastics=[stretchy]))
    # 50 (1 + 30 / 100)
    assert found.positions[1] == pytest.approx([0, -65], abs=1e-4)
    assert found.stretch == pytest.approx([30], abs=1e-4)
    firm = solve(net(nodes, elastics=[{**stretchy, "limit": 1.2}]))
    assert firm.positions[1] == pytest.approx([0, -60], abs=1e-4)
    assert firm.stretch == pytest.approx([30], abs=1e-3)  # 20 of its own, 10 at its limit


def test_a_guide_need_not_pass_through_the_origin():
    nodes = [(0.0, [0, 0], True), (5.0, [3, -20], False)]
    thread = [{"i": 0, "j": 1, "rest": 25}]
    found = solve(net(nodes, segments=thread, guides=[
        {"node": 1, "normal": [2, 0], "offset": 14}]))  # fmt: skip
    assert found.positions[1] == pytest.approx([7, -24], abs=1e-4)  # 7² + 24² = 25²


@settings(max_examples=40, deadline=None)
@given(
    st.floats(20, 80), st.floats(-30, 30), st.floats(1.02, 2.0), st.floats(0.5, 20),
    st.floats(-1, 1),
)  # fmt: skip
def test_a_rider_rests_at_the_foot_of_its_ellipse(wide, high, slack, mass, drawn):
    """Both sides make the same angle with the vertical: the image of one pin lies on the thread."""
    rest = slack * float(np.hypot(wide, high))
    nodes = [(0.0, [0, 0], True), (0.0, [wide, high], True),
             (mass, [wide / 2 + drawn * wide / 3, -rest / 3], False)]  # fmt: skip
    found = solve(net(nodes, sliders=[{"through": 2, "a": 0, "b": 1, "rest": rest}]))
    assert found.state == "converged"
    level = np.sqrt(rest**2 - wide**2)  # height difference of one pin and the other's image
    down = (level - high) / 2
    if down > 0.02 and down + high > 0.02:
        assert found.positions[2] == pytest.approx(
            [wide * down / level, -down], abs=max(0.01, 1e-4 * rest)
        )
        assert found.riding == pytest.approx([mass / 2 / (level / rest)], rel=1e-3)
    else:  # it runs down to the lower pin
        lower = np.array([0, 0] if high >= 0 else [wide, high])
        assert (
            np.linalg.norm(found.positions[2] - lower) < max(abs(min(down, down + high)), 0) + 0.05
        )


def random_riders(rng, count):
    """Riders with stops between them on one thread between two pins."""
    places = [[0.0, 0.0]]
    nodes = [(0.0, places[0], True)]
    sliders, before = [], 0
    for _ in range(count):
        rest = float(rng.uniform(25, 60))
        stop = [places[-1][0] + rest * 0.7, float(rng.uniform(-25, -10))]
        places.append(stop)
        last = len(sliders) == count - 1
        nodes.append((0.0 if last else float(rng.uniform(0.5, 3)), stop, last))
        at = len(nodes) - 1
        middle = [(places[-2][0] + stop[0]) / 2, -rest * 0.45]
        nodes.append((float(rng.uniform(0.5, 4)), middle, False))
        sliders.append({"through": at + 1, "a": before, "b": at, "rest": rest})
        before = at
    return nodes, sliders


@pytest.mark.parametrize("seed", range(12))
def test_riders_and_stops_against_a_second_method(seed):
    rng = np.random.default_rng(seed)
    nodes, sliders = random_riders(rng, int(rng.integers(2, 4)))
    network = net(nodes, sliders=sliders)
    found = solve(network)
    assert found.state == "converged"
    free = [k for k, (_, _, fixed) in enumerate(nodes) if not fixed]
    masses = np.array([nodes[k][0] for k in free])
    start = np.array([place for _, place, _ in nodes], float)

    def placed(x):
        here = start.copy()
        here[free] = x.reshape(-1, 2)
        return here

    def spare(x, own):
        here = placed(x)
        a, r, b = here[own["a"]], here[own["through"]], here[own["b"]]
        return own["rest"] - np.sqrt(((a - r) ** 2).sum() + 1e-8) - np.sqrt(
            ((r - b) ** 2).sum() + 1e-8)  # fmt: skip

    best = minimize(
        lambda x: masses @ x.reshape(-1, 2)[:, 1], found.positions[free].ravel(), method="SLSQP",
        constraints=[{"type": "ineq", "fun": spare, "args": (own,)} for own in sliders],
        options={"maxiter": 400, "ftol": 1e-10},
    )  # fmt: skip
    energy = float(masses @ found.positions[free][:, 1])
    for own in sliders:
        assert spare(found.positions[free].ravel(), own) > -1e-3
    assert energy < best.fun + 0.05  # a rider stays 0.005 mm off its stop


def test_a_rider_finds_its_stretch_from_wherever_it_is_drawn():
    # a chain of 12 equal links between pins; the rider, far heavier than the chain, ends in the
    # middle, wherever it began: that is where the chain is lowest for it
    count, rest = 12, 10.0
    nodes = [(0.01, [k * 8.0, -3.0], k in (0, count)) for k in range(count + 1)]
    nodes.append((20.0, [0.0, -6.0], False))
    segments = [{"i": k, "j": k + 1, "rest": rest} for k in range(count)]
    middle = []
    for first in (0, 3, 8, 11):
        nodes[-1] = (20.0, [first * 8.0 + 4, -6.0], False)
        rider = {"through": count + 1, "a": first, "b": first + 1, "rest": rest,
                 "thread": list(range(count + 1))}  # fmt: skip
        found = solve(net(nodes, segments=segments, sliders=[rider]))
        assert found.state == "converged"
        middle.append(found.positions[-1])
    span, half = 96.0, count * rest / 2
    # heavy rider: both halves nearly straight
    assert middle[0][1] == pytest.approx(-3 - np.sqrt(half**2 - (span / 2) ** 2), abs=0.3)
    for one in middle:
        assert one == pytest.approx(middle[0], abs=0.05)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"slidders": []}, "“slidders” is no key of a network"),
        ({"nodes": [{"id": 0, "mass": 1, "weight": 2}]}, "“weight” is no key of its nodes"),
        ({"body": {"kind": "disc", "center": [0, 0], "radius": 3, "rough": 1}},
         "“rough” is no key of its body"),
        ({"sliders": [{"through": 2, "a": 0, "b": 1, "rest": 60, "friction": 0.1}]},
         "“friction” is no key of its sliders"),
        ({"sliders": [{"through": 0, "a": 0, "b": 1, "rest": 60}]}, "passes a node twice"),
        ({"sliders": [{"through": 2, "a": 0, "b": 1, "rest": 60, "thread": [0, 2]}]},
         "drawn on no stretch of its thread"),
        ({"sliders": [{"through": 9, "a": 0, "b": 1, "rest": 60}]}, "there is no node “9”"),
        ({"guides": [{"node": 2, "normal": [0, 0], "offset": 0}]}, "is no direction"),
        ({"elastics": [{"i": 0, "j": 2, "rest": 6, "limit": 0.5,
                        "stiffness_gf_per_unit_strain": 1}]}, "Expected `float` >= 1.0"),
    ],
)  # fmt: skip
def test_what_a_network_cannot_be_is_named(change, said):
    told = json.loads((REFERENCE / "worn-refuse-slider.json").read_text())
    with pytest.raises(DomainError, match=said):
        network_from(told | change)


def test_perturbed_starts_come_to_the_same_rest():
    for name in ("worn-elastic-e", "worn-rider-k", "worn-wrap-e"):
        network, _ = read_named(REFERENCE / f"{name}.json")
        first = solve(network).positions
        rng = np.random.default_rng(7)
        for _ in range(6):
            shaken = network.start + rng.normal(0, 2.0, network.start.shape)
            shaken[network.fixed] = network.start[network.fixed]
            again = solve(Network(**{f: getattr(network, f) for f in network.__struct_fields__}
                                  | {"start": shaken}))  # fmt: skip
            assert again.state == "converged"
            assert np.abs(again.positions - first).max() < 0.05


def test_an_elastic_band_on_a_disc_is_as_tight_as_its_girth_asks():
    # n chords of an octagon round a disc: length 2 (R + r) sin(π/n) each … by symmetry, no weight
    count, radius = 24, 30.0
    angle = 2 * np.pi * np.arange(count) / count
    places = np.c_[radius * np.cos(angle), radius * np.sin(angle)]
    nodes = [(1e-6, place.tolist(), False) for place in places]
    rest, stiff = 6.0, 200.0
    found = solve(net(
        nodes,
        elastics=[{"i": k, "j": (k + 1) % count, "rest": rest, "limit": 2.0,
                   "stiffness_gf_per_unit_strain": stiff} for k in range(count)],
        guides=[{"node": 0, "normal": [0, 1], "offset": 0}],
        body={"kind": "disc", "center": [0, 0], "radius": 27}, contact_radius=3.0,
    ))  # fmt: skip
    chord = brentq(lambda c: c - 2 * radius * np.sin(np.pi / count), 0, 60)
    assert found.stretch == pytest.approx([stiff * (chord / rest - 1)] * count, abs=0.01)
