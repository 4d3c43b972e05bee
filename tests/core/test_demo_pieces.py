"""Every demo piece against sums worked on paper from the sizes printed on its parts.

Parts used in the sums, mm: ring-25 2.5 · ring-3 3 · ring-4 4 · ring-5 5 · ring-6 6 · ring-8 8 ·
lobster 9 · rolo 3 · cable-4 4 · cable-2 2 · curb 5 · oval 6 · long-short 7 3 3. Units:
smoked link 2+8+2 + 2(2+0.6) + 2(2×0.6) = 19.6 · bib link 4+8+4 + 2(2.6) = 21.2 ·
tube link 20 + 2(2.5+0.8) = 26.6 · amber link 6 + 2(2.6) = 11.2 · amber dangle 6+2+2.6 = 10.6 ·
teal dangle 12 + 2.6 + 2×0.6 = 15.8 · rose dangle 4+2.6 = 6.6 ·
hook link 2+6+2 + (3+0.8) + (3.5+0.8) = 18.1.
"""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.assembly.ports import stops_of
from maglia.core.piece.piece import Place, Way, Wearer
from maglia.core.report import evaluate
from maglia.core.sheets.count import counts
from maglia.core.sheets.symmetry import differences
from maglia.core.sheets.wear import as_worn
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece
from workshop import chain, drop, piece, ports_of, rings, strand, unit

CLOSE = 9 + 5  # lobster and its catch
TURN = math.pi * (55 + 0.6)

