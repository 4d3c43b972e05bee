"""Every reader loads a mutated input or says why not; nothing else is ever raised."""

import csv
import io
import json
from collections import Counter
from random import Random

import pytest
from msgspec.structs import replace

from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from maglia.demo import demo_path
from maglia.files.network_json import read_network
from maglia.files.piece_json import read_piece
from maglia.files.tables import counts_csv, read_wearers
from readers import READERS, networks, read_through


@pytest.mark.parametrize("name", READERS)
def test_a_mutated_input_is_read_or_refused(name, tmp_path):
    reader, made, own, cases = READERS[name]
    random, found = Random(11), Counter()
    for _ in range(cases):
        found[read_through(reader, tmp_path / own, made(random))] += 1
    assert sum(found.values()) == cases
    assert name in ("kept", "settings") or min(found["read"], found["refused"]) > 2


def test_a_very_wide_table_is_refused(tmp_path):
    wide = b"role\n" + b"a" * 200_000
    assert read_through(read_wearers, tmp_path / "w.csv", wide) == "refused"


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"sliders": [{"at": 1}]}, "“at” is no key of its sliders"),
        ({"layout": [[0.0, 0.0]]}, "its layout has 1 places for"),
        ({"nodes": []}, "Expected `array` of length >= 2"),
        ({"segments": [], "rigid_links": []}, "neither segments nor rigid links"),
        ({"body": {"kind": "sphere", "center": [0, 0], "radius": float("inf")}}, "Infinity"),
        ({"body": {"kind": "disc", "center": [0, "0"], "radius": 1}}, "center of its body"),
    ],
)
def test_what_is_wrong_in_a_network_is_named(tmp_path, change, said):
    value = networks()[0] | change
    (tmp_path / "n.json").write_text(json.dumps(value))
    with pytest.raises(DomainError, match=f"n.json is not a network: .*{said}"):
        read_network(tmp_path / "n.json")


@pytest.mark.parametrize(
    ("start", "cell"),
    [*((sign, f"'{sign}1+1") for sign in "=+-@"), ("\t", " 1+1"), ("\r", " 1+1"), ("\n", " 1+1")],
)
def test_a_name_in_a_table_is_never_a_formula(start, cell):
    piece = read_piece(demo_path("ushers-y"))
    part = replace(piece.parts[0], name=f"{start}1+1")
    text = counts_csv(evaluate(replace(piece, parts=(part, *piece.parts[1:]))))
    cells = [row[0] for row in csv.reader(io.StringIO(text, newline=""))]
    assert cell in cells
    assert f"{start}1+1" not in cells
