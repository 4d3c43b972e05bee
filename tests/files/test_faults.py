"""Every reader loads a mutated input or says why not; nothing else is ever raised."""

import csv
import io
import json
import time
from collections import Counter
from contextlib import suppress
from pathlib import Path
from random import Random

import pytest
from msgspec.structs import replace

from faults import flipped, mutated, nudged, reworded
from maglia.app.settings import Settings
from maglia.core.assembly.expand import expand
from maglia.core.fit.look import Trials
from maglia.core.fit.solve import solve as solve_fits
from maglia.core.fit.wishes import FORMS, read_fit, with_fit, written
from maglia.core.hang.solution import Cancelled
from maglia.core.hang.solve import solve
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.rings import rings
from maglia.core.report import as_json, as_text, evaluate
from maglia.core.sheets.count import counts, wire_needs
from maglia.core.sheets.mass import balance
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.files.kept import cut_off
from maglia.files.network_json import answer, read_network
from maglia.files.piece_json import piece_text, read_piece, write_piece
from maglia.files.tables import counts_csv, read_wearers

PATIENCE_S = 0.6
REFERENCE = Path(__file__).parent.parent / "data" / "reference"
WEARERS = b'role,neck_mm,wrist_mm\nthe usher,350,165\nthe prompter,"380",\n'


def through_piece(path):
    piece = read_piece(path)
    piece_text(piece)
    assembly = expand(piece)
    plan = joining_plan(assembly)
    counts(assembly), rings(assembly, plan), wire_needs(assembly), balance(assembly)


def through_all(path):
    """As far as a piece can go: hung, measured, checked, fitted, reported and saved. Like a maker
    who works on, it wants no answer any more after `PATIENCE_S`."""
    piece = read_piece(path)
    write_piece(piece, path)
    assert read_piece(path) == piece
    end = time.process_time() + PATIENCE_S
    with suppress(Cancelled):
        found = evaluate(piece, lambda: time.process_time() > end)
        json.dumps(as_json(found), allow_nan=False)
        assert as_text(found)
        assert counts_csv(found)
        solve_fits(piece, Trials(lambda: time.process_time() > end))


def through_network(path):
    json.dumps(answer(solve(read_network(path)), 0.0), allow_nan=False)


def through_wishes(path):
    piece, text = read_piece(demo_path("gallery-tiers")), path.read_bytes().decode()
    fit = read_fit(text, piece)
    assert read_fit(written(fit), piece) == fit
    piece_text(with_fit(piece, fit))


def through_kept(path):
    for file, kept in cut_off((path.parent,))[0]:
        assert kept.clock
        file.forget()


def through_settings(path):
    settings = Settings(path)
    settings.count_use("a part")
    assert isinstance(settings["last_piece"], str)


def read_through(reader, path, data):
    path.parent.mkdir(exist_ok=True)
    path.write_bytes(data)
    try:
        reader(path)
    except DomainError:
        return "refused"
    return "read"


def changed(values, likely=0.2):
    """A maker of inputs: one of some values with its structure, its
    bytes or, in a share that is `likely`, only its numbers and names changed."""

    def made(random):
        value, draw = random.choice(values), random.random()
        if draw < likely:
            return nudged(value, random).encode()
        if draw < (1 + likely) / 2:
            return mutated(value, random).encode()
        return flipped(json.dumps(value).encode(), random)

    return made


def pieces():
    return [json.loads(demo_path(name).read_text()) for name in demo_names()]


def networks():
    return [json.loads((REFERENCE / f"{n}.json").read_text()) for n in ("case7b", "case9a")]


KEPT = {"path": "/a/b.json", "print": "0", "when": 5.0, "piece": demo_path("ushers-y").read_text()}
SETTINGS = {"theme": "slate", "unit": "cm", "motion": True, "last_piece": "a", "used": {"a": 1}}
ASKED = [form.replace("NAME", "Tier 2") for form, _ in FORMS]
READERS = {
    "piece": (through_piece, changed(pieces()), "piece.json", 500),
    "whole": (through_all, changed(pieces(), 0.8), "whole.json", 30),
    "network": (read_network, changed(networks()), "network.json", 500),
    "solved": (through_network, changed(networks(), 0.8), "solved.json", 60),
    "kept": (through_kept, changed([KEPT]), "kept/x.json", 500),
    "settings": (through_settings, changed([SETTINGS]), "settings.json", 500),
    "wearers": (read_wearers, lambda random: flipped(WEARERS, random), "w.csv", 500),
    "wishes": (
        through_wishes,
        lambda random: reworded(random.choice(ASKED), random).encode("utf-8", "replace"),
        "wish.txt",
        300,
    ),
}
"""Per reader: what it does with a file, what makes an input, the file,
and how many are in the suite."""


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
