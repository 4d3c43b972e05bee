"""What a phrase means at a place: numbers, names, places; nothing said is dropped."""

import string

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import CENTRE, Spot
from maglia.core.piece.items import ChainItem, RepeatItem, RingItem
from maglia.core.piece.piece import Piece, Place
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from maglia.phrases.book import BENCH, CHAIN, FREE, RINGS, STRUNG
from maglia.phrases.here import Here
from maglia.phrases.line import completed, understood
from maglia.phrases.phrase import VERBS, phrase_offers
from maglia.phrases.script import with_kept, write
from saying import offers, plain, said

TRAY = with_kept(Tray(), write(f"{BENCH}begin necklace", Tray()).keeps)
MORE = with_kept(TRAY, write("new chain rolo 4 inside 3 wire 0.9; begin necklace", Tray()).keeps)
EMPTY = Piece()
AT_CHAIN = Spot("Strand", (CENTRE,))


def on(script):
    return write(script, TRAY).piece


def done(text, script=CHAIN, spot=AT_CHAIN, mark=0):
    return said(text, on(script), TRAY, spot, mark).piece


def refusal(text, script=CHAIN, spot=AT_CHAIN):
    (offer, *others) = offers(text, on(script), TRAY, spot)
    assert offer.fault is not None or not others
    with pytest.raises(DomainError) as fault:
        offer.do()
    return str(fault.value)


def centre(text):
    item = said(text, EMPTY, TRAY).piece.runs[0].centre
    return replace(item, part=plain(item.part)) if hasattr(item, "part") else item


# --- numbers --------------------------------------------------------------------------------------


@pytest.mark.parametrize(("text", "links"), [
    ("420 mm rolo 3", 139),  # 140 links are 420: one less, for a link lies on the fold
    ("16 in rolo 3", 135),  # 406.4
    ("40 cm rolo 3", 133), ("1/2 m of rolo 3", 167), ("1 3/4 in rolo 3", 15),
    ("37 links of rolo 3", 37), ("37 rolo 3", 37), ("=2*20+1 rolo 3", 41),
])  # fmt: skip
def test_a_number_with_a_unit_is_a_length(text, links):
    assert centre(text) == ChainItem(part="rolo-3", links=links)


def test_what_is_told_of_a_length_on_the_fold_is_what_is_put_in():
    (offer,) = offers("17 in rolo 3", EMPTY, TRAY)  # 431.8 mm
    assert (offer.words, offer.added) == ("143 links rolo 3", "143 links, 2.8 mm short")
    assert offer.do().piece.runs[0].centre.links == 143


def test_off_the_fold_a_length_is_the_nearest_links_and_the_rest_is_told():
    (offer,) = offers("40 cm rolo 3", on(CHAIN), TRAY, Spot("Strand", (0,)))
    assert offer.added == "133 links, 1.0 mm short"
    assert offer.do().piece.runs[0].items[1].links == 133


def test_a_count_stands_before_a_size_after():
    assert centre("3 ring 4") == RingItem(part="ring-4", count=3)
    assert centre("2 ring 4 abreast") == RingItem(part="ring-4", abreast=2)
    for text, why in (
        ("0 rolo 3", "“0” is no whole number"),
        ("2.5 rolo 3", "“2.5” is no whole"),
        ("99999 rolo 3", "up to 20,000"),
        ("350 mm ring 4", "cannot be cut to a length"),
        ("350 mm amber", "cannot be cut|cannot stand here"),
        ("5% rolo", "no number"),
    ):
        with pytest.raises(DomainError, match=why):
            said(text, EMPTY, TRAY)


def test_inches_and_centimetres_stand_in_places_too():
    along = done("drop leaf with ring 4 at 12 cm", STRUNG).runs[-1].start
    assert (along.port, along.at) == ("along", 120)


# --- names ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("text", [
    "41 rolo 3", "41 ro 3", "41 3 rolo", "41 rolos 3", "41 links of rolo 3", "41 chain rolo 3",
    "41 “rolo 3”", "put 41 rolo 3", "41 x rolo 3",
])  # fmt: skip
def test_words_may_be_shortened_and_stand_in_any_order(text):
    assert centre(text) == ChainItem(part="rolo-3", links=41)


