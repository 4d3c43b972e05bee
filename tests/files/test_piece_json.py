"""Piece files: what is saved is read again, and what is wrong is refused with its place."""

import copy
import json
from contextlib import suppress
from pathlib import Path
from random import Random

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from files_cases import CASES, GOOD
from maglia.cli import main
from maglia.core.assembly.expand import expand
from maglia.core.piece.items import RepeatItem
from maglia.core.piece.piece import DropRow
from maglia.core.report import as_json, evaluate
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.files import disk
from maglia.files.piece_json import piece_from, piece_text, read_piece, write_piece
from maglia.phrases.told import told
from workshop import chain, drop, piece, rings, strand, unit

SCHEMA = Path(disk.__file__).parent / "piece.schema.json"


@pytest.mark.parametrize("case", CASES)
def test_bad_files_are_refused_with_their_place(case, tmp_path):
    data, said = CASES[case]
    path = tmp_path / "bad.json"
    path.write_bytes(data.encode() if isinstance(data, str) else data)
    done = CliRunner().invoke(main, ["report", str(path)])
    assert done.exit_code == 2
    assert done.output.startswith("maglia: bad.json: ")
    assert said in done.output
    assert "Traceback" not in done.output


def test_unreadable_files_are_named(tmp_path):
    for path, said in ((tmp_path / "none.json", "No such file"), (tmp_path, "directory")):
        with pytest.raises(DomainError, match=said):
            read_piece(path)


items = st.recursive(
    st.builds(chain, st.integers(1, 300)) | st.builds(rings, st.integers(1, 9)),
    lambda inner: st.builds(
        lambda times, within: RepeatItem(times=times, items=tuple(within)),
        st.integers(1, 4),
        st.lists(inner, min_size=1, max_size=3),
    ),
    max_leaves=8,
)


@given(st.lists(items, max_size=6), st.integers(1, 99))
def test_saving_and_loading_is_the_identity(half, links):
    row = DropRow(name="Row", run="Strand", count=3, items=(rings(), unit("dangle")))
    made = piece(strand(chain(links), *half), drop("D", 1, rings(), side="left"), rows=(row,))
    assert piece_from(piece_text(made)) == made


@pytest.mark.parametrize("name", demo_names())
def test_the_demo_is_saved_as_it_is_read(name):
    assert piece_text(read_piece(demo_path(name))) == demo_path(name).read_text()


STRANGE = (0, 1, -1, 2, 1e9, 1e-9, 19_999.0, None, "", [], {}, "x", True, "catch", 1e308)


def nodes(value):
    """Every place in a file: what holds it, and its key there."""
    held = value.items() if isinstance(value, dict) else enumerate(value)
    for key, inner in list(held):
        yield value, key
        if isinstance(inner, dict | list):
            yield from nodes(inner)


def spoilt(value, random):
    """A file with one to three of its places otherwise: strange, gone, doubled, exchanged."""
    for _ in range(random.choice((1, 1, 2, 3))):
        places = list(nodes(value))
        (where, key), (other, instead) = random.choice(places), random.choice(places)
        match random.randrange(5):
            case 0:
                where[key] = random.choice(STRANGE)
            case 1:
                del where[key]
            case 2:
                where[key] = copy.deepcopy(other[instead])
            case 3 if isinstance(where, list):
                where.insert(key, copy.deepcopy(where[key]))
            case _:
                if type(where[key]) in (int, float):
                    where[key] *= random.choice((10, 100, -1, 0.5))
    return value


def test_a_spoilt_file_is_refused_in_words_or_built_and_told():
    random, built = Random(32), 0
    texts = [demo_path(name).read_text() for name in demo_names()]
    for _ in range(400):
        text = json.dumps(spoilt(json.loads(random.choice(texts)), random))
        with suppress(DomainError):
            found = piece_from(text.encode())
            expand(found)
            built += 1
            told(found)
    assert built > 40  # enough came through the door


def test_saving_is_whole_or_not_at_all(tmp_path, monkeypatch):
    path = tmp_path / "piece.json"
    write_piece(piece_from(json.dumps(GOOD)), path)
    before = path.read_text()

    def full(_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(disk.os, "fsync", full)
    with pytest.raises(DomainError, match="No space left"):
        write_piece(piece(strand()), path)
    assert path.read_text() == before
    assert [p.name for p in tmp_path.iterdir()] == ["piece.json"]


def test_the_schema_that_ships_is_the_one_in_force():
    assert SCHEMA.read_text() == CliRunner().invoke(main, ["schema"]).output


def test_report_command_and_json_agree(tmp_path):
    path = demo_path()
    done = CliRunner().invoke(main, ["report", str(path), "--json"])
    assert json.loads(done.output) == as_json(evaluate(read_piece(path)))
    text = CliRunner().invoke(main, ["report", str(path), "--unit", "in"]).output
    assert "Closed length  16¼″" in text


def test_network_command(tmp_path):
    reference = Path(__file__).parent.parent / "data" / "reference" / "case7b.json"
    out = tmp_path / "answer.json"
    done = CliRunner().invoke(main, ["network", str(reference), "--out", str(out), "--json"])
    assert done.exit_code == 0
    assert json.loads(out.read_text()) == json.loads(done.output)
    short = json.loads(reference.read_text())
    short["nodes"][1] |= {"fixed": True, "pos": [0, -200]}
    bad = tmp_path / "short.json"
    bad.write_text(json.dumps(short))
    done = CliRunner().invoke(main, ["network", str(bad), "--json"])
    assert done.exit_code == 3
    answer = json.loads(done.output)
    # 200 mm apart, nine segments of 5 mm between: 155 mm short
    assert (answer["state"], answer["short_by_mm"]) == ("too short", pytest.approx(155.0))
    bad.write_text('{"dim": 2}')
    assert CliRunner().invoke(main, ["network", str(bad)]).exit_code == 2
