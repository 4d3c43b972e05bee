"""Runs that hang from one place hang beside each other on its arc."""

import math
from itertools import pairwise

import numpy as np
import pytest
from msgspec.structs import replace

from maglia.core.hang.fanned import fanned, turned_points
from maglia.core.hang.side_by_side import MOST_RAD, angles_on_arc
from maglia.core.parts.parts import Connector, Hole, Ring
from maglia.core.piece.items import ConnectorItem
from maglia.core.piece.piece import Closure, Form, Place, Run
from maglia.core.report import evaluate
from workshop import PARTS, chain, piece, rings, unit

BIG = Ring(id="big", name="Ring 8", wire_mm=1.0, inner_mm=8.0, mass_g=0.4)
PLATE = Connector(
    id="plate", name="Plate", width_mm=10.0, height_mm=12.0, thickness_mm=1.0, mass_g=1.0,
    holes=(Hole(name="top", x_mm=0, y_mm=4, diameter_mm=2.0),
           Hole(name="foot", x_mm=0, y_mm=-4, diameter_mm=4.0)),
)  # fmt: skip
WIDE_MM = 2.0 + 2 * 0.8


def pendant(*chains, item=None, port=None):
    """Chains below one ring of 8 mm that hangs from a pin."""
    host = Run(name="Host", kind="strand", lies="fold", items=(item or rings(part="big"),))
    drops = [
        Run(name=f"D{k}", kind="drop", lies="fold", items=(chain(n),),
            start=Place(run="Host", item=1, at=1, port=port))
        for k, n in enumerate(chains)
    ]  # fmt: skip
    made = piece(host, *drops, parts=(*PARTS, BIG, PLATE), closure=Closure())
    return replace(made, form=Form(kind="board"), sort="pendant")


def test_equal_chains_fall_by_the_arc():
    """Fall = r + r cos φ + length, φ the arc of a chain's width (reference network arc-a)."""
    found = evaluate(pendant(20, 20, 20))
    assert found.hung.state == "converged"
    angle = WIDE_MM / 4.0
    falls = found.readings.falls_mm
    assert falls["D1"] == pytest.approx(8.0 + 60.0, abs=0.01)
    for outer in ("D0", "D2"):
        assert falls[outer] == pytest.approx(4 + 4 * math.cos(angle) + 60, abs=0.01)
    xs = [found.hung.points_of(m.id)[-1][0] for m in found.assembly.members if m.kind == "chain"]
    assert sorted(xs) == pytest.approx([-4 * math.sin(angle), 0, 4 * math.sin(angle)], abs=0.01)


def test_a_heavier_chain_swings_the_ring_until_its_middle_hangs_below_its_top():
    found = evaluate(pendant(10, 30))
    x = found.hung.solution.positions[:, 0]
    assert abs(float(found.hung.network.mass @ x)) < 1e-3
    chains = [found.hung.points_of(m.id) for m in found.assembly.members if m.kind == "chain"]
    assert abs(chains[1][-1][0]) < abs(chains[0][-1][0])


def test_two_drops_of_one_hole_and_of_one_loop_lie_apart():
    oval = ConnectorItem(part="plate", hole_in="top", hole_out="foot")
    hole = evaluate(pendant(9, 9, item=oval, port="foot"))
    loop = evaluate(pendant(9, 9, item=unit("link"), port="b"))
    for found in (hole, loop):
        assert found.hung.state == "converged"
        lines = [found.hung.points_of(m.id) for m in found.assembly.members if m.kind == "chain"]
        assert abs(lines[0][-1][0] - lines[1][-1][0]) > 1.0
        assert np.allclose(lines[0][:, 1], lines[1][:, 1], atol=0.01)


def test_an_arc_that_is_too_small_holds_them_closer():
    assert angles_on_arc([2.0], 1.0) == [0.0]
    assert angles_on_arc([1.0, 1.0, 1.0], 4.0) == pytest.approx([-0.25, 0.0, 0.25])
    assert angles_on_arc([3.0, 3.0, 3.0], 1.0) == pytest.approx([-MOST_RAD, 0.0, MOST_RAD])
    assert angles_on_arc([1.0, 3.0], 4.0) == pytest.approx([-0.25, 0.25])


def seen_apart(found):
    """Whether what is drawn of the drops, turned aside, leaves no two feet over each other."""
    turns = fanned(found.assembly, found.hung)
    feet = []
    for member in found.assembly.members:
        if member.kind == "dangle":
            points = turned_points(found.hung.points_of(member.id), turns.get(member.id, ()))
            feet.append(tuple(points[-1]))
    return turns, sorted(feet)


def test_twins_lean_apart_by_what_they_are_wide_and_single_ones_hang_straight():
    host = Run(name="Host", kind="strand", lies="fold", items=(rings(part="big"),))
    drops = [
        Run(name=f"D{k}", kind="drop", lies="fold", items=(chain(12), rings(), unit("dangle")),
            start=Place(run="Host", item=1, at=1))
        for k in range(3)
    ]  # fmt: skip
    made = piece(host, *drops, parts=(*PARTS, BIG), closure=Closure())
    found = evaluate(replace(made, form=Form(kind="board"), sort="pendant"))
    turns, feet = seen_apart(found)
    assert set(turns) == {m.id for m in found.assembly.members if m.run != "Host"}
    for one, other in pairwise(feet):  # beads of 8 mm
        assert 0.8 * 8 - 0.5 < math.dist(one, other) < 8 + 3
    assert feet[0][0] == pytest.approx(-feet[2][0], abs=0.01)
    alone = evaluate(replace(found.assembly.piece, runs=(host, drops[0])))
    assert fanned(alone.assembly, alone.hung) == {}


def test_graded_drops_turn_no_more_than_their_chains_need():
    found = evaluate(pendant(30, 30))
    turns = fanned(found.assembly, found.hung)
    # chains of 3.6 mm that bear 3.6 mm apart cover each other nowhere
    assert all(abs(turn.angle) < 1e-9 for own in turns.values() for turn in own)
