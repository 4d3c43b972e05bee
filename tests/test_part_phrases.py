"""New parts and wearers in one phrase: read as a maker says them, refused by name, kept."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from maglia.core.edits.edit import with_thing
from maglia.core.parts.kinds import KINDS
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Found,
    Hole,
    Pin,
    Ring,
    Wire,
)
from maglia.core.piece.piece import Piece, Wearer
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Deed
from maglia.demo import demo_tray
from maglia.files.piece_json import piece_from, piece_text
from maglia.phrases.part_phrases import is_part_phrase, read_part, read_parts
from maglia.phrases.stock_phrases import read_stock
from maglia.phrases.wearer_phrases import read_wearer
from saying import offers


def holes(*said):
    """“name x:y diameter”."""
    made = []
    for one in said:
        *name, place, wide = one.rsplit(" ", 2) if one.count(" ") > 1 else (*one.split(), None)
        x, y = (float(part) for part in place.split(":"))
        made.append(Hole(name=name[0], x_mm=x, y_mm=y, diameter_mm=wide and float(wide)))
    return tuple(made)


@pytest.mark.parametrize(
    ("phrase", "part"),
    [
        ("new ring 4.2 x 0.8 inner gunmetal",
         Ring(id="ring-4.2", name="ring 4.2", inner_mm=4.2, wire_mm=0.8, material="gunmetal")),
        # 5.8 outside less twice 0.8
        ("new ring 5.8 x 0.8 outer",
         Ring(id="ring-5.8", name="ring 5.8", inner_mm=4.2, wire_mm=0.8)),
        ("new rubber ring 8 x 1.3 inner stretch 1.6",
         Ring(id="rubber-ring-8", name="rubber ring 8", inner_mm=8, wire_mm=1.3, closure="elastic",
              material="rubber", stretch_limit=1.6)),
        ("new ring 4 x 0.8 inner closed soft", Ring(id="ring-4", name="ring 4", inner_mm=4,
         wire_mm=0.8, closure="closed", temper="soft")),
        ("new chain rolo 3.1 inside 2.3 wire 0.8, 16 g/m, openable",
         Chain(id="rolo-3.1", name="rolo 3.1", pitches_mm=(3.1,), inner_width_mm=2.3, wire_mm=0.8,
               mass_g_per_m=16, openable=True)),
        ("new bead amber 6 x 8 hole 1", Bead(id="amber-6", name="amber 6", length_mm=6, width_mm=8,
         hole_mm=1, colour="#c58a2e")),
        # of one size, it is as wide as it is long
        ("new bead opal 8", Bead(id="opal-8", name="opal 8", length_mm=8,
         width_mm=8, colour="#b9cfd0")),
        ("new bead tube 12 tube", Bead(id="tube-12", name="tube 12", length_mm=12, shape="tube")),
        ("new cap daisy 3 x 8 hole 1.2 brass price 0.30 0.2 g called Big daisy",
         Bead(id="big-daisy", name="Big daisy", length_mm=3, width_mm=8, hole_mm=1.2, role="cap",
              shape="cap", material="brass", price=0.3, mass_g=0.2)),
        ("new head pin 40 x 0.6 head 2", Pin(id="head-pin-40", name="head pin 40", length_mm=40,
         wire_mm=0.6, head_mm=2)),
        ("new eye pin 45 x 0,7 eye 2.2", Pin(id="eye-pin-45", name="eye pin 45", head="eye",
         length_mm=45, wire_mm=0.7, eye_inner_mm=2.2)),
        # 0.127 × 92^((36 − 20)/39) = 0.812; 20 SWG is 0.914 by its table
        ("new wire 20 AWG", Wire(id="wire-0.812", name="wire 0.812", wire_mm=0.812)),
        ("new wire 20 SWG", Wire(id="wire-0.914", name="wire 0.914", wire_mm=0.914)),
        ("new coil 60 x 0.6", Wire(id="coil-60", name="coil 60", coil_mm=60, wire_mm=0.6,
         sort="memory coil", material="steel")),
        # one unit holds for the sizes joined: 0.25 and 0.03 inches
        ("new ring 1/4 x 0.03 in inner", Ring(id="ring-6.35", name="ring 6.35", inner_mm=6.35,
         wire_mm=0.762)),
        ("new clamp 8 loop 2 takes 3 wide 9",
         End(id="clamp-8", name="clamp 8", sort="clamp", adds_mm=8, loop_mm=2, takes_mm=3,
             width_mm=9)),
        ("new ribbon 14 x 0.8 red", Wire(id="ribbon-14", name="ribbon 14", sort="ribbon",
         material="thread", width_mm=14, wire_mm=0.8, colour="#a3302f")),
        ("new lobster 12 span 10.5 eye 2 gape 1.8 jaw 1.2",
         Clasp(id="lobster-12", name="lobster 12", width_mm=12, span_mm=10.5, eye_mm=2,
               gape_mm=1.8, jaw_wire_mm=1.2)),
        ("new toggle 18 span 3", Clasp(id="toggle-18", name="toggle 18", bar_mm=18, span_mm=3,
         sort="toggle")),
        ("new ear hook 15 loop 2", EarFinding(id="ear-hook-15", name="ear hook 15", below_mm=15,
         loop_mm=2)),
        ("new charm key 24 x 10 loop 3 x 1", Charm(id="key-24", name="key 24", height_mm=24,
         width_mm=10, loop_mm=3, loop_wire_mm=1, shape="key")),
        # a swatch: 104 / 32 = 3.25
        ("new chain 32 links 104 mm inside 1.9 wire 0.6", Chain(id="chain-3.25", name="chain 3.25",
         pitches_mm=(3.25,), inner_width_mm=1.9, wire_mm=0.6, note="swatch: 32 links are 104 mm")),
        ("new chain long-short pitches 6 3 3", Chain(id="long-short", name="long-short",
         pitches_mm=(6, 3, 3))),
        ("new bead opal 8 hole 1 strand 48", Bead(id="opal-8", name="opal 8", length_mm=8,
         width_mm=8, hole_mm=1, colour="#b9cfd0", on_strand=48)),
        ("new bead amber ? x 8", Bead(id="amber", name="amber", width_mm=8, colour="#c58a2e")),
        ("new magnet 6 span 7 holds 0.8 kg", Clasp(id="magnet-6", name="magnet 6", sort="magnet",
         width_mm=6, span_mm=7, holds_g=800)),
        ("new thread silk 0.5 breaks 5 kg", Wire(id="silk-thread-0.5", name="silk thread 0.5",
         sort="thread", material="thread", wire_mm=0.5, breaking_load_g=5000)),
        ("new connector fan 30 x 20 x 1, holes left right 24 apart of 1.6, foot 0:-8 of 2",
         Connector(id="fan-30", name="fan 30", outline="fan", width_mm=30, height_mm=20,
                   thickness_mm=1, holes=holes("left -12:0 1.6", "right 12:0 1.6", "foot 0:-8 2"))),
        # unsaid, a hole lies 1 mm and half of 1.5 mm from the rim, and is of unknown size
        ("new oval 24 x 16 holes left right foot", Connector(id="oval-24", name="oval 24",
         width_mm=24, height_mm=16, holes=holes("left -10.25:0", "right 10.25:0", "foot 0:-6.25"))),
        ("new connector bar 20 x 3, holes 3 along the foot 5 apart of 1.4",
         Connector(id="bar-20", name="bar 20", outline="bar", width_mm=20, height_mm=3,
                   holes=holes("1st -5:0 1.4", "2nd 0:0 1.4", "3rd 5:0 1.4"))),
        ("new found key 60 x 22 holes bow top of 3, 2 bit 4:-20 of 1 points -9:30 9:30 0:-30",
         Found(id="key-60", name="key 60", width_mm=60, height_mm=22,
               points_mm=((-9, 30), (9, 30), (0, -30)),
               holes=holes("bow 0:9.25 3", "left bit -4:-20 1", "right bit 4:-20 1"))),
    ],
)  # fmt: skip
def test_a_part_is_read_as_it_is_said(phrase, part):
    if "gunmetal" in phrase:  # no words before its size: it is called by its material
        assert read_part(phrase).name == "gunmetal ring 4.2"
        phrase += " called ring 4.2"
    assert read_part(phrase) == part


@pytest.mark.parametrize(
    ("phrase", "said"),
    [
        ("new ring 4.2 x 0.8",
         "is 4.2 mm inside or outside? Add “inner”, or “outer” for 2.6 inside"),
        ("new ring 1 x 0.8 outer", "1 mm outside leave nothing inside"),
        ("new ring 4 outer", "an outer size needs the wire"),
        ("new ring", "say its size after “ring”"),
        ("new ring 4 x 0.8 x 3 inner", "3 sizes are too many: inside x wire"),
        ("new ring 4 x 0.8 inner blah", "“blah” was not understood; known here are"),
        ("new ring 0 x 1 inner", "0 mm is no size"),
        ("new ring 99999999 x 1 inner", "expected `float` <= 20000"),
        ("new bead amber 6 hole", "say a figure after “hole”"),
        ("new chain rolo 3 16 g", "chain is weighed by the metre"),
        ("new wire 17 SWG", "17 SWG is not in the table"),
        ("new bead amber 6, 5 mm", "was not understood"),
        ("new oval 24 x 16", "say its holes: holes left right of 1.6"),
        ("new oval 24 x 16 holes", "say its holes after “holes”"),
        ("new oval 24 holes left left", "two holes are called “left”"),
        ("new oval 24 x 16 holes left 12 apart", "“apart” is for a left and a right hole"),
        ("new connector holes left right", "say its size after “connector”"),
        ("new connector comb ? holes left right", "say the connector's size first, or where"),
        ("new connector bar 40 holes 3 along the left", "holes run along the top, middle or foot"),
        ("new found key 60 holes top points 1:2 3:4", "an outline has three points or more"),
        ("new chain rolo pitches", "say the pitches of one pattern"),
        ("new chain rolo ? lots 1000", "its pitch is not known: say the lots in links"),
        ("new ring 4 x 1 inner stock 2.5", "ring 4 is counted in pieces"),
        ("new bead amber 6 colour puce", "“puce” is no colour: say one of"),
        ("new beads", "name each with its size"),
    ],
)  # fmt: skip
def test_what_is_not_understood_is_named(phrase, said):
    with pytest.raises(DomainError) as refused:
        read_part(phrase)
    assert said in str(refused.value)


def test_several_parts_and_what_lies_there_in_one_phrase():
    amber, rose = read_parts("new beads amber 6 hole 1.2, rose 4, all hole 0.9 wood stock 40")
    assert [(s.part.name, s.part.hole_mm, s.part.material) for s in (amber, rose)] == [
        ("amber 6", 1.2, "wood"), ("rose 4", 0.9, "wood")]  # fmt: skip
    assert [d.amount for d in (*amber.deeds, *rose.deeds)] == [40, 40]
    (rolo,) = read_parts("new chain rolo 3 inside 2 lots 1 m 430 20 links")
    assert [(d.amount, d.lot) for d in rolo.deeds] == [
        (333, "lot 1"),
        (143, "lot 2"),
        (20, "lot 3"),
    ]
    (pattern,) = read_parts("new chain long-short pitches 7 3 3 lots 30")
    assert pattern.deeds[0].amount == 6  # two patterns are 26, and what is left has no 7
    (thread,) = read_parts("new thread silk 0.5 lots 20 m")
    assert thread.deeds[0].amount == 20_000_000


@pytest.mark.parametrize(
    ("said", "deeds"),
    [
        ("200", [Deed("bought", 200)]),
        ("bought 200 from the fair", [Deed("bought", 200, note="from the fair")]),
        ("counted 377", [Deed("counted", 377)]),
        ("spoilt 3 bent", [Deed("spoilt", 3, note="bent")]),
        ("used 12", [Deed("use", 12)]),
    ],
)  # fmt: skip
def test_what_is_said_of_a_bag(said, deeds):
    assert list(read_stock(said, Ring(id="r", name="R"))) == deeds


@pytest.mark.parametrize(
    ("said", "deeds"),
    [
        ("1 m, 430 mm", [Deed("bought", 333, measured_um=1_000_000),
         Deed("bought", 143, measured_um=430_000)]),
        ("2 x 1 m called spool", [Deed("bought", 333, called="spool", measured_um=1_000_000)] * 2),
        ("333 links", [Deed("bought", 333)]),
        ("counted 20 links in lot 2", [Deed("counted", 20, lot="lot 2")]),
        ("cut 36 from lot 1 called blue end", [Deed("cut", 36, lot="lot 1", called="blue end")]),
        ("bought 30 links from link 2", [Deed("bought", 30, first_phase=1)]),
    ],
)  # fmt: skip
def test_what_is_said_of_lengths(said, deeds):
    assert list(read_stock(said, Chain(id="c", name="C", pitches_mm=(3.0,)))) == deeds


@pytest.mark.parametrize(
    ("said", "refused"),
    [
        ("", "say how many"), ("bent", "“bent” is not understood"), ("spoilt", "say how many"),
        ("spoilt 2.5", "whole number"), ("40 mm", "counted in pieces"),
    ],
)  # fmt: skip
def test_what_is_not_understood_of_stock_is_named(said, refused):
    with pytest.raises(DomainError, match=refused):
        read_stock(said, Ring(id="r", name="R"))


def test_a_wearer_in_one_phrase():
    wearer = read_wearer("new wearer prompter neck 372 wrist 16 cm ease 15")
    assert wearer == Wearer(role="Prompter", neck_mm=372, wrist_mm=160, ease_mm=15)
    assert read_wearer("new ring 4") is None
    with pytest.raises(DomainError, match="“shoe” was not understood; a wearer has neck"):
        read_wearer("new wearer prompter neck 372 shoe 40")


WORDS = "4.2 x 0.8 inner outer hole holes left foot of apart along 2:3 all stock lots ? kg 1/4 in"
WORDS += " , brass 3 g price AWG 20 called loop - = ½ 1e9 links pitches points"
ANY_WORDS = st.lists(st.sampled_from([k.words for k in KINDS] + WORDS.split()), max_size=9)


@settings(max_examples=200, deadline=None)
@given(ANY_WORDS)
def test_any_words_give_a_part_that_can_be_saved_or_a_reason(words):
    phrase = "new " + " ".join(words)
    if not is_part_phrase(phrase):
        return
    try:
        part = read_part(phrase)
    except DomainError:
        return
    assert piece_from(piece_text(with_thing(Piece(), part))).parts == (part,)


def test_a_part_is_kept_and_there_for_the_next_piece():
    tray = demo_tray()
    (offer,) = offers("new ring 4.2 x 0.8 inner", Piece(), tray)
    assert (offer.words, offer.size_mm) == (
        "Keep: ring 4.2    inner diameter 4.2, wire 0.8, brass",
        4.2,
    )
    edited = offer.do()
    assert edited.piece.parts == offer.keeps
    (kept,) = offers("new bead opal 8 hole 1", edited.piece, tray, edited.spot)
    assert kept.words.startswith("Keep: opal 8 ")
    assert kept.do().piece.parts[-1] == kept.keeps[0]
    other = offers("new ring 4.2 x 1 inner", edited.piece, tray, edited.spot)[0]
    # another ring of the same name: the first stays what it is, here and in any workshop
    assert (other.keeps[0].name, other.keeps[0].id != offer.keeps[0].id) == ("ring 4.2", True)
    again = offers("new ring 4.2 x 0.8 inner", Piece(), tray)[0]
    assert again.keeps == offer.keeps  # the same in all is the same
    inside, outside = offers("new ring 4.2 x 0.8", Piece(), tray)  # unsaid: both
    assert inside.words.endswith("inner diameter 4.2, wire 0.8, brass, measured inside")
    assert (inside.size_mm, outside.size_mm) == (4.2, 2.6)
    (refused,) = offers("new ring 4.2 x 0.8 bla", Piece(), tray)
    assert "“bla” was not understood" in refused.words
    with pytest.raises(DomainError, match="was not understood"):
        refused.do()