PAPER = {
    "lamplighters-collar": (
        399.2 + CLOSE,  # 7 × 19.6 + 8 rings of 4 (6 between, 2 outer) + 74 × 3 + 2 × 4
        {"Strand": 7 * 19.6 + 10 * 4 + 74 * 3, "Middle drop": 4 + 27 + 15.8,
         "Drop 1": 4 + 21 + 10.6, "Drop 2": 4 + 15 + 10.6, "Drop 3": 4 + 9 + 10.6},
        {"rolo-3": 74 + 9 + 2 * (7 + 5 + 3), "ring-4": 10 + 7 + 7, "glass-8": 7, "glass-6": 6,
         "spacer-2": 7 * 2 + 6, "headpin-40": 7, "amber-dangle": 6},
    ),
    "box-office-pearls": (
        # 41 × 6 + two crimps of 4; connector upper → closure: √(6² + 8²) + 1.8 = 11.8
        41 * 6 + 8 + 2 * (11.8 + 4 + 75 + 4) + CLOSE,
        {"Upper": 254 + 2 * 94.8, "Middle": 34 * 8 + 8, "Lower": 31 * 8 + 30 * 2 + 8},
        {"pearl-6": 41, "pearl-8": 34 + 31, "spacer-2": 30, "crimp-2": 6, "end-3": 2},
    ),
    "curtain-bib": (
        5 * 21.2 + 6 * 6 + 94 * 3 + 2 * 4 + CLOSE,
        {"Bib 1": 432.0, "Bib 2": 4 * 21.2 + 3 * 6, "Bib 5": 21.2, "Bib 2 hanger 1": 4.0},
        # mids 15; hangers: 5 + 4 + 3 + 2 of one ring each = 14; two outer rings
        {"bib-link": 15, "ring-4": 15 + 14 + 2, "ring-6": 4 + 3 + 2 + 1 + 2, "glass-4": 30},
    ),
    "footlight-cones": (
        None,
        {"Hook": 14 + 3 + 12 + 5, "Chain 1": 27, "Chain 3": 45},
        {"rolo-3": 2 * (9 + 12 + 15 + 12 + 9), "cone-12": 2, "ear-hook": 2},
    ),
    "gallery-tiers": (
        195 * 2 + 8 + CLOSE,
        {"Tier 1": 398, "Tier 2": 113 * 4 + 5, "Tier 3": 131 * 4 + 5, "Pendant": 33,
         "Fringe 0": 2.5 + 12 + 10.6, "Fringe 3": 2.5 + 6 + 10.6},
        {"cable-4": 113 + 131, "cable-2": 195 + 6 + 2 * (5 + 4 + 3), "ring-25": 11, "glass-6": 7},
    ),
    "hedge-bracelet": (
        27 * 6 + 2 * 3 + 3 + 12,
        {"Band": 168},
        {"pearl-dangle": 27, "rose-dangle": 27, "headpin-40": 54, "oval-6": 27, "hedge": 1},
    ),
    "armoury-cuff": (
        # a row: 6.5 + 5 less what two wires abreast lose at both its contacts, each
        # 1.2² / 4 (5 − 1.2) + 1² / 4 (6.5 − 1); begun and ended by two of 5, and a ring of 5
        15 * 6.5 + 16 * 5 - 30 * (1.44 / 15.2 + 1 / 22) + 5 - 1 / 16 + CLOSE,
        {}, {"ring-65": 30, "copper-5": 17, "tie-65": 15, "ring-5": 1 + 1},
    ),
    "quick-change-bracelet": (
        # rubber drawn flat: π (8 + 2) / 2 − π (1.2 + 2) / 2 + 1.2, and a ring of 8
        9 * (math.pi * 6.8 / 2 + 1.2 + 8), {}, {"rubber-8": 9, "ring-8": 9},
    ),
    "scene-dock-band": (
        # a spoke: (9 + 1.2) / 2 + π (10 − 3.2 − 3) / 4 + (5 + 1) / 2, and √3 / 2 of it a triangle
        24 * math.sqrt(3) / 2 * (5.1 + math.pi * 3.8 / 4 + 3), {},
        {"wide-9": 24, "rubber-8": 72, "copper-5": 48},
    ),
    "hedgerow-strand": (
        # 2 + 15 × 3 + 2 pearls of 6, 16 clusters on wire of 0.7, crimps 8; sides 4 + 63 + 4
        49 * 6 + 16 * 0.7 + 8 + 2 * 71 + CLOSE,
        {"Strung": 294 + 11.2 + 8 + 142},
        {"berry-cluster": 16, "rose-dangle": 32, "pearl-dangle": 16, "pearl-6": 49 + 16,
         "ring-3": 16},
    ),
    "prompters-lariat": (
        8 + 2 * (3 + 66 * 4) + 3,
        {"Long tail": 3 + 88 + 2.5 + 18, "Short tail": 3 + 64 + 2.5 + 18},
        {"cable-4": 132 + 22 + 16, "leaf-18": 2, "ring-3": 2 + 2 + 1},
    ),
    "props-table-bracelet": (
        7 * 4 + (9 + 5 + 5) * 5 + 26.6 + 19.6 + 11.2 + CLOSE,
        {"Key": 4 + 22, "Star": 3 + 13, "Tassel": 6 + 45},
        {"curb-5": 19, "ring-4": 7 + 1, "black-tassel": 1, "ring-6": 1},
    ),
    "rope-and-pulley-wrap": (89 * 6 + 2 * 5 + 2 * 4 + CLOSE, {"Cord": 552}, {"glass-6": 89}),
    "scene-change-anklet": (
        11 * 18.1 + 10 * 4 + 4, {"Band": 239.1}, {"hook-amber": 11, "ring-4": 11, "spacer-2": 22},
    ),
    "spiral-stair-coil": (None, {"Coil": 264}, {"glass-6": 44}),
    "spotlight-swags": (
        # V: 26 between hole centres + 1.8; each side 3 rings of 4, 2 tubes, 25 × 5, a ring of 4
        27.8 + 2 * (3 * 4 + 2 * 26.6 + 125 + 4) + 13 + 5,
        {"Swag 1": 36, "Swag 2": 36, "Centre": 4 + 15.8, "Extender": 48},
        {"cable-2": 72, "curb-5": 50, "oval-6": 8, "ring-4": 9, "tube-link": 4},
    ),
    "lamp-room": (
        # V 27.8; each side 3 rings of 4, a capped link 3+10+3 + 2(3.3) + 2(1.6) = 25.8, 49 × 4;
        # a ring of 4 at the clasp, a ring of 4 and 9 × 4 at the catch
        27.8 + 2 * (3 * 4 + 25.8 + 49 * 4) + 4 + 4 + 36 + CLOSE,
        # oval 20 and its holes 1.8, two legs of ring, bib link, ring
        {"Drop": 21.8 + 2 * (4 + 21.2 + 4), "Drop 2": 3 + 5 + 45, "Drop 3": 3 + 6, "closure": 44},
        {"cable-4": 2 * 49 + 9, "ring-4": 6 + 4 + 2 + 2, "ring-3": 1 + 6 + 2, "ring-5": 2,
         "spacer-2": 16 + 6, "amber-dangle": 6, "wood-10": 2},
    ),
    "ticket-strap": (
        # barrels 8, bare 125 and 45, knots 3 × 3 mm, cord ends 7, rings of 4
        2 * (8 + 125 + 9 + 7 + 4) + 45 + CLOSE,
        {"Strap": 351, "Key": 6 + 22},
        {"barrel-8": 2, "cord-end-7": 2, "key-22": 1, "ring-6": 1},
    ),
    "box-keepers-ribbon": (
        360 + 2 * (8 + 4) + CLOSE, {"Ribbon": 384, "Lantern": 9.5 + 4 + 30},
        {"clamp-8": 2, "ring-4": 3, "ring-95": 1},
    ),
    "orchestra-bangle": (
        None, {"Bangle": 66, "Charm 1": 6 + 8 + 2.5 + 18, "Charm 3": 28},
        {"bangle-66": 1, "ring-6": 5, "cable-2": 8, "leaf-18": 2, "star-12": 2, "key-22": 1},
    ),
    "matinee-stretch": (208.0, {"Pearls": 208}, {"pearl-8": 26}),
    "balcony-rail": (
        137 * 3 + 2 * 4 + CLOSE,
        {"Rail": 419, "Rows 1": 3 * 21.2 + 2 * 6, "Rows 2": 2 * 21.2 + 6, "Rows 3": 21.2},
        # mids 3 + 2; at the rail 4, below the first row 3 and the second 2; ends 2
        {"bib-link": 5, "bib-foot": 1, "ring-4": 5 + 4 + 3 + 2 + 2, "ring-6": 2 + 1,
         "rolo-3": 137},
    ),
    "stagehands-rings": (
        45 * 6 + 46 * 4 + CLOSE, {"Rings": 454}, {"ring-6": 45, "ring-4": 46, "ring-5": 1},
    ),
    "star-shower-pendant": (
        141 * 3 + 8 + CLOSE,
        {"Gathering ring": 4 + 8, "Star 1": 2.5 + 40 + 2.5 + 13},
        {"rolo-3": 141, "cable-2": 100, "ring-25": 10, "star-12": 5, "ring-4": 3},
    ),
    "trapdoor-earrings": (
        None,
        # bar: 1.8 between hole centres + 1.6
        {"Hook": 17, "Bar": 3.4, "Middle": 2.5 + 16 + 6.6, "Long": 2.5 + 28 + 6.6},
        # both earrings: 7 drops each; links 8 + 2 × 6 + 2 × 4 + 14 + 2 = 44
        {"rose-dangle": 14, "cable-2": 88, "ring-25": 14, "ring-3": 2, "bar-40": 2, "ear-hook": 2},
    ),
    "ushers-y": (
        # 57 links = 19 × (7 + 3 + 3)
        6 + 2 * (19 * 13 + 4) + CLOSE,
        {"Y": 508, "Tail": 4 + 3 * 13 + 3 + 22},
        {"long-short": 123, "ring-4": 3, "key-22": 1},
    ),
}  # fmt: skip


