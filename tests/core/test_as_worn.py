"""As it is worn: coils, bangles, elastics, laid on the mat, and ways that wind a long piece."""

import math

import numpy as np
import pytest
from msgspec.structs import replace

from maglia.core.edits.edit import delete
from maglia.core.edits.spots import Spot
from maglia.core.parts.parts import Bead, Ring, Wire
from maglia.core.piece.items import StrungItem
from maglia.core.piece.piece import Closure, Form, Place, Run, Way, Wearer
from maglia.core.report import as_json, evaluate
from maglia.core.sheets.wear import as_worn
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from saying import said
from workshop import PARTS, chain, drop, piece, rings, strand, unit

HOOP = Ring(id="hoop", name="Bangle 66", wire_mm=3.0, inner_mm=66.0, closure="closed", mass_g=12.0)
RUBBER = Ring(id="rubber", name="Rubber 4", wire_mm=1.0, inner_mm=4.0, closure="elastic",
              stretch_limit=2.0, material="rubber")  # fmt: skip
ELASTIC = Wire(id="elastic", name="Elastic", sort="elastic", wire_mm=0.8, stretch_limit=1.5,
               material="rubber")  # fmt: skip
AMBER = Bead(id="amber", name="Amber 8", length_mm=8.0, width_mm=8.0, hole_mm=1.2)
ON = Wearer(wrist_mm=160, hand_mm=200, neck_mm=350)
ENDLESS = Closure(kind="continuous")


def bracelet(*runs, closure=ENDLESS, **more):
    made = piece(*runs, closure=closure, parts=(*PARTS, HOOP, RUBBER, ELASTIC, AMBER))
    return replace(made, **{"sort": "bracelet", "form": Form(kind="wrist"), "wearer": ON} | more)


def beads(count, thread="elastic"):
    item = StrungItem(thread=thread, pattern=("amber",), times=count, finish="knotted")
    return Run(name="Strand", lies="free", items=(item,))


def test_a_coil_is_a_helix_of_its_own_diameter_with_its_ends_over_each_other():
    """44 beads of 6 mm on a coil of 55 mm: 264 mm, sprung open by an arm of 165 mm round, which
    with beads of 6 mm takes a radius of 165 / 2π + 3."""
    found = evaluate(read_piece(demo_path("spiral-stair-coil")))
    assert found.hung.state == "converged"
    line, radius = found.hung.points_of(0), 165 / (2 * math.pi) + 3.0
    middle = (line[:, 2].max() + line[:, 2].min()) / 2
    assert np.hypot(line[:, 0], line[:, 2] - middle) == pytest.approx(radius, abs=0.1)
    turned = np.unwrap(np.arctan2(line[:, 0], line[:, 2] - middle))
    assert abs(turned[-1] - turned[0]) == pytest.approx(264 / radius, abs=0.01)
    assert np.ptp(line[:, 1]) == pytest.approx(7.0 * 264 / radius / (2 * math.pi), abs=1e-6)
    # it rests on the arm: its beads on the top of the wrist
    assert line[:, 2].max() == pytest.approx(165 / (2 * math.pi) + 3.0, abs=0.1)
    assert not {"not-hung-as-worn", "hang-too-short"} & {c.code for c in found.checks}


def test_a_bangle_rests_on_the_arm_and_its_charms_hang_at_its_foot():
    found = evaluate(bracelet(strand(rings(1, "hoop")), drop("D", 0, unit("dangle"), lies="fold")))
    assert found.hung.state == "converged"
    top, foot = found.hung.points_of(0)
    assert top[2] - foot[2] == pytest.approx(66.0, abs=1e-3)
    assert top[2] == pytest.approx(160 / (2 * math.pi) + 1.5)
    dangle = next(m for m in found.assembly.members if m.kind == "dangle")
    assert found.hung.points_of(dangle.id)[0] == pytest.approx(foot, abs=1e-3)
    report = as_json(found)
    assert (report["closed_length_mm"], report["hang"]["as_worn"]) == (None, True)
    body = report["on_body"]  # the inside of the hoop against the hand
    assert (body["has_mm"], body["needed_mm"]) == (pytest.approx(66 * math.pi, abs=1e-3), 200)
    assert "cannot-be-joined" not in {c.code for c in found.checks}


@pytest.mark.parametrize(
    ("made", "stretch"),
    [
        # 160 + π × 8 are needed; 20 beads are 160 mm at rest
        (bracelet(beads(20)), (160 + 8 * math.pi) / 160),
        (bracelet(beads(25)), 1.0),  # 200 mm lie loose
        # rubber rings of 4 mm lie flat by their wire: 160 + π × 1 over 30 × 4
        (bracelet(strand(rings(30, "rubber"))), None),
    ],
)
def test_an_elastic_grows_to_what_the_wrist_needs(made, stretch):
    found = evaluate(made)
    assert found.hung.state == "converged"
    if stretch is not None:
        assert found.readings.stretch == pytest.approx(stretch, abs=0.004)
    worn = sum(found.hung.network.rest)
    assert worn >= 160 + 2 * math.pi * 0.5
    assert as_json(found)["hang"]["stretch"] == pytest.approx(found.readings.stretch, abs=1e-4)


