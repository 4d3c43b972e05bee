"""Every reader loads a mutated input or says why not; nothing else is ever raised."""

import csv
import io
import json
from collections import Counter
from pathlib import Path
from random import Random

import pytest
from msgspec.structs import replace

from faults import flipped, mutated
from maglia.app.settings import Settings
from maglia.core.assembly.expand import expand
from maglia.core.report import evaluate
from maglia.core.sheets.count import counts, rings, wire_needs
from maglia.core.sheets.mass import balance
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.files.kept import cut_off
from maglia.files.network_json import read_network
from maglia.files.piece_json import piece_text, read_piece
from maglia.files.tables import counts_csv, read_wearers

REFERENCE = Path(__file__).parent.parent / "data" / "reference"
WEARERS = b'role,neck_mm,wrist_mm\nthe usher,350,165\nthe prompter,"380",\n'


def through_piece(path):
    piece = read_piece(path)
    piece_text(piece)
    assembly = expand(piece)
    counts(assembly), rings(assembly), wire_needs(assembly), balance(assembly)


def through_kept(path):
    for file, kept in cut_off((path.parent,))[0]:
        assert kept.clock
        file.forget()


def through_settings(path):
    settings = Settings(path)
    settings.count_use("a part")
    assert isinstance(settings["last_piece"], str)


def read_through(reader, path, data):
    path.write_bytes(data)
    try:
        reader(path)
    except DomainError:
        return "refused"
    return "read"


def pieces():
    return [json.loads(demo_path(name).read_text()) for name in demo_names()]


def networks():
    return [json.loads((REFERENCE / f"{n}.json").read_text()) for n in ("case7b", "case9a")]


def kept_files():
    text = demo_path("ushers-y").read_text()
    return [{"path": "/a/b.json", "print": "0", "when": 5.0, "piece": text}]


def settings_files():
    return [{"theme": "slate", "unit": "cm", "motion": True, "last_piece": "a", "used": {"a": 1}}]


READERS = {
    "piece": (through_piece, pieces, "piece.json"),
    "network": (read_network, networks, "network.json"),
    "kept": (through_kept, kept_files, "kept/x.json"),
    "settings": (through_settings, settings_files, "settings.json"),
}


@pytest.mark.parametrize("name", READERS)
def test_a_mutated_file_is_read_or_refused(name, tmp_path):
    reader, made, own = READERS[name]
    path = tmp_path / own
    path.parent.mkdir(exist_ok=True)
    random, found = Random(11), Counter()
    values = made()
    for _ in range(250):
        value = random.choice(values)
        found[read_through(reader, path, mutated(value, random).encode())] += 1
        data = json.dumps(value).encode()
        found[read_through(reader, path, flipped(data, random))] += 1
    assert sum(found.values()) == 500


def test_mutated_tables_of_wearers_are_read_or_refused(tmp_path):
    random, found = Random(11), Counter()
    for _ in range(500):
        found[read_through(read_wearers, tmp_path / "w.csv", flipped(WEARERS, random))] += 1
    assert min(found["read"], found["refused"]) > 20
    wide = b"role\n" + b"a" * 200_000
    assert read_through(read_wearers, tmp_path / "w.csv", wide) == "refused"


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"sliders": [{"at": 1}]}, "it has sliders, which cannot be hung yet"),
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
