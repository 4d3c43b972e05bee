"""Both sides of every threshold: just within it nothing is said, just beyond it the check is."""

import math
from types import SimpleNamespace

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.checks import body, catches, drops, openings, rings, stringing, weight
from maglia.core.hang.readings import Readings
from maglia.core.parts.parts import Clasp, Ring, Wire
from maglia.core.parts.units import Loop
from maglia.core.piece.items import ConnectorItem, PartItem, StrungItem
from maglia.core.piece.piece import Closure, DropRow, Wearer
from maglia.core.sheets.lengths import closed_length_mm
from maglia.core.sheets.mass import balance
from workshop import (
    BEAD,
    CHAIN,
    CHARM,
    CLASP,
    DANGLE,
    OVAL,
    PARTS,
    PIN,
    chain,
    drop,
    piece,
    strand,
    unit,
)
from workshop import rings as ring_item

PI = math.pi


def with_part(made, part):
    parts = tuple(part if own.id == part.id else own for own in made.parts)
    return replace(made, parts=parts if part in parts else (*made.parts, part))


def with_unit(made, one):
    return replace(made, units=tuple(one if own.id == one.id else own for own in made.units))


def codes(found):
    return {check.code for check in found}


def necklace(**more):
    return piece(strand(chain(51), ring_item()), **more)


# --- rings and what goes through what -----------------------------------------------------------


@pytest.mark.parametrize(
    ("share", "severity"),
    [(0.649, None), (0.651, "attention"), (0.899, "attention"), (0.901, "stop")],
)
def test_a_ring_is_crowded_above_65_and_full_above_90_hundredths(share, severity):
    # what the middle ring holds: two wires of the outer rings, over π × 4 mm
    wire = share * PI * 4.0 / 2
    made = piece(strand(ring_item(), ring_item(part="small")))
    made = with_part(made, Ring(id="small", name="S", wire_mm=wire, inner_mm=40.0))
    found = [c for c in rings.check(expand(made), None) if c.place == "Strand, ring"]
    assert [c.severity for c in found if c.code == "ring-too-full"] == ([severity] * bool(severity))


@pytest.mark.parametrize(
    ("inner", "told"), [(2.0, False), (1.99, True), (5.6, False), (5.61, True)]
)
def test_the_aspect_ratio_of_a_joining_ring_lies_between_2_5_and_7(inner, told):
    made = with_part(necklace(), Ring(id="ring", name="R", wire_mm=0.8, inner_mm=inner))
    assert ("ring-aspect-ratio" in codes(rings.check(expand(made), None))) is told


@pytest.mark.parametrize(("share", "told"), [(0.999, False), (1.001, True)])
@pytest.mark.parametrize("closure", ["open", "closed"])
def test_a_ring_carries_a_tenth_of_what_opens_it(share, told, closure):
    # half-hard brass, 0.8 mm wire, 4 mm inside: σ π d³ / (32 R), 9.80665 mN to the gf
    opens = 300 * PI * 0.8**3 / (32 * 2.4) * 1000 / 9.80665
    ring = Ring(id="ring", name="R", wire_mm=0.8, inner_mm=4.0, closure=closure)
    assembly = expand(with_part(necklace(), ring))
    hung = SimpleNamespace(
        state="converged",
        drawn={m.id: (m.id,) for m in assembly.members},
        tension_of={m.id: share * opens / 10 for m in assembly.members if m.ref == "ring"},
    )
    said = codes(rings.check(assembly, hung))
    assert ("ring-too-weak" in said) is (told and closure == "open")


@pytest.mark.parametrize(("wire", "told"), [(1.95, False), (1.96, True)])
def test_a_ring_passes_a_link_five_hundredths_wider(wire, told):
    open_ended = necklace(closure=Closure())
    made = with_part(open_ended, Ring(id="ring", name="R", wire_mm=wire, inner_mm=8.0))
    assert ("ring-too-thick" in codes(openings.check(expand(made)))) is told


@pytest.mark.parametrize(("wire", "told"), [(1.0, False), (1.01, True)])
def test_two_rings_through_one_link_share_its_width(wire, told):
    small = Ring(id="small", name="S", wire_mm=wire, inner_mm=6.0)
    hung = [drop(name, 3, ring_item(part="small")) for name in ("A", "B")]
    made = with_part(piece(strand(chain(51)), *hung), small)
    assert ("opening-too-full" in codes(openings.check(expand(made)))) is told


