"""`maglia count`: days from files, lots and lengths as sold from tables, JSON and CSV out."""

import contextlib
import csv
import json
import subprocess
import sys
from pathlib import Path

import pytest
from click.testing import CliRunner

from maglia.cli import main
from maglia.core.workshop.lying import Deed
from maglia.demo import demo_path, demo_tray
from maglia.files.piece_json import read_piece
from maglia.files.workshop import stock
from maglia.files.workshop.store import open_workshop


def run(*arguments):
    return CliRunner().invoke(main, ["count", *map(str, arguments)])


@pytest.fixture
def lots(tmp_path):
    path = tmp_path / "lots.csv"
    path.write_text("part;links;length_mm;first_phase\nrolo-3;150;;0\nRolo chain 3 mm;;100,4;0\n"
                    "curb-5;60;;\nno-such;5;;\n")  # fmt: skip
    return path


def test_a_day_is_counted_from_a_table_of_lots(lots):
    done = run("lamplighters-collar", "spotlight-swags", "--lots", lots, "--json")
    assert done.exit_code == 0
    assert "line 5: “no-such” is not cut for these pieces; left out" in done.stderr
    data = json.loads(done.stdout)
    assert [p["piece"] for p in data["pieces"]] == ["Lamplighter's collar", "Spotlight swags"]
    by_chain = {chain["chain"]: chain for chain in data["chains"]}
    rolo = by_chain["rolo-3"]
    # by hand: 2 × 37, 9, 2 × 7, 2 × 5, 2 × 3 are 113 links in 9 pieces: 122 of 151
    assert [lot["lot"] for lot in rolo["lots"]] == ["lot 1"]
    assert (rolo["lots"][0]["sacrificed"], rolo["lots"][0]["offcut_links"]) == (9, 28)
    assert rolo["proven"]
    assert rolo["missing"] == []
    assert by_chain["curb-5"]["lots"][0]["lot"] == "lot 3"
    assert by_chain["cable-2"]["missing"] == [18] * 4
    rings = {part["part"]: part["count"] for part in data["parts"]}
    assert rings["ring-4"] == 24 + 9


def test_what_is_sold_is_bought_and_copies_are_made(lots, tmp_path):
    sold = tmp_path / "sold.csv"
    sold.write_text("part,length_mm\ncable-2,1000\n")
    done = run("spotlight-swags", "--copies", 3, "--lots", lots, "--sold", sold, "--json")
    cable = next(c for c in json.loads(done.stdout)["chains"] if c["chain"] == "cable-2")
    assert cable["cuts"] == [{"links": 18, "first_phase": 0, "count": 12, "length_mm": 36.0}]
    (lot,) = cable["lots"]
    assert (lot["links"], lot["new"], lot["sacrificed"]) == (500, True, 12)


def test_the_lengths_of_a_workshop_are_cut_and_left_as_they_are(tmp_path):
    path, chain = tmp_path / "own.sqlite", next(
        p for p in demo_tray().parts if p.id == "curb-5")  # fmt: skip
    with contextlib.closing(open_workshop(path)) as own:
        stock.do(own, chain, Deed("bought", 70, called="blue spool"), "2026-01-01T10:00")
    done = run("spotlight-swags", "--workshop", path, "--json")
    curb = next(c for c in json.loads(done.stdout)["chains"] if c["chain"] == "curb-5")
    assert [lot["lot"] for lot in curb["lots"]] == ["blue spool"]
    with contextlib.closing(open_workshop(path)) as own:
        assert stock.lying(own)["curb-5"].lots[0].amount == 70


def test_a_table_of_cuts_opens_in_spreadsheets(lots, tmp_path):
    out = tmp_path / "cuts.csv"
    assert run("lamplighters-collar", "--lots", lots, "--csv", out).stdout == ""
    assert out.read_bytes().startswith(b"\xef\xbb\xbf")
    rows = list(csv.DictReader(out.read_text(encoding="utf-8-sig").splitlines()))
    assert rows[0] == {"part": "Rolo chain 3 mm", "lot": "lot 1", "what": "cut",
                       "piece": "Lamplighter's collar", "links": "37", "length_mm": "111.0",
                       "first_phase": "0"}  # fmt: skip
    assert [row["what"] for row in rows].count("off-cut") == 1


