"""Rearranging: what is moved takes with it what hangs from it, and every number follows."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.edit import delete, insert_after, put, set_count
from maglia.core.edits.rearrange import (
    Clip,
    copied,
    duplicated,
    freed_or_mirrored,
    moved,
    pasted,
    repeated,
    replaced_everywhere,
    reversed_,
    run_copied,
    split,
)
from maglia.core.edits.spots import CENTRE, WHOLE, Spot
from maglia.core.piece.items import ConnectorItem, RepeatItem
from maglia.core.piece.piece import Piece, Place, Run, SwagRow, Way
from maglia.core.piece.wishes import LengthFit, Quantity, RingsFit
from maglia.core.sheets.lengths import closed_length_mm
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece
from workshop import CHAIN, DANGLE, RING, SMALL, chain, drop, piece, rings, strand, unit

TAIL = (rings(part="small"), chain(4), unit("dangle"))


def made():
    """Centre 21, then ring, link, ring, 9 links; a drop on the link's mid and one on the chain."""
    return piece(
        strand(chain(21), rings(), unit("link"), rings(), chain(9), rings()),
        drop("Mid", 1, *TAIL, item=2, port="mid"),
        drop("Far", 4, *TAIL, item=4),
    )


def hosts(of):
    """What each drop hangs from: kind and length of the host, and where along it."""
    assembly = expand(of)
    found = {}
    for joint in assembly.joints:
        member = assembly.members[joint.b]
        if not joint.inline and member.run in ("Mid", "Far") and member.side == "right":
            host = assembly.members[joint.a]
            found[member.run] = (host.ref, host.links, joint.port_a)
    return found


BEFORE = {"Mid": ("ring", 0, "ring"), "Far": ("chain", 9, 4)}


@pytest.mark.parametrize(
    "edit",
    [
        lambda p: insert_after(p, Spot("Strand", (CENTRE,)), rings(2)),
        lambda p: insert_after(p, Spot("Strand", (0,)), unit("link"), rings()),
        lambda p: delete(p, Spot("Strand", (4,))),
        lambda p: moved(p, Spot("Strand", (3,)), -1),
        lambda p: moved(p, Spot("Strand", (0,)), 1, 2),
        lambda p: duplicated(p, Spot("Strand", (0,))),
        lambda p: reversed_(p, Spot("Strand", (0,)), 4),
        lambda p: repeated(p, Spot("Strand", (4,))),
    ],
)
def test_what_hangs_follows_what_it_hangs_from(edit):
    assert hosts(made()) == BEFORE
    assert hosts(edit(made()).piece) == BEFORE


def test_what_hangs_from_a_part_goes_with_it_and_is_said():
    gone = delete(made(), Spot("Strand", (1,)))
    assert [r.name for r in gone.piece.runs] == ["Strand", "Far"]
    assert "with 1 that hung from it" in gone.words
    assert hosts(gone.piece) == {"Far": BEFORE["Far"]}


def test_fits_pins_rows_and_ways_follow_too():
    of = replace(
        made(),
        rows=(SwagRow(name="S", run="Strand", item=4, places=(2, 6), items=(chain(6),)),),
        ways=(Way(name="short", hooked=Place(run="Strand", item=4, at=2)),),
        fits=(
            LengthFit(name="l", changes=(Quantity(run="Strand", item=4),)),
            RingsFit(name="r", stretch=Quantity(run="Strand", item=1), mm=20),
        ),
        pinned=(Quantity(run="Strand", item=4),),
    )
    after = insert_after(of, Spot("Strand", (CENTRE,)), rings(), rings()).piece
    assert after.rows[0].item == 6
    assert after.ways[0].hooked.item == 6
    assert after.fits[0].changes[0].item == after.pinned[0].item == 6
    assert after.fits[1].stretch.item == 3
    without = delete(after, Spot("Strand", (5,))).piece
    assert without.rows == ()
    assert without.pinned == ()
    assert without.fits[0].changes == ()


def test_copy_and_paste_within_and_between_pieces():
    clip = copied(made(), Spot("Strand", (0,)), 2)
    assert clip.items == (rings(), unit("link"))
    assert {t.id for t in clip.things} == {"ring", "bead", "wire", "link"}
    after = pasted(made(), Spot("Strand", (4,)), clip).piece
    assert after.runs[0].items[5:] == clip.items
    bare = pasted(Piece(), None, clip).piece
    assert expand(replace(bare, closure=made().closure, parts=made().parts)).members
    with pytest.raises(DomainError, match="nothing was copied"):
        pasted(made(), Spot("Strand", (0,)), Clip())
    again = pasted(made(), None, run_copied(made(), "Far")).piece
    assert again.runs[-1].name == "Far 2"
    assert again.runs[-1].start == again.runs[2].start


def test_repeat_and_writing_out_are_each_others_inverse():
    of = piece(strand(chain(21), rings(), unit("link"), rings()))
    twice = repeated(of, Spot("Strand", (0,)), 2)
    assert twice.piece.runs[0].items[0] == RepeatItem(times=2, items=(rings(), unit("link")))
    out = repeated(twice.piece, twice.spot).piece
    assert out.runs[0].items == (rings(), unit("link"), rings(), unit("link"), rings())
    assert expand(out).members == expand(twice.piece).members
    with pytest.raises(DomainError, match="take them out first"):
        repeated(made(), Spot("Strand", (1,)))