# --- catches ------------------------------------------------------------------------------------


def caught(clasp, catch):
    return with_part(with_part(necklace(), replace(clasp, id="clasp")), replace(catch, id="catch"))


def ring_of(inner, wire=1.0):
    return Ring(id="catch", name="C", wire_mm=wire, inner_mm=inner)


@pytest.mark.parametrize("sort", ["lobster", "spring ring", "hook", "magnet"])
@pytest.mark.parametrize(("inner", "wire"), [(3.0, 1.6), (2.99, 1.6), (3.0, 1.61)])
def test_jaws_need_room_and_every_clasp_but_a_toggle_its_gape(sort, inner, wire):
    clasp = replace(CLASP, sort=sort)  # jaw wire 1.0: 2 × 1.0 + 1; gape 1.6
    said = codes(catches.check(expand(caught(clasp, ring_of(inner, wire)))))
    narrow = inner < 3.0 and sort in ("lobster", "spring ring")
    assert ("clasp-cannot-bite" in said) is (narrow or wire > 1.6)


TOGGLE = Clasp(id="clasp", name="T", sort="toggle", span_mm=3.0, bar_mm=13.0, gape_mm=0.5)


@pytest.mark.parametrize(("inner", "told"), [(10.0, False), (10.01, True)])
def test_the_bar_of_a_toggle_is_a_third_longer_than_its_ring_is_wide(inner, told):
    said = codes(catches.check(expand(caught(TOGGLE, ring_of(inner, 1.6)))))
    assert ("clasp-cannot-bite" in said) is told  # its wire, thicker than the gape, is no fault


@pytest.mark.parametrize(("inner", "told"), [(8.0, False), (7.99, True)])
def test_what_stands_before_the_bar_passes_the_ring(inner, told):
    made = piece(strand(ConnectorItem(part="oval", hole_in="left", hole_out="right"),
                        unit("link")))  # fmt: skip
    made = with_part(with_part(made, TOGGLE), ring_of(inner))
    assert ("toggle-cannot-reach" in codes(catches.check(expand(made)))) is told  # beads of 8 mm


@pytest.mark.parametrize(("links", "told"), [(3, False), (2, True)])
def test_half_a_bar_before_the_bar_is_looked_at(links, told):
    # 6.5 mm: three links of 3 mm are past it, two are not and a bead of 8 mm follows
    made = piece(strand(chain(51), unit("link"), chain(links)))
    made = with_part(with_part(made, TOGGLE), ring_of(7.0))
    assert ("toggle-cannot-reach" in codes(catches.check(expand(made)))) is told


# --- drops --------------------------------------------------------------------------------------


@pytest.mark.parametrize(("width", "told"), [(8.0, False), (8.01, True)])
def test_two_drops_need_the_mean_of_their_widths_and_a_millimetre(width, told):
    charm = replace(CHARM, width_mm=width)
    row = DropRow(name="Row", run="Strand", every=3, count=3, items=(PartItem(part="charm"),))
    made = with_part(piece(strand(chain(51)), rows=(row,)), charm)  # every 9 mm
    assert ("drops-too-close" in codes(drops.check(expand(made)))) is told


@pytest.mark.parametrize(("more", "told"), [(0.04, False), (0.06, True)])
def test_a_drop_sticks_out_by_more_than_a_twentieth(more, told):
    """Of drops that end alike; one that ends in another part than its neighbours is meant."""
    longer = replace(CHAIN, id="longer", pitches_mm=(3.0 + more,))
    hung = [
        drop(name, at, ring_item(), chain(1, part=part), unit("dangle"))
        for name, at, part in (("A", 2, "chain"), ("B", 8, "longer"), ("C", 14, "chain"))
    ]
    made = piece(strand(chain(51)), *hung, parts=(*PARTS, longer))
    assert ("drop-sticks-out" in codes(drops.check(expand(made)))) is told
    ends = replace(hung[1], items=(*hung[1].items[:-1], PartItem(part="charm")))
    made = made.replaced(made.run("B"), ends)
    assert "drop-sticks-out" not in codes(drops.check(expand(made)))


# --- wire and thread ----------------------------------------------------------------------------


