"""Bare cord, ribbon and strap: lengths, knots, braids, what holds the ends, what slides on them."""

import math

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.assembly.kinds import span_mm
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot
from maglia.core.fit.lever import lever_at
from maglia.core.parts.parts import Bead, End, Ring, Wire
from maglia.core.piece.items import Bare, Knot, StrungItem
from maglia.core.piece.piece import Closure, Place, Run, catalogue
from maglia.core.report import evaluate
from maglia.core.sheets.count import threads_mm
from maglia.core.sheets.lengths import thickness_mm
from maglia.core.sheets.mass import masses_g
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from saying import said
from workshop import PARTS, UNITS, piece, rings, strand, unit

CORD = Wire(id="cord", name="Cord 2", sort="cord", wire_mm=2.0, material="leather")
RIBBON = Wire(id="ribbon", name="Ribbon 14", sort="ribbon", wire_mm=0.5, width_mm=14.0,
              material="thread")  # fmt: skip
CLAMP = End(id="clamp", name="Clamp 8", sort="clamp", adds_mm=8.0, takes_mm=1.2, width_mm=9.0,
            loop_mm=3.0, mass_g=0.5)  # fmt: skip
TUBE = End(id="tube", name="Cord end 7", sort="cord end", adds_mm=7.0, takes_mm=2.0, mass_g=0.4)
CRIMP = End(id="crimp", name="Crimp 4", adds_mm=4.0, takes_mm=1.0, loop_mm=2.0, mass_g=0.1)
WIDE = Bead(id="big", name="Barrel 6", length_mm=6.0, width_mm=8.0, hole_mm=3.0, mass_g=1.0)
SLIDER = Ring(id="slider", name="Ring 6", wire_mm=1.0, inner_mm=6.0, mass_g=1.0)
MORE = (*PARTS, CORD, RIBBON, CLAMP, TUBE, CRIMP, WIDE, SLIDER)


def bare(mm=300, **more):
    return StrungItem(**{"thread": "cord", "pattern": (Bare(mm=1.0),), "times": mm} | more)


def made(item, *runs, **more):
    return piece(strand(item), *runs, parts=MORE, **{"closure": Closure()} | more)


def ends_said(item, parts=MORE):
    found = evaluate(piece(strand(item), parts=parts, closure=Closure()))
    return [c.message for c in found.checks if c.code == "end-does-not-hold"]


def test_a_strap_is_as_long_as_it_is_cut_and_a_millimetre_is_one_step():
    strap = bare(300, lead=("big",), tail=("big",), end="tube", finish="glued")
    of = made(strap)
    assert span_mm(strap, catalogue(of)) == pytest.approx(300 + 2 * 6 + 2 * 7)
    assert threads_mm(expand(of)) == {"cord": pytest.approx(300 + 2 * 6)}  # no tails in a cord end
    longer = set_count(of, Spot("Strand", (-1,)), 301).piece
    assert threads_mm(expand(longer))["cord"] == pytest.approx(313)
    lever = lever_at(of, Spot("Strand", (-1,)))
    assert (lever.step_mm, lever.nearest(400.0)) == (1.0, 400 - 26)
    # what lies along the body: 300 mm of 2 and 12 mm of 8
    assert thickness_mm(expand(of)) == pytest.approx((300 * 2 + 12 * 8) / 312)
    assert piece_from(piece_text(of)) == of


def test_bare_cord_weighs_as_a_cylinder_and_ribbon_as_a_strip():
    leather = math.pi / 4 * 4.0 * 300 * 0.9e-3
    assert masses_g(expand(made(bare())))[0] == pytest.approx(leather)
    strip = 14 * 0.5 * 300 * 1.2e-3
    assert masses_g(expand(made(bare(thread="ribbon"))))[0] == pytest.approx(strip)


def test_knots_and_braids_take_more_than_they_show():
    # a knot is 3 thicknesses long and takes 13; two strands tied together are √2 as thick
    knotted = bare(100, lead=(Knot(),), tail=(Knot(),), strands=2, finish="glued", end="tube")
    of, tied = made(knotted), 2.0 * math.sqrt(2)
    assert span_mm(knotted, catalogue(of)) == pytest.approx(100 + 2 * 3 * tied + 2 * 7)
    assert threads_mm(expand(of))["cord"] == pytest.approx(2 * (100 + 2 * 13 * tied))
    braid = bare(200, strands=3, made="braided", finish="glued", end="tube")
    assert threads_mm(expand(made(braid)))["cord"] == pytest.approx(3 * 1.4 * 200)
    slip = bare(200, finish="slip knot")
    assert threads_mm(expand(made(slip)))["cord"] == pytest.approx(200 + 2 * 120)