def test_reversing_turns_connectors_too():
    oval = ConnectorItem(part="oval", hole_in="left", hole_out="right")
    of = piece(strand(chain(21), rings(), oval, chain(3)))
    turned = reversed_(of, Spot("Strand", (0,)), 3).piece.runs[0].items
    assert turned == (chain(3), replace(oval, hole_in="right", hole_out="left"), rings())
    assert (
        reversed_(reversed_(of, Spot("Strand", (0,)), 3).piece, Spot("Strand", (0,)), 3).piece == of
    )


def test_a_chain_split_at_a_link_keeps_its_drops():
    after = split(made(), Spot("Strand", (3,)), 3)
    assert after.piece.runs[0].items[3:5] == (chain(3), chain(6))
    assert hosts(after.piece)["Far"] == ("chain", 6, 1)  # link 4 is the first of the outer part
    assert closed_length_mm(expand(after.piece)) == closed_length_mm(expand(made()))
    centre = split(made(), Spot("Strand", (CENTRE,)), 4).piece.runs[0]
    assert (centre.centre, centre.items[0]) == (chain(9), chain(6))  # 9 + 2 × 6 = 21
    for link in (0, 9):
        with pytest.raises(DomainError, match="set the mark"):
            split(made(), Spot("Strand", (3,)), link)
    with pytest.raises(DomainError, match="only chain and rings"):
        split(made(), Spot("Strand", (1,)), 1)


def test_a_part_replaced_is_replaced_in_units_and_closure_too():
    fine = replace(RING, id="fine", name="Fine ring")
    after = replaced_everywhere(made(), "ring", fine).piece
    assert after.units[0].mid == "fine"
    assert after.runs[0].items[0] == rings(part="fine")
    assert all(p.id != "ring" for p in after.parts)
    assert expand(after).members
    with pytest.raises(DomainError, match="a ring and “Chain 3” a chain"):
        replaced_everywhere(made(), "ring", CHAIN)
    other = replace(DANGLE, id="other", name="Other")
    assert replaced_everywhere(made(), "dangle", other).piece.runs[1].items[-1] == unit("other")
    with pytest.raises(DomainError, match="already"):
        replaced_everywhere(made(), "small", SMALL)


def test_sides_freed_and_mirrored_again():
    free = freed_or_mirrored(made(), "Far")
    left, right = free.piece.runs[2:]
    assert (left.name, left.start.side, right.start.side) == ("Far left", "left", "right")
    assert len(expand(free.piece).members) == len(expand(made()).members)
    longer = put(free.piece, Spot("Far right", (1,)), chain(8))
    back = freed_or_mirrored(longer, "Far right").piece
    assert [r.name for r in back.runs] == ["Strand", "Mid", "Far"]
    assert back.runs[2].items[1] == chain(8)
    with pytest.raises(DomainError, match="stands once"):
        freed_or_mirrored(made(), "Strand")


@pytest.mark.parametrize("edit", [duplicated, repeated, lambda p, s: moved(p, s, 1)])
def test_the_fold_takes_one_part(edit):
    with pytest.raises(DomainError, match="fold"):
        edit(made(), Spot("Strand", (CENTRE,)))
    bib = read_piece(demo_path("curtain-bib"))
    with pytest.raises(DomainError):
        edit(bib, Spot("Bib", WHOLE))


@given(data=st.data())
@settings(max_examples=60, deadline=None)
def test_moving_about_loses_nothing(data):
    """Any moves of any items of any demo piece: the same parts are counted afterwards."""
    of = read_piece(demo_path(data.draw(st.sampled_from(demo_names()))))
    owners = [run for run in of.runs if len(run.items) > 1]
    if not owners:
        return
    run: Run = data.draw(st.sampled_from(owners))
    at = data.draw(st.integers(0, len(run.items) - 2))
    try:
        after = moved(of, Spot(run.name, (at,)), 1).piece
        there = expand(after)
    except DomainError:
        return  # what hangs free cannot stand inside
    before = expand(of)
    assert sorted(m.ref for m in there.members) == sorted(m.ref for m in before.members)
    assert len(there.joints) == len(before.joints)
    assert moved(after, Spot(run.name, (at + 1,)), -1).piece == of


def test_what_hangs_further_out_follows_a_count():
    """A repeat of two links written out as items 1 … 4, a ring that a drop hangs from after it."""
    inner = RepeatItem(times=2, items=(chain(3), rings()))
    made = piece(strand(chain(51), inner, rings(), chain(9)), drop("D", 1, rings(), item=5))
    longer = set_count(made, Spot("Strand", (0,)), 4).piece
    assert longer.run("D").start.item == 9
    assert set_count(longer, Spot("Strand", (0,)), 1).piece.run("D").start.item == 3
    single = piece(
        strand(chain(51), unit("link"), rings(), chain(9)), drop("D", 1, rings(), item=2)
    )
    assert set_count(single, Spot("Strand", (0,)), 3).piece.run("D").start.item == 4
