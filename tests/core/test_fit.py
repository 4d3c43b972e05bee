"""Fits: each against a closed form or an exhaustive search, and all against the report."""

import itertools
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from fitting import MORE, catenary_length_mm, catenary_sag_mm, demo, fitted, row, tiers
from maglia.core.edits.edit import put, set_count
from maglia.core.edits.spots import Spot
from maglia.core.fit.lever import lever_at, mirror_true
from maglia.core.fit.look import Trials
from maglia.core.fit.solve import measured, solve
from maglia.core.piece.items import PartItem, RepeatItem, RingItem, StrungItem
from maglia.core.piece.piece import DropRow, Place, Run, SwagRow, Wearer
from maglia.core.piece.wishes import (
    ClearFit,
    FlatFit,
    HemFit,
    LengthFit,
    MatchFit,
    NestedFit,
    PatternFit,
    PlacesFit,
    Quantity,
    RingsFit,
    SagFit,
    TiersFit,
)
from maglia.core.values.record import DomainError
from maglia.files.piece_json import piece_from, piece_text
from workshop import chain, drop, piece, rings, strand, unit

# --- 1 length -------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("wearer", "sort", "needed"),
    [
        (Wearer(neck_mm=350, ease_mm=15), "necklace", 365.0),
        # chain of 2 + 2 × 0.8 = 3.6 mm lies on the wrist, and two rings of 4 mm that are 0.8 thick
        (Wearer(wrist_mm=160, ease_mm=15), "bracelet", 175),
        (Wearer(ankle_mm=225, ease_mm=20), "anklet", 245),
    ],
)
def test_length_from_girth_ease_and_thickness(wearer, sort, needed):
    of = piece(strand(chain(21), rings(), chain(9)), wearer=wearer, sort=sort)
    found, fit = fitted(of, LengthFit(name="l"))
    (residual,) = fit.best.residuals
    if sort != "necklace":
        length = fit.best.residuals[0].got - 9 - 5
        needed += math.pi * (3.6 * (length - 8) + 0.8 * 8) / length
    # 2 sides of 3 mm links: the exact nearest is within 3 mm
    assert residual.wished == pytest.approx(needed, abs=0.01)
    assert abs(residual.off) <= 3.0
    assert fit.met
    side = found.runs[0].items[1].links
    assert found.runs[0].centre.links == 21
    assert fit.below.residuals[0].off < residual.off
    paper = 21 * 3 + 2 * (4 + 3 * side) + 9 + 5
    assert residual.got == pytest.approx(paper, abs=0.01)


def test_over_the_head_takes_the_first_length_that_passes():
    over = replace(piece(strand(chain(21), rings())).closure, kind="over the head", clasp=None)
    of = piece(strand(chain(101)), closure=over, wearer=Wearer(head_mm=565))
    found, fit = fitted(of, LengthFit(name="l"))
    assert found.runs[0].centre.links == 187  # 187 × 3 + 5 = 566 ≥ 565 > 563
    assert fit.met
    assert fit.best.residuals[0].off == 0
    short, told = fitted(of, LengthFit(name="l", to="given", mm=500))
    assert "head" in told.hindrance
    assert "565" in told.hindrance
    assert short.runs[0].centre.links == 165


def test_wraps_and_coils_by_their_turns():
    cord, fit = fitted(demo("rope-and-pulley-wrap"), LengthFit(name="l"))
    wrist = cord.wearer
    assert fit.best.residuals[0].wished == pytest.approx(
        3 * (wrist.wrist_mm + math.pi * 6) + wrist.ease_mm
    )
    coil, fit = fitted(demo("spiral-stair-coil"), LengthFit(name="l"))
    assert fit.best.residuals[0].wished == pytest.approx(1.5 * math.pi * 55.6)
    assert coil.runs[0].items[0].times == round(1.5 * math.pi * 55.6 / 6)


