"""Sums done by hand, each for a rule of the core that a changed sign or limit would break."""

import math

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.assembly.kinds.kind import size_of
from maglia.core.assembly.rows import drop_numbers
from maglia.core.checks import drops, joinable
from maglia.core.cutting.day import Making, cuttings
from maglia.core.cutting.lengths import Length
from maglia.core.edits.edit import delete, set_count
from maglia.core.edits.spots import Spot, quantity_at
from maglia.core.fit.hold import held
from maglia.core.fit.solve import fitted_counts
from maglia.core.fit.tiers import gap_mm
from maglia.core.hang.hung import hang, path_points
from maglia.core.hang.readings import readings
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.rings import rings as ring_counts
from maglia.core.parts.parts import Bead, Chain, EarFinding, End, Wire, link_mass_g, part_mass_g
from maglia.core.parts.units import BeadLink, Cluster, HookLink, Loop, unit_mass_g, wire_needed_mm
from maglia.core.piece.items import PartItem, RepeatItem, StrungItem
from maglia.core.piece.piece import Closure, DropRow, Place, Run, TiedRows
from maglia.core.piece.wishes import LengthFit, TiersFit
from maglia.core.report import as_json, evaluate
from maglia.core.sheets.lengths import link_lengths
from maglia.core.sheets.mass import balance, masses_g
from maglia.core.sheets.symmetry import differences
from maglia.core.sheets.wear import stretch_limit, worn_lengths_mm
from maglia.core.values.record import DomainError
from maglia.files.shelf import shelf
from workshop import BEAD, CATCH, DANGLE, LINK, PARTS, RING, WIRE, chain, drop, piece, strand, unit
from workshop import rings as ring_item


def bars(links, *lots):
    made = piece(strand(chain(links[0]), *(chain(n) for n in links[1:])))
    there = {"chain": [Length(f"lot {k}", lot) for k, lot in enumerate(lots)]}
    plan = dict(cuttings([Making(expand(made))], there, {}))["chain"]
    return [(b.amount, tuple(p.amount for p in b.pieces), b.sacrificed, b.offcut)
            for b in plan.bars]  # fmt: skip


def test_a_length_used_up_loses_no_link_and_the_longest_is_left():
    assert bars([19], 19) == [(19, (19,), 0, 0)]
    assert bars([19], 40, 20) == [(20, (19,), 1, 0)]
    # 21 and a cut leave 8; 3 and a cut 4; 3 and a cut none: the begun length before the whole one
    assert bars([21, 3], 30, 60) == [(30, (21, 3, 3), 3, 0)]


@pytest.mark.parametrize("closure", ["open", "split"])
def test_rings_that_can_be_opened_are(closure):
    parts = [replace(own, closure=closure) if own is RING else own for own in PARTS]
    built = expand(piece(strand(chain(11), ring_item()), parts=tuple(parts)))
    found = ring_counts(built, joining_plan(built))
    assert [(r.to_open, r.leave_closed) for r in found if r.id == "ring"] == [(2, 0)]


WIDE = Chain(id="wide", name="Wide 3", pitches_mm=(3.0,), inner_width_mm=3.5, wire_mm=0.5)
"""Links that the jaw of the test's lobster goes into."""


def test_beyond_an_unknown_size_no_extender_has_a_length():
    loose = Chain(id="loose", name="Loose", wire_mm=0.5)
    extender = Run(
        name="Ext", kind="extender", lies="free", start=Place(run="closure"),
        items=(ring_item(), chain(2, "wide"), chain(3, "loose"), chain(4, "wide")),
    )  # fmt: skip
    made = piece(strand(chain(51), ring_item()), extender, parts=(*PARTS, loose, WIDE))
    assert [words for words, _ in worn_lengths_mm(expand(made))] == [
        "catch", "Ext ring 1", "Ext link 1", "Ext link 2",
    ]  # fmt: skip


def test_each_row_hangs_by_its_own_number_of_rings():
    rows = TiedRows(name="T", unit="link", rows=(3, 2, 1), ring="ring", hang_ring="ring",
                    hang=(1, 4), sides=(ring_item(), chain(20)))  # fmt: skip
    assembly = expand(piece(rows=(rows,)))
    hangers = [run.items[0].count for run in assembly.runs if run.start and run.end]
    assert hangers == [1, 1, 4]


def joined_at(made, run):
    """Where the copies of a hanging run join, by side: (member's run, its port)."""
    assembly = expand(made)
    found = {}
    for joint in assembly.joints:
        low = assembly.members[joint.b]
        if not joint.inline and low.run == run:
            found[low.side] = joint.port_a
    return found


