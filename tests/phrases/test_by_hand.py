"""Pieces said from an empty workshop, with their sums by hand: what is said once is there once, and
what is mirrored stays so.
"""

from collections import Counter

import pytest
from msgspec.structs import replace

from fitting import demo
from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import Spot
from maglia.core.fit.lever import lever_at
from maglia.core.fit.solve import solve
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet
from maglia.core.piece.wishes import NestedFit, Quantity
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.phrases.script import write

PARTS = """
new wearer keeper neck 350 wrist 165 hand 205 head 570 ease 15
new beads honey 6, comb 4, leaf 14 x 8, ash 9, all hole 1 glass
new cable 0.45 breaks 9 kg
new crimp 2 takes 1.2
new lobster 12 span 12 eye 2 gape 1.8 jaw 1.2, 0.7 g
new ring 5 x 0.9 inner
begin necklace for keeper
"""
CLOSED = "\nclose lobster into ring 5"


def made(text, parts=PARTS):
    return write(parts + text, Tray()).piece


def called(piece):
    """What there is of each, by what it is called."""
    return Counter({one.name: one.count for one in evaluate(piece).counts if one.count})


def strung_refs(piece):
    names = {part.id: part.name for part in piece.parts}
    return [names[ref] for m in expand(piece).members if m.strung for ref in m.strung.refs]


LONG = {"honey 6": 6, "comb 4": 4, "leaf 14": 14, "ash 9": 9}