@pytest.mark.parametrize(("hole", "told"), [(0.65, False), (0.64, True)])
def test_wire_passes_a_hole_five_hundredths_wider(hole, told):
    made = with_part(piece(strand(unit("link"))), replace(BEAD, hole_mm=hole))
    assert ("does-not-pass-bead" in codes(stringing.check(expand(made)))) is told


@pytest.mark.parametrize(
    ("strands", "hole", "told"),
    [(1, 0.65, False), (2, 0.65, True), (2, 1.25, False), (2, 1.24, True)],
)
def test_as_many_threads_as_there_are_strands_pass_a_bead(strands, hole, told):
    section = StrungItem(thread="wire", strands=strands, pattern=("bead",), times=5)
    made = with_part(piece(strand(section)), replace(BEAD, hole_mm=hole))
    assert ("does-not-pass-bead" in codes(stringing.check(expand(made)))) is told


@pytest.mark.parametrize(("head", "told"), [(1.01, False), (1.0, True)])
def test_a_head_is_larger_than_the_hole_it_stops_at(head, told):
    made = with_part(piece(strand(chain(51)), drop("D", 2, ring_item(), unit("dangle"))),
                     replace(PIN, head_mm=head))  # fmt: skip
    assert ("slips-off" in codes(stringing.check(expand(made)))) is told


@pytest.mark.parametrize(
    ("width", "wire", "told"),
    [
        (4.0, 0.31, False), (4.0, 0.30, True), (4.0, 0.65, False), (4.0, 0.66, True),
        (10.0, 0.39, False), (10.0, 0.38, True), (10.0, 0.83, False), (10.0, 0.84, True),
        (10.1, 0.50, False), (10.1, 0.49, True), (10.1, 1.04, False), (10.1, 1.05, True),
    ],
)  # fmt: skip
def test_the_wire_of_a_unit_suits_its_beads(width, wire, told):
    """0.4–0.5 mm to 4 mm beads, 0.5–0.64 to 10 mm, 0.64–0.8 above, three tenths either way."""
    made = with_part(piece(strand(unit("link"))), replace(BEAD, width_mm=width, hole_mm=3.0))
    made = with_part(made, Wire(id="wire", name="W", wire_mm=wire))
    assert ("wire-gauge" in codes(stringing.check(expand(made)))) is told


@pytest.mark.parametrize(
    ("inner", "told"), [(1.5, False), (1.49, True), (4.0, False), (4.01, True)]
)
def test_loops_are_between_1_5_and_3_mm_with_a_millimetre_let_pass(inner, told):
    dangle = replace(DANGLE, loop=Loop(inner_mm=inner))
    made = with_unit(piece(strand(chain(51)), drop("D", 2, ring_item(), unit("dangle"))), dangle)
    assert ("loop-size" in codes(stringing.check(expand(made)))) is told


@pytest.mark.parametrize(("more", "told"), [(0.01, False), (-0.01, True)])
def test_a_thread_breaks_at_ten_times_its_weight_or_more(more, told):
    section = StrungItem(thread="wire", strands=2, pattern=("bead",), times=5)
    heavy = replace(BEAD, mass_g=2.0)
    wire = Wire(id="wire", name="W", wire_mm=0.1, material="thread")
    bare = math.pi / 4 * 0.1**2 * 40 * 1.2e-3 * 2
    made = with_part(piece(strand(section)), heavy)
    made = with_part(made, replace(wire, breaking_load_g=(10 * (10.0 + bare) + more) / 2))
    assert ("thread-too-weak" in codes(stringing.check(expand(made)))) is told


# --- weight, balance, closeness -----------------------------------------------------------------


def weighing(grams, **more):
    """A strand that is as heavy as its charm alone."""
    light = replace(CHAIN, mass_g_per_m=0.0)
    hung = drop("D", 0, PartItem(part="charm"), lies="fold")
    made = piece(strand(chain(51)), hung, closure=Closure(), **more)
    return with_part(with_part(made, light), replace(CHARM, mass_g=grams))


@pytest.mark.parametrize(
    ("sort", "limit"), [("earring", 8.0), ("necklace", 150.0), ("bracelet", 150.0)]
)
def test_an_earring_above_8_g_and_a_piece_above_150_are_heavy(sort, limit):
    for grams, told in ((limit, False), (limit + 0.01, True)):
        made = weighing(grams, sort=sort)
        assert ("heavy" in codes(weight.check(expand(made), Readings()))) is told
    own = weighing(30.0, sort=sort, heaviest_g=29.0)
    assert "heavy" in codes(weight.check(expand(own), Readings()))