@pytest.mark.parametrize(
    ("table", "said"),
    [
        ("part,links\nrolo-3,many\n", "line 2: links “many” is no whole number"),
        ("part,links\nrolo-3,-4\n", "line 2: links “-4” is none that can lie there"),
        ("part,length_mm\nrolo-3,\n", "line 2: length_mm “” is no length"),
        ("part,length_mm\nrolo-3,-9\n", "is no length that lies on a bench"),
        ("part,links,first_phase\nrolo-3,9,1\n", "first_phase 1 is not within its pattern of 1"),
        ("part,links\nwire-06,9\n", "has no links: give its length_mm"),
        ("part,pieces\nrolo-3,9\n", "it needs the columns part and links"),
        ("part,links\n", "there is nothing to import"),
    ],
)
def test_a_table_that_is_wrong_is_said_and_nothing_is_counted(table, said, tmp_path):
    path = tmp_path / "lots.csv"
    path.write_text(table)
    done = run("lamplighters-collar", "--lots", path, "--json")
    assert (done.exit_code, done.stdout) == (2, "")
    assert said in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def test_two_lengths_as_sold_and_no_file_are_refused(lots, tmp_path):
    sold = tmp_path / "sold.csv"
    sold.write_text("part,links\nrolo-3,300\nrolo-3,500\n")
    done = run("lamplighters-collar", "--lots", lots, "--sold", sold)
    assert "is sold in one length, and 2 are given" in done.output
    assert "gone.json cannot be read" in run("gone.json", "--lots", lots).output
    assert run("lamplighters-collar", "--lots", "gone.csv").exit_code == 2


def test_nothing_but_json_is_on_the_standard_output(tmp_path):
    """In a process of its own: solvers greet on the output below Python's."""
    path = tmp_path / "lots.csv"
    path.write_text("part,links\nrolo-3,61\nrolo-3,47\nrolo-3,39\n")
    line = [sys.executable, "-m", "maglia", "count", "lamplighters-collar", "--lots", str(path),
            "--json"]  # fmt: skip
    done = subprocess.run(line, capture_output=True, text=True, check=True)
    data = json.loads(done.stdout)
    assert data["chains"][0]["lots"]
    assert read_piece(demo_path("lamplighters-collar")).name == data["pieces"][0]["piece"]
    assert Path(path).exists()


def test_what_must_be_bought_and_what_it_costs(tmp_path):
    path = tmp_path / "own.sqlite"
    with contextlib.closing(open_workshop(path)) as own:
        ring = next(p for p in demo_tray().parts if p.id == "ring-4")
        stock.do(own, ring, Deed("bought", 30), "2026-01-01T10:00")
    done = CliRunner().invoke(main, ["buy", "lamplighters-collar", "--copies", "2", "--workshop",
                                     str(path), "--json"])  # fmt: skip
    data = json.loads(done.stdout)
    rings = next(one for one in data["buy"] if one["name"] == "Jump ring 4 mm")
    assert (rings["buy"], rings["spares"]) == (48 - 30 + 7, 7)  # 10 % of 48 is 5, and two more
    rolo = next(one for one in data["buy"] if one["name"] == "Rolo chain 3 mm")
    assert sum(rolo["stretches_mm"]) == 2 * 113 * 3.0
    text = CliRunner().invoke(main, ["buy", "lamplighters-collar", "--workshop", str(path)]).output
    assert "COST AND PRICE" in text
    assert "2 of them spares" in text


def test_a_true_size_sheet_is_written_without_a_screen(lots, tmp_path, qapp):
    out = tmp_path / "cuts.pdf"
    assert run("lamplighters-collar", "--lots", lots, "--pdf", out).exit_code == 0
    assert out.read_bytes().startswith(b"%PDF")