def test_what_else_is_too_long_is_said():
    of = piece(strand(chain(201), rings(), chain(3)), wearer=Wearer(neck_mm=350))
    _, fit = fitted(of, LengthFit(name="l"))
    assert "too long" in fit.hindrance
    assert not fit.met
    _, unknown = fitted(piece(strand(chain(21))), LengthFit(name="l"))
    assert "neck girth" in unknown.hindrance


# --- 2 and 3 tiers, nested strands ----------------------------------------------------------------


def test_tiers_are_the_best_of_all_small_changes():
    wish = TiersFit(name="t", strands=("T1", "T2", "T3"), first_fall_mm=30, gaps_mm=(20, 26))
    found, fit = fitted(tiers(131, 151, 171), wish)
    assert [r.wished for r in fit.best.residuals] == [30, 50, 76]
    assert fit.met
    trials = Trials()
    counts = [run.centre.links for run in found.runs]
    for k, run in enumerate(found.runs):
        off = abs(fit.best.residuals[k].off)
        for by in (-1, 1, 2, -2):
            other = set_count(found, Spot(run.name, (-1,)), counts[k] + by).piece
            assert abs(measured(wish, trials.hung(other))[k].off) > off - 1e-6


def test_growing_gaps_and_a_first_strand_that_stays():
    wish = TiersFit(name="t", strands=("T1", "T2", "T3"), gaps_mm=(15,), growth_mm=6)
    found, fit = fitted(tiers(141, 151, 171), wish)
    first = fit.best.residuals[0]
    assert found.runs[0].centre.links == 141
    assert first.off == 0
    assert fit.best.residuals[2].wished == pytest.approx(first.got + 15 + 21)


def test_tiers_and_their_hem_agree_in_the_end():
    drops = DropRow(
        name="Row",
        run="T2",
        every=5,
        count=7,
        items=(rings(part="small"), chain(6), unit("dangle")),
    )
    both = (
        TiersFit(name="t", strands=("T1", "T2"), first_fall_mm=30, gaps_mm=(30,)),
        HemFit(name="h", row="Row"),
    )
    found, (tier, hem) = fitted(tiers(131, 151, rows=(drops,)), *both)
    assert tier.met
    assert hem.met
    assert len(hem.best.residuals) == 4
    again = solve(found)
    assert again.piece == found  # at rest: solving once more changes nothing


def test_nested_strands_leave_the_wished_air():
    of = demo("box-office-pearls")
    wish = NestedFit(name="n", strands=("Upper", "Middle", "Lower"), clear_mm=6)
    found, fit = fitted(of, wish)
    trials = Trials()
    lower = found.run("Lower")
    assert found.run("Upper") == of.run("Upper")
    cumulated = abs(sum(r.off for r in fit.best.residuals))
    for by in (-1, 1):
        other = set_count(found, Spot("Lower", (-1,)), lower.centre.times + by).piece
        assert abs(sum(r.off for r in measured(wish, trials.hung(other)))) > cumulated
    beads = next(m.strung for m in trials.built(found).assembly.members if m.run == "Lower")
    assert beads.lead == ("pearl-8",)
    assert beads.pattern == ("spacer-2", "pearl-8")


# --- 6 swags --------------------------------------------------------------------------------------


@given(chord=st.floats(10, 400), depth=st.floats(0.02, 2.0))
@settings(max_examples=80, deadline=None)
def test_catenary_length_and_sag_are_each_others_inverse(chord, depth):
    sag = depth * chord
    length = catenary_length_mm(chord, sag)
    assert catenary_sag_mm(chord, length) == pytest.approx(sag, rel=1e-8)
    # second way: the arc length integrated along the curve
    half = chord / 2
    low, high = 1e-9, 60.0
    for _ in range(200):
        u = (low + high) / 2
        low, high = (u, high) if (math.cosh(u) - 1) / u < sag / half else (low, u)
    a = half / low
    steps = [-half + k * chord / 2000 for k in range(2001)]
    points = [(x, a * math.cosh(x / a)) for x in steps]
    walked = sum(math.dist(p, q) for p, q in itertools.pairwise(points))
    assert walked == pytest.approx(length, rel=1e-5)