def test_what_fits_alike_is_shown_as_choices_and_a_script_refuses_it():
    both = offers("41 rolo", EMPTY, MORE)
    assert [plain(offer.thing.id) for offer in both] == ["rolo-3", "rolo-4"]
    assert all(offer.choice for offer in both)
    with pytest.raises(DomainError, match="may be “rolo 3” or “rolo 4”: say more"):
        write("begin necklace; 41 rolo", MORE)
    # what the piece has already comes before the tray's
    held = write("begin necklace; 9 rolo 4", MORE).piece
    assert [plain(one.thing.id) for one in offers("9 rolo", held, MORE)] == ["rolo-4"]


def test_two_choices_in_one_phrase_are_each_a_reading():
    found = offers("41 rolo, ring 4, rolo 9 links", EMPTY, MORE)
    assert found[0].fault is not None  # “9 links” after a name is no size of it
    found = offers("41 rolo, ring 4, 9 rolo", EMPTY, MORE)
    assert len(found) == 4
    assert len({tuple(i for i in o.do().piece.runs[0].items) for o in found}) == 2


def test_units_go_before_nothing_loose_and_dangles_before_links_at_a_foot():
    (*_, hung) = done("drop amber with ring 4").runs[-1].items
    assert plain(hung.unit) == "amber-6-dangle"
    assert plain(centre("amber").unit) == "amber-6-link"
    assert "is a bead, and cannot stand here: it goes on wire" in refusal("seed")


def test_the_word_that_is_not_known_is_named_with_the_nearest():
    text = "ring 4, 9 rolo 3, rosa link"
    (offer,) = offers(text, EMPTY, TRAY)
    assert offer.words == "“rosa” is not known here: did you mean “rose”?"
    assert text[slice(*offer.fault)] == "rosa"
    (offer,) = offers("drop teal with ring 4 at nose", on(CHAIN), TRAY, AT_CHAIN)
    assert offer.fault == (25, 29)


# --- nothing is dropped ---------------------------------------------------------------------------


@pytest.mark.parametrize(("text", "why"), [
    ("24 amber on rolo 3", "“24 amber on rolo 3”|“on”|“24 amber on"),
    ("drop teal at link 6 upside down", "upside"), ("ring 4 upside down", "upside"),
    ("drop teal with ring 4 with ring 5", "“with” is said twice"),
    ("close lobster into ring 9 gently", "gently"), ("close open gently", "gently"),
    ("begin necklace sideways", "“sideways” was not understood"),
    ("drop teal at fold on the left", "lies on the fold"),
    ("swag 9 cable from link 4", "from where to where"),
    ("drop leaf by nose and left", "is said of a connector"),
    ("drop arch by nose", "“nose” is no hole of “arch 30”: it has left, right, foot"),
    ("rows 3 rose link, tightly", "“tightly” is not known"),
    ("new link amber on wire, loops 2 sideways", "“sideways” was not understood"),
    ("new ring 4 x 1 inner sideways", "“sideways” was not understood"),
    ("extender 9 cable called", "called|“called”"), ("way Day: upside down", "“upside down”"),
    ("ring 4 beside ring 5", "cannot be held"),
    ("9 rolo 3 from link 2", "past the pattern of “rolo 3”, which has 1 link"),
    ("close through ring 12", "cannot be said of a closure"),
    ("string 9 amber on silk, ends tip, tightly", "tightly"),
    ("drop teal every 4 links at link 3 by left", "left|by|“left”"),
    ("drop teal at link 6, called strand", "“strand” is the name of another run"),
    ("new dangle rose on head pin, loop 2, called amber 6 dangle", "the name of another unit"),
    ("new links amber, rose on wire, loops 2, called A", "names one, and these are several"),
    ("take up last ring", "say take out"), ("keep collar", "names no wish"),
    ("3 drops ring 4, teal at links 1 2", "3 drops, and 2 places"),
    ("(ring 4", "opens a bracket that is not closed"), ("ring 4)", "was not opened"),
    ("", "nothing is said"), ("ring ;", "“;” is not known"),
    ("20 turns of ring 4", "“of ring 4” was not understood"),
])  # fmt: skip
def test_what_cannot_be_done_is_refused_in_words(text, why):
    import re

    found = offers(text, on(CHAIN), TRAY, AT_CHAIN)
    assert found
    reasons = []
    for offer in found:
        try:
            offer.do()
            reasons.append("done" if not offer.choice else "may be")
        except DomainError as fault:
            reasons.append(str(fault))
    assert any(re.search(why, reason) for reason in reasons), reasons
    assert all(reason != "done" for reason in reasons)


