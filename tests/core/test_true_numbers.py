"""Figures that makers cut by, each against a sum worked by hand, in the order of the model."""

import json
import math
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.cutting.day import Making, cuttings
from maglia.core.cutting.lengths import Length
from maglia.core.hang.hung import hang
from maglia.core.hang.readings import readings
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.rings import rings
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    End,
    Found,
    Hole,
    Pin,
    Ring,
    Wire,
    link_mass_g,
    part_mass_g,
)
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Loop,
    unit_mass_g,
    unit_span_mm,
    wire_needed_mm,
)
from maglia.core.piece.items import ConnectorItem, PartItem, StrungItem
from maglia.core.piece.piece import Closure, Form, Place, Run, Way, Wearer
from maglia.core.sheets.count import counts, threads_mm
from maglia.core.sheets.lengths import closed_length_mm, run_lengths, thickness_mm
from maglia.core.sheets.mass import balance
from maglia.core.sheets.wear import as_worn, ways_worn, worn_lengths_mm
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import piece_from, piece_text, read_piece
from workshop import CHAIN, CLASP, CLOSED, chain, drop, piece, strand, unit
from workshop import rings as ring_pair

PI = math.pi
BEAD = Bead(id="bead", name="Bead 8", length_mm=8, width_mm=8, hole_mm=1.2)
TUBE = Bead(id="tube", name="Tube 4", length_mm=10, width_mm=4, hole_mm=1.2)
WIRE = Wire(id="wire", name="Wire 0.6", wire_mm=0.6)


# --- loops ----------------------------------------------------------------------------------------


def test_the_wraps_of_a_doubled_loop_count_in_span_and_wire():
    """7 + (2.8 + 0.6) + 2 × 0.6 + (3.2 + 0.6) + 2 × 0.6 = 16.6; from the spool the wire is
    7 + [π 3.4 + 2 × 2π 0.6 + 5] + [2 × π 3.8 + 2 × 2π 0.6 + 5] = 66.63."""
    bead = replace(BEAD, id="seven", length_mm=7)
    link = BeadLink(
        id="pop", name="Pop", stack=("seven",), wire="wire",
        loop=Loop(style="wrapped", inner_mm=2.8, wraps=2),
        far_loop=Loop(style="doubled", inner_mm=3.2, wraps=2),
    )  # fmt: skip
    things = {"seven": bead, "wire": WIRE}
    assert unit_span_mm(link, things) == pytest.approx(16.6)
    assert wire_needed_mm(link, things, from_spool=True) == pytest.approx(66.63, abs=0.01)


# --- thread ---------------------------------------------------------------------------------------

THREAD = Wire(id="thread", name="Silk", wire_mm=0.4, sort="thread")
CLAMP = End(id="clamp", name="Clamp", sort="cord end", adds_mm=5)
CRIMP = End(id="crimp", name="Crimp", sort="crimp", adds_mm=2)
BAIL = Connector(
    id="bail", name="Bail", width_mm=12, height_mm=6, thickness_mm=1,
    holes=tuple(Hole(name=n, x_mm=x, y_mm=0, diameter_mm=2) for n, x in (("a", -4), ("b", 4))),
)  # fmt: skip
COIL = Wire(id="coil", name="Coil", wire_mm=0.6, sort="memory coil", coil_mm=55)
KIT = (BEAD, TUBE, WIRE, THREAD, CLAMP, CRIMP, BAIL, COIL, CLASP)


def strung(*items, closure=CLOSED, units=(), parts=(), **more):
    own = piece(strand(*items), closure=closure, **more)
    known = {part.id for part in own.parts}
    kit = tuple(part for part in (*parts, *KIT) if part.id not in known)
    return replace(own, parts=(*own.parts, *kit), units=(*own.units, *units))


def beads(n, thread="thread", ref="bead", **more):
    return StrungItem(thread=thread, pattern=(ref,), times=n, **more)


