"""Several fits on one piece, regrading, the report, and wishes in words and on the command line."""

import pytest
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from fitting import demo, fitted, row, tiers
from maglia.cli import main
from maglia.core.edits.spots import Spot, quantity_at, spot_at
from maglia.core.fit.found import Residual
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.regrade import regraded
from maglia.core.fit.solve import conflicts, differences, solve, standing
from maglia.core.fit.wishes import FORMS, is_wish, read_fit, with_fit, written
from maglia.core.hang.solution import Cancelled
from maglia.core.piece.piece import (
    Wearer,
)
from maglia.core.piece.wishes import (
    ClearFit,
    FlatFit,
    HemFit,
    HemPoint,
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
from maglia.core.report import as_json, evaluate
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_wearers
from maglia.files.piece_json import piece_from, piece_text, read_piece
from workshop import CHAIN, chain, piece, strand

# --- together -------------------------------------------------------------------------------------


def test_conflicts_pins_and_locks():
    of = demo("ushers-y")
    fall = LengthFit(name="fall", to="fall", run="Y", mm=60)
    length = LengthFit(name="length", to="given", mm=480)
    _, (_, second) = fitted(of, fall, length)
    assert "“fall” already sets Y, item 1" in second.hindrance
    assert not conflicts(replace(of, fits=(replace(fall, locked=True), length)))
    pinned = replace(of, pinned=(quantity_at(Spot("Y", (0,))),))
    found, fit = fitted(pinned, length)
    assert "pinned" in fit.hindrance
    assert found.runs == of.runs
    locked = replace(fall, mm=200, locked=True)
    found, fit = fitted(of, locked)
    assert found.runs == of.runs
    assert fit.best.residuals[0].off < -100
    assert not fit.met


def test_quantities_point_at_items_within_repeats():
    of = demo("stagehands-rings")
    for spot in (Spot("Rings", (-1,)), Spot("Rings", (0,)), Spot("Rings", (0, 1))):
        assert spot_at(of, quantity_at(spot)) == spot
    with pytest.raises(DomainError, match="no such item"):
        spot_at(of, Quantity(run="Rings", item=9))


def test_a_fit_is_solved_again_when_a_part_or_a_wearer_changes():
    of = with_fit(demo("lamplighters-collar"), LengthFit(name="closed length", to="given", mm=450))
    first = solve(of).piece
    wider = replace(CHAIN, id="rolo-3", name="Rolo 4", pitches_mm=(4.0,))
    parts = tuple(wider if p.id == "rolo-3" else p for p in first.parts)
    second = solve(replace(first, parts=parts))
    assert abs(second.fitted[-1].best.residuals[0].off) <= 4.0
    assert second.piece.runs != first.runs


def test_regrading_every_wearer_and_back_is_the_identity():
    of = solve(demo("gallery-tiers")).piece
    graded = regraded(of, (*demo_wearers(), of.wearer))
    assert [g.wearer.role for g in graded[:3]] == [w.role for w in demo_wearers()]
    for one in graded:
        assert one.hindrance == ""
        assert all(fit.met for fit in one.fitted)
        assert one.piece.rows[0].items == of.rows[0].items  # given: kept
    lengths = {g.wearer.neck_mm: g.closed_length_mm for g in graded}
    assert [lengths[n] for n in sorted(lengths)] == sorted(lengths.values())
    assert graded[-1].piece == of
    unknown = regraded(demo("hedge-bracelet"), (Wearer(role="nobody"),))
    assert "wrist" in unknown[0].hindrance


@pytest.mark.parametrize("name", demo_names())
def test_every_demo_piece_carries_a_live_fit_and_the_report_says_what_the_fit_claims(name):
    of = demo(name)
    assert of.fits
    assert not all(fit.locked for fit in of.fits)
    solved = solve(of)
    assert differences(of, solved.piece) == ()  # shipped solved
    report = as_json(evaluate(solved.piece))
    for said, fit in zip(report["fits"], solved.fitted, strict=True):
        assert said["met"] == fit.met
        assert said["hindrance"] == ""
        for figure, residual in zip(said["figures"], fit.best.residuals, strict=True):
            assert figure["residual"] == pytest.approx(residual.off, abs=0.02)


@given(
    mm=st.floats(300, 700), gap=st.floats(8, 40), drops=st.integers(3, 9),
    slack=st.floats(0.02, 0.6),
)  # fmt: skip
@settings(max_examples=12, deadline=None)
def test_the_report_of_what_a_fit_returns_shows_the_residual_it_claimed(mm, gap, drops, slack):
    swags = demo("spotlight-swags")
    cases = (
        (demo("lamplighters-collar"), LengthFit(name="l", to="given", mm=mm)),
        (tiers(131, 151), TiersFit(name="t", strands=("T1", "T2"), gaps_mm=(gap,))),
        (piece(strand(chain(61)), rows=(row(),)), PlacesFit(name="p", row="Row", count=drops)),
        (swags, SagFit(name="s", swags=("Swag 1",), slack=slack)),
        (piece(strand(chain(61)), rows=(row(),)), HemFit(name="h", row="Row", rise_mm=gap / 4)),
    )
    for of, wish in cases:
        found, fit = fitted(of, wish)
        assert piece_from(piece_text(found)) == found  # kept in the file
        (said,) = standing(Look(evaluate(found).assembly, evaluate(found).hung))
        assert [r.off for r in said.residuals] == pytest.approx(
            [r.off for r in fit.best.residuals], abs=0.02
        )


def test_work_can_be_stopped_and_tells_how_far_it_is():
    seen = []
    with pytest.raises(Cancelled):
        solve(
            with_fit(tiers(131, 151), TiersFit(name="t", strands=("T1", "T2"), gaps_mm=(20,))),
            Trials(cancelled=lambda: len(seen) > 0, progress=seen.append),
        )
    assert seen


def test_a_strand_too_short_to_hang_is_lengthened_until_its_fall_is_right():
    made = tiers(141, 20)
    assert "run “T2” is too short" in evaluate(made).checks[0].message
    fit = LengthFit(name="f", run="T2", to="fall", mm=60.0)
    solved, one = fitted(made, fit)
    assert one.met, one.hindrance
    assert evaluate(solved).readings.falls_mm["T2"] == pytest.approx(60.0, abs=3.0)


def test_bounds_are_no_fault_when_kept():
    assert Residual("r", 10, 12, 0, "at least").met
    assert not Residual("r", 10, 8, 0, "at least").met
    assert Residual("r", 1, 0, 0, "at most").off == 0
    assert Residual("r", 10, 10.4, 0.5).met


# --- wishes in words and the command line ---------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "text", "expected"),
    [
        ("gallery-tiers", "tiers first 40 gaps 25 30", TiersFit(
            name="tiers", strands=("Tier 1", "Tier 2", "Tier 3"), first_fall_mm=40,
            gaps_mm=(25, 30))),
        ("gallery-tiers", "tiers of Tier 1 and tier 3: gaps 2 1/2 in growing 5 within 1", TiersFit(
            name="tiers", strands=("Tier 1", "Tier 3"), gaps_mm=(63.5,), growth_mm=5,
            tolerance_mm=1)),
        ("gallery-tiers", "Hem of Fringe V 12 at 90", HemFit(
            name="hem of Fringe", row="Fringe", line="vee", rise_mm=12, foot_mm=90)),
        ("gallery-tiers", "hem drawn 0:0 20:5", HemFit(
            name="hem of Fringe", row="Fringe", line="drawn",
            drawn=(HemPoint(out_mm=0, below_mm=0), HemPoint(out_mm=20, below_mm=5)))),
        ("gallery-tiers", "every 3, 9 of Fringe", PlacesFit(
            name="places of Fringe", row="Fringe", rule="every", every=3, count=9)),
        ("gallery-tiers", "every 3 links, 9 of Fringe", PlacesFit(
            name="places of Fringe", row="Fringe", rule="every", every=3, count=9)),
        ("gallery-tiers", "worn 5", PlacesFit(
            name="places of Fringe", row="Fringe", rule="worn", count=5)),
        ("ushers-y", "fall of Y 6cm", LengthFit(name="fall of Y", run="Y", to="fall", mm=60)),
        ("ushers-y", "length 18 in", LengthFit(name="closed length", to="given", mm=457.2)),
        ("spotlight-swags", "slack 10 %", SagFit(
            name="sag of Swag 1, Swag 2", swags=("Swag 1", "Swag 2"), slack=0.1)),
        ("spotlight-swags", "clear 3 around Centre", ClearFit(
            name="air around Centre", drop="Centre", clear_mm=3)),
        ("stagehands-rings", "rings of Rings 200", RingsFit(
            name="rings of Rings", stretch=Quantity(run="Rings", item=1), mm=200)),
        ("hedgerow-strand", "beads 300", PatternFit(
            name="beads of Strung", section=Quantity(run="Strung"), mm=300)),
        ("curtain-bib", "flat", FlatFit(name="Bib flat", row="Bib")),
        ("footlight-cones", "match length Chain 5 to Chain 1", MatchFit(
            name="Chain 5 as Chain 1", run="Chain 5", to="Chain 1", how="length")),
        ("box-office-pearls", "nested clear 3", NestedFit(
            name="nested", strands=("Upper", "Middle", "Lower"), clear_mm=3)),
    ],
)  # fmt: skip
def test_wishes_as_people_write_them(name, text, expected):
    assert is_wish(text)
    assert read_fit(text, demo(name)) == expected
    again = read_fit(written(expected), demo(name), "in")  # written in mm, whatever is shown
    assert replace(again, tolerance_mm=None) == replace(expected, tolerance_mm=None)