def demo(name):
    return read_piece(demo_path(name))


TOLD = {"rope-and-pulley-wrap": ["wound-evenly"], "ticket-strap": ["wound-evenly"]}
"""What is said of a piece that is as it should be."""


@pytest.mark.parametrize("name", demo_names())
def test_lengths_and_counts_on_paper(name):
    closed, lengths, counted = PAPER[name]
    found = evaluate(demo(name))
    if closed is None:
        assert found.closed_length_mm is None
    else:
        assert found.closed_length_mm == pytest.approx(closed, abs=0.01)
    by_name = {run.name: run.length_mm for run in found.lengths}
    assert {n: by_name[n] for n in lengths} == pytest.approx(lengths, abs=0.01)
    assert {k: v for k, v in ((c.id, c.count) for c in found.counts) if k in counted} == counted
    assert found.hung.state == "converged"
    told = [check.code for check in found.checks]
    assert told == TOLD.get(name, [])


@pytest.mark.parametrize("name", demo_names())
def test_every_joint_of_the_demo_joins_ports_that_exist(name):
    assembly = expand(demo(name))
    for joint in assembly.joints:
        for index, port in ((joint.a, joint.port_a), (joint.b, joint.port_b)):
            assert (
                port in ports_of(assembly, assembly.members[index])
                or port in ("lobe", "foot", "bight")
                or stops_of(port) is not None
            )