def test_faults_of_yesterday_stay_mended():
    ringed = f"{CHAIN}; close lobster into ring 9"
    hung = done("drop ring 4, teal at catch", ringed).runs[-1]
    assert (hung.start, len(hung.items)) == (Place(run="closure", port="catch"), 2)
    from_ring = done("drop key with ring 4", CHAIN, Spot("Strand", (0,))).runs[-1]
    assert [item.kind for item in from_ring.items] == ["rings", "part"]
    on_wire = offers("new link amber on 0.6, loops 2 wrapped 2", EMPTY, TRAY)[0].thing
    assert plain(on_wire.wire) == "wire-0.6"
    extended = on(f"{ringed}; extender 9 cable")
    made = said("lobster", extended, TRAY, Spot("Extender", (0,))).piece
    assert made.closure == extended.closure  # a clasp in an extender lies in it
    assert plain(made.run("Extender").items[-1].part) == "lobster-10"
    assert "an earring hangs from the ear" in refusal(
        "close lobster into ring 4", "begin earrings for usher; ear hook, ring 4", None
    )


def test_a_clasp_alone_closes_and_what_hangs_alone_is_hung_in_the_line_only():
    (offer,) = offers("lobster", on(CHAIN), TRAY, AT_CHAIN)
    assert "since a clasp closes" in offer.added
    assert plain(offer.do().piece.closure.clasp) == "lobster-10"
    hung = offers("teal dangle", on(CHAIN), TRAY, AT_CHAIN, 6)[0]
    assert hung.do().piece.runs[-1].start.at == 6
    for line in ("lobster", "teal dangle"):
        with pytest.raises(DomainError, match="is not said"):
            write(f"{CHAIN}; {line}", TRAY)


# --- places ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(("where", "script", "place", "lies"), [
    ("fold", CHAIN, Place(run="Strand", item=0, at=0), "fold"),
    ("link 0", CHAIN, Place(run="Strand", item=0, at=0), "fold"),
    ("link 6", CHAIN, Place(run="Strand", item=0, at=6), "paired"),
    ("link 6 on the right", CHAIN, Place(run="Strand", item=0, at=6, side="right"), "free"),
    ("2nd ring", CHAIN, Place(run="Strand", item=1, at=2), "paired"),
    ("last ring", RINGS, Place(run="Strand", item=10, at=1), "paired"),
    ("1st ring", RINGS, Place(run="Strand", item=2, at=1), "paired"),  # one lies on the fold
    ("link 3 past 1st ring", RINGS, Place(run="Strand", item=9, at=3), "paired"),
    ("mid of 2nd rose link", RINGS, Place(run="Strand", item=3, at=1, port="mid"), "paired"),
    ("lower loop of last rose", RINGS, Place(run="Strand", item=7, at=1, port="b"), "paired"),
    ("bead 9", STRUNG, Place(run="Strand", item=0, at=9), "paired"),
    ("bead 0", STRUNG, Place(run="Strand", item=0, at=0), "fold"),
    ("gap 9", STRUNG, Place(run="Strand", item=0, at=9, port="gap"), "paired"),
    ("right end", FREE, Place(run="Strand", item=9, at=1), "free"),
    ("left end", FREE, Place(run="Strand", item=1, at=1), "free"),
    ("2nd rose link", FREE, Place(run="Strand", item=4, at=1, port="mid"), "free"),
])  # fmt: skip
def test_places_in_words(where, script, place, lies):
    run = done(f"drop leaf with ring 4 at {where}", script, None).runs[-1]
    assert (run.start, run.lies) == (place, lies)
    assert expand(done(f"drop leaf with ring 4 at {where}", script, None))


def test_beads_are_counted_without_bare_thread_and_knots():
    strung = "string 20 mm bare, amber, 30 mm bare, rose, knot, amber on silk, ends tip"
    script = f"begin bracelet free for usher; {strung}"
    place = done("drop leaf with ring 4 at bead 3", script, None).runs[-1].start
    beads = on(script).runs[0].items[0].beads
    assert plain(beads[place.at - 1]) == "amber-6"
    assert place.at == 4 + 1 + 6 + 1 + 1 + 1  # steps of 5 mm count as places of the thread