@pytest.mark.parametrize(("links", "port"), [(51, 26), (50, 26)])
def test_the_fold_of_an_even_chain_is_the_link_right_of_its_middle(links, port):
    made = piece(strand(chain(links)), drop("D", 0, ring_item(), lies="fold"))
    assert joined_at(made, "D") == {"fold": port}


def test_loops_of_a_link_on_the_fold_change_places_on_the_left():
    made = piece(strand(unit("link"), chain(10)), drop("D", 1, ring_item(), port="b"))
    assert joined_at(made, "D") == {"left": "a", "right": "b"}


def test_a_mid_ring_is_weighed_once():
    assembly = expand(piece(strand(unit("link"))))
    own = unit_mass_g(LINK, {part.id: part for part in PARTS})
    refs = [member.ref for member in assembly.members]
    found = dict(zip(refs, masses_g(assembly), strict=True))
    assert found["link"] == pytest.approx(own - part_mass_g(RING))
    assert found["link"] + found["ring"] == pytest.approx(own)
    assert balance(assembly).total_g == pytest.approx(own + part_mass_g(CATCH) + 0.5)


def test_what_is_not_weighed_takes_nothing_from_the_rest_and_the_sum_says_so():
    bare = replace(DANGLE, id="bare", stack=("dark", "bead"))
    dark = Bead(id="dark", name="Dark", hole_mm=1.0)
    strung = StrungItem(thread="wire", pattern=("bead", "dark"), times=4)
    cluster = Cluster(id="few", name="Few", carrier="ring", hangs=("bare", "dangle"))
    things = {own.id: own for own in (*PARTS, dark, DANGLE)}
    made = piece(strand(ring_item(), strung), drop("A", 0, ring_item(), unit("bare"), lies="fold"),
                 drop("B", 0, ring_item(), unit("few"), lies="fold"))  # fmt: skip
    made = replace(made, parts=(*made.parts, dark), units=(*made.units, bare, cluster))
    found = balance(expand(made))
    thread = math.pi / 4 * 0.36 * 4 * 8 * 8.5e-3  # along what has a length
    one = unit_mass_g(DANGLE, things)
    known = 4 * part_mass_g(BEAD) + thread
    assert found.total_g > 2 * (known + part_mass_g(BEAD)) + one
    assert (found.unknown[0], found.sure) == ("dark", "at least ")
    whole = balance(expand(piece(strand(replace(strung, pattern=("bead",))))))
    assert (whole.unknown, whole.sure) == ((), "")
    read = evaluate(made)
    assert "“Dark” is not known" in next(c for c in read.checks if c.code == "mass-unknown").message
    assert as_json(read)["balance"]["unknown"] == ["Dark", *[
        read.assembly.things[ref].name for ref in found.unknown[1:]]]  # fmt: skip


@pytest.mark.parametrize(("part", "grams"), [
    # a tube: π/4 (2.2² − 1.2²) × 2 mm³ of brass, 8.5 mg each
    (End(id="e", name="E", adds_mm=2.0, takes_mm=1.2, width_mm=2.2), 0.0454),
    # 2 × 15 + 11 mm of wire: π/4 × 0.64 × 41 mm³
    (EarFinding(id="h", name="H", wire_mm=0.8, below_mm=15.0), 0.1752),
])  # fmt: skip
def test_ends_and_ear_wires_weigh_what_they_are_made_of(part, grams):
    assert part_mass_g(part) == pytest.approx(grams, abs=1e-4)


def test_every_part_of_the_shelf_has_a_mass():
    for part in shelf():
        known = link_mass_g(part) if isinstance(part, Chain) else part_mass_g(part)
        assert known or isinstance(part, Wire), part.id


def test_thread_weighs_as_often_as_it_runs_through():
    def of(strands):
        item = StrungItem(thread="wire", strands=strands, pattern=("bead",), times=4)
        return max(m for m in masses_g(expand(piece(strand(item)))) if m)

    # brass wire of 0.6 mm along four beads of 8 mm: π/4 × 0.36 × 32 mm³ × 8.5 mg
    thread = math.pi / 4 * 0.36 * 32 * 8.5e-3
    assert of(1) == pytest.approx(4 * part_mass_g(BEAD) + thread)
    assert of(3) - of(1) == pytest.approx(2 * thread)
    assert WIRE.wire_mm == 0.6


