"""One function a figure: counts, rings, cuts and thread are the same wherever they are said."""

import csv
import io
from pathlib import Path

import pytest

from maglia.app.rooms.bench.ready_list import lines_of
from maglia.core.fit.regrade import regraded
from maglia.core.report import as_json, as_text, evaluate
from maglia.core.values.measures import format_length
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece
from maglia.files.tables import counts_csv, cut_list_csv, regrade_table

PIECES = Path(__file__).parent / "data" / "pieces"
ALL = [*(demo_path(name) for name in demo_names()), *sorted(PIECES.glob("*.json"))]


def rows(text):
    return list(csv.DictReader(io.StringIO(text)))


@pytest.mark.parametrize("path", ALL, ids=lambda path: path.stem)
def test_every_output_says_the_same(path):
    found = evaluate(read_piece(path))
    said = as_json(found)
    names = {thing.id: thing.name for thing in found.assembly.things.values()}

    counted = rows(counts_csv(found))
    assert [(r["part"], int(r["count"])) for r in counted] == [
        (c["name"], c["count"]) for c in said["counts"]
    ]
    lengths = [float(r["length_mm"]) for r in counted if r["length_mm"]]
    assert lengths == pytest.approx(
        [c["length_mm"] for c in said["counts"] if "length_mm" in c], abs=0.006
    )
    rings = {r["part"]: r for r in said["rings"]}
    opened = {r["part"]: (r["to_open"], r["leave_closed"]) for r in counted if r["to_open"]}
    assert opened == {
        names[ref]: (str(r["to_open"]), str(r["leave_closed"])) for ref, r in rings.items()
    }

    cuts = [(names[c["chain"]], c["links"], c["count"]) for c in said["cuts"]]
    assert [
        (r["chain"], int(r["links"]), int(r["count"])) for r in rows(cut_list_csv(found))
    ] == cuts

    lines = lines_of(found, lambda mm: format_length(mm or 0.0), all_parts=True)
    ready = len(cuts) + len(rings)
    assert [line.words for line in lines[:ready]] == [
        *(f"{count} × {links} links, {name}" for name, links, count in cuts),
        *(f"{r['count']} × {names[ref]}" for ref, r in rings.items()),
    ]
    assert [line.amount for line in lines[len(cuts) : ready]] == [
        f"{r['to_open']} open · {r['leave_closed']} closed" for r in rings.values()
    ]
    wires = [f"{w['count']} × {names[w['wire']]}, for {names[w['unit']]}" for w in said["wire"]]
    assert [line.words for line in lines[ready : ready + len(wires)]] == wires
    told = {c["chain"] for c in said["cuts"]} | set(rings)
    units = {unit.id for unit in found.assembly.piece.units}
    assert [line.words for line in lines[ready + len(wires) :]] == [
        c["name"] for c in said["counts"] if c["part"] not in told | units
    ]
    folded = lines_of(found, lambda mm: format_length(mm or 0.0), all_parts=False)
    assert folded[:ready] == lines[:ready]

    text = as_text(found)
    for name, links, count in cuts:
        assert f"{count} × {links} links of {name}" in text
    used = {p["chain"]: p["links_used"] for p in said["chain"]}
    for c in said["counts"]:
        if c["kind"] == "chain":
            assert c["count"] == used[c["part"]]


@pytest.mark.parametrize("name", ["ushers-y", "trapdoor-earrings"])
def test_the_table_for_wearers_says_what_the_report_of_each_says(name):
    piece = read_piece(demo_path(name))
    one = regraded(piece, (piece.wearer,))[0]
    said = as_json(evaluate(one.piece))
    head, row = regrade_table((one,))
    cells = dict(zip(head, row, strict=True))
    for ring in said["rings"]:
        assert cells[one_name(one.piece, ring["part"])] == str(ring["count"])
    for run in said["runs"]:
        assert cells[f"{run['name']} links"] == str(run["links"])
    assert cells["cut"].count("links") == len(said["cuts"])


def one_name(piece, ref):
    return next(part.name for part in piece.parts if part.id == ref)
