"""Pieces on their forms: bust, limb, necklines; warm starts, calibration, lying flat."""

import json
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from scipy.optimize import brentq

from maglia.core.assembly.expand import expand
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import CENTRE, Spot, count_at
from maglia.core.hang.calibrate import Measured, calibrated, plain_fall_mm
from maglia.core.hang.forms import form_body, outside
from maglia.core.hang.hung import hang
from maglia.core.parts.parts import Chain, Ring
from maglia.core.piece.items import ChainItem
from maglia.core.piece.piece import Closure, Form, Piece, Run, TiedRows, Wearer
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece
from workshop import chain, drop, piece, rings, strand, unit

REFERENCE = Path(__file__).parent.parent / "data" / "reference"
FINE = Chain(id="c", name="C", pitches_mm=(1.875,), inner_width_mm=1.0, wire_mm=1.0)
RING = Ring(id="r", name="R", wire_mm=1.0, inner_mm=1.875)


def loop(links, *, form="bust", **girths):
    sort = {"bust": "necklace", "wrist": "bracelet"}[form]
    return Piece(
        sort=sort, wearer=Wearer(**girths), form=Form(kind=form), parts=(FINE, RING),
        runs=(Run(name="Loop", centre=ChainItem(part="c", links=links)),),
        closure=Closure(kind="continuous", catch="r"),
    )  # fmt: skip


def inside_mm(hung):
    network = hung.network
    at = hung.solution.positions[network.contact]
    return float((network.radius - network.body.evaluate(at).value).max())


def test_the_bust_is_the_reference_bust():
    # case9a: 240 segments of 1.875 mm on a neck of 350 mm, compared as a curve.
    case = json.loads((REFERENCE / "case9a.json").read_text())
    reference = np.array(case["reference"]["positions"])
    found = hang(expand(loop(239, neck_mm=350.0)))
    assert found.state == "converged"
    x, ends = found.solution.positions, found.network.segments
    start, d = x[ends[:, 0]], x[ends[:, 1]] - x[ends[:, 0]]
    t = np.clip(((reference[:, None] - start) * d).sum(-1) / (d * d).sum(1), 0, 1)
    away = np.linalg.norm(reference[:, None] - start - t[..., None] * d, axis=-1).min(1)
    assert away.max() < 0.1  # the links begin half a link elsewhere


def test_a_loop_over_a_round_bar():
    # A loop of length S whose weight is one ring of width w below hangs in two straight sides
    # that leave the bar of radius R where they touch it. With D from the bar's middle to the end
    # of the ring, β its angle off plumb: S = w + 2 (√(D² − R²) + R (π − β − acos(R/D))).
    radius, total, width = 160 / (2 * np.pi) + 1.0, 330.0, 1.875

    def excess(h):
        away, beta = np.hypot(h, width / 2), np.arctan(width / 2 / h)
        side = np.sqrt(away**2 - radius**2)
        return width + 2 * (side + radius * (np.pi - beta - np.arccos(radius / away))) - total

    height = brentq(excess, radius + 0.1, total)
    heavy = replace(RING, mass_g=500.0)
    links = 175
    made = loop(links, form="wrist", wrist_mm=160.0)
    light = replace(FINE, mass_g_per_m=0.05)
    made = replace(made, parts=(light, heavy))
    assert (links + 1) * 1.875 == total
    found = hang(expand(made))
    assert found.state == "converged"
    assert -found.solution.positions[:, 2].min() == pytest.approx(height, abs=0.15)


@pytest.mark.parametrize("name", demo_names())
def test_demo_pieces_rest_outside_their_form_with_lengths_kept(name):
    found = hang(expand(read_piece(demo_path(name))))
    assert found.state == "converged"
    x, network = found.solution.positions, found.network
    d = np.linalg.norm(x[network.segments[:, 1]] - x[network.segments[:, 0]], axis=1)
    assert (d - network.rest).max() < 0.01
    bars = np.linalg.norm(x[network.rods[:, 1]] - x[network.rods[:, 0]], axis=1)
    assert np.abs(bars - network.length).max(initial=0) < 0.01
    if network.body is not None and len(network.contact):  # a coil keeps its own shape
        assert inside_mm(found) < 0.02


@pytest.mark.parametrize("name", ["gallery-tiers", "prompters-lariat", "star-shower-pendant"])
def test_going_on_from_before_finds_the_same_rest(name):
    made = read_piece(demo_path(name))
    first = expand(made)
    hung = hang(first)
    spot = Spot(made.runs[0].name, (CENTRE,))
    if name == "prompters-lariat":
        spot = Spot("Loop", (1,))
    more = expand(set_count(made, spot, count_at(made, spot)[0] + 2).piece)
    warm, cold = hang(more, before=(first, hung)), hang(more)
    assert warm.solution.iterations < cold.solution.iterations
    assert warm.solution.positions == pytest.approx(cold.solution.positions, abs=0.02)


def test_a_collar_too_small_for_the_neck():
    found = evaluate(loop(150, neck_mm=350.0))
    assert found.hung.state == "too short"
    assert found.hung.solution.short_by_mm > 1
    said = next(c.message for c in found.checks if c.code == "hang-too-short")
    assert "run “Loop” is too short" in said
    assert np.isfinite(found.hung.solution.positions).all()


