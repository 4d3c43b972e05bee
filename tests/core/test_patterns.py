"""Chain of a repeating pattern: with which link a stretch begins, and what follows from it.

By hand, of 9 and 3 · 3 · 3 mm: nine links from the first are 9 + 9 + 9 + 9 + 9 = 45 mm with both
ends and the middle long; eleven from the last read 3 · 9 · 3 3 3 · 9 · 3 3 3 · 9 · 3 and are 51 mm.
"""

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.checks import reads_alike
from maglia.core.cutting.day import Making, cuttings, stretches_of
from maglia.core.cutting.lengths import Length
from maglia.core.edits.edit import set_count, set_length
from maglia.core.edits.rearrange import split
from maglia.core.edits.spots import CENTRE, Spot
from maglia.core.piece.items import ChainItem
from maglia.core.sheets.cutting import cut_list
from maglia.core.sheets.lengths import link_lengths
from maglia.core.workshop.tray import Tray
from maglia.phrases.told_words import Wording
from saying import offers, said
from workshop import CHAIN, PARTS, piece, rings, strand

LONG_SHORT = replace(CHAIN, id="ls", name="Longshort", pitches_mm=(9.0, 3.0, 3.0, 3.0))
PARTS_HERE = (*PARTS, LONG_SHORT)


def stretch(links, first_phase=0):
    return ChainItem(part="ls", links=links, first_phase=first_phase)


def across(centre, *items):
    return piece(strand(centre, *(items or (rings(),))), parts=PARTS_HERE)


@pytest.mark.parametrize(("links", "first", "mm", "alike"), [
    (9, 0, 45.0, True), (11, 3, 51.0, True), (9, 1, 39.0, False), (11, 0, 51.0, False),
    (1, 2, 3.0, True), (3, 1, 9.0, True), (8, 0, 36.0, False),
])  # fmt: skip
def test_a_stretch_is_read_from_its_first_link(links, first, mm, alike):
    made = expand(across(stretch(links, first)))
    member = next(m for m in made.members if m.kind == "chain")
    lengths = link_lengths(made, member)
    assert lengths == [LONG_SHORT.pitches_mm[(first + k) % 4] for k in range(links)]
    assert sum(lengths) == mm
    assert made.main.length_mm == pytest.approx(mm + 8.0 + 9.0 + 5.0)  # rings, clasp, catch
    assert (lengths == lengths[::-1]) is alike
    found = list(reads_alike.check(made))
    assert bool(found) is not alike
    for repair in found[0].repairs if found else ():
        mended = set_count(made.piece, Spot(repair.run, (CENTRE,)), repair.count).piece
        assert not list(reads_alike.check(expand(mended)))


def test_sides_read_alike_and_stretches_are_cut_as_they_are_begun():
    made = across(stretch(9), stretch(6, 1), stretch(6))
    built = expand(made)
    sides = {side: [m for m in built.members if m.side == side] for side in ("left", "right")}
    assert [m.first_phase for m in sides["left"]] == [m.first_phase for m in sides["right"]]
    assert [(c.links, c.first_phase, c.count) for c in cut_list(built)] == [
        (9, 0, 1), (6, 0, 2), (6, 1, 2),
    ]  # fmt: skip
    assert sum(stretches_of(Making(built, 2))["ls"].values()) == 10
    lots = {"ls": [Length("spool", 60)]}
    found = dict(cuttings([Making(built)], lots, {}))["ls"]
    assert found.proven
    assert not found.missing
    at = 0
    for one in found.bars[0].pieces:  # what is laid reads as is wanted from one of its ends
        at += (one.first_phase - at) % 4
        laid = [LONG_SHORT.pitches_mm[(at + k) % 4] for k in range(one.amount)]
        first = {9: (0,), 6: (0, 1)}[one.amount]
        asked = [[LONG_SHORT.pitches_mm[(p + k) % 4] for k in range(one.amount)] for p in first]
        assert any(laid in (own, own[::-1]) for own in asked)
        at += one.amount + 1


def test_a_stretch_that_is_split_goes_on_where_it_was():
    made = across(stretch(9), stretch(10, 2))
    (run,) = made.runs
    parted = split(made, Spot(run.name, (0,)), 3).piece
    assert parted.runs[0].items == (stretch(3, 2), stretch(7, 1))
    parted = split(made, Spot(run.name, (CENTRE,)), 1).piece
    assert parted.runs[0].centre == stretch(3, 3)
    assert parted.runs[0].items[0] == stretch(3, 2)


def test_a_length_is_met_from_where_the_stretch_begins():
    made = across(stretch(9), stretch(10, 1))
    (run,) = made.runs
    # 3 · 3 · 3 · 9 · 3 · 3 are 24 mm, from the second link on
    assert set_length(made, Spot(run.name, (0,)), 24.0).piece.runs[0].items[0].links == 6


def test_it_is_said_and_told():
    made = across(stretch(9))
    tray = Tray(parts=PARTS_HERE)
    put = said("5 longshort from link 2", made, tray, Spot("Strand", (0,)))
    item = next(i for i in put.piece.runs[0].items if isinstance(i, ChainItem))
    assert item == stretch(5, 1)
    assert Wording.of(put.piece).items([item]) == "5 Longshort from link 2"
    cut = said("30 mm longshort from link 3", made, tray, Spot("Strand", (0,)))
    item = next(i for i in cut.piece.runs[0].items if isinstance(i, ChainItem))
    assert (item.links, item.first_phase) == (7, 2)  # 3 3 9 3 3 3 9 = 33; six are 24
    for wrong, words in {"5 longshort from link 5": "past the pattern", "2 ring 4 from link 2":
                         "chain alone", "5 longshort from 2": "from link 2"}.items():  # fmt: skip
        first = offers(wrong, made, tray, Spot("Strand", (0,)))[0]
        assert words in first.words
