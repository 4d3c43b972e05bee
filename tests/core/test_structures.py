"""Structures of the trade in small: swags, ties, strung sections, clusters, rows; their errors."""

import math

import pytest

from maglia.core.assembly.assembly import link_from_fold
from maglia.core.assembly.expand import expand
from maglia.core.assembly.rows import written_out
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.rings import rings as ring_counts
from maglia.core.parts.parts import (
    Chain,
    End,
    Ring,
    Wire,
    chain_length_mm,
    link_mass_g,
    part_mass_g,
)
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Loop,
    Tassel,
    tassel_thread_mm,
    unit_span_mm,
)
from maglia.core.piece.items import ConnectorItem, PartItem, StrungItem
from maglia.core.piece.piece import Closure, DropRow, Override, Piece, Place, Run, SwagRow, TiedRows
from maglia.core.sheets.count import counts, threads_mm, unit_counts, wire_needs
from maglia.core.sheets.lengths import run_lengths, thickness_mm
from maglia.core.sheets.mass import balance
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import amount_of_mm
from workshop import BEAD, CLOSED, PARTS, UNITS, chain, drop, piece, rings, strand, unit

CRIMP = End(id="crimp", name="Crimp", adds_mm=4.0, loop_mm=2.0, mass_g=0.1)
CABLE = Wire(id="cable", name="Cable", sort="cable", wire_mm=0.4, material="steel")
SILK = Wire(id="silk", name="Silk", sort="thread", wire_mm=0.5, material="thread")
BERRY = Cluster(id="berry", name="Berry", carrier="small", hangs=("dangle", "dangle"))
HEDGE = Cluster(id="hedge", name="Hedge", carrier="chain", links=5, hangs=("dangle",))
TASSEL = Tassel(
    id="tassel", name="Tassel", thread="silk", skirt_mm=40, wraps=20, neck_mm=6, ring="ring"
)
MORE_PARTS = (*PARTS, CRIMP, CABLE, SILK)
MORE_UNITS = (*UNITS, BERRY, HEDGE, TASSEL)


def rich(*runs, rows=(), closure=CLOSED, **more):
    return Piece(
        name="Rich", parts=MORE_PARTS, units=MORE_UNITS, runs=runs, rows=rows, closure=closure,
        **more,
    )  # fmt: skip


def count_of(made):
    return {c.id: c.count for c in counts(expand(made))}


def lengths(made):
    return {r.name: r.length_mm for r in run_lengths(expand(made))}


def test_a_strung_section():
    # lead 1 + 3 × 2 + tail 1 = 8 beads of 8, two crimps of 4: 72; cable 64 + 2 tails of 25
    item = StrungItem(
        thread="cable", lead=("bead",), pattern=("bead", "bead"), times=3, tail=("bead",),
        end="crimp",
    )  # fmt: skip
    made = rich(strand(item, rings()))
    assert lengths(made)["Strand"] == pytest.approx(72 + 8)
    assert {k: count_of(made)[k] for k in ("bead", "crimp", "ring")} == {
        "bead": 8, "crimp": 2, "ring": 2,
    }  # fmt: skip
    assert threads_mm(expand(made)) == {"cable": pytest.approx(64 + 2 * 25)}
    doubled = StrungItem(thread="silk", strands=2, pattern=("bead",), times=8, finish="knotted")
    found = threads_mm(expand(rich(strand(doubled, rings()))))
    assert found == {"silk": pytest.approx(2 * (64 + 2 * 75))}


def test_clusters_on_thread_and_on_chain():
    item = StrungItem(thread="silk", pattern=("bead", "berry"), times=2, tail=("bead",))
    made = rich(strand(item, rings()))
    # 3 beads of 8 and two rings of 0.5 wire
    assert lengths(made)["Strand"] == pytest.approx(25 + 8)
    found = count_of(made)
    assert (found["berry"], found["dangle"], found["small"], found["pin"]) == (2, 4, 2, 4)
    assert found["bead"] == 3 + 4
    hedge = rich(strand(unit("hedge"), rings()))
    assert lengths(hedge)["Strand"] == pytest.approx(15 + 8)
    assert unit_counts(expand(hedge)) == {"hedge": 1, "dangle": 5}


def test_a_tassel():
    # 2 × 40 × 20 + 6 × π × 6 + 100
    assert tassel_thread_mm(TASSEL) == pytest.approx(1700 + 36 * math.pi)
    made = rich(strand(chain(21), rings()), drop("T", 0, unit("tassel"), lies="fold"))
    assert lengths(made)["T"] == pytest.approx(44)
    assert count_of(made)["ring"] == 3


def test_swags_between_places_of_a_row():
    row = SwagRow(
        name="Swag", run="Strand", places=(2, 6, 10), items=(chain(7),),
        overrides=(Override(number=1, items=(chain(9),)),),
    )  # fmt: skip
    made = rich(strand(chain(31)), rows=(row,))
    assert lengths(made)["Swag 0"] == 21.0
    assert lengths(made)["Swag 1"] == 27.0
    ends = [
        (link_from_fold(assembly.members[j.a], j.port_a), j.port_b)
        for assembly in [expand(made)]
        for j in assembly.joints
        if not j.inline and assembly.members[j.b].run == "Swag 0"
    ]
    assert sorted(ends) == [
        (("left", 2), 1), (("left", 6), 7), (("right", 2), 1), (("right", 6), 7),
    ]  # fmt: skip


