"""Names may begin alike: what belongs to whom is read from fields, never from names."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fitting import demo, row
from maglia.core.assembly.expand import expand
from maglia.core.assembly.rows import Origin, written_out
from maglia.core.edits.edit import add_owner, delete, free_name, remove_run
from maglia.core.edits.rename import piece_renamed, run_renamed, thing_renamed
from maglia.core.edits.spots import Spot, spot_of
from maglia.core.fit.hem import feet
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.pull import fall_pulled, sag_pulled
from maglia.core.fit.wishes import read_fit
from maglia.core.piece.needed import made_of, uses_of
from maglia.core.piece.piece import (
    Accepted,
    DropRow,
    Override,
    Place,
    Run,
    SwagRow,
    TiedRows,
    Way,
    catalogue,
)
from maglia.core.piece.wishes import HemFit, LengthFit, Quantity, TiersFit
from maglia.core.sheets.wear import as_worn
from maglia.core.values.record import DomainError
from maglia.core.values.references import exchanged, references, things_named
from maglia.demo import demo_names
from workshop import chain, drop, piece, rings, strand, unit


def two_rows():
    """A row “Drops” with a drop number 2, and a second row “Drops 2”, as the program names it."""
    made = piece(strand(chain(61)), rows=(replace(row(count=5, every=2), name="Drops"),))
    made = add_owner(made, replace(row(count=5, every=3, links=20), name="Drops")).piece
    assert [own.name for own in made.rows] == ["Drops", "Drops 2"]
    return made


def test_a_hem_reads_the_feet_of_its_own_row_only():
    look = Trials().hung(two_rows())
    short, long = (feet(look, own) for own in look.piece.rows)
    assert (list(short), list(long)) == ([0, 1, 2], [0, 1, 2])
    # 8 links of 3 mm against 20: its feet hang 36 mm higher where both rows have one on the fold
    assert long[0].fall - short[0].fall == pytest.approx(36.0, abs=0.5)


def test_taking_out_a_row_leaves_the_wishes_of_a_row_called_like_its_second_drop():
    made = two_rows()
    fits = (HemFit(name="a", row="Drops"), HemFit(name="b", row="Drops 2"))
    way = Way(name="bare", without=("Drops 2",))
    made = replace(made, fits=fits, ways=(way,))
    left = remove_run(made, "Drops").piece
    assert [own.name for own in left.rows] == ["Drops 2"]
    assert (left.fits, left.ways) == (fits[1:], (way,))
    called = run_renamed(made, "Drops", "Fringe").piece
    assert [fit.row for fit in called.fits] == ["Fringe", "Drops 2"]
    assert called.ways == (way,)


def test_pulling_a_drop_fits_the_row_that_made_it():
    made = two_rows()
    read = Trials().hung(made).readings
    assert fall_pulled(made, read, "Drops 2 1", 150.0).row == "Drops 2"
    assert fall_pulled(made, read, "Drops 2", 150.0).row == "Drops"  # its drop number 2


def test_taking_out_a_drop_leaves_what_hangs_from_another_that_is_called_alike():
    made = piece(
        strand(chain(61)),
        drop("Drop", 2, rings(), chain(3)),
        drop("Drop 2", 4, rings(), chain(3)),
        Run(name="On two", kind="drop", lies="paired", items=(rings(),),
            start=Place(run="Drop 2", item=2, at=3)),
        Run(name="On one", kind="drop", lies="paired", items=(rings(),),
            start=Place(run="Drop", item=2, at=3)),
    )  # fmt: skip
    left = remove_run(made, "Drop").piece
    assert [run.name for run in left.runs] == ["Strand", "Drop 2", "On two"]


def test_a_way_that_leaves_off_a_row_leaves_off_what_hangs_from_its_drops():
    hung = Run(name="Tail", kind="drop", lies="paired", items=(rings(),),
               start=Place(run="Row 1", item=2, at=3))  # fmt: skip
    way = Way(name="bare", without=("Row",))
    made = piece(strand(chain(61)), hung, rows=(row(count=5, every=2),), ways=(way,))
    worn = as_worn(made, way)
    assert [run.name for run in worn.runs] == ["Strand"]
    assert worn.rows == ()
    assert len(expand(worn).members) < len(expand(made).members)


def test_a_way_may_leave_off_one_drop_of_a_row_but_not_a_part_of_a_rule():
    way = Way(name="bare", without=("Row 1",))
    made = piece(strand(chain(61)), rows=(row(count=5, every=2),), ways=(way,))
    names = [run.name for run, _ in written_out(as_worn(made, way))]
    assert names == ["Strand", "Row 0", "Row 2"]
    bib = demo("curtain-bib")
    with pytest.raises(DomainError, match="leave off “Bib” as a whole"):
        as_worn(bib, Way(name="bare", without=("Bib 2",)))


def test_taking_out_a_run_called_like_a_word_of_a_wish_leaves_the_wish():
    fit = LengthFit(name="deep", run="Strand", to="fall", mm=40)
    made = replace(piece(strand(chain(61)), drop("fall", 2, rings())), fits=(fit,))
    assert remove_run(made, "fall").piece.fits == (fit,)
    assert remove_run(made, "Strand").piece.fits == ()


def test_what_is_taken_out_leaves_no_word_of_itself():
    way = Way(name="bare", without=("A", "B"), hooked=Place(run="A"))
    kept = Accepted(code="heavy", place="A, ring 1", run="A")
    made = piece(
        strand(chain(61)), drop("A", 2, rings()), drop("B", 4, rings()), ways=(way,),
        accepted=(kept,), pinned=(Quantity(run="A", item=1), Quantity(run="B", item=1)),
    )  # fmt: skip
    left = remove_run(made, "A").piece
    assert left.ways == (Way(name="bare", without=("B",)),)
    assert (left.accepted, left.pinned) == ((), (Quantity(run="B", item=1),))
    assert "A" not in {name for _, name in references(left)}


def test_a_way_hooked_on_an_item_that_goes_is_hooked_at_the_catch():
    way = Way(name="short", hooked=Place(run="Strand", item=2, at=1))
    made = piece(strand(chain(61), chain(3), rings(2)), ways=(way,))
    assert delete(made, Spot("Strand", (1,))).piece.ways[0].hooked is None
    assert delete(made, Spot("Strand", (0,))).piece.ways[0].hooked.item == 1


@pytest.mark.parametrize("name", demo_names())
def test_every_run_knows_the_owner_it_was_written_out_from(name):
    made = demo(name)
    assembly = expand(made)
    for run, origin in written_out(made):
        owner = made.owner(origin.owner)
        assert owner is not None
        assert assembly.origins[run.name] == origin
        assert assembly.made_by(owner.name, run.name)
        if isinstance(owner, Run):
            assert (origin, run) == (Origin(owner.name), owner)
        elif isinstance(owner, TiedRows):
            assert origin.level is not None
        else:
            assert origin.ordinal is not None
    for member in assembly.members:
        spot = spot_of(assembly, member.run, member.item)
        assert spot is None or spot.owner == assembly.origins[member.run].owner


def test_one_side_of_an_overruled_drop_knows_its_side():
    overrides = (Override(number=1, side="left", items=(rings(),)),)
    made = piece(strand(chain(61)), rows=(row(count=3, every=2, overrides=overrides),))
    origins = {run.name: origin for run, origin in written_out(made)}
    assert origins["Row 1 left"] == Origin("Row", 1, side="left")
    assert feet(Trials().hung(made), made.rows[0])[1].fall > 20  # the right one's, with its chain


# --- references ---------------------------------------------------------------------------------


@pytest.mark.parametrize("name", demo_names())
def test_the_walker_finds_every_id_that_stands_in_a_file(name):
    """Against a second way: every string of the piece that is an id of its own."""
    from maglia.files.piece_json import piece_text

    made = demo(name)
    ids = set(catalogue(made))
    text = piece_text(replace(made, parts=(), units=()))
    written = {ref for ref in ids if f'"{ref}"' in text}
    assert things_named((*made.owners, made.closure)) == written
    everything = {thing.id for thing in made_of(written, catalogue(made))}
    assert everything == ids  # nothing in the file is there for nothing


@given(st.sampled_from(demo_names()), st.data())
def test_exchanging_a_reference_and_back_is_the_identity(name, data):
    made = demo(name)
    sort, ref = data.draw(st.sampled_from(sorted(set(references(made)))))
    there = exchanged(made, sort, {ref: "another name"})
    assert (sort, ref) not in set(references(there))
    assert exchanged(there, sort, {"another name": ref}) == made


def test_what_uses_a_part_is_found_with_its_place():
    made = demo("lamplighters-collar")
    uses = uses_of(made, "rolo-3")
    assert ("Strand, item 8", "Strand", (7,)) in [(u.words, u.owner, u.path) for u in uses]
    assert [u.words for u in uses_of(made, made.closure.clasp)] == ["the clasp"]
    assert "the catch" in [u.words for u in uses_of(made, made.closure.catch)]
    bead = made.units[0].stack[0]
    assert f"made into {made.units[0].name}" in [u.words for u in uses_of(made, bead)]
    tied = demo("curtain-bib")
    assert "Bib, by its rule" in [u.words for u in uses_of(tied, tied.rows[0].unit)]
    assert [u.words for u in uses_of(tied, "ring-6")] == ["Bib, item 1", "Bib, by its rule"]


# --- calling things otherwise -------------------------------------------------------------------


@pytest.mark.parametrize("name", demo_names())
def test_everything_follows_a_run_that_is_called_otherwise(name):
    made = demo(name)
    for owner in made.owners:
        done = run_renamed(made, owner.name, "Otherwise").piece
        assert made.name == done.name
        assert owner.name not in {name for _, name in references(done)}
        before, after = expand(made), expand(done)
        assert len(before.joints) == len(after.joints)
        assert [m.ref for m in before.members] == [m.ref for m in after.members]
        back = run_renamed(done, "Otherwise", owner.name).piece
        assert back == made


def test_what_a_rule_makes_is_called_after_it_and_what_hangs_from_it_follows():
    hung = Run(name="Tail", kind="drop", lies="paired", items=(rings(),),
               start=Place(run="Row 1", item=2, at=3))  # fmt: skip
    kept = Accepted(code="drop-sticks-out", place="Row 1, left", run="Row 1")
    fit = HemFit(name="hem of Row", row="Row")
    made = piece(strand(chain(61)), hung, rows=(row(count=5, every=2),), accepted=(kept,),
                 fits=(fit,))  # fmt: skip
    done = run_renamed(made, "Row", "Fringe").piece
    assert done.run("Tail").start.run == "Fringe 1"
    assert done.accepted[0] == replace(kept, place="Fringe 1, left", run="Fringe 1")
    assert done.fits[0] == replace(fit, name="hem of Fringe", row="Fringe")


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("Drop", "Strand", "a run “Strand” already"), ("Drop", "Row 1", "a run “Row 1” already"),
        ("Row", "Drop", "a run “Drop” already"), ("Drop", "  ", "at least one letter"),
        ("Drop", "closure", "stands for the catch"), ("Drop", "x" * 121, "too long"),
        ("Row", "Ro", "a run “Ro 1” already"), ("Nobody", "x", "no run “Nobody”"),
    ],
)  # fmt: skip
def test_names_that_are_taken_or_none_are_refused(old, new, said):
    made = piece(strand(chain(61)), drop("Drop", 5, rings()), drop("Ro 1", 6, rings()),
                 rows=(row(count=3, every=2),))  # fmt: skip
    with pytest.raises(DomainError, match=said):
        run_renamed(made, old, new)


def test_parts_units_and_the_piece_are_called_otherwise():
    kept = Accepted(code="ring-aspect-ratio", place="Ring 4", thing="ring")
    made = replace(piece(strand(chain(61), rings())), accepted=(kept,))
    done = thing_renamed(made, "ring", "Joining  ring ").piece
    assert catalogue(done)["ring"].name == "Joining ring"
    assert done.accepted[0].place == "Joining ring"
    assert thing_renamed(made, "link", "Lamp link").piece.units[0].name == "Lamp link"
    assert piece_renamed(made, "Lamps").piece.name == "Lamps"
    with pytest.raises(DomainError, match="a “Bead 8” already"):
        thing_renamed(made, "ring", "Bead 8")
    with pytest.raises(DomainError, match="not among the parts"):
        thing_renamed(made, "gone", "x")


def test_a_new_run_is_never_called_like_one_that_a_row_makes():
    made = piece(strand(chain(61)), rows=(replace(row(count=5, every=2), name="Drop"),))
    assert free_name(made, "Drop") == "Drop 3"  # “Drop 0” to “Drop 2” are the row's
    assert expand(add_owner(made, drop("Drop", 9, rings())).piece)


def test_a_wish_about_the_same_takes_the_place_of_the_old_one_whatever_it_is_called():
    from maglia.core.fit.wishes import with_fit

    made = with_fit(
        demo("gallery-tiers"), LengthFit(name="own words", run="Tier 2", to="fall", mm=4)
    )
    wish = read_fit("fall of Tier 2 60", made)
    assert [f for f in with_fit(made, wish).fits if isinstance(f, LengthFit)] == [wish]
    other = read_fit("length of Tier 2 500", made)
    assert len(with_fit(made, other).fits) == len(made.fits) + 1


def test_swags_of_a_row_are_pulled_as_the_row():
    swags = SwagRow(name="Swags", run="Strand", places=(2, 8, 14), items=(chain(9),))
    made = piece(strand(chain(41)), rows=(swags,))
    assert sag_pulled(made, "Swags 1", 14.0).swags == ("Swags",)
    assert isinstance(made.owner("Swags"), SwagRow)
    assert isinstance(two_rows().owner("Drops"), DropRow)
    look = Look(expand(made), None)
    assert [look.assembly.made_by("Swags", n) for n in ("Swags 0", "Swags 1", "Strand")] == [
        True, True, False,
    ]  # fmt: skip
    assert TiersFit in {type(f) for f in demo("gallery-tiers").fits}
    assert unit("dangle").unit == "dangle"
