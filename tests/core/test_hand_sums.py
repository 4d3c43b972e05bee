"""Sums done by hand, each for a rule of the core that a changed sign or limit would break."""

import math

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.assembly.rows import drop_numbers
from maglia.core.edits.edit import delete
from maglia.core.edits.spots import Spot
from maglia.core.parts.parts import Chain, link_mass_g, part_mass_g
from maglia.core.parts.units import unit_mass_g
from maglia.core.piece.piece import DropRow, Place, RepeatItem, Run, StrungItem, TiedRows
from maglia.core.sheets.count import rings as ring_counts
from maglia.core.sheets.cutting import cutting_plan
from maglia.core.sheets.lengths import worn_lengths_mm
from maglia.core.sheets.mass import balance, masses_g
from maglia.core.values.record import DomainError
from workshop import BEAD, CATCH, LINK, PARTS, RING, WIRE, chain, drop, piece, strand, unit
from workshop import rings as ring_item


def bars(links, *lots):
    made = piece(strand(chain(links[0]), *(chain(n) for n in links[1:])))
    plan = cutting_plan(expand(made), {"chain": [3.0 * lot for lot in lots]})[0]
    return [(b.stock_links, b.pieces, b.sacrificed, b.offcut_links) for b in plan.bars]


def test_a_length_used_up_loses_no_link_and_the_fullest_that_fits_is_taken():
    assert bars([19], 19) == [(19, (19,), 0, 0)]
    assert bars([19], 40, 20, 30) == [(20, (19,), 1, 0)]
    # 21 and a cut leave 8; 3 and a cut 4; 3 and a cut none: the begun length before the whole one
    assert bars([21, 3], 30, 60) == [(30, (21, 3, 3), 3, 0)]


@pytest.mark.parametrize("closure", ["open", "split"])
def test_rings_that_can_be_opened_are(closure):
    parts = [replace(own, closure=closure) if own is RING else own for own in PARTS]
    found = ring_counts(expand(piece(strand(chain(11), ring_item()), parts=tuple(parts))))
    assert [(r.to_open, r.leave_closed) for r in found if r.id == "ring"] == [(2, 0)]


def test_beyond_an_unknown_size_no_extender_has_a_length():
    loose = Chain(id="loose", name="Loose", wire_mm=0.5)
    extender = Run(
        name="Ext", kind="extender", lies="free", start=Place(run="closure"),
        items=(ring_item(), chain(2), chain(3, "loose"), chain(4)),
    )  # fmt: skip
    made = piece(strand(chain(51), ring_item()), extender, parts=(*PARTS, loose))
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
    half = [ring_item(5000, abreast=n) for n in (9, 3)]
    expand(piece(strand(chain(51), ring_item(5000, abreast=9))))
    with pytest.raises(DomainError, match="more than 120,000 parts"):
        expand(piece(strand(chain(51), *half)))