def test_a_link_is_no_wider_than_it_is_long():
    # round, as 3 mm wide and long: π × (3 + 0.8) of 0.8 mm brass
    wide = Chain(id="c", name="C", pitches_mm=(3.0,), inner_width_mm=5.0, wire_mm=0.8)
    round_link = math.pi * 3.8 * math.pi / 4 * 0.64 * 8.5e-3
    assert link_mass_g(wide) == pytest.approx(round_link)


def test_after_an_emptied_repeat_what_follows_moves_up_by_one():
    made = piece(
        strand(
            chain(11), chain(4), RepeatItem(times=2, items=(ring_item(),)), chain(6), ring_item()
        ),
        drop("D", 3, ring_item(), item=4),
    )
    after = delete(made, Spot("Strand", (1, 0))).piece
    assert after.runs[0].items == (chain(4), chain(6), ring_item())
    assert after.runs[1].start.item == 2


@pytest.mark.parametrize(
    ("every", "count", "numbers"), [(3, 2, (2,)), (4, 4, (2, 6)), (3, 3, (0, 3)), (2, 5, (0, 2, 4))]
)
def test_drops_by_every_k_links_leave_the_fold_free_for_an_even_count(every, count, numbers):
    row = DropRow(name="R", run="Strand", items=(ring_item(),), every=every, count=count)
    assert drop_numbers(row, piece(strand(chain(51)))) == numbers


def test_rows_of_tied_links_do_not_grow_and_are_joined_by_their_own_rings():
    def tied(rows, **more):
        return piece(rows=(TiedRows(name="T", unit="link", rows=rows, ring="ring",
                                    hang_ring="ring", **more),))  # fmt: skip

    with pytest.raises(DomainError, match="row 2: 3 links hang from 2"):
        expand(tied((2, 3)))
    # between the links of rows of 3, 2 and 1: two joints of one ring, one of three, none
    assembly = expand(tied((3, 2, 1), between=(1, 3)))
    joints = [m.run for m in assembly.members if m.kind == "ring" and m.made_in is None]
    assert [joints.count(run) for run in ("T 1", "T 2", "T 3")] == [2, 3, 0]


def test_a_half_has_no_link_beyond_its_last():
    expand(piece(strand(chain(51)), drop("D", 25, ring_item())))
    with pytest.raises(DomainError, match="a half has only 25"):
        expand(piece(strand(chain(51)), drop("D", 26, ring_item())))


def test_rings_abreast_count_each_towards_the_most_a_piece_can_have():
    half = [ring_item(2500, abreast=n) for n in (9, 6)]
    expand(piece(strand(chain(51), ring_item(2500, abreast=9))))
    with pytest.raises(DomainError, match="more than 60,000 parts"):
        expand(piece(strand(chain(51), *half)))


def test_rings_of_an_extender_are_told_apart():
    extender = Run(
        name="Ext", kind="extender", lies="free", start=Place(run="closure"),
        items=(ring_item(2), chain(1, "wide"), ring_item(1)),
    )  # fmt: skip
    made = piece(strand(chain(51), ring_item()), extender, parts=(*PARTS, WIDE))
    assert worn_lengths_mm(expand(made)) == (
        ("catch", 175.0), ("Ext ring 1", 179.0), ("Ext ring 2", 183.0), ("Ext link 1", 186.0),
        ("Ext ring 3", 190.0),
    )  # fmt: skip


def test_a_cluster_brings_its_carrier_and_all_it_carries():
    things = {part.id: part for part in PARTS} | {"dangle": DANGLE}
    crowd = Cluster(id="c", name="C", carrier="chain", links=4, hangs=("dangle", "charm"))
    alone = Cluster(id="c", name="C", carrier="ring", hangs=("dangle",))
    assert size_of(unit("c"), things | {"c": crowd}) == 4 * 3
    assert size_of(unit("c"), things | {"c": alone}) == 2


def test_on_an_eye_pin_only_one_loop_is_turned():
    things = {part.id: part for part in PARTS}
    link = BeadLink(id="x", name="X", stack=("bead",), wire="pin", loop=Loop(inner_mm=2.0))
    assert wire_needed_mm(link, things) == pytest.approx(8 + math.pi * 2.6)


def test_both_ends_of_a_strung_section_are_longer_by_their_end():
    crimp = End(id="crimp", name="Crimp", adds_mm=2.5)
    item = StrungItem(thread="wire", pattern=("bead",), times=3, end="crimp")
    assembly = expand(piece(strand(item), parts=(*PARTS, crimp)))
    member = next(m for m in assembly.members if m.strung is not None)
    assert link_lengths(assembly, member) == [10.5, 8.0, 10.5]


