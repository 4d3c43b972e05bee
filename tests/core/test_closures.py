"""What stands at clasp and catch on one side alone, ways of only so many links, and their phrases.
Sums by hand.
"""

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.piece.items import RepeatItem
from maglia.core.piece.needed import uses_of
from maglia.core.piece.piece import Closure, Place, Run, Way, WornCount
from maglia.core.piece.wishes import Quantity
from maglia.core.report import evaluate
from maglia.core.sheets.count import counts
from maglia.core.sheets.lengths import closed_length_mm
from maglia.core.sheets.wear import as_worn, ways_worn
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from saying import offers
from saying import said as said_
from workshop import CLOSED, PARTS, UNITS, chain, piece, rings, strand, unit

TRAY = Tray(parts=PARTS, units=UNITS)
ENDS = replace(CLOSED, at_clasp=(rings(part="small"),), at_catch=(rings(2), chain(3)))


def of(closure, *items, **more):
    return piece(strand(chain(81), *items), closure=closure, **more)


@pytest.mark.parametrize("side", ["right", "left"])
def test_what_stands_at_clasp_and_catch_lengthens_it_and_the_strand_stays_mirrored(side):
    bare, ends = of(replace(CLOSED, clasp_side=side)), of(replace(ENDS, clasp_side=side))
    # 81 links of 3, clasp 9, catch 5; and ring 3, two of 4, three links of 3
    assert closed_length_mm(expand(bare)) == pytest.approx(243 + 9 + 5)
    assert closed_length_mm(expand(ends)) == pytest.approx(243 + 9 + 5 + 3 + 8 + 9)
    found = {c.id: c.count for c in counts(expand(ends))}
    assert (found["small"], found["ring"], found["chain"], found["catch"]) == (1, 2, 84, 1)
    assert ends.runs[0].lies == "across"


def test_they_stand_in_their_order_round_the_strand():
    assembly = expand(of(ENDS))
    line = [assembly.members[s.members[0]] for s in assembly.main.stations]
    # catch, the chain, two rings, the strand; ring 3 and the clasp
    assert [m.ref for m in line] == ["catch", "chain", "ring", "ring", "chain", "small", "clasp"]
    joined = {frozenset((j.a, j.b)) for j in assembly.joints}
    ids = [m.id for m in line]
    assert all(frozenset(pair) in joined for pair in zip(ids, [*ids[1:], ids[0]], strict=True))


def test_it_hangs_is_kept_and_drawn():
    whole = of(ENDS, pins=200.0)
    assert piece_from(piece_text(whole)) == whole
    found = evaluate(whole)
    assert found.hung.state == "converged"
    drawn = {m.id for m in found.assembly.members if m.run == "closure"}
    assert drawn <= set(found.hung.drawn)
    assert "beside the clasp or catch" in {use.words for use in uses_of(whole, "small")}
    assert not [c for c in found.checks if c.severity == "stop"]


@pytest.mark.parametrize(
    ("closure", "said"),
    [
        (Closure(kind="over the head", at_clasp=(rings(),)), "needs a clasp: name one"),
        (replace(CLOSED, at_clasp=(unit("gone"),)), "gone"),
        (replace(CLOSED, at_catch=(unit("dangle"), rings())), "hangs free"),
    ],
)
def test_what_cannot_stand_there_is_named(closure, said):
    with pytest.raises(DomainError, match=said):
        expand(of(closure))


# --- ways -----------------------------------------------------------------------------------------

LINKS = Run(
    name="Strand", lies="free", items=(RepeatItem(times=20, items=(unit("link"), rings())),)
)


def test_a_way_of_only_so_many_links_has_its_own_length_and_hang():
    way = Way(name="Short", only=(WornCount(of=Quantity(run="Strand", item=1), count=12),))
    whole = piece(LINKS, pins=100.0, ways=(way,))
    # a link is 8 + 2 (2 + 0.6 + 2 · 0.6) = 15.6, and a ring of 4
    each, rest = 15.6 + 4, 9 + 5
    assert closed_length_mm(expand(whole)) == pytest.approx(20 * each + rest)
    (worn,) = ways_worn(whole)
    assert worn.closed_length_mm == pytest.approx(12 * each + rest)
    assert evaluate(as_worn(whole, way)).hung.state == "converged"
    assert piece_from(piece_text(whole)) == whole


@pytest.mark.parametrize(
    ("only", "said"),
    [
        (WornCount(of=Quantity(run="Strand", item=1), count=21),
         "wears 21 of “Strand”, which has 20"),
        (WornCount(of=Quantity(run="Strand", item=9), count=2), "Strand"),
    ],
)  # fmt: skip
def test_a_way_that_cannot_be_worn_says_why(only, said):
    whole = piece(LINKS, ways=(Way(name="W", only=(only,)),))
    (worn,) = ways_worn(whole)
    assert worn.closed_length_mm is None
    assert said in worn.fault


# --- phrases --------------------------------------------------------------------------------------


def said(text, whole):
    return said_(text, whole, TRAY).piece


def test_a_closure_is_said_once_round_the_strand():
    whole = of(Closure())
    closed = said("close ring 3, lobster into catch 5, chain 3, 2 ring 4", whole)
    assert (closed.closure.clasp, closed.closure.catch) == ("clasp", "catch")
    assert [item.part for item in closed.closure.at_clasp] == ["small"]
    assert [item.part for item in closed.closure.at_catch] == ["ring", "chain"]  # outward
    assert said("close lobster into end", whole).closure.catch is None
    assert said("close over the head with ring 4", whole).closure.kind == "over the head"


def test_a_way_is_said_in_words():
    extender = Run(name="Extender", kind="extender", lies="free", items=(chain(12),),
                   start=Place(run="closure"))  # fmt: skip
    whole = piece(LINKS, extender)
    hooked = said("way Wide: hooked at link 9 of extender", whole)
    assert hooked.ways[0].hooked == Place(run="Extender", item=1, at=9)
    assert said("way Widest: hooked at last link of extender", whole).ways[0].hooked.at == 12
    assert said("way Bare: without extender", whole).ways[0].without == ("Extender",)
    worn = said("way Short: only 12 repeats of strand", whole)
    assert worn.ways[0].only == (WornCount(of=Quantity(run="Strand", item=1), count=12),)
    assert said("way Twice: 2 turns", worn).ways[-1].wraps == 2
    assert len(said("way Short: only 10 of strand", worn).ways) == 1


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("close lobster into gold", "“gold” is not known"),
        ("close emerald, lobster into catch 5", "“emerald” is not known"),
        ("way Short: only 99 of Strand", "which has 20"),
        ("way Short: upside down", "“upside down” was not understood"),
        ("way Short: without Bar", "“Bar” is no run or row"),
        ("way Short: hooked at link 3 of Strand", "no link lies in Strand"),
        ("way Short: 99 turns", "“99 turns” is not once to 20"),
    ],
)
def test_what_is_not_understood_is_named(text, words):
    whole = piece(LINKS)
    (offer,) = offers(text, whole, TRAY)
    assert words in offer.words
    with pytest.raises(DomainError):
        offer.do()