def test_rows_of_drops_can_be_overruled_one_by_one():
    row = DropRow(
        name="Row", run="Strand", rule="places", places=(0, 3, 6), items=(rings(), unit("dangle")),
        overrides=(Override(number=1, side="left"), Override(number=2, items=(unit("dangle"),))),
    )  # fmt: skip
    made = rich(strand(chain(21)), rows=(row,))
    assert [(r.name, r.lies) for r, _ in written_out(made)[1:]] == [
        ("Row 0", "fold"), ("Row 1 right", "free"), ("Row 2", "paired"),
    ]  # fmt: skip
    assert count_of(made)["dangle"] == 4
    assert count_of(made)["ring"] == 2


@pytest.mark.parametrize(
    ("rows", "links", "between", "hangers"),
    [((3, 2, 1), 6, 3, 5), ((4, 3), 7, 5, 4), ((3, 3), 6, 4, 3), ((1,), 1, 0, 0)],
)
def test_tied_rows(rows, links, between, hangers):
    row = TiedRows(name="T", unit="link", rows=rows, ring="catch", hang_ring="small", hang=(2,))
    found = count_of(piece(rows=(row,), closure=Closure()))
    # 3-2-1: rings between 2 + 1; hangers 3 + 2 of two rings each
    assert found["link"] == links
    assert found.get("catch", 0) == between
    assert found.get("small", 0) == 2 * hangers


def test_strands_gathered_in_one_ring():
    two = Run(name="Two", centre=chain(31), end=Place(run="Strand", item=1))
    made = piece(strand(chain(21), rings()), two)
    assembly = expand(made)
    gathered = [m.id for m in assembly.members if m.run == "Strand" and m.kind == "ring"]
    assert all(len(assembly.neighbours[ring]) == 3 for ring in gathered)
    assert lengths(made) == {"Strand": 71.0, "Two": 93.0}


def test_paired_places_on_a_connector_take_mirrored_holes():
    oval = ConnectorItem(part="oval", hole_in="left", hole_out="right")
    made = piece(
        strand(oval, rings()),
        drop("Foot", 0, rings(), lies="fold", port="foot"),
        drop("Side", 0, rings(), port="right"),
    )
    assembly = expand(made)
    holes = {(assembly.members[j.b].side, j.port_a) for j in assembly.joints if not j.inline}
    assert holes == {("fold", "foot"), ("right", "right"), ("left", "left")}


@pytest.mark.parametrize(
    ("made", "said"),
    [
        (rich(strand(StrungItem(thread="silk", pattern=("gone",)))), "“gone”"),
        (rich(strand(StrungItem(thread="silk", times=0))), "nothing is strung"),
        (rich(strand(StrungItem(thread="chain", pattern=("bead",)))), "is a chain"),
        (rich(strand(chain(9), PartItem(part="bead"))), "put it on wire"),
        (rich(strand(unit("dangle"), rings())), "hangs free"),
        (rich(strand(chain(9)),
              rows=(SwagRow(name="S", run="X", places=(1, 2), items=(chain(3),)),)),
         "“X”, which does not exist"),
        (rich(strand(chain(9)), rows=(DropRow(name="R", run="X", count=1, items=(rings(),)),)),
         "row “R” stands on run “X”"),
        (rich(strand(unit("link")),
              rows=(DropRow(name="R", run="Strand", count=1, items=(rings(),)),)),
         "can stand on chain or rings"),
        (rich(strand(chain(9)),
              rows=(DropRow(name="R", run="Strand", count=3, items=(chain(2),), steps=(0, -4)),)),
         "leave no chain"),
        (rich(strand(chain(9)),
              rows=(DropRow(name="R", run="Strand", count=3, items=(rings(),), steps=(1,)),)),
         "no chain in its drops"),
        (rich(rows=(TiedRows(name="T", unit="link", rows=(4, 2), ring="ring", hang_ring="ring"),)),
         "row 2: 2 links hang from 4"),
        (rich(strand(unit("dangle"))), "hangs free"),
        (rich(strand(chain(9)), Run(name="B", centre=chain(9))), "where its ends are joined"),
        (rich(strand(chain(9)), Run(name="D", kind="drop", lies="fold", items=(rings(),))),
         "does not say where it hangs"),
        (rich(strand(chain(9)), Run(name="E", lies="fold")), "is empty"),
        (rich(strand(chain(9)), drop("D", 1, rings(), item=0, lies="free")), "name a side"),
        (rich(strand(unit("link")), drop("D", 1, rings(), port="mid", item=3)), "items 0 to 0"),
        (rich(Run(name="S", centre=StrungItem(thread="silk", pattern=("bead",))),
              drop("D", 0, rings(), lies="fold").__class__(
                  name="D", kind="drop", lies="fold", items=(rings(),),
                  start=Place(run="S", item=0, at=0, port="gap"))), "a bead lies on the fold"),
    ],
)  # fmt: skip
def test_structures_that_cannot_be_built_are_named(made, said):
    with pytest.raises(DomainError) as error:
        expand(made)
    assert said in str(error.value)


