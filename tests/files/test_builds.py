"""Builds in the workshop: marks, notes and stock, through an export, a move and a broken record."""

import pytest
from msgspec.structs import replace

from maglia.core.joining.marked import Mark
from maglia.core.joining.ways import USUAL, with_habit
from maglia.core.parts.parts import Chain, Ring, Wire
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Deed
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from maglia.files.workshop import build_stock, builds, day_stock, stock
from maglia.files.workshop.build_stock import Short
from maglia.files.workshop.contents import exported, import_whole, read_whole
from maglia.files.workshop.store import open_workshop

AT = "2026-01-01T10:00:00"
PIECE = read_piece(demo_path("spotlight-swags"))
RING, ROLO = Ring(id="ring", name="Ring"), Chain(id="rolo", name="Rolo", pitches_mm=(3.0,))
WIRE = Wire(id="wire", name="Wire", wire_mm=0.6)


@pytest.fixture
def own(tmp_path):
    made = open_workshop(tmp_path / "workshop.sqlite")
    yield made
    made.close()


def marked(*places, sort="again"):
    return [Mark(place=place, sign=f"ring|{place}", sort=sort, words=place) for place in places]


def lots(own, part):
    found = stock.lying(own).get(part.id)
    return {lot.name: (lot.amount, lot.first_phase) for lot in found.lots} if found else {}


def test_a_build_is_there_again_with_its_marks_in_the_order_they_were_made(own, tmp_path):
    number = builds.begin(own, PIECE, with_habit(USUAL, "order=carrier"), AT)
    builds.mark(own, number, marked("b", "a"), AT, 8.0)
    builds.mark(own, number, marked("c"), AT, 5.0)
    builds.mark(own, number, marked("a"), AT, 2.0)  # done again: its time adds up
    builds.note(own, number, "try", "measured", "measured 431 mm", AT, 431.0)
    found = builds.read(own, number)
    assert (found.given, found.piece, found.working.order) == (PIECE, PIECE, "carrier")
    assert list(builds.marks(own, number)) == ["b", "a", "c"]
    assert builds.seconds(own, number) == 15.0
    other = builds.begin(own, PIECE, USUAL, AT)
    builds.end(own, number, AT)
    assert [(one.id, one.marks, bool(one.ended)) for one in builds.listed(own)] == [
        (other, 0, False), (number, 3, True),
    ]  # fmt: skip
    builds.unmark(own, number, ["b"])
    stock.do(own, ROLO, Deed("bought", 100), AT)
    build_stock.cut(own, number, ROLO, 20, "cut/rolo/20#1", AT)
    text = exported(own)
    (tmp_path / "own.json").write_text(text)
    copy = open_workshop(tmp_path / "copy.sqlite")
    import_whole(copy, read_whole(tmp_path / "own.json"))
    assert exported(copy) == text
    assert builds.marks(copy, number) == builds.marks(own, number)
    assert builds.notes(copy, number) == builds.notes(own, number)
    build_stock.put_back(copy, number, "cut/rolo/20#1", AT)
    assert lots(copy, ROLO) == {"lot 1": (100, 0)}
    copy.close()


def test_places_change_their_names_all_at_once(own):
    number = builds.begin(own, PIECE, USUAL, AT)
    builds.mark(own, number, marked("one", "two", "three", "other"), AT, 4.0)
    builds.move(own, number, {"one": "two", "two": "three", "three": "one"}, {})
    found = builds.marks(own, number)
    assert list(found) == ["two", "three", "one", "other"]
    assert found["two"].sign == "ring|one"


def test_a_build_that_is_not_sound_or_not_there_is_said(own):
    number = builds.begin(own, PIECE, USUAL, AT)
    own.database.execute("UPDATE build SET piece = '{\"name\": 1}'")
    with pytest.raises(DomainError, match=f"build {number} is not sound"):
        builds.read(own, number)
    for do in (lambda: builds.read(own, 9), lambda: builds.end(own, 9, AT)):
        with pytest.raises(DomainError, match="there is no build 9"):
            do()


def test_parts_are_laid_out_used_given_back_and_spoilt(own):
    stock.do(own, RING, Deed("bought", 10), AT)
    first, second = (builds.begin(own, PIECE, USUAL, AT) for _ in range(2))
    assert build_stock.reserve(own, first, {"ring": 7}, AT) == []
    # two builds cannot have the same rings
    assert build_stock.reserve(own, second, {"ring": 7, "bead": 2}, AT) == [
        Short("ring", 7, 3), Short("bead", 2, 0),
    ]  # fmt: skip
    assert (stock.lying(own)["ring"].bag, stock.lying(own)["ring"].laid_out) == (0, 10)
    assert build_stock.spoil(own, first, "ring", AT)  # none in the bag: of what was laid out
    assert build_stock.laid_out(own, first) == {"ring": 6}
    build_stock.release(own, second, AT)
    assert stock.lying(own)["ring"].bag == 3
    assert build_stock.spoil(own, first, "ring", AT)  # another of the bag takes its place
    assert build_stock.laid_out(own, first) == {"ring": 6}
    # the piece was changed: more of one, none of another
    stock.do(own, Ring(id="bead", name="Bead"), Deed("bought", 5), AT)
    build_stock.reserve(own, first, {"ring": 7, "bead": 3}, AT)
    assert build_stock.laid_out(own, first) == {"ring": 7, "bead": 3}
    assert build_stock.reserve(own, first, {"ring": 6}, AT) == []
    assert build_stock.laid_out(own, first) == {"ring": 6}
    assert stock.lying(own)["bead"].bag == 5
    build_stock.use(own, first, AT)
    assert build_stock.laid_out(own, first) == {}
    assert stock.lying(own)["ring"].total == 2
    assert not build_stock.spoil(own, first, "charm", AT)
    assert stock.faults(own) == []


