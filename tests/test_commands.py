"""The command line: every command answers, and every mistake gets one clear line."""

import json

import pytest
from click.testing import CliRunner
from msgspec.structs import replace
from PySide6.QtGui import QImage

from maglia.app.theme import THEMES
from maglia.cli import main
from maglia.core.hang.calibrate import plain_fall_mm
from maglia.core.piece.piece import Form
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece, write_piece


def run(*arguments):
    return CliRunner().invoke(main, [str(a) for a in arguments])


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["demo", "no-such-piece"], "there is no demo piece “no-such-piece”"),
        (["demo", "--size", "large"], "--size large: write width x height"),
        (["demo", "--room", "attic"], "--room attic: there is no such room"),
        (["open", "gone.json", "--shot", "x.png"], "gone.json cannot be read"),
        (["demo", "--shot", "no/such/folder/x.png"], "cannot be written; choose another place"),
        (["report", "gone.json"], "gone.json cannot be read"),
        (["fit", "ushers-y", "--wish", "make it nice"], "no wish known here"),
        (["regrade", "gallery-tiers", "--wearers", "gone.csv"], "gone.csv cannot be read"),
        (["network", "gone.json"], "gone.json cannot be read"),
        (["calibrate", "--neck", "350", "--chain", "450"], "such as 450:22"),
        (["calibrate", "--neck", "350", "--chain", "450:x"], "such as 450:22"),
    ],
)
def test_a_mistake_gets_one_line_and_status_2(arguments, said, qapp):
    done = run(*arguments)
    assert done.exit_code == 2
    assert said in done.output
    assert done.output.startswith("maglia: ")
    assert done.output.count("\n") == 1


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("neck_mm\n350\n", "one of them role"),
        ("role,hat_mm\nthe page,9\n", "column “hat_mm” is not known"),
        ("role,neck_mm\nthe page,wide\n", "line 2: write each girth in mm"),
        ("role,neck_mm\nthe page,350\n,340\n", "line 3"),
        ("role,neck_mm\n", "names no wearers"),
        (b"role\n\xff\xfe\n", "it is not text"),
    ],
)
def test_lists_of_wearers_are_read_whole_or_not_at_all(text, said, tmp_path):
    path = tmp_path / "wearers.csv"
    path.write_bytes(text.encode() if isinstance(text, str) else text)
    done = run("regrade", "ushers-y", "--wearers", path)
    assert done.exit_code == 2
    assert said in done.output


def test_lists_of_the_program_itself():
    assert run("demo", "--list").output.split() == demo_names()
    forms = run("fit", "gallery-tiers", "--list").output
    assert "tiers first 40 gaps 25 30" in forms
    assert json.loads(run("schema").output)["title"] == "Maglia piece"


def test_a_bust_is_calibrated_from_what_plain_chains_fell():
    own = Form(kind="bust", neck_shift_mm=4.0)
    fall = plain_fall_mm(350.0, own, 460)
    found = json.loads(run("calibrate", "--neck", 350, "--chain", f"460:{fall}").output)
    assert found["neck_shift_mm"] == pytest.approx(4.0, abs=0.1)
    assert found["chest_shift_mm"] == 0.0


def test_a_fitted_piece_is_saved_and_stays_as_it_is(tmp_path):
    out = tmp_path / "fitted.json"
    done = run("fit", "gallery-tiers", "--wish", "tiers first 5 gaps 40 35", "--out", out)
    assert done.exit_code == 0
    assert "changed: " in done.output
    again = run("fit", out)
    assert "nothing to change" in again.output
    bare = tmp_path / "bare.json"
    write_piece(replace(read_piece(demo_path("ushers-y")), fits=()), bare)
    assert "give a --wish" in run("fit", bare).output


@pytest.mark.parametrize("theme", THEMES)
def test_a_shot_shows_the_window_at_the_size_and_in_the_theme_asked_for(theme, tmp_path, qapp):
    shot = tmp_path / "shot.png"
    done = run("demo", "ushers-y", "--shot", shot, "--size", "1024x700", "--theme", theme)
    assert done.exit_code == 0, done.output
    picture = QImage(str(shot))
    assert (picture.width(), picture.height()) == (1024, 700)
    assert picture.pixelColor(4, 4).name() == THEMES[theme].paper
    colours = {picture.pixel(x, y) for x in range(250, 550, 3) for y in range(60, 350, 3)}
    assert len(colours) > 300  # the piece hangs there, on a shaded bust
