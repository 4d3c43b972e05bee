"""What builds show: estimates against simulated hands, corrections by the sums they change."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.cutting.day import Making
from maglia.core.joining.cost import cost_lines, cost_of
from maglia.core.joining.making import wire_each_mm
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet
from maglia.core.joining.ways import USUAL
from maglia.core.log.concerns import concerns
from maglia.core.log.estimate import FEWEST, _means, _searched, apart, estimated
from maglia.core.log.records import Entry, Measure, Spent, concern_of, spent_of
from maglia.core.log.text import found, haystack, rows_of, years
from maglia.core.piece.corrections import ABOUT, Correction, with_correction, without
from maglia.core.report import as_text, evaluate
from maglia.core.values.rules import DEFAULT_RULES
from maglia.demo import demo_path
from maglia.files.piece_json import piece_from, piece_text, read_piece

COLLAR = read_piece(demo_path())
LOOP = Correction(what="span", about="wrapped loop", value=0.4)


@pytest.mark.parametrize(("n", "slips"), [(7, 0.0), (9, 0.1), (14, 0.1), (25, 0.0), (25, 0.1),
                                          (70, 0.1)])  # fmt: skip
def test_the_true_shift_lies_in_the_interval_as_often_as_is_said(n, slips):
    """A second way to know it: 2,000 simulated makers whose shift is 0.4, one in ten a slip."""
    random, hits = np.random.default_rng(20), 0
    for _ in range(2000):
        values = random.normal(0.4, 0.5, n)
        slip = random.random(n) < slips
        values[slip] = 0.4 + random.normal(0, 6, slip.sum())
        answer = estimated(values)
        hits += answer.low <= 0.4 <= answer.high
    assert hits / 2000 == pytest.approx(0.95, abs=0.02)


def test_too_few_say_nothing_and_slips_are_named_and_hardly_count():
    assert estimated([0.4] * (FEWEST - 1)) is None
    values = [0.31, 0.42, 0.38, 0.45, 0.4, 0.36, 0.44, 0.39]
    plain, slipped = estimated(values), estimated([*values, 5.0])
    assert plain.apart == ()
    assert slipped.apart == apart([*values, 5.0]) == (8,)
    assert slipped.value == pytest.approx(plain.value, abs=0.02)
    # of six the interval is from the least to the largest: 2 in 64 lie beyond
    six = estimated(values[:6])
    assert (six.low, six.high) == (0.31, 0.45)


@pytest.mark.parametrize("digits", [1, 9])  # with ties and without
def test_many_values_are_searched_to_what_writing_all_means_down_gives(digits):
    for n in (FEWEST, 301, 1000):
        own = np.sort(np.random.default_rng(n).normal(0.4, 2.0, n).round(digits))
        ranks = (0, 7, n * (n + 1) // 4, n * (n + 1) // 2 - 1)
        assert _searched(own, ranks) == pytest.approx(_means(own, ranks), abs=1e-7)


@given(st.lists(st.floats(-5, 5, allow_nan=False), min_size=FEWEST, max_size=40), st.floats(-9, 9))
def test_an_estimate_moves_with_its_values(values, by):
    here, there = estimated(values), estimated([v + by for v in values])
    assert here.low <= here.value <= here.high
    for one in ("low", "value", "high"):
        assert getattr(there, one) == pytest.approx(getattr(here, one) + by, abs=1e-9)


# --- corrections ----------------------------------------------------------------------------------


def test_a_correction_changes_just_what_it_is_about():
    # seven smoked links with two wrapped loops each lie in the strand: 14 × 0.4
    plain, other = evaluate(COLLAR), evaluate(replace(COLLAR, corrections=(LOOP,)))
    assert other.closed_length_mm - plain.closed_length_mm == pytest.approx(14 * 0.4)
    assert [c.count for c in plain.counts] == [c.count for c in other.counts]
    assert plain.wire == other.wire
    assert "wrapped loop +0.4 mm, yours" in as_text(other)

    wire = Correction(what="wire", about="wrapped loop", value=1.5)
    a, b = expand(COLLAR), expand(replace(COLLAR, corrections=(wire,)))
    (link,) = [u for u in COLLAR.units if u.kind == "bead link"]
    each = [wire_each_mm(one, one.things[link.id], USUAL) for one in (a, b)]
    assert each[1] - each[0] == pytest.approx(2 * 1.5)
    assert evaluate(replace(COLLAR, corrections=(wire,))).closed_length_mm == pytest.approx(
        plain.closed_length_mm
    )

    ring = Correction(what="minutes", about="ring", value=0.5)
    c = expand(replace(COLLAR, corrections=(ring,)))
    lines = [cost_lines(cost_of([Making(one)], (), {}, DEFAULT_RULES)) for one in (a, c)]
    said = [{name: why for name, _, why in own}["Work"] for own in lines]
    assert [one.partition(", ")[2] for one in said] == ["by rule", "ring 0.5 min, yours"]
    minutes = [make_sheet(one, joining_plan(one)).minutes for one in (a, c)]
    steps = make_sheet(a, joining_plan(a)).steps
    closed = sum(closing.sort == "again" for step in steps for closing in step.closings)
    assert minutes[1] - minutes[0] == pytest.approx(closed * (0.5 - 0.4))


def test_corrections_are_carried_and_one_replaces_the_other():
    two = with_correction((LOOP,), Correction(what="minutes", about="ring", value=0.33))
    piece = replace(COLLAR, corrections=two)
    assert piece_from(piece_text(piece)) == piece
    assert with_correction(two, replace(LOOP, value=0.2))[1].value == 0.2
    assert without(two, "span", "wrapped loop") == (two[0],)
    for kind in ABOUT["minutes"]:
        known = expand(replace(COLLAR, corrections=(Correction(what="minutes", about=kind,
                                                               value=7.0),)))  # fmt: skip
        assert getattr(known.rules, f"minutes_{kind.replace(' ', '_')}") == 7.0


def test_a_measure_is_held_against_its_step_and_corrections_do_not_move_what_it_says():
    for corrections, planned, by in (((), 19.6, 0.0), ((LOOP,), 20.4, 0.4)):
        built = expand(replace(COLLAR, corrections=corrections))
        sheet = make_sheet(built, joining_plan(built))
        step = next(s for s in sheet.steps if s.verb == "make" and "Smoked" in s.says)
        concern = concern_of(sheet, step)
        assert (concern.what, concern.about, concern.share) == ("span", "wrapped loop", 2)
        assert (concern.planned_mm, concern.by_mm) == pytest.approx((planned, by))
        assert replace(concern, measured_mm=20.4).off_mm == pytest.approx(0.4)
        last = concern_of(sheet, sheet.steps[-1])
        assert (last.what, last.planned_mm) == ("closed length", pytest.approx(
            sheet.steps[-1].measure_mm))  # fmt: skip


def test_a_strip_is_held_against_its_rows_so_that_one_row_is_what_is_learned():
    built = expand(read_piece(demo_path("armoury-cuff")))
    sheet = make_sheet(built, joining_plan(built))
    pitches = [c for step in sheet.steps if (c := concern_of(sheet, step)) and c.what == "pitch"]
    assert [(c.about, c.share) for c in pitches] == [("doubled strip", 10)]
    assert replace(pitches[0], measured_mm=pitches[0].planned_mm + 1).off_mm == pytest.approx(0.1)


def test_minutes_are_shared_out_by_kinds_of_step():
    built = expand(COLLAR)
    sheet = make_sheet(built, joining_plan(built))
    from maglia.core.joining.progress import turns_of

    seconds = {mark.place: 30.0 for turn in turns_of(sheet) for mark in turn.marks}
    took = {one.kind: one for one in spent_of(sheet, seconds)}
    # every ring and every open loop that is shut; a loop wrapped on is another kind
    assert took["ring"].number == sum(len(s.closings) for s in sheet.steps if s.verb == "close")
    assert took["ring"].each == pytest.approx(0.5)
    assert spent_of(sheet, {}) == ()


def test_what_all_builds_say_is_told_in_words():
    offs = [0.3, 0.5, 0.4, 0.45, 0.35, 0.41, 0.38, 0.44]
    one = Measure(at="", what="span", about="wrapped loop", planned_mm=20.0, measured_mm=0.0)
    measures = [(k, replace(one, measured_mm=20.0 + 2 * off, share=2))
                for k, off in enumerate(offs)]  # fmt: skip
    measures += [(9, Measure(at="", what="fall", about="Y", planned_mm=100, measured_mm=101))]
    spent = [(k, Spent(kind="ring", number=10, minutes=3.0 + k / 10)) for k in range(7)]
    span, fall, ring = concerns(measures, spent, (LOOP,))
    assert span.words == "Your wrapped loops come out 0.40 ± 0.05 mm long, from 8."
    assert (span.takes.about, span.takes.value) == ("wrapped loop", pytest.approx(0.4, abs=0.01))
    assert span.taken == LOOP
    assert fall.words == "Too few to say: 1 measured, 5 more are needed."
    assert fall.takes is None
    assert ring.words.startswith("One takes you 0.33")
    assert ring.takes.value == pytest.approx(0.33)
    even = [(k, Measure(at="", what="closed length", planned_mm=400, measured_mm=400 + off))
            for k, off in enumerate((-0.4, 0.3, 0.1, -0.2, 0.2, -0.1, 0.05))]  # fmt: skip
    (closed,) = concerns(even, ())
    assert closed.words.startswith("As computed, within")
    assert closed.takes is None


def test_builds_are_found_by_any_word_and_a_year_is_summed():
    entries = (
        Entry(id=1, piece="Usher's Y", wearer="the usher", begun="2025-03-02T10:00",
              ended="2025-03-02T12:00", minutes=90, metal_g=12, cost="10.10 florins",
              things="Rolo 3 · Ring 4"),
        Entry(id=2, piece="Gallery tiers", wearer="the prompter", begun="2025-07-09T10:00",
              ended="2025-07-09T12:00", minutes=150, metal_g=30, cost="20.25"),
        Entry(id=3, piece="Gallery tiers", begun="2026-01-09T10:00"),
        Entry(id=4, piece="Lost", begun="2025-02-02T10:00", ended="2025-02-02T11:00", minutes=9,
              given_up=True),
    )  # fmt: skip
    hay = {e.id: haystack(e, "left side shorter" if e.id == 2 else "") for e in entries}
    asked = {"usher": [1], "rolo ring": [1], "july tiers": [2], "shorter": [2], "2025-07": [2],
             "gallery": [2, 3], "#3": [3], "nothing": []}  # fmt: skip
    for text, ids in asked.items():
        assert [e.id for e in found(entries, hay, text)] == ids
    (year,) = years(entries)
    assert (year.year, year.pieces, year.hours, year.metal_g, str(year.cost)) == (
        "2025", 2, 4.0, 42, "30.35"
    )  # fmt: skip
    assert len(rows_of(())) == 1