def test_an_elastic_at_its_limit_is_too_short_and_what_is_none_has_no_stretch():
    found = evaluate(bracelet(beads(14)))  # 112 × 1.5 = 168 of 185
    assert found.hung.state == "too short"
    assert "to go round the wrist" in found.hung.solution.cause
    plain = evaluate(bracelet(beads(25, thread="wire")))
    assert plain.readings.stretch is None


def test_on_the_mat_everything_lies_as_it_is_laid():
    runs = (strand(chain(51), rings()), drop("D", 6, unit("dangle")))
    for laid, width in (("open", 153 + 8 + 9 + 5), ("closed", (153 + 8 + 9 + 5) / math.pi)):
        made = piece(*runs)
        found = evaluate(replace(made, form=Form(kind="mat", laid=laid)))
        assert found.hung.state == "converged"
        assert found.readings.falls_mm == {}
        assert found.readings.widths_mm["Strand"] == pytest.approx(width, abs=1.5)
    member = next(m for m in found.assembly.members if m.kind == "dangle")
    top, foot = found.hung.points_of(member.id)
    assert np.linalg.norm(foot) > np.linalg.norm(top)  # laid outward


def test_a_way_that_winds_a_rope_goes_where_it_goes_round():
    """600 mm: once round the neck; three times 200 mm are no neck's, but a wrist's."""
    rope = piece(strand(chain(199)), closure=Closure(kind="continuous", catch="small"))
    rope = replace(rope, wearer=ON, form=Form(kind="bust"))
    assert as_worn(rope, Way(name="Once")).form.kind == "bust"
    assert as_worn(rope, Way(name="Wound", wraps=3)).form.kind == "wrist"
    assert as_worn(rope, Way(name="Twice", wraps=1, on="mat")).form.kind == "mat"
    wound = evaluate(as_worn(rope, Way(name="Wound", wraps=3)))
    assert wound.hung.state == "converged"
    assert "wound-evenly" in {c.code for c in wound.checks}
    long = replace(rope, runs=(strand(chain(399)),))
    assert as_worn(long, Way(name="Doubled", wraps=2)).form.kind == "bust"


def test_a_charm_begins_outside_the_arm_and_hangs_at_its_side():
    """On the top of a wrist it does not begin within it, which no solve would undo."""
    charm = Run(name="D", kind="drop", lies="free", items=(rings(), unit("dangle")),
                start=Place(run="Strand", item=1, at=10, port="gap"))  # fmt: skip
    found = evaluate(bracelet(beads(20), charm))
    assert found.hung.state == "converged"
    body = found.hung.form.body
    for member in found.assembly.members:
        if member.run == "D":
            assert body.distance(found.hung.points_of(member.id)).min() > 0.0


def test_what_stands_between_two_halves_comes_off():
    """A middle of ring and bead link; below it a drop, which then hangs from the finding itself."""
    top = Run(name="Top", lies="fold", items=(rings(),))
    middle = Run(name="Middle", kind="drop", lies="fold", items=(rings(), unit("link")),
                 start=Place(run="Top", item=1, at=1))  # fmt: skip
    foot = Run(name="Foot", kind="drop", lies="fold", items=(rings(), unit("dangle")),
               start=Place(run="Middle", item=2, at=1, port="b"))  # fmt: skip
    of = replace(piece(top, middle, foot, closure=Closure()), sort="earring", form=Form(kind="ear"))
    (day,) = said("way Day: taking out Middle", of, Tray()).piece.ways
    assert day == Way(name="Day", taken_out=("Middle",))
    long, short = evaluate(of), evaluate(as_worn(of, day))
    assert {run.name for run in short.assembly.runs} == {"Top", "Foot"}
    gone = long.readings.falls_mm["Foot"] - short.readings.falls_mm["Foot"]
    # the middle's ring 4 and link 15.6; its ring and that of the foot bear on the same arc
    assert gone == pytest.approx(4 + 15.6, abs=0.01)
    with pytest.raises(DomainError, match="nothing hangs from its foot"):
        as_worn(of, Way(name="x", taken_out=("Foot",)))
    assert delete(replace(of, ways=(day,)), Spot("Middle", (0,))).piece.ways == (day,)
    gone = delete(replace(of, runs=(top, middle), ways=(day,)), Spot("Middle", (1,))).piece
    gone = delete(gone, Spot("Middle", (0,))).piece
    assert gone.run("Middle") is None
    assert gone.ways[0].taken_out == ()