def test_swags_by_sag_meet_the_catenary():
    """A fine swag between two links of a taut carrier: the hung sag against the closed form."""
    taut = strand(chain(61))
    swags = SwagRow(name="Swags", run="Strand", item=0, places=(3, 23), items=(chain(30),))
    of = piece(taut, rows=(swags,), pins=190.0)
    found, fit = fitted(of, SagFit(name="s", swags=("Swags",), sag_mm=18))
    (residual,) = fit.best.residuals
    links = found.rows[0].items[0].links
    chord = 20 * 3.0
    assert residual.got == pytest.approx(catenary_sag_mm(chord, links * 3.0), abs=1.0)
    nearer = [abs(catenary_sag_mm(chord, n * 3.0) - 18) for n in (links - 1, links, links + 1)]
    assert nearer[1] <= min(nearer) + 0.6  # the carrier itself gives a little


def test_swags_by_slack_beside_bead_links_and_nested_with_steps():
    found, fit = fitted(
        demo("spotlight-swags"), SagFit(name="s", swags=("Swag 1", "Swag 2"), slack=0.1)
    )
    assert fit.best.residuals[0].wished == pytest.approx(26.6 * 1.1)
    assert found.run("Swag 1").items[0].links == round(26.6 * 1.1 / 2)
    of = piece(
        strand(chain(61)),
        *(
            Run(
                name=f"S{k}", kind="swag", lies="across", centre=chain(links),
                end=Place(run="Strand", item=0, at=14),
            )
            for k, links in ((1, 33), (2, 35))
        ),
        pins=190.0,
    )  # fmt: skip
    nested = SagFit(name="n", swags=("S1", "S2"), sag_mm=22, step_mm=8)
    _, fit = fitted(of, nested)
    assert [r.wished for r in fit.best.residuals] == [22, 30]
    assert fit.met


def test_a_drop_inside_a_v_takes_the_first_length_that_is_clear():
    of = replace(
        piece(
            strand(chain(31), rings()),
            Run(name="V", kind="swag", lies="across", centre=rings(), items=(chain(16),),
                end=Place(run="Strand", item=0, at=15)),
            drop("Centre", 0, rings(part="small"), chain(2), PartItem(part="leaf"), lies="fold"),
            parts=MORE, pins=90.0,
        )
    )  # fmt: skip
    wish = ClearFit(name="c", drop="Centre", clear_mm=5)
    found, fit = fitted(of, wish)
    trials = Trials()
    tried = {}
    for links in range(1, 16):
        other = put(of, Spot("Centre", (1,)), chain(links))
        tried[links] = measured(wish, trials.hung(other))[0].got
    inside = [n for n, mm in tried.items() if mm >= 5]
    assert found.run("Centre").items[1].links == inside[0]
    assert fit.met
    _, never = fitted(of, replace(wish, clear_mm=80.0))
    assert "never more than" in never.hindrance


# --- 8 and 9 patterns and rings -------------------------------------------------------------------


def test_patterns_stay_whole_and_mirror_true():
    strung = StrungItem(thread="wire", pattern=("amber", "disc", "disc"), times=5)
    of = piece(strand(strung, rings()), parts=MORE)
    found, fit = fitted(of, PatternFit(name="b", section=Quantity(run="Strand"), mm=180))
    item = found.runs[0].centre
    assert item.beads == item.beads[::-1]
    assert item.tail == ("amber",)
    # whole patterns, amber 6 and two discs of 2, and single beads off both ends alike:
    # 6 + 10 n, less 0, 12 (two ambers) or 16 (and two discs)
    lengths = [6 + 10 * n - less for n in range(2, 40) for less in (0, 12, 16)]
    best = min(abs(length - 180) for length in lengths)
    assert abs(fit.best.residuals[0].got - 180) == pytest.approx(best)
    with pytest.raises(DomainError, match="read from its other end"):
        mirror_true(StrungItem(thread="wire", pattern=("amber", "disc", "bead")))


