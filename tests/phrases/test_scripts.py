"""Pieces as phrases from an empty workshop: written whole or not at all, with hand-worked sums."""

import json
import re
from pathlib import Path

import pytest
from click.testing import CliRunner

from maglia.cli import main
from maglia.core.assembly.expand import expand
from maglia.core.report import as_json, evaluate
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text, read_piece
from maglia.phrases.script import lines_of, write

DATA = Path(__file__).parent.parent / "data"
SCRIPTS = [*sorted((DATA / "scripts").glob("*.txt")), *sorted((DATA / "own_scripts").glob("*.txt"))]
START = "new ring 5 x 1 inner\nnew chain rolo 3 inside 2 wire 0.6\nbegin necklace\n"


def plain(name):
    return re.sub(r"\s*mm\b", "", name.lower()).strip()


@pytest.mark.parametrize("script", SCRIPTS, ids=lambda path: path.stem)
def test_a_script_gives_the_sums_that_were_worked_by_hand(script):
    text = script.read_text()
    first = next(line for line in text.splitlines() if line.startswith("# expect:"))
    expected = json.loads(first[9:])
    made = write(text, Tray()).piece
    assert piece_from(piece_text(made)) == made
    report = as_json(evaluate(made))
    assert report["closed_length_mm"] == (
        None if expected["closed_length_mm"] is None
        else pytest.approx(expected["closed_length_mm"], abs=0.06)
    )  # fmt: skip
    counts = {plain(one["name"]): one["count"] for one in report["counts"]}
    assert {name: counts.get(plain(name)) for name in expected["counts"]} == expected["counts"]
    names = {one["part"]: plain(one["name"]) for one in report["counts"]}
    cuts = {}
    for cut in report["cuts"]:
        cuts.setdefault(names[cut["chain"]], {})[str(cut["links"])] = cut["count"]
    assert {name: cuts.get(plain(name)) for name in expected["cuts"]} == expected["cuts"]


@pytest.mark.parametrize(("text", "line", "why"), [
    ("21 rolo\n", 1, "nothing is begun yet"),
    (f"{START}21 rolo\ndrop nobody at link 3\n", 5, "“nobody” is not known here"),
    (f"{START}rolo", 4, "21 links is not said"),
    (f"{START}21 rolo; ring 5; drop 9 rolo at link 3", 4, "say with which ring"),
    (f"{START}21 rolo\n\n# here\nstring 4 ring 5", 7, "say on what"),
    ("new ring 4 x 1\nbegin necklace", 1, "inside or outside"),
    (f"{START}21 rolo\nlobster", 5, "“lobster” is not known here"),
    (f"{START}21 rolo called Collar", 4, "“called Collar” names nothing here"),
    (f"{START}= rolo", 4, "="),
])  # fmt: skip
def test_the_first_line_that_cannot_be_done_is_named(text, line, why):
    with pytest.raises(DomainError, match=re.escape(why)) as fault:
        write(text, Tray())
    assert str(fault.value).startswith(f"line {line}, “")


def run(*words):
    return CliRunner().invoke(main, [str(word) for word in words])


def test_write_keeps_what_is_new_in_the_workshop_or_nothing_at_all(tmp_path):
    script, out, own = tmp_path / "s.txt", tmp_path / "p.json", tmp_path / "w.sqlite"
    script.write_text(f"{START}21 rolo, ring 5\nnew bead opal 8 hole 1 stock 30\ndrop emerald\n")
    said = run("write", script, "--workshop", own, "--out", out)
    assert said.exit_code == 2
    assert "s.txt: line 6, “drop emerald”: “emerald” is not known" in said.output
    assert not out.exists()
    assert not own.exists()
    script.write_text(script.read_text().replace("drop emerald\n", ""))
    assert run("write", script, "--workshop", own, "--out", out).output == ""
    assert read_piece(out).runs[0].centre.links == 21
    assert "opal 8" in run("workshop", "export", tmp_path / "w.json", "--workshop", own).output + (
        (tmp_path / "w.json").read_text()
    )
    assert run("workshop", "check", "--workshop", own).exit_code == 0
    # the workshop is named in the next script; without one, what is new goes into the piece
    script.write_text("begin bracelet for anyone\n9 rolo 3\nnew ring 6 x 1 inner\n")
    assert run("write", script, "--workshop", own, "--out", out).output == ""
    alone = run("write", script, "--out", out)
    assert alone.exit_code == 2
    assert "“rolo” is not known" in alone.output


def test_a_wish_is_solved_at_once_and_the_hand_wins():
    text = f"{START}41 rolo, ring 5\nlength 450 mm\n"
    made = write(text, Tray()).piece
    assert made.runs[0].centre.links == round((450 - 10) / 3) == 147
    later = write(f"{text}ring 5\n", Tray()).piece  # 10 mm more at both sides: solved anew
    assert later.runs[0].centre.links == 143
    by_hand = write(f"{text}make rolo 99 links\n", Tray()).piece
    assert by_hand.runs[0].centre.links == 99
    assert by_hand.pinned


def test_what_lies_there_is_not_dropped_without_a_word(tmp_path):
    script = tmp_path / "s.txt"
    script.write_text(f"{START}new bead opal 8 hole 1 stock 30\n21 rolo\n")
    said = run("write", script, "--out", tmp_path / "p.json")
    assert said.exit_code == 0
    assert "what lies there of opal 8 is kept in a workshop alone" in said.output


def test_write_goes_on_with_a_piece(tmp_path):
    script, out = tmp_path / "s.txt", tmp_path / "p.json"
    script.write_text("at last ring\nnew ring 7 x 1 inner\nring 7\n")
    assert run("write", script, "--onto", "ushers-y", "--out", out).exit_code == 0
    made = read_piece(out)
    assert expand(made).members
    assert "ring 7" in [part.name for part in made.parts]


def test_phrases_stand_in_lines_or_are_parted():
    text = "# a piece\nbegin necklace; 21 rolo\n\n  ring 5 # no comment\nrename piece to “A; b”"
    assert lines_of(text) == [
        (2, "begin necklace"), (2, "21 rolo"), (4, "ring 5 # no comment"),
        (5, "rename piece to “A; b”"),
    ]  # fmt: skip
