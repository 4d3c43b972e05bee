"""Eight pieces as makers build them, in their real structures, against sums worked by hand."""

import math
from pathlib import Path

import pytest

from maglia.core.report import as_json, evaluate
from maglia.files.migrations import VERSION
from maglia.files.piece_json import piece_from, piece_text, read_piece

PIECES = Path(__file__).parent.parent / "data" / "pieces"
PAPER = {
    # chain 89 × 4.5, a ring each side, lobster, catch; mids 9, between 3 + 2 + 1, hung 4 × 1,
    # 3 × 3 and 2 × 3, at the chain 5, ends 2, the catch
    "r02": (400.5 + 10 + 10 + 5, {"mid-link": 9, "foot-link": 1, "chip": 81, "flat": 89,
            "r5": 9 + 6 + 4 + 9 + 6 + 5 + 2 + 1},
            {"wire-08": 10 * (20 + 2 * (math.pi * 3.4 + 20))}),
    "r05": (424.0, {"r6": 13, "aq": 24, "sold": 5, "dr": 9}, {}),
    # 510 bare, weights 6, clamps 7, lobster 10; nothing is lost in a clamp
    "r08": (510 + 12 + 14 + 10, {"weight-6": 2, "clamp-7": 2, "lob-10": 1}, {"strap-3": 522.0}),
    # 7 + 3.4 + 1.2 + 3.8 + 1.2 each
    "r09": (36 * 16.6, {"pop": 39, "last": 1, "fac-7": 40}, {}),
    # discs 13.6, pebbles 21.6, bicones 12.6, 27 × 4.5, ring 5, lobster 10
    "r11": (21.6 + 2 * (3 * 13.6 + 2 * 21.6 + 121.5 + 12.6) + 15,
            {"disc-link": 6, "peb-link": 5, "bic-link": 2, "flat-45": 54}, {}),
    # 4.5 + 2 × (6 rings, three side links 48.4, an end link 35.4, ten links 2.6) + hoop 12 + bar 3
    "r14": (4.5 + 2 * (27 + 145.2 + 35.4 + 26) + 15, {"a": 2, "b": 8, "c": 2, "mini": 1,
            "r45": 1 + 12 + 2 + 2 + 1 + 2 + 2, "jet-26": 6 * 23 + 13 + 20 + 77}, {}),
    "r18b": (193.5, {"ember-6": 12, "jet-8": 9, "gilt-3": 9, "jr-52": 3, "jr-42": 1}, {}),
    "r21": (None, {"fine-22": 2 * (11 + 8 + 4), "cone-link": 2, "rim-2": 2}, {}),
}  # fmt: skip


@pytest.mark.parametrize("name", PAPER)
def test_its_sums_are_those_of_the_hand(name):
    closed, counted, lengths = PAPER[name]
    of = read_piece(PIECES / f"{name}.json")
    assert of.version == VERSION
    assert piece_from(piece_text(of)) == of
    report = as_json(evaluate(of))
    assert report["closed_length_mm"] == (closed if closed is None else pytest.approx(closed))
    counts = {c["part"]: c for c in report["counts"]}
    assert {k: counts[k]["count"] for k in counted} == counted
    for part, mm in lengths.items():
        assert counts[part]["length_mm"] == pytest.approx(mm, abs=0.001)
    assert report["hang"]["state"] == "converged"
    assert report["hang"]["as_worn"] is True
    assert not [c for c in report["checks"] if c["severity"] == "stop"]


def test_ways_of_the_reference_pieces():
    rope = as_json(evaluate(read_piece(PIECES / "r09.json")))
    ways = {w["name"]: (w["closed_length_mm"], w["wraps"]) for w in rope["ways"]}
    assert ways["Rope"] == (597.6, 1)
    assert ways["Wound three times"] == (597.6, 3)
    lyre = as_json(evaluate(read_piece(PIECES / "r14.json")))
    assert {w["name"]: w["closed_length_mm"] for w in lyre["ways"]} == {
        "Short": 486.7, "Long": 710.9,
    }  # fmt: skip