def test_long_short_chain_keeps_whole_patterns():
    lever = lever_at(piece(strand(chain(9, "ls")), parts=MORE), Spot("Strand", (-1,)))
    assert lever.step == 3
    assert lever.nearest(70) == 16
    side = piece(strand(chain(9), chain(9, "ls")), parts=MORE)
    assert lever_at(side, Spot("Strand", (0,))).nearest(70) == 15  # 5 whole patterns of 13


@given(
    sizes=st.lists(st.sampled_from(("ring", "small", "catch")), min_size=1, max_size=4),
    target=st.floats(30, 900),
)
@settings(max_examples=50, deadline=None)
def test_rings_in_any_order_nearest_a_length(sizes, target):
    items = tuple(RingItem(part=part) for part in sizes)
    of = piece(strand(rings(), RepeatItem(times=3, items=items)))
    found, fit = fitted(of, RingsFit(name="r", stretch=Quantity(run="Strand", item=1), mm=target))
    once = sum({"ring": 4.0, "small": 3.0, "catch": 5.0}[part] for part in sizes)
    brute = min(range(1, 400), key=lambda n: (abs(once * n - target), n))
    assert found.runs[0].items[0].times == brute
    assert fit.best.residuals[0].got == pytest.approx(once * brute)


# --- 10 match -------------------------------------------------------------------------------------


def test_match_level_length_and_mirror():
    of = piece(
        strand(chain(51)),
        drop("A", 0, rings(), chain(10), unit("dangle"), lies="fold"),
        drop("B", 6, rings(), chain(4), PartItem(part="leaf")),
        parts=MORE,
    )
    found, fit = fitted(of, MatchFit(name="m", run="B", to="A"))
    trials = Trials()
    for links in range(4, 20):
        other = put(of, Spot("B", (1,)), chain(links))
        off = measured(fit.fit, trials.hung(other))[0].off
        assert abs(off) >= abs(fit.best.residuals[0].off) - 1e-3  # as exact as the hang
    assert abs(fit.best.residuals[0].off) <= 1.5
    found, fit = fitted(of, MatchFit(name="m", run="B", to="A", how="length"))
    # 4 + 10 × 3 + (8 + 2.6) = 44.6 against 4 + n × 3 + 8
    assert found.run("B").items[1].links == 11
    assert fit.best.residuals[0].off == pytest.approx(0.4)
    found, fit = fitted(
        replace(demo("trapdoor-earrings"), pair=False),
        MatchFit(name="m", run="Short", to="Long", how="mirror"),
    )
    assert found.pair
    assert found.run("Short").items == found.run("Long").items
    assert fit.met


# --- further corners ------------------------------------------------------------------------------


def test_a_row_beside_the_fold_is_placed_along_its_own_stretch():
    side = DropRow(
        name="Row", run="Strand", item=2, rule="places", places=(3, 9),
        items=(rings(part="small"), unit("dangle")),
    )  # fmt: skip
    of = piece(strand(chain(21), rings(), chain(20), rings()), rows=(side,))
    found, fit = fitted(of, PlacesFit(name="p", row="Row", rule="every", every=4, count=4))
    assert found.rows[0].places == (1, 5, 9, 13)
    assert fit.met
    _, even = fitted(of, PlacesFit(name="p", row="Row", count=5))
    assert even.best.residuals[0].got == 5
    assert even.best.residuals[1].got <= 1
    _, full = fitted(of, PlacesFit(name="p", row="Row", rule="every", every=6, count=5))
    assert "room for 4" in full.hindrance