def test_lengths_are_cut_from_the_shortest_that_gives_them(own):
    for links in (100, 40, 21, 20):
        stock.do(own, ROLO, Deed("bought", links), AT)
    number = builds.begin(own, PIECE, USUAL, AT)
    assert build_stock.cut(own, number, ROLO, 20, "cut/rolo/20#1", AT) == ""
    assert set(lots(own, ROLO)) == {"lot 1", "lot 2", "lot 3"}  # the one of 20 is whole gone
    build_stock.cut(own, number, ROLO, 20, "cut/rolo/20#2", AT)  # of 21, one link is lost
    build_stock.cut(own, number, ROLO, 20, "cut/rolo/20#3", AT)
    assert lots(own, ROLO) == {"lot 1": (100, 0), "off-cut": (19, 0)}
    build_stock.put_back(own, number, "cut/rolo/20#3", AT)
    build_stock.put_back(own, number, "cut/rolo/20#3", AT)  # once is enough
    assert lots(own, ROLO) == {"lot 1": (100, 0), "lot 2": (40, 0)}
    said = build_stock.cut(own, number, ROLO, 100_000, "cut/rolo/9#1", AT)
    assert said.startswith("no length of Rolo on record gives 100000 links")
    assert "nothing is taken" in build_stock.cut(own, number, WIRE, 5_000, "make/x#1", AT)
    assert stock.faults(own) == []


def test_what_was_cut_and_is_not_wanted_is_a_length_of_its_own_in_its_phase(own):
    pattern = Chain(id="ls", name="Long-short", pitches_mm=(7.0, 3.0, 3.0), openable=True)
    stock.do(own, pattern, Deed("bought", 30, first_phase=1), AT)
    number = builds.begin(own, PIECE, USUAL, AT)
    build_stock.cut(own, number, pattern, 4, "cut/ls/4#1", AT)
    build_stock.lay_aside(own, number, "cut/ls/4#1", AT)
    assert lots(own, pattern) == {"off-cut": (26, (1 + 4) % 3), "off-cut 2": (4, 1)}
    build_stock.put_back(own, number, "cut/ls/4#1", AT)  # it is no cut of the build any more
    assert sum(n for n, _ in lots(own, pattern).values()) == 30
    assert stock.faults(own) == []


def test_a_build_takes_what_was_laid_out_for_its_day_and_the_rest_comes_back(own):
    pattern = Chain(id="ls", name="Long-short", pitches_mm=(7.0, 3.0, 3.0))
    stock.do(own, RING, Deed("bought", 12), AT)
    for links in (40, 25):
        stock.do(own, pattern, Deed("bought", links, first_phase=1), AT)
    piece, other = replace(PIECE, id="own"), replace(PIECE, id="other", name=PIECE.name)
    laid = [("ls", lot.name, lot.amount) for lot in stock.lying(own)["ls"].lots]
    day_stock.lay_out(own, "day", [(piece, 2), (other, 1)], {"ring": 10}, laid, AT)
    assert (stock.lying(own)["ring"].bag, lots(own, pattern)) == (2, {})
    strange = builds.begin(own, read_piece(demo_path("ushers-y")), USUAL, AT)
    assert build_stock.reserve(own, strange, {"ring": 5}, AT) == [Short("ring", 5, 2)]
    assert build_stock.cut(own, strange, pattern, 5, "a#1", AT).startswith("no length")
    number = builds.begin(own, piece, USUAL, AT, day_stock.day_for(own, piece.id))
    assert build_stock.reserve(own, number, {"ring": 7}, AT) == []  # of the ten, none of the bag
    assert build_stock.laid_out(own, number) == {"ring": 7}
    assert build_stock.cut(own, number, pattern, 10, "a#1", AT) == ""  # the shorter: 14 are left
    assert build_stock.cut(own, number, pattern, 10, "a#2", AT) == ""
    build_stock.put_back(own, number, "a#2", AT)
    day_stock.give_up(own, "day", AT)
    assert stock.lying(own)["ring"].bag == 3
    found = lots(own, pattern)
    # 25 links from phase 1: ten and their cut lead to phase (1 + 11) % 3, and 14 are left
    assert sorted(found.values()) == [(14, 0), (40, 1)]
    assert {"lot 1", "off-cut"} == set(found)
    with pytest.raises(DomainError, match="this day is not laid out"):
        day_stock.give_up(own, "day", AT)
    assert stock.faults(own) == []
