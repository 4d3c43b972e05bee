"""What a tray knows: rules, sizes, what lies there, weighing, parts that were changed since."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import fields, replace

from maglia.core.assembly.expand import expand
from maglia.core.checks import all_checks
from maglia.core.edits.take_over import difference_words, differs, taken_over
from maglia.core.hang.flat import Flat
from maglia.core.hang.readings import Readings
from maglia.core.parts.parts import Chain, Connector, Hole, Ring, Wire, connector_span_mm
from maglia.core.parts.sizes import SIZES, choices_of, described, missing, sizes_of, with_field
from maglia.core.parts.written import with_written
from maglia.core.sheets.count import counts
from maglia.core.values.record import DomainError
from maglia.core.values.rules import DEFAULT_RULES, DEFAULTS, RULES, Rules, rules_from, with_rule
from maglia.core.workshop.compartments import ORDER, laid_out, narrowed
from maglia.core.workshop.lying import amount_of_mm, amount_words, length_mm
from maglia.core.workshop.weighing import count_from_mass, swatch
from maglia.demo import demo_names, demo_path, demo_tray
from maglia.files.piece_json import read_piece
from maglia.files.shelf import shelf

TRAY = demo_tray()
EVERY_PART = (*TRAY.parts, *shelf())


def test_every_rule_has_words_a_reason_and_bounds_that_hold_its_default():
    assert {rule.field for rule in RULES} == {field.name for field in fields(Rules)} - {"currency"}
    for rule in RULES:
        assert rule.words
        assert rule.reason
        assert rule.least <= DEFAULTS[rule.field] <= rule.most
        assert rules_from({rule.field: rule.most + 1}) == DEFAULT_RULES
        for value in (rule.least - 0.001, rule.most + 0.001):
            with pytest.raises(DomainError, match="is from"):
                with_rule(DEFAULT_RULES, rule.field, value)
    with pytest.raises(DomainError, match="must not be above"):
        with_rule(DEFAULT_RULES, "crowded", 0.95)


@pytest.mark.parametrize(
    ("piece", "field", "value", "code"),
    [
        ("lamplighters-collar", "strand_g", 5.0, "heavy"),
        ("lamplighters-collar", "aspect_least", 5.5, "ring-aspect-ratio"),
        ("lamplighters-collar", "crowded", 0.1, "ring-too-full"),
        ("lamplighters-collar", "loop_least_mm", 3.0, "loop-size"),
        ("lamplighters-collar", "jaw_times", 5.0, "clasp-cannot-bite"),
        ("gallery-tiers", "drop_room_mm", 40.0, "drops-too-close"),
    ],
)
def test_a_check_goes_by_the_makers_rule(piece, field, value, code):
    def codes(rules):
        found = all_checks(expand(read_piece(demo_path(piece)), rules), None, Flat(()), Readings())
        return {check.code for check in found}

    assert code not in codes(DEFAULT_RULES)
    assert code in codes(with_rule(DEFAULT_RULES, field, value))


def test_wire_and_thread_are_counted_with_the_makers_tails():
    longer = replace(DEFAULT_RULES, grip_simple_mm=30.0, grip_wrapped_mm=45.0, knot_tail_mm=85.0,
                     crimp_tail_mm=35.0, tassel_tail_mm=110.0)  # fmt: skip
    more = 0
    for name in demo_names():
        piece = read_piece(demo_path(name))
        usual = {c.id: c.length_mm or 0 for c in counts(expand(piece))}
        for counted in counts(expand(piece, longer)):
            extra = (counted.length_mm or 0) - usual[counted.id]
            assert extra == pytest.approx(round(extra / 10) * 10)  # each tail is 10 mm longer
            more += extra > 0
    assert more == 15


@pytest.mark.parametrize("part", EVERY_PART, ids=lambda part: part.id)
def test_every_part_has_its_sizes_choices_and_a_place(part):
    first = sizes_of(part)[0]
    assert getattr(part, first.field) is not None
    unknown = with_field(part, first.field, None)
    assert first in missing(unknown) or not first.needed_for
    for field, words in choices_of(part).items():
        assert getattr(part, field) in words
    assert described(part)
    (lain,) = laid_out([part])
    assert lain.compartment in ORDER


def test_every_kind_of_part_has_sizes():
    assert {kind.__struct_config__.tag for kind in SIZES} == {
        part.kind for part in EVERY_PART if part.kind != "found"
    }


@pytest.mark.parametrize(
    ("part", "field", "text", "value"),
    [
        (Ring(id="r", name="R", wire_mm=0.8), "inner_mm", "4.2", 4.2),
        (Ring(id="r", name="R", wire_mm=0.8), "outer_mm", "5.8", 4.2),
        (Ring(id="r", name="R", wire_mm=0.8), "inner_mm", "5.8 outer", 4.2),
        (Ring(id="r", name="R", wire_mm=0.8), "inner_mm", "1/4 in", 6.35),
        (Chain(id="c", name="C"), "pitches_mm", "6 3 3", (6, 3, 3)),
        (Chain(id="c", name="C"), "pitches_mm", "32 links 104 mm", (3.25,)),
        (Chain(id="c", name="C", pitches_mm=(3.0,)), "pitches_mm", "?", None),
        (Wire(id="w", name="W"), "wire_mm", "=1.6/2", 0.8),
    ],
)
def test_a_figure_typed_over(part, field, text, value):
    changed = with_written(part, field, text)
    assert getattr(changed, "inner_mm" if field == "outer_mm" else field) == value


def test_a_hole_of_unknown_size_gives_no_span_and_is_asked_for():
    known = Hole(name="a", x_mm=-5, y_mm=0, diameter_mm=2)
    part = Connector(id="c", name="C", holes=(known, Hole(name="b", x_mm=5, y_mm=0)))
    assert connector_span_mm(part, "a", "b") is None
    assert "hole b" in [size.words for size in missing(part)]
    whole = replace(part, holes=(known, replace(part.holes[1], diameter_mm=1)))
    assert connector_span_mm(whole, "a", "b") == 11.5  # 10 + 2/2 + 1/2


@given(st.integers(0, 5000), st.sampled_from([(3.0,), (7.0, 3.0, 3.0), (2.54,)]))
def test_so_many_links_are_as_long_as_that_many_links(links, pitches):
    chain = Chain(id="c", name="C", pitches_mm=pitches)
    assert amount_of_mm(chain, length_mm(chain, links)) == links


def test_amounts_in_words():
    chain, wire = Chain(id="c", name="C", pitches_mm=(3.0,)), Wire(id="w", name="W")
    assert [amount_words(chain, n) for n in (1, 333)] == ["1 link, 3 mm", "333 links, 999 mm"]
    assert amount_words(Chain(id="c", name="C"), 5) == "5 links"
    assert [amount_words(wire, n) for n in (10_000_000, 250_000)] == ["10 m", "250 mm"]


def test_weighing_says_how_sure_it_is():
    # 0.67 g each from ten on a scale of 0.01 g: off by 150 · √((0.005/6.7)² + (0.005/100.5)²)
    sure = count_from_mass(100.5, 0.67, 10)
    assert (sure.count, sure.weigh_first) == (150, None)
    assert sure.plus_minus == pytest.approx(0.1122, abs=1e-4)
    unsure = count_from_mass(8.0, 0.016, 10)
    assert (unsure.count, unsure.weigh_first) == (500, 401)
    # a bag of 500 is itself off by 0.3125 of one; 500 · 0.3125 / √(0.25 − 0.3125²) = 400.3
    assert unsure.plus_minus == pytest.approx(15.63, abs=0.01)
    better = count_from_mass(8.0, 0.016, 401)
    assert better.weigh_first is None
    for each in (0.0, 0.009):  # nothing known, and less than the scale can tell
        with pytest.raises(DomainError):
            count_from_mass(8.0, each, 10)
    found = swatch(32, 104.0)
    assert (found.pitch_mm, found.plus_minus_mm) == (3.25, 0.5 / 32)


def test_compartments_stand_in_order_and_words_narrow_them():
    lain = laid_out((*TRAY.parts, *TRAY.units, *TRAY.wearers))
    order = [ORDER.index(own.compartment) for own in lain]
    assert order == sorted(order)
    rings = [own.thing for own in lain if own.compartment == "RINGS"]
    assert [r.inner_mm for r in rings] == sorted(r.inner_mm for r in rings)
    names = {own.thing.name for own in narrowed(lain, "ring clo")}
    assert names == {"Closed ring 6 mm", "Toggle ring 12 mm", "Bangle 66 mm",
                     "Armour circlet 6.5 mm", "Wide circlet 9 mm"}  # fmt: skip
    assert [own.thing.name for own in narrowed(lain, "3 x 0.7 ring")] == ["Jump ring 3 mm"]
    assert narrowed(lain, "") == list(lain)


def test_a_part_changed_since_is_told_in_words_and_taken_over():
    piece = read_piece(demo_path())
    old = next(part for part in piece.parts if part.id == "rolo-3")
    new = replace(old, pitches_mm=(3.1,), note="measured")
    assert not differs(old, replace(old, note="x", price_per_m=9.0))
    assert differs(old, new)
    assert difference_words(old, new) == "pitch 3.1 in the tray, 3 here"
    done = taken_over(piece, (new,))
    assert next(part for part in done.piece.parts if part.id == "rolo-3") == new
    assert replace(done.piece, parts=piece.parts) == piece
    ring = Ring(id="rolo-3", name="R")
    assert difference_words(old, ring) == "a ring in the tray, a chain here"
    with pytest.raises(DomainError, match="replace it instead"):
        taken_over(piece, (ring,))