@pytest.mark.parametrize(
    ("items", "ref", "by_hand"),
    [
        # on the fold, both sides of it one thread: 5 beads of 8, then 3 + 3; two knots of 75
        ((beads(5, finish="knotted"), beads(3, finish="knotted")), "thread", 88 + 150),
        # clamps and cord ends take no tail
        ((beads(5, end="clamp"),), "thread", 40),
        # crimps at both ends of each section: three threads
        ((beads(5, end="crimp"), beads(3, end="crimp")), "thread", 40 + 2 * 24 + 6 * 25),
        # through a bar whose holes lie 8 + 2 mm apart it is one thread, doubled here
        (
            (
                beads(5, strands=2, finish="knotted"),
                ConnectorItem(part="bail", hole_in="a", hole_out="b"),
                beads(3, strands=2, finish="knotted"),
            ),
            "thread",
            2 * (40 + 2 * 24 + 2 * 10 + 2 * 75),
        ),
        # a ring between ends it: three threads
        ((beads(5), ring_pair(), beads(3)), "thread", 40 + 2 * 24 + 6 * 25),
        # memory coil: its beads and the two loops turned at its ends, π (2.5 + 0.6) each
        ((beads(5, thread="coil"),), "coil", 40 + 2 * PI * 3.1),
    ],
)
def test_thread_is_strands_times_length_and_tails(items, ref, by_hand):
    assembly = expand(strung(*items))
    assert threads_mm(assembly)[ref] == pytest.approx(by_hand)
    assert {c.id: c.length_mm for c in counts(assembly)}[ref] == pytest.approx(by_hand)


CHARM = Charm(id="moth", name="Moth", height_mm=14)
WIDE = Ring(id="wide", name="Ring 5", wire_mm=0.9, inner_mm=5)
ON_RING = Cluster(id="on-ring", name="Moth on its ring", carrier="wide", hangs=("moth",))


@pytest.mark.parametrize(("ref", "over", "length"), [("bead", False, 40.9), ("tube", True, 50)])
def test_a_cluster_rides_over_what_is_thinner_and_else_lies_between(ref, over, length):
    """A ring of 5 mm inside goes over a tube of 4 mm and not over a bead of 8 mm."""
    values = json.loads((Path(__file__).parent.parent / "data/v2/hedgerow-strand.json").read_text())
    item = StrungItem(thread="thread", pattern=(ref, "on-ring"), times=4, tail=(ref,))
    own = strung(item, units=(ON_RING,), parts=(CHARM, WIDE))
    values = json.loads(piece_text(own)) | {"version": 2, "format": values["format"]}
    opened = piece_from(json.dumps(values))
    assert opened.runs[0].centre.over == (("on-ring",) if over else ())
    assembly = expand(opened)
    each = 5 * (8 if ref == "bead" else 10)
    along = each + (0 if over else 4 * 0.9)
    (run,) = (r for r in run_lengths(assembly) if r.name == "Strand")
    assert run.length_mm == pytest.approx(along)
    assert threads_mm(assembly)["thread"] == pytest.approx(along + 50)
    found = {c.id: c.count for c in counts(assembly)}
    assert (found["moth"], found["wide"], found["on-ring"]) == (4, 4, 4)


@pytest.mark.parametrize("name", demo_names())
def test_the_ring_sheet_and_the_counts_agree(name):
    assembly = expand(read_piece(demo_path(name)))
    counted = {c.id: c.count for c in counts(assembly, 3) if c.kind == "ring"}
    assert {ring.id: ring.count for ring in rings(assembly, joining_plan(assembly), 3)} == counted
    for ring in rings(assembly, joining_plan(assembly), 3):
        assert ring.to_open + ring.leave_closed == ring.count


# --- on the body ----------------------------------------------------------------------------------


def test_thickness_is_what_lies_along_the_body_by_its_length():
    """51 × 10 of bare strap 3 mm and 2 × 6 of weights 6 mm: (510 × 3 + 12 × 6) / 522."""
    bare = Bead(id="bare", name="Bare", length_mm=10, width_mm=3)
    weight = Bead(id="weight", name="Weight", length_mm=6, width_mm=9, thickness_mm=6)
    item = StrungItem(
        thread="thread", lead=("weight",), pattern=("bare",), times=51, tail=("weight",),
        end="clamp",
    )  # fmt: skip
    assembly = expand(strung(item, parts=(bare, weight)))
    assert thickness_mm(assembly) == pytest.approx((510 * 3 + 12 * 6) / 522)


# --- weight ---------------------------------------------------------------------------------------


def test_what_is_cut_off_a_pin_is_not_worn():
    """Stack 8 + π (2.5 + 0.6) = 17.74 mm of a pin of 40 mm that weighs 1 g."""
    pin = Pin(id="pin", name="Pin", wire_mm=0.6, length_mm=40, mass_g=1.0)
    dangle = Dangle(id="d", name="D", stack=("bead",), wire="pin")
    bead = replace(BEAD, mass_g=2.0)
    worn = (8 + PI * 3.1) / 40
    assert unit_mass_g(dangle, {"pin": pin, "bead": bead}) == pytest.approx(2 + worn)


