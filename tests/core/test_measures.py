"""Measures as people write them, alone and within a text."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from maglia.core.values.gauges import gauge_words
from maglia.core.values.measures import (
    Length,
    Links,
    MeasureError,
    amount_at,
    format_length,
    format_links,
    parse_length,
)


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("45", 45.0), ("4.5cm", 45.0), ("4,5 cm", 45.0), ('1 3/4"', 44.45), ("16.5 in", 419.1),
        ("=120/2-3", 57.0), ("120/2-3", 57.0), ("1½″", 38.1), ("½ in", 12.7), ("3/4 inch", 19.05),
        ("0.5 m", 500.0), ("2 x", None), ("=(10+5)*2mm", 30.0), ("10 mm + 1 in", 35.4),
        (".5cm", 5.0), ("1 3⁄16 in", 30.1625),
    ],
)  # fmt: skip
def test_lengths_as_written(text, mm):
    if mm is None:
        with pytest.raises(MeasureError, match="“x”"):
            parse_length(text)
    else:
        assert parse_length(text).mm == pytest.approx(mm, abs=1e-9)


@pytest.mark.parametrize("text", ["9" * 400, "=" + "*".join(["9" * 39] * 9), "=1/0",
                                  "1/" + "0" * 60])  # fmt: skip
def test_what_is_no_number_that_anything_has_is_said(text):
    with pytest.raises(MeasureError):
        amount_at(text)


def test_a_bare_number_is_in_the_display_unit():
    assert parse_length("16 1/2", "in") == Length(pytest.approx(419.1))
    assert parse_length("4,5", "cm").mm == pytest.approx(45)


@pytest.mark.parametrize(("text", "count"), [("30 links", 30), ("1 link", 1), ("=2*15 links", 30)])
def test_links_are_counted(text, count):
    assert parse_length(text) == Links(count)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "nothing"), ("abc", "“abc”"), ("12 furlongs", "“furlongs”"), ("3 +", "missing"),
        ("(3", "bracket"), ("5/0", "zero"), ("-4", "understood"), ("2-5", "above zero"),
        ("2.5 links", "whole"), ("3 mm + 4 links", "same kind"), ("2 in * 3 in", "plain"),
        ("1 3/0 in", "zero"), ("9" * 300, "200"), ("4 $", "“$”"),
    ],
)  # fmt: skip
def test_errors_say_what_was_not_understood(text, said):
    with pytest.raises(MeasureError, match=said.replace("$", r"\$")):
        parse_length(text)


@given(st.integers(1, 16 * 400))
def test_every_sixteenth_survives_being_written_and_read(sixteenths):
    mm = sixteenths * 25.4 / 16
    assert parse_length(format_length(mm, "in")).mm == pytest.approx(mm, abs=1e-9)


@given(st.floats(0.1, 9000), st.sampled_from(["mm", "cm"]))
def test_metric_lengths_survive_to_what_is_shown(mm, unit):
    assert parse_length(format_length(mm, unit, with_unit=True)).mm == pytest.approx(mm, abs=0.0501)


def test_shown_lengths():
    assert format_length(44.45, "in") == "1¾″"
    assert format_length(30.1625, "in") == "1 3⁄16″"
    assert format_length(45.25, "cm", with_unit=True) == "4.53 cm"
    assert format_length(-3.0) == "−3.0"


@pytest.mark.parametrize(
    ("text", "value", "kind", "rest"),
    [
        ("45,5 x", 45.5, "plain", " x"), ("25, 30", 25.0, "plain", ", 30"),
        ("16½ in wide", 419.1, "length", " wide"), ("1 3/4 in", 44.45, "length", ""),
        ("3/4 cm", 7.5, "length", ""), ("½", 0.5, "plain", ""), ("12 rose", 12.0, "plain", " rose"),
        ("=120/2-3", 57.0, "plain", ""), ("=10 mm + 1 cm at 3", 20.0, "length", " at 3"),
        ("9 links of", 9.0, "links", " of"), ("10 % of", 10.0, "per cent", " of"),
        ("-12", -12.0, "plain", ""), ("−3 mm", -3.0, "length", ""), ("0:5", 0.0, "plain", ":5"),
    ],
)  # fmt: skip
def test_quantities_within_a_text(text, value, kind, rest):
    amount, end = amount_at(text)
    assert amount.value == pytest.approx(value)
    assert (amount.kind, text[end:]) == (kind, rest)


def test_what_is_no_quantity_or_not_whole_is_said():
    assert amount_at("rose 4") is None
    with pytest.raises(MeasureError, match="missing"):
        amount_at("=3+")
    for text, said in (("2.5", "no whole"), ("4 cm", "no whole"), ("0", "no whole")):
        with pytest.raises(MeasureError, match=said):
            _ = amount_at(text)[0].whole
    with pytest.raises(MeasureError, match="no length"):
        amount_at("3 links")[0].mm("mm")
    assert amount_at("2")[0].mm("in") == pytest.approx(50.8)


def test_links_in_words():
    assert [format_links(n) for n in (1, 2)] == ["1 link", "2 links"]


@pytest.mark.parametrize(
    ("mm", "system", "said"),
    [
        (0.812, "AWG", "20 AWG"), (0.8, "AWG", "about 20 AWG"), (0.644, "AWG", "22 AWG"),
        (1.024, "AWG", "18 AWG"), (0.914, "SWG", "20 SWG"), (0.9, "SWG", "about 20 SWG"),
        (0.8, "", ""), (None, "AWG", ""), (30.0, "AWG", ""), (5.0, "SWG", ""),
        (0.7, "AWG", "about 21 AWG"),
    ],
)  # fmt: skip
def test_a_wire_is_said_in_gauges_of_a_system(mm, system, said):
    """0.812, 0.644 and 1.024 mm as ASTM B258 has 20, 22 and 18 AWG; 0.914 mm as BS 3737 has 20."""
    assert gauge_words(mm, system) == said