def test_a_free_strand_is_weighed_left_and_right_of_its_middle():
    free = Run(name="Free", lies="free", items=(chain(30), chain(10)))
    found = balance(expand(piece(free, closure=Closure())))
    assert found.left_g == pytest.approx(found.total_g / 2)


def test_only_elastic_lengths_stretch():
    cord = Wire(id="cord", name="Cord", sort="elastic", wire_mm=0.6, stretch_limit=1.5)
    beads = StrungItem(thread="cord", pattern=("bead",), times=6)  # 48 of 48 + 2 × 51 mm
    made = piece(strand(beads, chain(17)), parts=(*PARTS, cord), closure=Closure())
    assert stretch_limit(expand(made)) == pytest.approx((1.5 * 48 + 102) / 150)


def test_what_only_one_side_has_is_told_for_either():
    def hung(*sides):
        drops = (drop(f"D {s}", 5, ring_item(), lies="free", side=s) for s in sides)
        return differences(expand(piece(strand(chain(51)), *drops)))

    assert hung("left", "right") == ()
    assert hung("left") == ("only left: Ring 4",)
    assert hung("right") == ("only right: Ring 4",)


@pytest.mark.parametrize(("right", "told"), [("charm", True), ("dangle", False)])
def test_a_drop_sticks_out_only_among_its_like(right, told):
    foot = {"charm": PartItem(part="charm"), "dangle": unit("dangle")}
    made = piece(
        strand(chain(51)),
        drop("L", 8, ring_item(), foot["charm"], lies="free", side="left"),
        drop("C", 0, chain(9), ring_item(), foot["charm"], lies="fold"),
        drop("R", 8, ring_item(), foot[right], lies="free", side="right"),
    )
    assert ("drop-sticks-out" in {check.code for check in drops.check(expand(made))}) is told


def unjoined(*items, units=(), parts=PARTS):
    made = piece(strand(chain(5), *items), parts=parts)
    built = expand(replace(made, units=(*made.units, *units)))
    return [c.code for c in joinable.check(built, joining_plan(built))]


def test_a_closed_ring_joins_no_soldered_link_and_a_hook_joins_a_wrapped_loop():
    closed = [replace(own, closure="closed") if own is RING else own for own in PARTS]
    assert "cannot-be-joined" in unjoined(ring_item(), parts=tuple(closed))
    assert unjoined(ring_item()) == []
    wrapped = replace(LINK, mid=None)
    made = {name: getattr(wrapped, name) for name in wrapped.__struct_fields__}
    hook = HookLink(**made | {"id": "hook", "name": "Hook"})
    plain = replace(wrapped, id="plain")
    # a wrapped loop is made around another one that is finished
    assert unjoined(unit("plain"), unit("link"), units=(plain,)) == []
    assert unjoined(unit("hook"), unit("link"), units=(hook,)) == []


def test_the_last_gap_of_tiers_holds_on_and_grows():
    wish = TiersFit(name="t", strands=("a", "b"), gaps_mm=(25.0, 30.0), growth_mm=5.0)
    assert [gap_mm(wish, k) for k in range(4)] == [25.0, 30.0, 35.0, 40.0]


def test_a_count_is_pinned_only_by_an_edit_that_changes_it():
    wish = LengthFit(name="l", run="Strand", to="given", mm=300.0)
    made = piece(strand(chain(51), chain(20)), fits=(wish,))
    spot = Spot("Strand", (0,))
    assert quantity_at(spot) in fitted_counts(made)
    assert held(made, replace(made, name="Other"), spot).pinned == ()
    assert held(made, set_count(made, spot, 33).piece, spot).pinned != ()


def test_the_fall_of_a_pair_is_that_of_the_lower_one():
    # one heavy charm left of the fold pulls the left one of a pair below the right one
    made = piece(
        strand(chain(51)), drop("Pair", 10, ring_item(2)),
        drop("Heavy", 12, PartItem(part="charm"), lies="free", side="left"),
    )  # fmt: skip
    assembly = expand(made)
    hung = hang(assembly)
    lowest = [
        hung.top - float(path_points(assembly, hung, k)[:, -1].min())
        for k, path in enumerate(assembly.paths)
        if path.run == "Pair"
    ]
    assert abs(lowest[0] - lowest[1]) > 0.5
    assert readings(assembly, hung).falls_mm["Pair"] == pytest.approx(max(lowest) + 0.8)  # its wire