def test_a_wider_neck_lifts_the_strand_and_a_longer_strand_falls():
    falls = [evaluate(loop(n, neck_mm=g)).readings.falls_mm["Loop"]
             for n, g in ((239, 350.0), (239, 365.0), (259, 350.0))]  # fmt: skip
    assert falls[1] < falls[0] < falls[2]


@pytest.mark.parametrize("links", [2_000, 8_000])
def test_a_strand_longer_than_any_start_is_still_counted_and_checked(links):
    found = evaluate(loop(links))
    assert found.closed_length_mm == pytest.approx(links * FINE.pitches_mm[0], rel=0.01)
    assert found.hung.state != "converged" or found.readings.falls_mm["Loop"] > 1_000
    assert np.isfinite(found.hung.solution.positions).all()


@pytest.mark.parametrize("posture", ["upright", "easy", "sloping"])
@pytest.mark.parametrize("length", [460, 700])
def test_every_posture_holds_a_strand(posture, length):
    assert -30 < plain_fall_mm(350.0, Form(kind="bust", posture=posture), length) < 250


def test_calibration_finds_the_bust_that_was_measured():
    own = Form(kind="bust", neck_shift_mm=4.0)
    fall = plain_fall_mm(350.0, own, 460)
    found = calibrated(350.0, Form(kind="bust"), (Measured(460, fall),))
    assert found.neck_shift_mm == pytest.approx(4.0, abs=0.1)
    with pytest.raises(DomainError, match="out of reach"):
        calibrated(350.0, Form(kind="bust"), (Measured(460, 200.0),))


def test_calibration_with_two_chains():
    own = Form(kind="bust", neck_shift_mm=-3.0, chest_shift_mm=8.0)
    measured = tuple(Measured(n, plain_fall_mm(350.0, own, n)) for n in (460, 640))
    found = calibrated(350.0, Form(kind="bust"), measured)
    for one in measured:
        again = plain_fall_mm(350.0, found, one.length_mm)
        assert again == pytest.approx(one.fall_mm, abs=0.3)


def test_points_are_moved_out_of_a_body():
    body = form_body(loop(239, neck_mm=350.0)).body
    inner = np.random.default_rng(3).uniform((-60, -60, -80), (60, 60, 20), (200, 3))
    moved = outside(body, inner, 1.0)
    assert body.distance(moved).min() > 0.9
    assert body.distance(moved) == pytest.approx(body.evaluate(moved).value, abs=1e-9)


@pytest.mark.parametrize(("neckline", "depth"), [("round", 2 / np.pi), ("vee", 1 / np.sqrt(2))])
def test_necklines_of_the_board(neckline, depth):
    # A half circle of length S is S/π deep; a right-angled V is S/(2√2) deep.
    made = piece(strand(chain(101), rings()), drop("D", 0, rings(), unit("dangle"), lies="fold"))
    made = replace(made, form=Form(kind="board", neckline=neckline))
    found = evaluate(made)
    assert found.hung.state == "converged"
    closed = found.closed_length_mm
    assert found.readings.falls_mm["Strand"] == pytest.approx(closed / 2 * depth, rel=0.01)


def triangle(**more):
    row = TiedRows(
        name="Bib", unit="link", rows=(4, 3, 2, 1), ring="ring", hang_ring="ring", **more
    )
    return piece(rows=(row,), closure=Closure(kind="open"), pins=80.0)


def test_rows_that_do_not_lie_flat_are_marked():
    # Pinned along a V, the rows below a right angle have no room side by side.
    vee = evaluate(replace(triangle(), form=Form(kind="board", neckline="vee")))
    assert not vee.flat.is_flat
    assert all("Bib" in m.place and m.amount > 0 for m in vee.flat.marks)
    plain = evaluate(piece(strand(unit("link"), rings(), unit("link")), pins=30.0))
    assert plain.flat.is_flat


def test_nested_strands_nest():
    found = evaluate(read_piece(demo_path("box-office-pearls")))
    assert [(a, b) for a, b, _ in found.readings.gaps_mm] == [
        ("Upper", "Middle"), ("Middle", "Lower"),
    ]  # fmt: skip
    assert all(gap > 12 for _, _, gap in found.readings.gaps_mm)
    middles = [
        found.hung.points_of(m.id)[m.links // 2] for m in found.assembly.members if m.links > 30
    ]
    assert all(y > 30 for _, y, _ in middles)  # all before the neck
    assert all(abs(x) < 6 for x, _, _ in middles)


def test_readings_of_swags_bars_and_balance():
    swags = evaluate(read_piece(demo_path("spotlight-swags"))).readings
    assert swags.sags_mm["Swag 1"] > 5
    assert swags.pulls_gf["Strand"] > 1
    bar = evaluate(read_piece(demo_path("trapdoor-earrings"))).readings
    assert bar.tilts_deg["Bar, connector 1"] > 5  # the long drop pulls the right side down
    tiers = evaluate(read_piece(demo_path("gallery-tiers")))
    assert len(tiers.readings.side_gaps_mm) == 2
    assert tiers.balance.left_g == pytest.approx(tiers.balance.right_g, abs=0.8)
