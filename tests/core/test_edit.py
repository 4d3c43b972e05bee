"""Edits: each returns a new piece, leaves the old one, and can be taken back by keeping it."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from maglia.core.assembly.expand import expand
from maglia.core.assembly.kinds import item_words
from maglia.core.edits.edit import (
    add_owner,
    delete,
    free_name,
    insert_after,
    needs_link_on_fold,
    put,
    remove_run,
    set_count,
    set_length,
    with_thing,
)
from maglia.core.edits.spots import (
    CENTRE,
    WHOLE,
    Spot,
    count_at,
    first_number,
    item_of,
    opening_spot,
    owner_of,
    spot_of,
    words_at,
)
from maglia.core.parts.parts import Chain
from maglia.core.piece.items import RepeatItem, StrungItem
from maglia.core.piece.piece import DropRow, Run, TiedRows, catalogue
from maglia.core.values.record import DomainError
from workshop import CHAIN, PARTS, chain, drop, piece, rings, strand, unit

C = Spot("Strand", (CENTRE,))


def made():
    """Centre 21 links; half: ring, 3 × (2 links, ring), bead link, ring."""
    half = (rings(), RepeatItem(times=3, items=(chain(2), rings())), unit("link"), rings())
    return piece(strand(chain(21), *half), drop("D", 0, rings(), unit("dangle"), lies="fold"))


@pytest.mark.parametrize(
    ("number", "path"),
    [(0, (CENTRE,)), (1, (0,)), (2, (1, 0)), (3, (1, 1)), (4, (1, 0)), (7, (1, 1)), (8, (2,)),
     (9, (3,))],
)  # fmt: skip
def test_every_written_out_item_leads_back_to_where_it_is_written(number, path):
    assert spot_of(expand(made()), "Strand", number) == Spot("Strand", path)


def test_what_is_not_there_has_no_spot():
    assert spot_of(expand(made()), "Strand", 10) is None
    assert spot_of(expand(made()), "closure", 1) is None
    assert spot_of(expand(made()), "D", 0) is None


@pytest.mark.parametrize(("path", "number"), [((CENTRE,), 0), ((0,), 1), ((1, 1), 3), ((2,), 8)])
def test_the_first_number_of_a_spot(path, number):
    assert first_number(made(), Spot("Strand", path)) == number


def test_rows_answer_for_the_drops_they_make():
    row = DropRow(name="Row", run="Strand", count=3, items=(rings(), chain(4), unit("dangle")))
    with_row = piece(strand(), rows=(row,))
    assert spot_of(expand(with_row), "Row 1", 2) == Spot("Row", (1,))
    longer = set_count(with_row, Spot("Row", (1,)), 6).piece
    assert {m.links for m in expand(longer).members if m.run.startswith("Row")} == {0, 6}


@pytest.mark.parametrize(
    ("path", "count", "words"),
    [
        ((CENTRE,), 23, "Strand: 21 → 23 links"),
        ((0,), 3, "Strand: 1 → 3 rings"),
        ((1, 0), 5, "Strand: 2 → 5 links"),
        ((1,), 4, "Strand: 3 → 4 repeats"),
        ((2,), 2, "Strand: 1 → 2 of it"),
    ],
)
def test_counts(path, count, words):
    before = made()
    edited = set_count(before, Spot("Strand", path), count)
    assert edited.words == words
    assert count_at(edited.piece, Spot("Strand", path))[0] == count
    assert before == made()
    assert edited.piece.runs[1] is before.runs[1]  # what was not touched is shared


def test_a_single_part_becomes_a_repeat_and_back():
    twice = set_count(made(), Spot("Strand", (2,)), 2).piece
    assert item_of(twice, Spot("Strand", (2,))) == RepeatItem(times=2, items=(unit("link"),))


@pytest.mark.parametrize(
    ("spot", "count", "said"),
    [
        (C, 0, "less than one"),
        (C, 20_001, "more than 20,000"),
        (Spot("Gone", (0,)), 2, "no run “Gone”"),
        (Spot("Strand", (9,)), 2, "no such item"),
        (Spot("D", (CENTRE,)), 2, "has no centre"),
    ],
)
def test_counts_that_cannot_be(spot, count, said):
    with pytest.raises(DomainError, match=said):
        set_count(made(), spot, count)


def test_one_part_on_the_fold_stays_one():
    on_fold = piece(strand(unit("link"), rings()))
    with pytest.raises(DomainError, match="one part lies on the fold"):
        set_count(on_fold, C, 2)


@pytest.mark.parametrize(
    ("length", "links", "rest"),
    [
        (63.0, 21, "exactly"),
        (65.0, 21, "2.0 mm short"),
        (67.0, 23, "2.0 mm over"),
        (1.0, 1, "over"),
    ],
)
def test_lengths_snap_to_odd_where_a_drop_is_on_the_fold(length, links, rest):
    assert needs_link_on_fold(made(), C)
    edited = set_length(made(), C, length)
    assert count_at(edited.piece, C)[0] == links
    assert edited.words.endswith(rest)


def test_lengths_snap_to_the_nearest_link_elsewhere():
    plain = piece(strand(chain(21)))
    assert not needs_link_on_fold(plain, C)
    assert count_at(set_length(plain, C, 66.0).piece, C)[0] == 22


@given(st.floats(3, 900))
@settings(max_examples=60)
def test_no_other_count_of_a_long_short_chain_is_nearer(length):
    pattern = Chain(id="ls", name="LS", pitches_mm=(7.0, 3.0, 3.0))
    free = piece(strand(chain(9, "ls")), parts=(*PARTS, pattern))
    links = count_at(set_length(free, C, length).piece, C)[0]

    def reach(n):
        return 13.0 * (n // 3) + (0, 7.0, 10.0)[n % 3]

    best = min(abs(reach(n) - length) for n in range(1, 400))
    assert abs(reach(links) - length) == pytest.approx(best)


def test_only_chain_of_known_pitch_has_a_length():
    with pytest.raises(DomainError, match="only chain"):
        set_length(made(), Spot("Strand", (0,)), 10.0)
    unknown = tuple(Chain(id="chain", name="Chain 3") if p is CHAIN else p for p in PARTS)
    with pytest.raises(DomainError, match="pitch of “Chain 3”"):
        set_length(piece(strand(), parts=unknown), C, 10.0)


def test_putting_in_and_taking_out():
    before = made()
    put_in = insert_after(before, C, rings(2, "small"))
    assert put_in.spot == Spot("Strand", (0,))
    assert put_in.piece.runs[0].items[0] == rings(2, "small")
    assert put_in.words == "Strand: 2 × Ring 3 put in"
    within = insert_after(before, Spot("Strand", (1, 0)), rings(1, "small"))
    assert within.spot == Spot("Strand", (1, 1))
    assert len(item_of(within.piece, Spot("Strand", (1,))).items) == 3
    out = delete(put_in.piece, put_in.spot)
    assert out.piece == before
    assert out.words == "Strand: 2 × Ring 3 taken out"


def test_the_last_item_takes_its_run_and_what_hangs_from_it():
    hung = Run(
        name="E", kind="drop", lies="fold", items=(unit("dangle"),),
        start=drop("x", 1, rings(), item=1).start.__class__(run="D", item=1),
    )  # fmt: skip
    both = add_owner(made(), hung).piece
    once = delete(both, Spot("D", (1,))).piece
    assert [r.name for r in once.runs] == ["Strand", "D", "E"]
    gone = delete(once, Spot("D", (0,)))
    assert [r.name for r in gone.piece.runs] == ["Strand"]
    assert gone.words == "D taken out"
    assert remove_run(both, "Strand").piece.runs == ()
    assert remove_run(both, "Strand").spot is None


def test_the_next_part_takes_the_place_on_the_fold():
    out = delete(piece(strand(chain(21), rings(), chain(9))), C)
    assert out.piece.runs[0].centre == rings()
    assert out.piece.runs[0].items == (chain(9),)
    with pytest.raises(DomainError, match="repeat cannot lie on the fold"):
        delete(piece(strand(chain(21), RepeatItem(times=2, items=(rings(),)))), C)


def test_names_stay_apart():
    once = add_owner(made(), drop("D", 3, rings())).piece
    assert [r.name for r in once.runs] == ["Strand", "D", "D 2"]
    assert free_name(once, "D") == "D 3"
    row = DropRow(name="D", run="Strand", count=1, items=(rings(),))
    assert owner_of(add_owner(once, row).piece, "D 3").items == (rings(),)


def test_parts_are_copied_once():
    assert with_thing(made(), CHAIN) == made()
    other = Chain(id="new", name="New")
    assert with_thing(made(), other).parts[-1] is other


def test_sets_of_tied_rows():
    row = TiedRows(name="Bib", unit="link", rows=(3, 2, 1), ring="ring", hang_ring="ring")
    bib = piece(rows=(row,))
    whole = Spot("Bib", WHOLE)
    assert opening_spot(bib) == whole == spot_of(expand(bib), "Bib 2", 1)
    assert words_at(bib, whole) == "Bib, rows of 3, 2, 1"
    wider = set_count(bib, whole, 4)
    assert wider.piece.rows[0].rows == (4, 3, 2, 1)
    assert wider.words == "Bib: 3 → 4 rows"
    assert insert_after(bib, whole, rings()).piece.rows[0].sides == (rings(),)
    assert delete(bib, whole).piece.rows == ()


def test_words_of_items():
    pearls = StrungItem(thread="wire", pattern=("bead", "bead", "bead"), times=4)
    assert item_words(pearls, catalogue(made())) == "4 × Bead 8 + Bead 8 + …"
    assert item_words(chain(7), catalogue(made())) == "7 links Chain 3"
    assert item_words(rings(), catalogue(made())) == "Ring 4"
    repeat = RepeatItem(times=2, items=(chain(2), rings(3)))
    assert item_words(repeat, catalogue(made())) == "2 × (2 links Chain 3, 3 × Ring 4)"


steps = st.lists(
    st.tuples(st.sampled_from(["count", "insert", "delete", "put"]), st.integers(0, 9),
              st.integers(1, 12)),
    max_size=12,
)  # fmt: skip


@given(steps)
@settings(max_examples=60, deadline=None)
def test_any_row_of_edits_leaves_earlier_pieces_as_they_were(row):
    history = [made()]
    for kind, number, amount in row:
        now = history[-1]
        spot = spot_of(expand(now), "Strand", number)
        if spot is None:
            continue
        try:
            edited = {
                "count": lambda s=spot, n=now, a=amount: set_count(n, s, a).piece,
                "insert": lambda s=spot, n=now, a=amount: insert_after(n, s, chain(a)).piece,
                "delete": lambda s=spot, n=now: delete(n, s).piece,
                "put": lambda s=spot, n=now, a=amount: put(n, s, rings(a)),
            }[kind]()
            expand(edited)
        except DomainError:
            continue
        if not edited.runs:
            break
        history.append(edited)
    assert history[0] == made()
    assert len({id(p) for p in history}) == len(history)