def test_a_found_piece_is_estimated_like_any_connector():
    """10 × 20 × 1 mm of brass, 8.5 mg per mm³, an oval of π/4 of it."""
    sizes = {"width_mm": 10, "height_mm": 20, "thickness_mm": 1, "holes": BAIL.holes}
    found = Found(id="f", name="Key plate", material="brass", **sizes)
    assert part_mass_g(found) == pytest.approx(PI / 4 * 200 * 8.5e-3)
    assert part_mass_g(found) == part_mass_g(Connector(id="c", name="C", material="brass", **sizes))


# --- where the clasp bites ------------------------------------------------------------------------

WIDE_CHAIN = Chain(
    id="wide-chain", name="Open 5", pitches_mm=(5.0,), inner_width_mm=4.0, wire_mm=0.8
)


def hooked(made, **where):
    """The piece as worn with its clasp hooked at a place."""
    way = Way(name="so", hooked=Place(**where))
    return expand(as_worn(replace(made, ways=(way,)), way))


def extender(*items):
    return Run(name="Ext", kind="extender", lies="free", start=Place(run="closure"), items=items)


def with_extender(*items, side="right"):
    made = piece(
        strand(chain(51), ring_pair(3), chain(20)), extender(*items),
        closure=replace(CLOSED, clasp_side=side),
    )  # fmt: skip
    return replace(made, parts=(*made.parts, WIDE_CHAIN))


@pytest.mark.parametrize("side", ["right", "left"])
@pytest.mark.parametrize(
    ("where", "by_hand"),
    [
        # all: 51 × 3 + 2 × (3 × 4 + 20 × 3) + clasp 9 + catch 5 = 311
        ({"run": "closure"}, 311),
        # the rings beside the centre, from the fold: each one further in is 4 mm less of one side
        ({"run": "Strand", "item": 1, "at": 3}, 153 + 12 + 72 + 9),
        ({"run": "Strand", "item": 1, "at": 2}, 153 + 8 + 72 + 9),
        ({"run": "Strand", "item": 1, "at": 1}, 153 + 4 + 72 + 9),
        # the chain at the end: links 1 … k from the fold remain
        ({"run": "Strand", "item": 2, "at": 7}, 153 + 12 + 21 + 72 + 9),
        ({"run": "Strand", "item": 2, "at": 20}, 153 + 144 + 9),
        # the centre chain: 25 links beyond the fold and itself, then 10 of the other half
        ({"run": "Strand", "item": 0, "at": 10}, 35 * 3 + 3 + 72 + 9),
        ({"run": "Strand", "item": 0, "at": 0}, 26 * 3 + 72 + 9),
        # the extender of two rings of 4 and ten links of 5
        ({"run": "Ext", "item": 1, "at": 1}, 311 + 4),
        ({"run": "Ext", "item": 1, "at": 2}, 311 + 8),
        ({"run": "Ext", "item": 2, "at": 1}, 311 + 8 + 5),
        ({"run": "Ext", "item": 2, "at": 6}, 311 + 8 + 30),
        ({"run": "Ext", "item": 2, "at": 10}, 311 + 8 + 50),
    ],
)
def test_a_clasp_hooked_elsewhere_closes_and_hangs_there(side, where, by_hand):
    made = with_extender(ring_pair(2), chain(10, "wide-chain"), side=side)
    assembly = hooked(made, **where)
    assert closed_length_mm(assembly) == pytest.approx(by_hand)
    worn = hang(assembly)
    assert worn.state == "converged"
    assert {m.id for m in assembly.members} == set(worn.drawn)
    ends = worn.solution.positions[worn.network.segments]
    lengths = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    assert (lengths - worn.network.rest).max() < 0.05


def test_what_cannot_be_hooked_is_said_and_the_rest_is_reported():
    made = with_extender(ring_pair(2))
    loose = Way(name="Loose", hooked=Place(run="Strand", item=2, at=31))
    off = Way(name="Off", without=("Ext",), hooked=Place(run="Ext"))
    drop_on = drop("D", 3, ring_pair(2), lies="free", side="left")
    far = Way(name="Drop", hooked=Place(run="D", item=1, at=2))
    made = replace(made, runs=(*made.runs, drop_on), ways=(loose, off, far, Way(name="Whole")))
    found = ways_worn(made)
    assert [w.closed_length_mm for w in found] == [None, None, 29 * 3 + 8 + 72 + 9, 311]
    assert "only 20" in found[0].fault
    assert "“Ext”, which does not exist" in found[1].fault