@pytest.mark.parametrize(("where", "why"), [
    ("link 99", "“Strand” has link 50 last"), ("bead 3", "no bead lies in Strand"),
    ("3rd ring", "counted outward there are 2"), ("nose", "“nose” is no place here"),
    ("foot of fan", "“fan” is no place here"), ("far loop", "say which link|“far loop”"),
    ("link 3 past 9th ring", "counted outward"), ("12 cm", "on chain say link 12"),
])  # fmt: skip
def test_a_place_that_is_not_there_says_what_is(where, why):
    import re

    assert re.search(why, refusal(f"drop leaf with ring 4 at {where}"))


def test_a_mirrored_pair_of_holes_is_one_pair_and_one_hole_is_one():
    script = "begin necklace for usher; fan, ring 4, 61 rolo 3, ring 5"
    pair = done("2 drops ring 4, leaf at left and right of fan", script, None).runs
    assert [run.lies for run in pair[1:]] == ["paired"]
    one = done("drop ring 4, leaf at left of fan", script, None).runs[-1]
    assert (one.lies, one.start.port) == ("free", "left")
    assert len([m for m in expand(done("drop ring 4, leaf at left of fan", script, None)).members
                if m.run == "Drop"]) == 2  # fmt: skip


# --- forms ----------------------------------------------------------------------------------------


def test_a_repeat_across_the_fold_lies_on_it_with_its_first():
    run = said("3 x (ring 6, rose link), ring 6", EMPTY, TRAY).piece.runs[0]
    assert (run.centre.kind, run.items[0].kind) == ("rings", "unit")
    assert isinstance(run.items[1], RepeatItem)
    assert run.items[1].times == 2
    odd = said("5 rose link", EMPTY, TRAY).piece.runs[0]
    built = expand(Piece(parts=TRAY.parts, units=TRAY.units, runs=(odd,)))
    links = [plain(m.ref) for m in built.members if m.kind == "bead link"]
    assert links == ["rose-8-link"] * 5
    with pytest.raises(DomainError, match="leave none to lie on it"):
        said("4 rose link", EMPTY, TRAY)


def test_an_earring_is_said_thing_by_thing():
    made = write("begin earrings for usher; ear hook; ring 4; 9 cable; amber dangle", TRAY).piece
    assert [item.kind for item in made.runs[0].items] == ["part", "rings", "chain", "unit"]
    assert evaluate(made).hung.state == "converged"


def test_a_drop_is_said_from_either_end():
    down = done("drop ring 4, 9 cable, teal at link 6").runs[-1]
    up = done("drop teal on 9 cable with ring 4 at link 6").runs[-1]
    assert down == up


def test_a_ring_is_asked_for_where_nothing_opens():
    straight = done("drop teal dangle at link 6").runs[-1]
    assert [item.kind for item in straight.items] == ["unit"]  # its loop is opened
    held = said("drop 9 cable, teal at link 6", on(CHAIN), TRAY, AT_CHAIN)
    assert held.piece.runs[-1].items[0].kind == "rings"
    assert held.words.endswith("since nothing opens there added") or "nothing opens" in held.words
    row = said("drops every 5 links: 4 cable, teal", on(CHAIN), TRAY, AT_CHAIN).piece
    assert row.rows[0].items[0].kind == "rings"
    assert "cannot-be-joined" not in {check.code for check in evaluate(row).checks}


def test_drops_by_turns_and_rows():
    made = done("3 drops 5 / 9 / 12 cable, teal / amber / leaf with ring 4 at 1st ring").runs[1:]
    assert [run.items[1].links for run in made] == [5, 9, 12]
    assert len({run.start for run in made}) == 1
    (row,) = done("drops ring 4, teal dangle / amber dangle at links 1 to 7").rows
    assert row.places == tuple(range(1, 8))
    assert [one.number for one in row.overrides] == [1, 3, 5]
    (row,) = done("drops with ring 4 every 6 links: teal").rows
    assert (row.rule, row.every, row.count) == ("every", 6, 17)
    counts = done("drops 9 7 5 cable, teal with ring 4 at links 2 4 6").rows[0]
    assert [one.items[1].links for one in counts.overrides] == [7, 5]
    sides = done("drops ring 4, teal on both sides at links 2 4").rows
    assert len(sides) == 2


@pytest.mark.parametrize(("links", "every", "drops"), [(31, 5, 7), (31, 6, 5), (9, 9, 1)])
def test_rows_fill_the_chain(links, every, drops):
    script = f"begin necklace for usher; {links} cable"
    made = done(f"drops every {every} links: amber dangle with ring 4", script)
    assert len([m for m in expand(made).members if m.kind == "dangle"]) == drops