@pytest.mark.parametrize(
    ("name", "text", "told"),
    [
        ("gallery-tiers", "make it nice", "no wish known"),
        ("gallery-tiers", "fall of Tier 9 60", "“tier” in"),
        ("gallery-tiers", "hem of Fringe V", "how much higher"),
        ("gallery-tiers", "tiers", "gives no gap"),
        ("gallery-tiers", "sag 12", "has no swags"),
        ("gallery-tiers", "even of Fringe", "how many"),
        ("gallery-tiers", "fall of Tier 2 ¤", "not understood"),
        ("trapdoor-earrings", "hem level", "none in this piece"),
        ("footlight-cones", "match Chain 1", "needs two runs"),
        ("ushers-y", "nested clear 3", "two or more"),
    ],
)
def test_wishes_that_cannot_be_read_say_why(name, text, told):
    with pytest.raises(DomainError, match=told):
        read_fit(text, demo(name))


def test_every_example_names_a_form_that_is_read():
    for form, _ in FORMS:
        assert is_wish(form)


def run(*arguments):
    return CliRunner().invoke(main, [str(a) for a in arguments])


def test_fit_and_regrade_from_the_command_line(tmp_path):
    out = tmp_path / "wider.json"
    done = run("fit", "lamplighters-collar", "--wish", "length 450", "--out", out)
    assert done.exit_code == 0, done.output
    assert "Strand: 37 → 43 links" in done.output
    assert "-0.8" in done.output
    assert read_piece(out).fits[0].mm == 450
    told = run("report", out).output
    assert "closed length: 449.2 mm, wished 450.0, -0.8" in told
    data = run("fit", out, "--json").output
    assert '"below"' in data
    assert '"residual": -0.8' in data
    assert "Wish" not in run("fit", out, "--list").output
    wearers = tmp_path / "cast.csv"
    wearers.write_text("role,neck_mm\nthe fool,340\nthe king,410\n")
    table = tmp_path / "table.csv"
    done = run("regrade", "ushers-y", "--wearers", wearers, "--csv", table)
    assert done.exit_code == 0
    assert "the king" in done.output
    head, *lines = table.read_text().splitlines()
    assert head.startswith("wearer,closed_length_mm,Y length_mm,Y links")
    assert len(lines) == 2
    wearers.write_text("name\nx\n")
    done = run("regrade", "ushers-y", "--wearers", wearers)
    assert done.exit_code == 2
    assert "one of them role" in done.output
    done = run("fit", out, "--wish", "please")
    assert done.exit_code == 2
    assert "no wish known" in done.output