@pytest.mark.parametrize(
    ("port", "by_hand"),
    [
        ("a", 15.6 + 90 + 8 + 9),  # the loop farther from the clasp, then the other
        ("b", 90 + 8 + 9),
        ("mid", None),
    ],
)
def test_a_clasp_is_hooked_on_a_free_strand_by_a_loop(port, by_hand):
    """Rings 3 × 4, links 40 × 3, a link of 15.6, links 30 × 3, rings 2 × 4, clasp 9."""
    items = (ring_pair(3), chain(40), unit("link"), chain(30), ring_pair(2))
    made = piece(Run(name="S", lies="free", items=items))
    if by_hand is None:
        with pytest.raises(DomainError, match="a ring within a unit: name one of its loops"):
            hooked(made, run="S", item=3, port=port)
        return
    assembly = hooked(made, run="S", item=3, port=port)
    assert closed_length_mm(assembly) == pytest.approx(by_hand)
    assert hang(assembly).state == "converged"


def test_worn_lengths_are_where_the_clasp_can_bite():
    """A toggle bar goes through the hoop and not through rings that the ring before it fills; a
    lobster with a jaw of 1 mm takes 3 mm inside and no link of 2 mm."""
    hoop = Ring(id="hoop", name="Hoop 12", wire_mm=1.6, inner_mm=12.0)
    bar = Clasp(id="bar", name="Bar 18", sort="toggle", span_mm=3.0, bar_mm=18.0, width_mm=3.0)
    made = piece(
        strand(chain(51), ring_pair(1)), extender(ring_pair(1), chain(20), ring_pair(1, "hoop")),
        closure=Closure(kind="clasp", clasp="bar", catch="hoop"),
    )  # fmt: skip
    made = replace(made, parts=(*made.parts, hoop, bar))
    # 153 + 8 + 12 + 3 = 176; over the extender 4 + 60 + 12 more
    assert worn_lengths_mm(expand(made)) == (("catch", 176.0), ("Ext ring 2", 252.0))
    lobster = with_extender(chain(2), ring_pair(1), chain(2, "wide-chain"))
    assert [words for words, _ in worn_lengths_mm(expand(lobster))] == [
        "catch", "Ext ring 1", "Ext chain 2 link 1", "Ext chain 2 link 2",
    ]  # fmt: skip


# --- places ---------------------------------------------------------------------------------------


def test_a_hole_called_foot_can_be_passed_through():
    """Left to foot: centres √(10² + 4²) apart, and half of both holes of 2 mm."""
    item = ConnectorItem(part="oval", hole_in="left", hole_out="foot")
    made = piece(strand(chain(51), ring_pair()), drop("D", 3, ring_pair(), item, ring_pair()))
    (run,) = (r for r in run_lengths(expand(made)) if r.name == "D")
    assert run.length_mm == pytest.approx(4 + math.hypot(10, 4) + 2 + 4)


def test_what_a_part_does_not_have_is_no_place():
    hung = drop("D", 3, ring_pair(), unit("dangle"))
    low = Run(name="Low", kind="drop", lies="paired", items=(ring_pair(),),
              start=Place(run="D", item=2, port="mid"))  # fmt: skip
    with pytest.raises(DomainError, match="joins “mid” of “Dangle”, which has only its loop"):
        expand(piece(strand(chain(51), ring_pair()), hung, low))


def test_a_run_that_hangs_from_rings_abreast_hangs_from_all_of_them():
    made = piece(strand(chain(51), ring_pair(2, abreast=3)), drop("D", 2, ring_pair(), item=1))
    assembly = expand(made)
    hosts = {joint.a for joint in assembly.joints if not joint.inline}
    assert len(hosts) == 6
    assert hang(assembly).state == "converged"


# --- balance and falls ----------------------------------------------------------------------------


@pytest.mark.parametrize(("at", "more"), [(1, 1.5 * 3 / 76.5), (25, 1.5 * 75 / 76.5)])
def test_what_hangs_weighs_by_its_distance_from_the_fold(at, more):
    """A charm of 1.5 g, 3 mm a link from the fold, on a strand of 2 × 76.5 mm: the right side gets
    (1 + x / 76.5) / 2 of it, so that left and right differ by its mass times x / 76.5."""
    hung = drop("D", at, PartItem(part="charm"), lies="free", side="right")
    made = piece(strand(chain(51)), hung, closure=Closure())
    found = balance(expand(made))
    assert found.right_g - found.left_g == pytest.approx(more)