@pytest.mark.parametrize(
    ("item", "said"),
    [
        (bare(end="tube", finish="glued"), None),
        (bare(end="tube", finish="glued", strands=2), "takes 2.00 mm, and “Cord 2” is 4.00 mm"),
        (bare(thread="ribbon", end="clamp", finish="glued"), "9.0 mm wide, does not hold “Ribbon"),
        (bare(thread="ribbon", end="clamp", finish="glued", made="folded"), None),
        (bare(), "Nothing holds the end of “Cord 2”"),
        (bare(finish="knotted"), None),
        # a crimp takes each strand there and back: two circles lie 2 × 0.6 wide
        (StrungItem(thread="wire", pattern=("bead",), times=3, end="crimp"), "is 1.20 mm there"),
    ],
)
def test_what_holds_an_end(item, said):
    found = ends_said(item)
    assert [said in one for one in found] == ([True] if said else [])


def test_a_place_on_cord_is_so_far_from_the_fold():
    def hung(lies, at):
        start = Place(run="Strand", item=0, at=at, port="along")
        drop = Run(name="D", kind="drop", lies=lies, items=(rings(),), start=start)
        return made(bare(200), drop, pins=80.0)

    found = evaluate(hung("paired", 63))
    ports = sorted(j.port_a for j in found.assembly.joints if not j.inline)
    assert ports == ["along 163", "along 37"]
    assert evaluate(hung("fold", 0)).hung.state == "converged"
    with pytest.raises(DomainError, match="only 100 mm to its end"):
        expand(hung("paired", 101))


def test_what_slides_between_two_stops_rests_between_them():
    """Beads 8 wide keep a ring 6 inside on the 60 mm between them, off the lowest place."""
    thread = StrungItem(
        thread="cord", lead=(Bare(mm=20.0), "big", Bare(mm=60.0), "big"), pattern=(Bare(mm=1.0),),
        times=114, finish="knotted",
    )  # fmt: skip
    items = (rings(part="slider"), unit("dangle"))
    start = Place(run="Strand", item=1, at=5, until=18, port="rides")
    rider = Run(name="Slide", kind="drop", lies="free", items=items, start=start)
    host = Run(name="Strand", lies="free", items=(thread,))
    of = piece(host, rider, parts=MORE, closure=Closure(), pins=120.0)
    found = evaluate(of)
    assert found.hung.state == "converged"
    line = found.hung.points_of(0)
    slider = next(m for m in found.assembly.members if m.run == "Slide" and m.kind == "ring")
    at = found.hung.points_of(slider.id)[0]
    assert math.dist(at, line[17]) < 0.1  # the lower of its stops
    said = {c.code for c in found.checks}
    assert not said & {"rider-without-stop", "rider-too-narrow"}
    loose = replace(rider, start=replace(rider.start, at=4, until=19))
    told = {c.code for c in evaluate(replace(of, runs=(host, loose))).checks}
    assert {"rider-without-stop", "rider-too-narrow"} <= told  # past a bead, over both
    with pytest.raises(DomainError, match="nothing lies between"):
        expand(replace(of, runs=(host, replace(rider, start=replace(rider.start, until=6)))))


@pytest.mark.parametrize(
    ("text", "item"),
    [
        ("300 mm cord, ends cord end", bare(300, end="tube", finish="glued")),
        ("1 1/2 in ribbon folded, ends clamp", bare(38, thread="ribbon", lead=(Bare(mm=0.1),),
         end="clamp", finish="glued", made="folded")),
        ("20 cm cord braided, slip knots", bare(200, strands=3, made="braided",
         finish="slip knot")),
        ("string barrel, 51 cm bare, barrel on cord, ends cord end",
         bare(510, lead=("big",), tail=("big",), end="tube", finish="glued")),
        ("string knot, 30 mm bare, knot on cord doubled", bare(30, lead=(Knot(),), tail=(Knot(),),
         strands=2, finish="knotted")),
    ],
)  # fmt: skip
def test_cord_in_a_phrase(text, item):
    tray, of = Tray(parts=MORE, units=UNITS), piece(parts=())
    run = said(text, of, tray).piece.runs[0]
    assert run.centre == item or run.items == (item,)
