"""What is handed on with a piece: sizes and care in words, sheets on paper."""

from pathlib import Path

import pytest
from click.testing import CliRunner

from maglia.app.customer_sheet import sizes_of
from maglia.cli import main
from maglia.core.assembly.expand import expand
from maglia.core.report import evaluate
from maglia.core.sheets.care import care_of, materials_of
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece


def assembly(name):
    return expand(read_piece(demo_path(name)))


def said(name):
    return " ".join(care_of(assembly(name)))


def test_care_follows_what_the_piece_is_of():
    assert "soft cloth" in said("gallery-tiers")
    assert "restrung" in said("box-office-pearls")
    assert ("Pearls" in said("box-office-pearls")) is (
        "pearl" in materials_of(assembly("box-office-pearls"))
    )
    assert "licensed practice" in said("trapdoor-earrings")
    assert "licensed practice" not in said("gallery-tiers")
    assert "age in the sun" in said("matinee-stretch")


@pytest.mark.parametrize("name", demo_names())
def test_every_piece_has_its_cautions_once(name):
    lines = care_of(assembly(name))
    assert len(set(lines)) == len(lines)
    assert any("children" in line for line in lines)
    assert any("Local rules" in line for line in lines)
    assert materials_of(assembly(name))


def test_sizes_are_those_of_the_report():
    found = evaluate(read_piece(demo_path("gallery-tiers")))
    sizes = dict(sizes_of(found, "mm"))
    assert sizes["Length, closed"] == f"{found.closed_length_mm:.1f} mm"
    assert sizes["Falls, Tier 3"] == f"{found.readings.falls_mm['Tier 3']:.1f} mm"
    assert "Falls, Tier 1" not in sizes  # it lies in the pit of the neck
    assert sizes["Weight"] == f"{found.balance.total_g:.1f} g"


def test_a_weight_that_is_not_known_whole_says_so():
    made = read_piece(demo_path("ushers-y"))
    found = evaluate(made)
    assert any(check.code == "mass-unknown" for check in found.checks) is (
        dict(sizes_of(found, "mm"))["Weight"].startswith("more than ")
    )


@pytest.mark.parametrize(("kit", "words"), [((), b"%PDF"), (("--kit",), b"%PDF")])
def test_sheets_are_written(qapp, tmp_path, kit, words):
    out = tmp_path / "sheet.pdf"
    done = CliRunner().invoke(main, ["sheet", str(demo_path("ushers-y")), str(out), *kit])
    assert done.exit_code == 0, done.output
    assert out.read_bytes().startswith(words)
    lines = tmp_path / "sheet.svg"
    assert CliRunner().invoke(
        main, ["sheet", str(demo_path("ushers-y")), str(lines), *kit]
    ).exit_code == 0  # fmt: skip
    assert "<svg" in Path(lines).read_text()


def test_a_sheet_that_cannot_be_written_names_its_place(qapp, tmp_path):
    out = tmp_path / "nowhere" / "sheet.pdf"
    done = CliRunner().invoke(main, ["sheet", str(demo_path("ushers-y")), str(out)])
    assert done.exit_code == 2
    assert "cannot be saved" in done.output


def test_a_bundle_is_written_without_a_window(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    out = tmp_path / "y.maglia-bundle"
    done = CliRunner().invoke(main, ["bundle", str(demo_path("ushers-y")), str(out)])
    assert done.exit_code == 0, done.output
    assert "0 builds, 0 photographs" in done.output
    assert out.read_bytes().startswith(b"PK")