@pytest.mark.parametrize("said", [
    "30 honey, leaf, 30 honey", "8 x (honey, comb), leaf, 8 x (comb, honey)",
    "20 x (honey, comb), honey",
])  # fmt: skip
def test_a_wish_turns_beads_at_both_ends_and_nothing_that_was_named_once(said):
    piece = made(f"string {said} on cable, ends crimp{CLOSED}\nlength")
    beads = strung_refs(solve(piece).piece)
    assert beads.count("leaf 14") == said.count("leaf")
    assert beads == beads[::-1]
    # 350 + 15; clasp and ring are 12 + 5, two crimps 2 each; a step is two beads
    assert abs(sum(LONG[one] for one in beads) + 12 + 5 + 4 - 365) <= 6
    middle = strung_refs(made(f"string {said} on cable, ends crimp{CLOSED}"))
    if "leaf" in said:
        assert middle[len(middle) // 2] == beads[len(beads) // 2]


def test_where_nothing_at_the_ends_is_repeated_a_wish_says_so():
    said = "string ash, 25 honey, leaf, 25 honey, ash on cable, ends crimp"
    piece = made(f"{said}{CLOSED}\nlength")
    assert solve(piece).piece.runs == piece.runs
    with pytest.raises(DomainError, match="nothing at its ends is repeated"):
        lever_at(piece, Spot("Strand", (-1,)), single=True)


def test_what_is_allowed_is_half_of_how_far_apart_the_lengths_lie():
    piece = demo("box-office-pearls")
    lower = lever_at(piece, Spot("Lower", (-1,)), single=True)
    # a pearl of 8 and a spacer of 2 by turns: 306, 310, 316, 320, 326
    assert (lower.rises, lower.step_mm) == (False, 6.0)
    for fit in evaluate(piece).fits:
        assert all(abs(one.off) <= one.allowed for one in fit.residuals)


def test_a_strand_that_is_held_stays_and_the_others_are_turned():
    piece = demo("box-office-pearls")
    wish = NestedFit(name="n", strands=("Upper", "Middle", "Lower"), clear_mm=8)
    held = Quantity(run="Lower", item=0)
    piece = replace(piece, fits=(wish,), pinned=(held,))
    found = solve(piece).piece
    assert found.run("Lower") == piece.run("Lower")
    assert found.run("Upper") != piece.run("Upper")


BAIL = PARTS.replace("new crimp", "new connector bail 5 x 9 x 1, holes left right 3 apart of 1.6, "
                     "foot 0:-5 of 3\nnew chain rolo 3 inside 2 wire 0.8\nnew crimp")  # fmt: skip


def test_what_is_mirrored_stays_mirrored_with_its_middle_on_the_fold():
    strung = "string 21 honey, bail, 21 honey on cable, ends crimp\nring 5, 10 rolo"
    piece = made(f"{strung}{CLOSED}", BAIL)
    # 2 × (21 × 6 + 2 + 5 + 30) + 4.6 of the bail's holes + 12 + 5 of clasp and ring
    assert evaluate(piece).closed_length_mm == pytest.approx(2 * 163 + 4.6 + 17)
    assert called(piece)["Rolo 3"] + called(piece)["rolo 3"] == 20
    assert piece.runs[0].lies == "across"


@pytest.mark.parametrize("said", ["20 x (honey, comb)", "honey, comb, bail, honey, comb",
                                  "5 honey, bail, 6 honey"])  # fmt: skip
def test_what_reads_otherwise_from_its_other_end_is_asked_about(said):
    with pytest.raises(DomainError, match="reads otherwise from its other end"):
        made(f"string {said} on cable, ends crimp", BAIL)
    free = BAIL.replace("begin necklace", "begin necklace free")
    assert made(f"string {said} on cable, ends crimp", free).runs[0].lies == "free"


BAND = """
new wearer keeper neck 350 wrist 156 hand 196 ease 18
new elastic 0.8 stretch 1.5
new bead pea 5 hole 1.2 glass
begin bracelet for keeper
"""


def test_a_band_that_stretches_is_right_for_the_wrist_at_rest_and_the_hand_is_a_bound():
    # 156 + π × 5 + 18 = 189.7: 38 beads of 5
    found = solve(made("string 32 pea on elastic, ends knotted\nclose on itself\nlength", BAND))
    assert called(found.piece)["pea 5"] == 38
    assert not {c.code for c in evaluate(found.piece).checks} & {"too-short-for-wearer"}
    wide = BAND.replace("hand 196", "hand 300")  # 300 / 1.5 = 200
    found = solve(made("string 32 pea on elastic, ends knotted\nclose on itself\nlength", wide))
    assert called(found.piece)["pea 5"] == 40
    tight = made("string 24 pea on elastic, ends knotted\nclose on itself", BAND)
    assert "does-not-go-on" in {c.code for c in evaluate(tight).checks}  # 120 × 1.5 < 196


def test_what_hangs_on_a_thread_belongs_to_the_fall_of_its_strand():
    new = ("new ring soldered 9 x 1.2 closed\nnew head pin 35 x 0.6 head 1.9\n"
           "new dangle leaf on head pin, loop 1.5, called drip\n")  # fmt: skip
    drips = PARTS.replace("begin", f"{new}begin")
    strung = "string 33 honey, {}, 33 honey on cable, ends crimp" + CLOSED
    bare = evaluate(made(strung.format("ash") + "\ndrop soldered, ring 5, drip at fold", drips))
    on = evaluate(made(strung.format("soldered carrying (ring 5, drip) over ash"), drips))
    falls = bare.readings.falls_mm
    # the same parts hung by the fold, or riding on the thread there
    assert on.readings.falls_mm["Strand"] == pytest.approx(falls["Drop"], abs=5.0)
    assert falls["Drop"] - falls["Strand"] > 25


RIBBON = """
new wearer picker neck 345 wrist 160 hand 200 head 560 ease 30
new ribbon velvet {} x 1
new clamp 9 loop 1.8 takes 2.2 wide 8, 0.3 g
new rings 3.5 x 0.7, 11 x 1, all inner
new lobster 11 span 11 eye 2 gape 1.7 jaw 1.1, 0.7 g
new ring 7 x 1 inner
new charm medal 26 x 18 loop 3 x 1, 4 g
begin necklace for picker
370 mm velvet folded, ends clamp
ring 3.5
close lobster into ring 11
drop ring 7, medal at fold
"""


def test_ribbon_lies_on_the_body_by_its_thickness_and_reaches_into_its_clamps():
    wide, narrow = (evaluate(write(RIBBON.format(mm), Tray()).piece) for mm in (14, 3))
    falls = [one.readings.falls_mm["Strand"] for one in (wide, narrow)]
    assert falls[0] == pytest.approx(falls[1], abs=3.0)
    # 370 and two thirds of each clamp of 9
    (velvet,) = (one for one in wide.counts if one.length_mm)
    assert velvet.length_mm == pytest.approx(370 + 2 * 6)


LINKED = """
new wearer keeper neck 350 wrist 165 hand 205 head 570 ease 15
new chain cable 4 inside 2.6 wire 0.8
new wire 0.8
new bead vein 7 hole 1 glass
new ring 4 x 0.8 inner
new lobster 11 span 11 eye 2 gape 2 jaw 1.2, 0.8 g
new link vein on wire, loop 6 wrapped 3, far loop 2.2 wrapped 3, called eye link
begin necklace for keeper
91 cable
close ring 4, lobster into eye link
"""


def test_a_bead_link_may_be_the_catch_and_is_bitten_by_its_wide_loop():
    found = evaluate(write(LINKED, Tray()).piece)
    # 91 × 4, ring 4, clasp 11; the link 7 + 6.8 + 3.0 + 6 × 0.8
    assert found.closed_length_mm == pytest.approx(364 + 4 + 11 + 7 + 6.8 + 3.0 + 4.8)
    assert not {c.code for c in found.checks} & {"clasp-cannot-bite", "catch-too-small"}
    (bite,) = (j for j in found.assembly.joints if "bite" in (j.port_a, j.port_b))
    assert {bite.port_a, bite.port_b} == {"bite", "a"}


SWIVEL = """
new wearer keeper neck 350 wrist 165 ease 15
new lever back 15 loop 2.2 wire 0.8, 0.6 g
new lobster swivel 10 span 12 eye 2.2 gape 1.8 jaw 1.1, 0.8 g
new connector yard 26 x 7 x 1.2 bar, holes top 0:2.5, foot 0:-2.5 of 2.6
new ring 4 x 0.8 inner
begin earrings for keeper
lever back, ring 4, swivel
drop yard by top, called Bar
"""


def test_what_comes_off_hangs_in_the_bite_of_its_clasp_and_needs_no_ring():
    found = evaluate(write(SWIVEL, Tray()).piece)
    joint = next(j for j in found.assembly.joints
                 if found.assembly.members[j.b].run == "Bar")  # fmt: skip
    assert (joint.port_a, joint.port_b) == ("bite", "top")
    # 15 + 4 + 12 to the bite, and from its hole to the foot of the yard: 2.5 + 7 / 2
    assert found.readings.falls_mm["Earring"] == pytest.approx(31.0, abs=0.05)
    assert found.readings.falls_mm["Bar"] == pytest.approx(31.0 + 6.0, abs=0.1)


TWO = """
new wearer keeper neck 350 wrist 165 ease 15
new ear hook 15 loop 2.2 wire 0.8
new beads leaflet 6 x 4, clover 9, all hole 1
new head pin 40 x 0.6 head 1.9
new dangle leaflet + clover on head pin, loop 2, called pair
begin earrings for keeper
hook, pair
"""


def test_a_dangle_is_put_on_from_its_foot_up_and_said_and_drawn_from_its_loop_down():
    piece = write(TWO, Tray()).piece
    (pair,) = piece.units
    names = {part.id: part.name for part in piece.parts}
    assert [names[ref] for ref in pair.stack] == ["leaflet 6", "clover 9"]
    assembly = expand(piece)
    said = " ".join(line for step in joining_plan_steps(assembly) for line in step)
    assert "Put on clover 9 and leaflet 6." in said


def joining_plan_steps(assembly):
    sheet = make_sheet(assembly, joining_plan(assembly))
    return [(step.says, *step.how) for step in sheet.steps]


def test_a_shape_in_a_name_is_heard_and_a_bicone_is_as_wide_as_long():
    said = "new beads crystal bicone 6, plain 6, all hole 1 glass"
    piece = made("string 9 x (crystal, plain), crystal on cable, ends crimp",
                 PARTS.replace("new cable", f"{said}\nnew cable"))  # fmt: skip
    shapes = {part.name: (part.shape, part.width_mm) for part in piece.parts if part.kind == "bead"}
    assert shapes == {"crystal bicone 6": ("bicone", 6.0), "plain 6": ("round", 6.0)}


def test_what_slides_rides_on_the_thread_wherever_the_cursor_is():
    piece = write(
        RIBBON.format(14).replace("drop ring 7, medal at fold", "slide ring 7, medal"), Tray()
    ).piece
    counts = called(piece)
    assert (counts["medal 26"], counts["ring 7"], counts["ring 3.5"]) == (1, 1, 2)
    assert evaluate(piece).readings.falls_mm["Slide"] == pytest.approx(48.1, abs=5.0)


ARROW = """
new wearer pilot neck 358 wrist 156 hand 196 head 560 ease 18
new chain tar 4 inside 2.7 wire 0.8 brass
new wire 20 AWG steel
new beads red ball 12, drum 9 x 7 tube, tiny 4, all hole 1.1 glass
new ring 5 x 0.9 inner
new lobster 11 span 11 eye 2 gape 2 jaw 1.2, 0.8 g
new link red ball + drum + tiny on wire, loops 2.25, called arrow
begin necklace for pilot
ring 5, arrow, ring 5, arrow, ring 5, 14 cm tar
drop ring 5, arrow at 2nd ring
close ring 5, lobster into ring 5
"""


def test_uneven_links_point_the_same_way_on_both_sides_wherever_they_are_drawn():
    found = evaluate(write(ARROW, Tray()).piece)
    hung, links = found.hung, [m for m in found.assembly.members if m.kind == "bead link"]
    sides = {side: [hung.points_of(m.id) for m in links if m.side == side and m.run == "Strand"]
             for side in ("left", "right")}  # fmt: skip
    assert len(sides["left"]) == len(sides["right"]) == 2
    for left, right in zip(*sides.values(), strict=True):
        # what is drawn first of it, its red ball, lies mirrored: nearer to the fold on both
        assert left[0] * [-1, 1, 1] == pytest.approx(right[0], abs=0.5)
        assert abs(left[0][0]) < abs(left[-1][0])
    for drop in (m for m in links if m.run == "Drop"):
        points = hung.points_of(drop.id)
        assert points[0][2] > points[-1][2]
