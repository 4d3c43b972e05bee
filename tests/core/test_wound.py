"""A strand wound several times round a wrist or ankle hangs as it is worn."""

import math

import numpy as np
import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.piece.piece import Form, Place, Run, Way, Wearer
from maglia.core.report import as_json, evaluate
from maglia.core.sheets.as_worn import not_as_worn, turns_of
from maglia.core.sheets.wear import as_worn
from maglia.core.workshop.tray import Tray
from saying import offers
from workshop import PARTS, UNITS, chain, piece, rings, strand, unit

WHO = Wearer(role="w", wrist_mm=160, ankle_mm=220)


def wound(turns, links, *more, kind="wrist", **fields):
    made = piece(strand(chain(links), rings()), *more, **fields)
    return replace(made, form=Form(kind=kind), wraps=float(turns), wearer=WHO,
                   sort="bracelet" if kind == "wrist" else "anklet")  # fmt: skip


@pytest.mark.parametrize(("turns", "links"), [(2, 119), (3, 181), (5, 299)])
def test_every_turn_lies_beside_the_other_with_the_same_slack(turns, links):
    found = evaluate(wound(turns, links))
    hung = found.hung
    assert hung.state == "converged"
    line = next(m for m in found.assembly.members if m.kind == "chain")
    places = hung.points_of(line.id)
    # each link no longer than it is, and none but little slack in so many
    spans = np.linalg.norm(np.diff(places, axis=0), axis=1)
    assert spans.max() < 3.0 + 0.001
    assert found.closed_length_mm == pytest.approx(links * 3 + 8 + 9 + 5)
    # it touches the wrist on top, as often as it goes round, each time at another place along it
    radius = 160 / (2 * math.pi)
    tops = places[1:-1][(places[1:-1, 2] > places[:-2, 2]) & (places[1:-1, 2] >= places[2:, 2])]
    tops = tops[tops[:, 2] > radius]
    assert len(tops) == turns
    assert np.abs(tops[:, 0]).max() < 3.0
    assert np.diff(np.sort(tops[:, 1])).min() > 3.0
    lows = places[1:-1][(places[1:-1, 2] < places[:-2, 2]) & (places[1:-1, 2] <= places[2:, 2])]
    assert len(lows) >= turns - 1
    deep = lows[:, 2]
    assert deep.max() - deep.min() < 2.5  # the closure's turn carries the clasp
    assert "wound-evenly" in {check.code for check in found.checks}
    assert as_json(found)["hang"]["as_worn"] is True


def test_what_hangs_from_it_hangs():
    drop = Run(name="Drop", kind="drop", lies="paired", items=(rings(part="small"), unit("dangle")),
               start=Place(run="Strand", item=0, at=20))  # fmt: skip
    found = evaluate(wound(3, 181, drop))
    assert found.hung.state == "converged"
    assert found.readings.falls_mm["Drop"] is not None


def test_turns_that_do_not_go_round_are_too_short_by_all_of_them():
    found = evaluate(wound(3, 141))
    assert found.hung.state == "too short"
    # three times girth and 2π of half its thickness, less its length
    length = 141 * 3 + 8 + 9 + 5
    assert found.hung.solution.short_by_mm == pytest.approx(3 * 160 - length, abs=3 * math.pi * 4)
    assert "to go 3 times round the wrist" in found.hung.solution.cause


def test_an_ankle_is_wound_too_and_a_way_can_be():
    assert evaluate(wound(2, 161, kind="ankle")).hung.state == "converged"
    once = replace(wound(1, 119), ways=(Way(name="Twice", wraps=2),))
    assert turns_of(expand(once)) == 1
    twice = as_worn(once, once.ways[0])
    assert turns_of(expand(twice)) == 2
    assert evaluate(twice).hung.state == "converged"


@pytest.mark.parametrize("change", [{"wraps": 1.5}, {"form": Form(kind="bust")},
                                    {"form": Form(kind="board")}])  # fmt: skip
def test_what_is_not_wound_in_whole_turns_says_that_it_is_not_hung_so(change):
    assembly = expand(replace(wound(2, 119), **change))
    assert turns_of(assembly) == 1
    assert not_as_worn(assembly).what == "wrap"


def test_turns_in_a_phrase():
    (offer,) = offers("3 turns", wound(1, 181), Tray(parts=PARTS, units=UNITS))
    assert offer.do().piece.wraps == 3.0
    (bad,) = offers("30 turns", wound(1, 181), Tray(parts=PARTS, units=UNITS))
    assert "once to 20 times" in bad.words