def test_differences_of_the_sides_are_named():
    assert differences(expand(demo("gallery-tiers"))) == ()
    found = differences(expand(demo("props-table-bracelet")))
    assert "Band, only left: 9 × Open curb chain 5 mm, part 2 from that end" in found
    assert len(found) < 8
    tail = (rings(), unit("dangle"))
    one = piece(strand(), drop("D", 3, *tail, lies="free", side="left"))
    assert differences(expand(one)) == ("only left: Ring 4 + Dangle",)


def test_worn_lengths_of_an_extender():
    found = evaluate(demo("spotlight-swags"))
    at, lengths = zip(*found.worn_lengths_mm, strict=True)
    assert lengths == pytest.approx([434.2 + 6 * k for k in range(9)])
    assert at[-1] == "Extender link 8"
    assert [w.closed_length_mm for w in found.ways] == pytest.approx([434.2, 482.2])


def test_ways_leave_off_what_hangs_from_what_is_left_off():
    worn = evaluate(demo("trapdoor-earrings")).ways[0]
    assert {c.id: c.count for c in counts(worn.assembly)} == {"ear-hook": 2, "ring-3": 2}
    with pytest.raises(DomainError, match="“Bars”"):
        as_worn(demo("trapdoor-earrings"), Way(name="x", without=("Bars",)))


def test_hooked_into_the_strand_itself():
    # Clasp right, hooked into link 10 of the left side, counted from the fold: 10 × 3 + centre
    # 9 × 3 + 20 × 3 + ring 4 + clasp 9 = 130 round; the rest of the left side hangs.
    made = piece(
        strand(chain(9), rings(), chain(20), rings()),
        ways=(Way(name="Short", hooked=Place(run="Strand", item=2, at=10)),),
    )
    # the left ring between centre and side, 4, lies within the round too, and so does the right
    assert evaluate(made).ways[0].closed_length_mm == pytest.approx(130 + 8)


@pytest.mark.parametrize(
    ("name", "has", "needed"),
    [
        # wrist 150, chain 3.4 + 2 × 1 thick, ease 15
        ("hedge-bracelet", 183.0, 150 + math.pi * 5.4 + 15),
        ("rope-and-pulley-wrap", 566.0, 3 * (165 + math.pi * 6) + 15),
        ("spiral-stair-coil", 264.0, 1.5 * TURN),
        ("prompters-lariat", 545.0, 545.0),
        # eleven links of 18.1 mm with beads of 6 mm, eleven rings of 4 mm that are 0.8 thick
        ("scene-change-anklet", 243.1, 210 + math.pi * (199.1 * 6 + 44 * 0.8) / 243.1 + 15),
    ],
)
def test_what_the_body_asks(name, has, needed):
    body = evaluate(demo(name)).on_body
    assert (body.has_mm, body.needed_mm) == pytest.approx((has, needed), abs=0.01)


def test_a_head_that_does_not_pass_is_said():
    tall = Wearer(role="the giant", head_mm=600)
    found = evaluate(replace(demo("prompters-lariat"), wearer=tall))
    assert "55.0 mm are missing" in found.checks[0].message


halves = st.lists(
    st.builds(chain, st.integers(1, 40)) | st.builds(rings, st.integers(1, 5)), max_size=4
)


@given(st.integers(1, 60), halves, st.integers(1, 9))
@settings(max_examples=60, deadline=None)
def test_counts_add_up_over_runs_and_regrading_goes_back(centre, half, tail):
    hung = (rings(), chain(tail), unit("dangle"))
    made = piece(strand(chain(centre), *half), drop("D", 0, *hung, lies="fold"))
    assembly = expand(made)
    total = {c.id: c.count for c in counts(assembly)}
    sums = {"chain": centre + tail, "ring": 1}
    for item in half:
        sums[item.part] += 2 * getattr(item, "links", getattr(item, "count", 0))
    assert {k: total[k] for k in sums} == sums
    other = replace(made, wearer=Wearer(role="another", neck_mm=400))
    assert replace(other, wearer=made.wearer) == made