def test_links_more_on_the_right_of_a_fold_connector_weigh_there():
    """Ten links against eight, from holes 10 mm left and right of the fold of a bar whose widest
    reach that is: two links of difference, all on the right."""
    sides = [
        Run(name=side, kind="drop", lies="free", items=(chain(n),),
            start=Place(run="Strand", item=0, at=0, port=side))
        for side, n in (("left", 8), ("right", 10))
    ]  # fmt: skip
    centre = ConnectorItem(part="oval", hole_in="left", hole_out="right")
    top = Run(name="Strand", lies="fold", items=(centre,))
    sides = [replace(run, start=replace(run.start, item=1)) for run in sides]
    found = balance(expand(piece(top, *sides, closure=Closure())))
    assert found.right_g - found.left_g == pytest.approx(2 * link_mass_g(CHAIN))


@pytest.mark.parametrize(
    ("items", "below"),
    [
        # a drop of one ring of 4 mm inside, 0.8 thick: its foot is 4.8 below where it hangs
        ((ring_pair(),), 4 + 0.8),
        # an oval of 24 × 12 hung by its left hole, 10 mm off its middle: its far edge
        ((ConnectorItem(part="oval", hole_in="left", hole_out="right"),), 10 - 1.0 + 12),
        ((PartItem(part="charm"),), 20),
    ],
)
def test_a_fall_reaches_to_the_lowest_point_of_all(items, below):
    made = piece(strand(chain(51)), drop("D", 0, *items, lies="fold"))
    assembly = expand(made)
    worn = hang(assembly)
    member = next(m for m in assembly.members if m.run == "D")
    top = worn.top - float(worn.points_of(member.id)[0, -1])
    fall = readings(assembly, worn).falls_mm["D"]
    assert fall - top == pytest.approx(below, abs=1.1)


@pytest.mark.parametrize("links", [1, 100])
def test_too_short_for_a_body_says_by_how_much_whatever_hangs(links):
    """Closed 91 × 3 + 8 + 14 = 295; the neck of 350 mm, the middle of the links 0.8 mm off the skin
    but for clasp and ring: about 350 + 2π 0.8 = 355."""
    own = piece(strand(chain(91), ring_pair()), drop("D", 3, ring_pair(), chain(links)))
    made = replace(own, form=Form(kind="bust"), wearer=Wearer(neck_mm=350))
    worn = hang(expand(made))
    assert worn.state == "too short"
    assert worn.solution.short_by_mm == pytest.approx(60.0, abs=0.2)
    assert "too short by 60.1 mm to go round the neck; 21 links more" in worn.solution.cause
    longer = replace(made, runs=(strand(chain(91 + 22), ring_pair()), *made.runs[1:]))
    assert hang(expand(longer)).state == "converged"  # 22: an odd number has a link on the fold


# --- cutting --------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("openable", "stock", "pieces", "missing", "lost"),
    [
        (False, (125,), (62, 62), 0, 1),  # two halves and the link cut between them
        (False, (47,), (23, 23), 0, 1),
        (False, (125,), (125,), 0, 0),
        (False, (124,), (62, 62), 1, 1),
        (True, (10, 10), (5, 4, 4, 3, 2, 2), 0, 0),  # 5 + 3 + 2 and 4 + 4 + 2
        (False, (12, 12), (5, 4, 4, 3, 2, 2), 0, 4),
    ],
)
def test_pieces_that_fit_are_not_missing(openable, stock, pieces, missing, lost):
    own = Chain(id="chain", name="C", pitches_mm=(2.2,), openable=openable)
    drops = [drop(f"D{k}", 3 + k, chain(n), lies="free", side="left") for k, n in enumerate(pieces)]
    made = piece(strand(ring_pair(51)), *drops, closure=Closure())
    made = replace(made, parts=(own, *(p for p in made.parts if p.id != "chain")))
    lots = [Length(f"lot {k}", links) for k, links in enumerate(stock)]
    plan = dict(cuttings([Making(expand(made))], {"chain": lots}, {}))["chain"]
    assert len(plan.missing) == missing
    assert sum(bar.sacrificed for bar in plan.bars) == lost
    given = [p.amount for bar in plan.bars for p in bar.pieces]
    assert sorted([*given, *plan.missing]) == sorted(pieces)