@pytest.mark.parametrize("share", [0.0509, 0.0511])
def test_left_and_right_may_differ_by_a_twentieth_of_the_whole(share):
    light = replace(CHAIN, mass_g_per_m=0.0)
    one, other = 10.0 * (1 + share), 10.0 * (1 - share)
    parts = (*(p for p in PARTS if p.id != "chain"), light,
             replace(CHARM, id="one", mass_g=one),
             replace(CHARM, id="other", mass_g=other))  # fmt: skip
    made = piece(
        strand(chain(51)), drop("A", 25, PartItem(part="one"), lies="free", side="left"),
        drop("B", 25, PartItem(part="other"), lies="free", side="right"),
        closure=Closure(), parts=parts,
    )  # fmt: skip
    # 75 mm from the fold of a half of 76.5 mm: all but 1 % of each weighs on its own side
    near = (1 - 75 / 76.5) / 2
    left = one * (1 - near) + other * near
    assert balance(expand(made)).left_g == pytest.approx(left)
    told = (2 * left - 20) / 20 > 0.05
    assert ("left-right-balance" in codes(weight.check(expand(made), Readings()))) is told


@pytest.mark.parametrize(
    ("angle", "told"), [(2.0, False), (2.01, True), (-2.0, False), (-2.01, True)]
)
@pytest.mark.parametrize("lies", ["fold", "paired"])
def test_a_bar_within_2_degrees_is_level_and_one_held_on_both_sides_is_not_asked(angle, told, lies):
    oval = ConnectorItem(part="oval", hole_in="left", hole_out="right")
    hung = drop("D", 0 if lies == "fold" else 4, ring_item(), oval, lies=lies)
    assembly = expand(piece(strand(chain(51)), hung))
    bars = {m.id: angle for m in assembly.members if m.ref == OVAL.id}
    found = [c for c in weight.check(assembly, Readings(tilt_of=bars)) if c.code == "bar-tilts"]
    assert bool(found) is (told and lies == "fold")
    if found:
        assert ("right side down" in found[0].message) is (angle > 0)


@pytest.mark.parametrize(("gap", "told"), [(12.0, False), (11.99, True)])
def test_tiers_closer_than_12_mm_tangle(gap, told):
    read = Readings(gaps_mm=(("Strand", "Lower", gap),))
    assert ("tiers-tangle" in codes(weight.check(expand(necklace()), read))) is told


@pytest.mark.parametrize(("holds", "told"), [(3.0, False), (2.99, True)])
def test_a_magnet_holds_three_times_what_hangs(holds, told):
    made = necklace()
    magnet = replace(CLASP, sort="magnet", jaw_wire_mm=None, gape_mm=None)
    total = balance(expand(with_part(made, magnet))).total_g
    made = with_part(made, replace(magnet, holds_g=holds * total))
    assert ("magnet-too-weak" in codes(weight.check(expand(made), Readings()))) is told


# --- the body -----------------------------------------------------------------------------------


@pytest.mark.parametrize(("off", "code"), [(2.9, None), (3.1, "too-long-for-wearer"), (-2.9, None),
                                           (-3.1, "too-short-for-wearer")])  # fmt: skip
def test_a_bracelet_within_3_mm_is_not_mentioned(off, code):
    made = piece(strand(chain(51)), sort="bracelet")
    length = closed_length_mm(expand(made))
    thick = 2.0 + 2 * 0.8
    girth = length - off - PI * thick
    made = replace(made, wearer=Wearer(wrist_mm=girth))
    said = {c.code for c in body.check(expand(made))}
    assert said == ({code} if code else set())


@pytest.mark.parametrize(("girth", "told"), [(0.0, False), (0.1, True)])
def test_what_goes_over_the_head_is_no_shorter_than_the_head(girth, told):
    closed = Closure(kind="over the head", catch="ring")
    made = piece(strand(chain(151)), closure=closed)
    length = closed_length_mm(expand(made))
    made = replace(made, wearer=Wearer(head_mm=length + girth))
    assert ("does-not-go-on" in {c.code for c in body.check(expand(made))}) is told
