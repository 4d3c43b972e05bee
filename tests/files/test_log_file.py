"""The log in the workshop's file and on the command line."""

import csv
import json

import pytest
from click.testing import CliRunner

from maglia.cli import main
from maglia.core.joining.ways import USUAL
from maglia.core.log.records import Measure, Spent
from maglia.core.parts.parts import Chain
from maglia.core.piece.corrections import Correction
from maglia.core.workshop.lying import Deed
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from maglia.files.workshop import build_stock, builds, log, stock
from maglia.files.workshop.contents import exported, import_whole, read_whole
from maglia.files.workshop.log_reading import kept_builds, what_it_says
from maglia.files.workshop.store import open_workshop

AT = "2026-01-01T10:00:00"
PIECE = read_piece(demo_path("ushers-y"))
SPAN = Measure(at=AT, what="span", about="wrapped loop", planned_mm=20.0, measured_mm=20.8, share=2)
ROLO = Chain(id="rolo", name="Rolo", pitches_mm=(3.0,))


@pytest.fixture
def own(tmp_path):
    made = open_workshop(tmp_path / "workshop.sqlite")
    yield made
    made.close()


def logged(*words):
    return CliRunner().invoke(main, ["log", *map(str, words)])


def test_everything_of_the_log_goes_through_an_export(own, tmp_path):
    for k in range(7):
        took = [Spent(kind="ring", number=10, minutes=3.0 + k / 10)]
        log.entered(own, PIECE, AT, 75.5, found=(SPAN,), took=took, notes=(("note", "stiff"),),
                    metal_g=9.25, cost="12.30 florins")  # fmt: skip
    log.photographed(own, 2, "far/away.png", "the clasp")
    log.take(own, Correction(what="span", about="wrapped loop", value=0.4), AT)
    text = exported(own)
    (tmp_path / "own.json").write_text(text)
    copy = open_workshop(tmp_path / "copy.sqlite")
    import_whole(copy, read_whole(tmp_path / "own.json"))
    assert exported(copy) == text
    for one in (own, copy):
        first = kept_builds(one, "stiff #3")[0]
        assert (first.entry.id, first.entry.minutes, first.entry.cost) == (3, 75.5, "12.30 florins")
        assert first.measures == (SPAN,)
        assert {one.name: one.amount for one in first.parts}["Little key"] == 1
        assert log.photos(one, 2) == (("far/away.png", "the clasp"),)
        span, ring = what_it_says(one)
        assert (span.taken.value, span.estimate.n, round(ring.estimate.value, 9)) == (0.4, 7, 0.33)
    assert log.take_back(copy, "span", "wrapped loop")
    assert not log.take_back(copy, "span", "wrapped loop")
    copy.close()


def test_what_was_cut_is_named_unless_it_was_taken_back(own):
    number = builds.begin(own, PIECE, USUAL, AT)
    stock.do(own, ROLO, Deed("bought", 100), AT)
    assert log.cut_from(own, number) == ()
    build_stock.cut(own, number, ROLO, 20, "cut/rolo/20#1", AT)
    assert log.cut_from(own, number) == ("rolo, lot 1",)
    build_stock.put_back(own, number, "cut/rolo/20#1", AT)
    assert log.cut_from(own, number) == ()


def test_the_command_tells_the_log_as_text_data_and_paper(qapp, tmp_path):
    whole = logged("--demo")
    assert (whole.exit_code, max(map(len, whole.output.split("\n"))) <= 100) == (0, True)
    assert "Your wrapped loops come out" in whole.output
    table, sheet = tmp_path / "b.csv", tmp_path / "b.pdf"
    found = logged("--demo", "--json", "--csv", table, "--pdf", sheet, "usher's", "y")
    data = json.loads(found.output)
    assert {"id", "piece", "wearer", "at", "minutes", "measures", "changes", "parts"} <= set(
        data["builds"][0]
    )
    assert {one["piece"] for one in data["builds"]} == {"Usher's Y"}
    for one in data["corrections"]:
        assert one["low"] <= one["value"] <= one["high"]
        assert (one["n"] >= 6, one["taken"]) == (True, False)
    with table.open(encoding="utf-8-sig", newline="") as lines:
        rows = list(csv.DictReader(lines))
    assert [int(row["id"]) for row in rows] == [one["id"] for one in data["builds"]]
    assert sheet.read_bytes().startswith(b"%PDF")


def test_a_log_that_is_empty_or_not_there_is_said(own, tmp_path):
    assert "none yet" in logged("--workshop", own.path).output
    gone = logged("--workshop", tmp_path / "gone.sqlite")
    assert (gone.exit_code, "gone.sqlite" in gone.output) == (2, True)
    assert "Traceback" not in gone.output
    nowhere = logged("--demo", "--csv", tmp_path / "no" / "b.csv")
    assert (nowhere.exit_code, "cannot be saved" in nowhere.output) == (2, True)