def test_a_parallel_hem_keeps_every_drop_alike_on_a_taut_strand():
    taut = piece(strand(chain(61)), rows=(row(every=6, steps=(0, 3, -2, 1)),), pins=190.0)
    found, fit = fitted(taut, HemFit(name="h", row="Row", line="strand"))
    links = {0 if not found.rows[0].steps else s for s in found.rows[0].steps or (0,)}
    assert links <= {-1, 0, 1}
    assert fit.met


def test_a_hem_at_a_depth_moves_the_innermost_drop_too():
    of = piece(strand(chain(81)), rows=(row(every=8),), pins=60.0)
    found, fit = fitted(of, HemFit(name="h", row="Row", foot_mm=150))
    assert abs(fit.best.residuals[0].got - 150) <= 1.5 + 1e-6
    assert found.rows[0].items[1].links != 8


def test_fits_name_what_is_missing():
    of = piece(strand(chain(21)))
    cases = (
        (HemFit(name="h", row="None"), "no row of drops “None”"),
        (FlatFit(name="f", row="None"), "no tied rows “None”"),
        (SagFit(name="s", swags=("Strand",), sag_mm=4), "is no swag"),
        (LengthFit(name="l", run="None", to="given", mm=40), "no run “None”"),
        (TiersFit(name="t", strands=("Strand", "None"), gaps_mm=(9,)), "no run “None”"),
        (MatchFit(name="m", run="Strand", to="Strand"), "with itself"),
        (ClearFit(name="c", drop="None", clear_mm=3), "no run “None”"),
        (PatternFit(name="b", section=Quantity(run="Strand"), mm=90), "is a chain, not strung"),
        (LengthFit(name="l", to="given"), "does not say how long"),
    )
    for wish, told in cases:
        found, fit = fitted(of, wish)
        assert told in fit.hindrance, (wish, fit.hindrance)
        assert not fit.met
        assert found.runs == of.runs


def test_a_fit_may_be_told_what_to_change():
    of = piece(strand(chain(21), rings(), chain(9), rings(2)))
    inner = Quantity(run="Strand")
    found, fit = fitted(of, LengthFit(name="l", to="given", mm=170, changes=(inner,)))
    assert found.runs[0].items == of.runs[0].items
    assert found.runs[0].centre.links == 26  # 26 × 3 + 2 × (4 + 27 + 8) + 14 = 170
    assert fit.best.residuals[0].off == pytest.approx(0)


def test_swags_of_a_row_overrule_only_where_they_differ():
    swags = SwagRow(name="S", run="Strand", item=0, places=(2, 12, 24), items=(chain(14),))
    of = piece(strand(chain(61)), rows=(swags,), pins=185.0)
    found, fit = fitted(of, SagFit(name="s", swags=("S",), sag_mm=12))
    assert fit.met
    assert len(fit.best.residuals) == 2
    assert len(found.rows[0].overrides) == 1  # two spans, two lengths
    assert piece_from(piece_text(found)) == found


def test_longer_and_shorter_answers_stand_beside_the_best():
    _, fit = fitted(
        tiers(131, 151, 171), TiersFit(name="t", strands=("T1", "T2", "T3"), gaps_mm=(20,))
    )
    for answer, sign in ((fit.below, -1), (fit.above, 1)):
        assert answer.changed
        assert all(sign * r.off > 0 for r in answer.residuals[1:])


@pytest.mark.parametrize("links", [40, 41])
def test_levers_allow_what_the_fold_allows(links):
    hung = drop("D", 0, rings(part="small"), unit("dangle"), lies="fold")
    of = piece(strand(chain(links)), hung)
    lever = lever_at(of, Spot("Strand", (-1,)))
    assert (lever.step, lever.allowed(40.9), lever.allowed(0)) == (2, 41, 1)
    free = lever_at(piece(strand(chain(links))), Spot("Strand", (-1,)))
    assert (free.step, free.nearest(120.9), free.nearest(121, at_least=True)) == (1, 40, 41)