def test_several_strands_of_different_lengths():
    runs = done("3 strands 47 / 52 / 57 cm cable at last ring").runs
    assert [run.name for run in runs] == ["Strand", "Strand 2", "Strand 3", "Strand 4"]
    assert [run.centre.links for run in runs[1:]] == [117, 129, 143]  # odd, of 4 mm
    assert {run.end for run in runs[1:]} == {Place(run="Strand", item=1, at=2)}


def test_things_go_in_behind_a_link_of_chain():
    made = done("amber link after link 12")
    assert [item.kind for item in made.runs[0].items] == ["unit", "chain", "rings"]
    assert made.runs[0].centre.links + 2 * made.runs[0].items[1].links == 101


def test_the_cursor_moves_with_what_is_put_in_alone():
    piece = on(CHAIN)
    for text in ("drop ring 4, teal at link 6", "swags 24 rolo 3 between links 4 10",
                 "close lobster into ring 9", "for usher", "rename Strand to Strand"):  # fmt: skip
        assert said(text, piece, TRAY, AT_CHAIN).spot in (AT_CHAIN, None), text
    assert said("at 2nd ring", piece, TRAY, AT_CHAIN).spot == Spot("Strand", (0,))


# --- the line -------------------------------------------------------------------------------------


def test_several_phrases_are_understood_one_after_the_other():
    here = Here(EMPTY, TRAY)
    found = understood("41 rolo 3; 2 ring 5; drop teal at 2nd ring", here)
    assert [offer.words for offer in found.before] == ["41 links rolo 3", "2 × ring 5"]
    assert found.offers[0].do().piece.runs[-1].start.item == 1
    wrong = understood("41 rolo 3; 2 rung 5; drop teal", here)
    assert "41 rolo 3; 2 rung 5; drop teal"[slice(*wrong.offers[0].fault)] == "rung"


def test_the_last_name_can_be_written_whole_or_be_another():
    found = understood("drop ring 4, 9 ca", Here(on(CHAIN), TRAY, AT_CHAIN))
    assert completed("drop ring 4, 9 ca", found.offers[0]) == "drop ring 4, 9 cable 4"
    names = [offer.thing.name for offer in understood("am", Here(on(RINGS), TRAY)).offers]
    assert names[0].startswith("amber")
    assert len(names) > 1


# --- whatever is written --------------------------------------------------------------------------

WORDS = [
    *VERBS, "new", "ring", "4", "rolo", "3", "teal", "rose", "link", "2", "x", "(", ")", ",", "/",
    "+", ":", "on", "with", "at", "by", "from", "to", "of", "and", "every", "links", "1st", "last",
    "fold", "catch", "40 cm", "loops", "wrapped", "called", "Z", "carrying", "over", "ends", "tip",
    "each", "both", "sides", "left", "right", "the", "hole", "bare", "12 mm", "1/4 in", "necklace",
    "past", "mid", "loop", "row", "between", "into", "after", "spread", "evenly", "without", "only",
    "hooked", "turns", "abreast", "beside", "drop", "end", "knot", "bead", "gap", "doubled", "back",
    "lobster", "length", "hem", "tiers", "keep", "“", "”", ";", "=", "-3", "0", "99999", "18 AWG",
]  # fmt: skip
PIECES = [EMPTY, on(CHAIN), on(RINGS), on(STRUNG), on(FREE)]


@settings(max_examples=400, deadline=None)
@given(st.lists(st.sampled_from(WORDS), max_size=12), st.sampled_from(PIECES))
def test_any_words_are_done_whole_or_refused(words, piece):
    text = " ".join(words)
    spot = Spot("Strand", (CENTRE,)) if piece.runs and piece.runs[0].centre else None
    before = piece_text(piece)
    for offer in understood(text, Here(piece, TRAY, spot)).offers[:3]:
        if offer.fill:
            continue
        try:
            made = offer.do().piece
            expand(made)
        except DomainError:
            continue
        assert piece_from(piece_text(made)) == made
    assert piece_text(piece) == before


@settings(max_examples=150, deadline=None)
@given(st.text(alphabet=string.printable + "“”½×″éß", max_size=60))
def test_any_letters_are_a_phrase_or_a_reason(text):
    for offer in phrase_offers(text, Here(PIECES[1], TRAY, AT_CHAIN)):
        assert offer.words
