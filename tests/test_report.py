"""The report's promise: its names stay, they are described, and its parts agree with each other."""

import json
import re
from pathlib import Path

import pytest
from msgspec.structs import replace

from maglia.core.parts.parts import Ring
from maglia.core.piece.items import RingItem
from maglia.core.piece.piece import Closure, Piece, Run, Wearer
from maglia.core.report import as_json, as_text, evaluate
from maglia.core.values.measures import format_length
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece

DOCS = Path(__file__).parent.parent / "docs"
PROMISED = {
    "piece", "closed_length_mm", "runs", "counts", "cuts", "hang", "checks",
}  # fmt: skip


def demo(name):
    return read_piece(demo_path(name))


@pytest.mark.parametrize("name", demo_names())
def test_every_name_is_described_and_every_value_is_plain(name):
    report = as_json(evaluate(demo(name)))
    assert set(report) >= PROMISED
    assert json.loads(json.dumps(report, allow_nan=False)) == report
    described = set(re.findall(r"`([a-z_]+)`", (DOCS / "report.md").read_text()))
    assert set(report) <= described
    assert set(report["hang"]) <= described | {"state", "cause", "falls_mm", "marks"}
    assert {"name", "length_mm", "links"} <= set(report["runs"][0])


@pytest.mark.parametrize("name", demo_names())
def test_counts_cuts_and_runs_agree(name):
    report = as_json(evaluate(demo(name)))
    pair = 2 if demo(name).pair else 1
    counted = {c["part"]: c for c in report["counts"]}
    for chain in {c["chain"] for c in report["cuts"]}:
        cut = sum(c["links"] * c["count"] for c in report["cuts"] if c["chain"] == chain)
        assert cut == counted[chain]["count"]
        plan = next(p for p in report["chain"] if p["chain"] == chain)
        assert plan["links_used"] == cut <= plan["links_needed"]
    links = pair * sum(run["links"] for run in report["runs"])
    assert links == sum(c["count"] for c in report["counts"] if c["kind"] == "chain")
    for ring in report["rings"]:
        assert ring["to_open"] + ring["leave_closed"] == ring["count"]
    balance = report["balance"]
    assert balance["left_g"] + balance["right_g"] == pytest.approx(balance["total_g"], abs=1e-3)


@pytest.mark.parametrize("name", demo_names())
def test_every_part_has_one_letter_on_every_sheet(name):
    report = as_json(evaluate(demo(name)))
    letters = [c["letter"] for c in report["counts"] if c["letter"]]
    assert len(set(letters)) == len(letters)
    by_part = {c["part"]: c["letter"] for c in report["counts"]}
    assert all(by_part[r["part"]] == r["letter"] for r in report["rings"])


def test_codes_of_checks_are_listed():
    listed = set(re.findall(r"`([a-z-]+)`", (DOCS / "report.md").read_text()))
    source = Path(__file__).parent.parent / "src" / "maglia" / "core" / "checks"
    written = set()
    for path in source.glob("*.py"):
        written |= set(re.findall(r'code="([a-z-]+)"', path.read_text()))
    assert written <= listed


@pytest.mark.parametrize("unit", ["mm", "cm", "in"])
def test_the_text_says_lengths_in_the_unit_asked_for(unit):
    found = evaluate(demo("gallery-tiers"))
    text = as_text(found, unit)
    assert format_length(412.0, unit, with_unit=True) in text
    assert "Checks: nothing to mend" in text
    assert "Hang: converged" in text


def test_an_empty_piece_reports_nothing_and_fails_at_nothing():
    report = as_json(evaluate(Piece()))
    assert report["closed_length_mm"] is None
    assert report["runs"] == report["counts"] == report["checks"] == []
    assert report["hang"]["state"] == "empty"


@pytest.mark.parametrize(("hand", "code"), [(200.0, None), (260.0, "does-not-go-on")])
def test_an_elastic_bracelet_must_pass_the_hand(hand, code):
    # 31 elastic rings of 5 mm that stretch by 1.6 and a joining ring: 155 × 1.6 + 5 = 253
    soft = Ring(id="e", name="E", wire_mm=1.0, inner_mm=5.0, closure="elastic", stretch_limit=1.6,
                material="rubber")  # fmt: skip
    made = Piece(
        sort="bracelet", wearer=Wearer(role="a guest", hand_mm=hand, wrist_mm=150),
        parts=(soft, replace(soft, id="r", closure="open", stretch_limit=1.0)),
        runs=(Run(name="Band", centre=RingItem(part="e", count=31)),),
        closure=Closure(kind="over the hand", catch="r"),
    )  # fmt: skip
    found = evaluate(made)
    # it is sized for the wrist at rest, where it passes the hand stretched
    assert found.on_body.has_mm == pytest.approx(253.0 if code else 160.0)
    codes = {c.code for c in found.checks}
    assert ("does-not-go-on" in codes) is (code is not None)


@pytest.mark.parametrize(
    ("wrist", "codes"),
    [(150.0, set()), (175.0, {"too-short-for-wearer"}), (130.0, {"too-long-for-wearer"})],
)
def test_a_bracelet_for_the_wrong_wrist(wrist, codes):
    made = demo("hedge-bracelet")
    made = replace(made, wearer=replace(made.wearer, wrist_mm=wrist))
    found = {c.code for c in evaluate(made).checks if not c.code.startswith("hang")}
    assert found == codes


def test_an_accepted_check_stays_away():
    from maglia.core.piece.piece import Accepted

    made = demo("hedge-bracelet")
    made = replace(made, wearer=replace(made.wearer, wrist_mm=130.0))
    check = next(c for c in evaluate(made).checks if c.code == "too-long-for-wearer")
    kept = replace(made, accepted=(Accepted(code=check.code, place=check.place, note="loose"),))
    assert check.code not in {c.code for c in evaluate(kept).checks}


def test_going_on_from_earlier_findings_changes_no_number():
    made = demo("lamplighters-collar")
    cold = as_json(evaluate(made))
    warm = as_json(evaluate(made, before=evaluate(made)))
    assert warm["hang"].pop("pulls_gf") == pytest.approx(cold["hang"].pop("pulls_gf"), rel=1e-3)
    for name in ("falls_mm", "hems_mm", "widths_mm"):
        assert warm["hang"].pop(name) == pytest.approx(cold["hang"].pop(name), abs=0.02)
    assert warm == cold