def test_a_mid_ring_must_have_been_made():
    bare = BeadLink(id="link", name="Bare", stack=("bead",), wire="wire")
    made = Piece(
        parts=PARTS, units=(bare,), runs=(strand(unit("link")), drop("D", 0, rings(), lies="fold",
        port="mid")),
    )  # fmt: skip
    with pytest.raises(DomainError, match="without a mid ring"):
        expand(made)


@pytest.mark.parametrize(
    ("loop", "span", "wire"),
    [
        # stack 8; loops 2 × (2 + 0.6); wraps 2 × 3 × 0.6 on the wrapped one
        (Loop(style="simple", inner_mm=2.0), 13.2, 8 + 2 * math.pi * 2.6 + 40),
        (Loop(style="doubled", inner_mm=2.0), 13.2, 8 + 4 * math.pi * 2.6 + 40),
        (Loop(style="wrapped", inner_mm=2.0, wraps=3), 16.8,
         8 + 2 * math.pi * 2.6 + 6 * 2 * math.pi * 0.6 + 70),
    ],
)  # fmt: skip
def test_loops_of_every_style(loop, span, wire):
    link = BeadLink(id="x", name="X", stack=("bead",), wire="wire", loop=loop)
    made = Piece(parts=PARTS, units=(link,), runs=(strand(unit("x")),))
    assert unit_span_mm(link, {p.id: p for p in PARTS}) == pytest.approx(span)
    assert wire_needs(expand(made))[0].each_mm == pytest.approx(wire)
    spool = Piece(parts=PARTS, units=(link,), runs=(strand(unit("x")),), wire_from="spool")
    grips = 70 if loop.style == "wrapped" else 40
    assert wire_needs(expand(spool))[0].each_mm == pytest.approx(wire - grips + 10)


def test_two_different_loops_add_their_own_spans():
    link = BeadLink(
        id="x", name="X", stack=("bead", "bead"), wire="wire", loop=Loop(inner_mm=2.0),
        far_loop=Loop(style="wrapped", inner_mm=3.0, wraps=2),
    )  # fmt: skip
    assert unit_span_mm(link, {p.id: p for p in PARTS}) == pytest.approx(16 + 2.6 + 3.6 + 1.2)
    assert unit_span_mm(Dangle(id="d", name="D", stack=("gone",), wire="wire"), {}) is None


@pytest.mark.parametrize(
    ("links", "first", "mm"), [(1, 1, 7), (2, 1, 10), (4, 1, 20), (2, 2, 6), (3, 3, 13)]
)
def test_long_short_chain(links, first, mm):
    long_short = Chain(id="x", name="X", pitches_mm=(7.0, 3.0, 3.0))
    assert chain_length_mm(long_short, links, first) == mm
    assert amount_of_mm(long_short, 12.9) == 2
    assert amount_of_mm(long_short, 13.0) == 3


def test_rings_left_closed_never_meet():
    made = piece(strand(rings(1), rings(7), chain(5)))
    built = expand(made)
    found = {r.id: r for r in ring_counts(built, joining_plan(built))}["ring"]
    assert found.count == 15
    assert found.to_open + found.leave_closed == 15
    # 15 rings in a row between chain: the outer ones open onto chain, every second may stay closed
    assert 0 < found.leave_closed <= 7


def test_masses_from_geometry():
    # brass ring: π × 4.8 × π/4 × 0.64 mm³ × 8.5 mg; glass ball of 8 mm less its bore
    ring = Ring(id="r", name="R", wire_mm=0.8, inner_mm=4.0)
    assert part_mass_g(ring) == pytest.approx(math.pi * 4.8 * math.pi / 4 * 0.64 * 8.5e-3)
    ball = (2 / 3 * math.pi / 4 * 64 - math.pi / 4) * 8 * 2.5e-3
    assert part_mass_g(BEAD) == pytest.approx(ball)
    weighed = Chain(id="x", name="X", pitches_mm=(4.0,), mass_g_per_m=10.0)
    assert link_mass_g(weighed) == pytest.approx(0.04)


def test_balance_of_the_sides():
    made = piece(
        strand(chain(21), rings()), drop("D", 3, PartItem(part="charm"), lies="free", side="right")
    )
    found = balance(expand(made))
    assert found.left_g + found.right_g == pytest.approx(found.total_g)
    drops = found.right_g - found.left_g
    assert drops == pytest.approx(0.0, abs=1.6)
    assert found.unknown == ()


def test_prevailing_thickness():
    assert thickness_mm(expand(piece(strand(chain(21), rings())))) == pytest.approx(3.6)
    assert thickness_mm(expand(piece(strand(unit("link"), rings())))) == pytest.approx(8.0)
