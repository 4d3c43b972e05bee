"""Fits of rows: placement, hems, rows that lie flat; each against a closed form or all choices."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from fitting import fitted, row
from maglia.core.assembly.rows import drop_numbers
from maglia.core.fit.flat import Rings, allowed_between, unflatness, with_rings
from maglia.core.fit.hem import Foot, line_fall
from maglia.core.fit.look import Trials
from maglia.core.fit.placement import measured as placed
from maglia.core.piece.piece import (
    Form,
    TiedRows,
)
from maglia.core.piece.wishes import (
    FlatFit,
    HemFit,
    HemPoint,
    PlacesFit,
    Quantity,
)
from maglia.core.values.record import DomainError
from workshop import chain, piece, rings, strand, unit

# --- 4 placement ----------------------------------------------------------------------------------


@given(links=st.integers(9, 80), count=st.integers(2, 9))
@settings(max_examples=60, deadline=None)
def test_even_places_are_symmetric_and_differ_by_one_link_at_most(links, count):
    of = piece(strand(chain(links)), rows=(row(count=1),))
    wish = PlacesFit(name="p", row="Row", count=count, rule="even")
    found, fit = fitted(of, wish)
    if count % 2 and links % 2 == 0:
        assert f"{links - 1} or {links + 1} links" in fit.hindrance
        assert found == replace(of, fits=(wish,))  # left as it is; the nearest stands beside it
        assert fit.above is None or fit.above.residuals[0].got == count + 1
        return
    drops, uneven = fit.best.residuals
    assert (drops.got, uneven.off) == (count, 0)
    assert uneven.got <= 1
    assert fit.met


def test_parity_is_mended_where_the_fit_may_change_it():
    of = piece(strand(chain(40)), rows=(row(),))
    may = PlacesFit(name="p", row="Row", count=7, changes=(Quantity(run="Strand"),))
    found, fit = fitted(of, may)
    assert found.runs[0].centre.links == 41
    assert fit.met


def test_every_kth_link_and_no_room():
    of = piece(strand(chain(41)), rows=(row(),))
    found, fit = fitted(of, PlacesFit(name="p", row="Row", rule="every", every=5, count=7))
    assert (found.rows[0].every, found.rows[0].count, fit.met) == (5, 7, True)
    _, full = fitted(of, PlacesFit(name="p", row="Row", rule="every", every=9, count=7))
    assert "room for 5" in full.hindrance


def test_places_as_worn_are_as_even_as_any_choice_of_links():
    of = piece(strand(chain(61)), rows=(row(count=5, every=12),), pins=70.0)
    found, fit = fitted(of, PlacesFit(name="p", row="Row", rule="worn", count=5))
    trials, wish = Trials(), PlacesFit(name="p", row="Row", rule="worn", count=5)
    zero, inner, outer = drop_numbers(found.rows[0], found)
    assert zero == 0
    for other in (inner - 1, inner + 1):
        moved = replace(found.rows[0], rule="places", places=(0, other, outer))
        look = trials.hung(replace(found, rows=(moved,)))
        assert placed(wish, look)[1].got >= fit.best.residuals[1].got - 1e-6


# --- 5 hems ---------------------------------------------------------------------------------------


def test_a_straight_strand_needs_no_steps_and_a_level_hem_follows_the_curve():
    taut = piece(strand(chain(41)), rows=(row(),), pins=41 * 3 + 14)
    found, fit = fitted(taut, HemFit(name="h", row="Row"))
    assert found.rows[0].steps in ((), (0, 0, 0, 0))
    slack = piece(strand(chain(81)), rows=(row(every=8),), pins=60.0)
    found, fit = fitted(slack, HemFit(name="h", row="Row"))
    steps = found.rows[0].steps
    assert list(steps) == sorted(steps)
    assert steps[-1] > 4
    # each foot lies within half a 3 mm link of the innermost one
    assert all(abs(r.off) <= 1.5 + 1e-6 for r in fit.best.residuals)


def test_hem_lines_are_the_curves_they_are_called():
    first, mid, last = Foot(0, 90, 50), Foot(20, 70, 45), Foot(40, 60, 40)
    args = (first, 40.0)
    vee = HemFit(name="h", row="R", line="vee", rise_mm=12)
    assert [line_fall(vee, f, *args) for f in (first, mid, last)] == [90, 84, 78]
    arc = replace(vee, line="arc")
    radius = (40**2 + 12**2) / 24
    assert line_fall(arc, last, *args) == pytest.approx(78)
    assert line_fall(arc, mid, *args) == pytest.approx(90 - radius + math.sqrt(radius**2 - 400))
    assert line_fall(replace(vee, line="strand"), mid, *args) == 45 + 40
    drawn = HemFit(
        name="h", row="R", line="drawn", foot_mm=100,
        drawn=(HemPoint(out_mm=0, below_mm=0), HemPoint(out_mm=40, below_mm=-8)),
    )  # fmt: skip
    assert line_fall(drawn, mid, *args) == 96


def test_a_hem_that_cannot_be_had_names_the_drop():
    slack = piece(strand(chain(81)), rows=(row(every=8, links=2),), pins=60.0)
    high = HemFit(name="h", row="Row", line="vee", rise_mm=100)
    _, fit = fitted(slack, high)
    assert "single link" in fit.hindrance
    assert not fit.met
    bare = replace(row(), items=(rings(), unit("dangle")))
    _, told = fitted(replace(slack, rows=(bare,)), HemFit(name="h", row="Row"))
    assert "no chain to lengthen" in told.hindrance


# --- 7 lies flat ----------------------------------------------------------------------------------


@pytest.mark.parametrize("neckline", ["straight", "round", "vee"])
def test_flat_is_the_best_of_all_small_numbers_of_rings(neckline):
    rows = TiedRows(
        name="T", unit="link", rows=(3, 2, 1), ring="ring", hang_ring="ring", hang=(3,),
        sides=(rings(), chain(20)),
    )  # fmt: skip
    of = replace(piece(rows=(rows,)), form=Form(neckline=neckline))
    wish = FlatFit(name="f", row="T")
    trials = Trials()

    def left(rings):
        try:
            return round(unflatness(wish, trials.hung(with_rings(of, wish, rings))), 6)
        except DomainError:  # too short for its pins
            return math.inf

    best = min(
        (left(Rings(b, h)), total)
        for b in ((p, q, 1) for p in (1, 2, 3) for q in allowed_between(rows, 1))
        for h in ((p, q) for p in (1, 2, 3, 4) for q in (1, 2, 3, 4))
        for total in [2 * b[0] + b[1] + sum(h)]
    )
    found, fit = fitted(of, wish)
    own = unflatness(wish, trials.hung(found))
    assert round(own, 6) == best[0]
    assert len(fit.others) == 2 or best[0] == 0
    assert all(len(o.residuals) == 4 for o in fit.others)
    assert fit.met == (best[0] == 0)


def flat_row(**more):
    """A row of two over one, that hangs from a straight strand."""
    row = TiedRows(
        name="T", unit="link", rows=(2, 1), ring="ring", hang_ring="ring",
        sides=(rings(), chain(20)), **more,
    )  # fmt: skip
    return piece(rows=(row,))


def test_where_all_lies_flat_nothing_is_changed():
    wish = FlatFit(name="f", row="T")
    flat = [
        of
        for of in (flat_row(between=(n,), hang=(h,)) for n in (1, 2, 3) for h in (1, 2, 3, 4))
        if unflatness(wish, Trials().hung(of)) == 0
    ]
    assert len(flat) > 1  # several numbers are right: each is kept as the maker wrote it
    for of in flat:
        found, fit = fitted(of, wish)
        assert found.rows == of.rows
        assert fit.met


def test_two_rings_between_links_are_hung_from():
    of = flat_row(between=(2, 1), hang=(2,))
    assert Trials().hung(of).hung.state == "converged"
    under = replace(of.rows[0], rows=(3, 2, 1), between=(2,))
    assert Trials().hung(piece(rows=(under,))).hung.state == "converged"
