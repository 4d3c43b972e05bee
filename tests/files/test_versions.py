"""Older files open for ever: the seventeen pieces as they were in version 1, and their stock."""

import json
from pathlib import Path

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot
from maglia.core.sheets.count import counts
from maglia.core.values.record import DomainError
from maglia.demo import demo_path, demo_tray
from maglia.files.migrations import VERSION, migrated
from maglia.files.piece_json import (
    kept_beside,
    piece_from,
    piece_text,
    read_file,
    read_piece,
    write_piece,
)

FIXTURES = Path(__file__).parent.parent / "data" / "v1"


OLD = sorted(path.stem for path in FIXTURES.glob("*.json"))


@pytest.mark.parametrize("name", OLD)
def test_a_piece_of_version_1_is_the_piece_it_was(name):
    path = FIXTURES / f"{name}.json"
    assert json.loads(path.read_text())["version"] == 1
    opened = read_file(path)
    assert opened.version == 1
    piece = opened.piece
    if name == "props-table-bracelet":  # a link shorter since its thickness is measured as it lies
        piece = set_count(piece, Spot("Band", (11,)), 5).piece
    if name in ("rope-and-pulley-wrap", "spiral-stair-coil"):  # hung as it is worn since
        now = read_piece(demo_path(name))
        assert (piece.form.kind, now.form.kind) == ("board", "wrist")
        piece = replace(piece, form=now.form, ways=now.ways)
    if name == "spiral-stair-coil":  # fewer beads since a turn is that of the wire within them
        piece = set_count(piece, Spot("Coil", (0,)), 44).piece
    assert piece == read_piece(demo_path(name))
    assert counts(expand(piece)) == counts(expand(read_piece(demo_path(name))))
    text = piece_text(opened.piece)
    assert "stock" not in text
    assert read_file(path).piece == piece_from(text)  # and survives being saved


@pytest.mark.parametrize("name", OLD)
def test_the_stock_in_a_file_of_version_1_is_found_and_not_lost(name):
    """Against the file itself, part by part; the demo's tray says the same as its pieces did."""
    raw = json.loads((FIXTURES / f"{name}.json").read_text())
    wanted = {}
    for part in raw["parts"]:
        if part.get("stock_mm") or "stock" in part:
            wanted[part["id"]] = part.get("stock_mm") or [part["stock"]]
    assert read_file(FIXTURES / f"{name}.json").stock == wanted
    tray = demo_tray()
    for ref, amounts in wanted.items():
        assert list(tray.lots_mm.get(ref, (tray.bags.get(ref),))) == amounts
    assert read_file(demo_path(name)).stock == {}


@pytest.mark.parametrize("path", sorted((FIXTURES.parent / "v3").glob("*.json")),
                         ids=lambda path: path.stem)  # fmt: skip
def test_a_piece_of_version_3_is_the_piece_it_was(path):
    opened = read_file(path)
    assert opened.version == 3
    assert opened.piece == read_piece(demo_path(path.stem))


def test_today_s_files_say_nothing_of_the_bench():
    values = json.loads(demo_path().read_text())
    assert values["version"] == VERSION
    assert migrated(values) == (values, {})
    values["parts"][0]["stock_mm"] = [1000.0]
    with pytest.raises(DomainError, match="“stock_mm” is not a field"):
        piece_from(json.dumps(values))


def test_an_accepted_check_of_version_1_follows_its_run_from_now_on():
    values = json.loads((FIXTURES / "gallery-tiers.json").read_text())
    places = ("Tier 2, left, link 4", "Tier 2", "Fringe 1 and Fringe 2", "Jump ring 4 mm")
    values["accepted"] = [{"code": "a", "place": place} for place in places]
    kept = piece_from(json.dumps(values)).accepted
    assert [one.run for one in kept] == ["Tier 2", "Tier 2", "Fringe", None]
    assert [one.place for one in kept] == list(places)


def test_what_was_there_is_kept_beside_the_first_time_an_older_file_is_saved(tmp_path, qapp):
    from maglia.app.session.session import Session

    path = tmp_path / "Lamps.json"
    old = (FIXTURES / "lamplighters-collar.json").read_text()
    path.write_text(old)
    session = Session(demo_tray())
    session.open(path)
    assert session.workshop.offered["rolo-3"] == [1000.0, 430.0]
    said = []
    session.said.connect(said.append)
    session.save(path)
    assert kept_beside(path, 1).read_text() == old
    assert "kept as Lamps.v1.json" in said[-1]
    assert read_file(path).version == VERSION
    kept_beside(path, 1).write_text("as it is")
    session.save(path)  # it is of today now: nothing is kept again
    assert kept_beside(path, 1).read_text() == "as it is"
    write_piece(session.piece, tmp_path / "other.json")
    path.write_text(old)
    session.open(path)
    session.save(tmp_path / "elsewhere.json")  # saved elsewhere the old file stays as it is
    assert path.read_text() == old
    session.finish()
