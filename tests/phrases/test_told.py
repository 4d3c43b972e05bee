"""A piece as phrases, and the phrases as the piece: the same report, wishes and ways."""

import json
from pathlib import Path

import pytest
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from maglia.cli import main
from maglia.core.piece.piece import Closure
from maglia.core.report import as_json, evaluate
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece
from maglia.phrases.book import BENCH, BOOK
from maglia.phrases.same import differs
from maglia.phrases.script import with_kept, write
from maglia.phrases.told import told

PIECES = sorted((Path(__file__).parent.parent / "data" / "pieces").glob("*.json"))
TRAY = with_kept(Tray(), write(f"{BENCH}begin necklace", Tray()).keeps)


LEFT_OUT = ("seconds", "letter")
"""Letters are given in the order in which parts are kept."""


def named(report):
    """A report with names for ids, in an order of its own."""
    names = {one["part"]: one["name"] for one in report["counts"]}

    def walk(value, key=""):
        if isinstance(value, dict):
            return {names.get(k, k): walk(v, k) for k, v in value.items() if k not in LEFT_OUT}
        if isinstance(value, list):
            return sorted(
                (walk(one) for one in value), key=lambda one: json.dumps(one, default=str)
            )
        return round(value, 1) if isinstance(value, float) else names.get(value, value)

    return walk(report)


@pytest.mark.parametrize("path", [*(demo_path(n) for n in demo_names()), *PIECES],
                         ids=lambda path: path.stem)  # fmt: skip
def test_the_phrases_of_a_piece_make_it_again(path):
    piece = read_piece(path)
    again = write("\n".join(told(piece)), Tray()).piece
    assert differs(piece, again) == ""
    before, after = named(as_json(evaluate(piece))), named(as_json(evaluate(again)))
    for key in ("counts", "cuts", "rings", "closed_length_mm"):
        assert after[key] == before[key], key
    assert again.fits == piece.fits


FORMS = [form for chapter in BOOK for form in chapter.forms if form.after]


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.phrase[:40])
def test_what_the_book_makes_is_told_again(form):
    made = write(form.phrase, TRAY, write(form.after, TRAY).piece).piece
    assert differs(made, write("\n".join(told(made)), Tray()).piece) == ""


HUNG = ["drop ring 4, 9 rolo, teal at link 6", "drop leaf with ring 4 at 1st ring",
        "drops every 5 links: ring 4, teal", "swags 24 rolo between links 4 10 16",
        "strand 47 cm cable at 2nd ring", "close lobster into ring 9",
        "drop ring 4, amber link, key at link 9 on the left", "amber link after link 12",
        "drop arch by left and right with ring 4 at fold", "hang on bust, pins 140, vee neckline",
        "length 450", "close ring 4, lobster into ring 9, 2 ring 4", "note: by hand",
        "drops ring 4, teal dangle / amber dangle at links 1 to 7"]  # fmt: skip


@settings(max_examples=60, deadline=None)
@given(st.lists(st.sampled_from(HUNG), max_size=6, unique=True))
def test_whatever_is_said_is_told(phrases):
    script = "; ".join(["begin necklace for usher; 101 rolo, 2 ring 5", *phrases])
    try:
        made = write(script, TRAY).piece
    except DomainError:
        return  # two of them may not go together
    assert differs(made, write("\n".join(told(made)), Tray()).piece) == ""


def test_what_no_phrase_says_is_named():
    piece = read_piece(demo_path())
    said = CliRunner().invoke(main, ["phrases", "lamplighters-collar"])
    assert said.exit_code == 0
    assert said.output.splitlines() == told(piece)
    for changed, why in (
        (replace(piece, heaviest_g=40.0), "how heavy it may be"),
        (replace(piece, closure=replace(piece.closure, clasp_side="left")), "on the left"),
        (replace(piece, parts=(*piece.parts, replace(piece.parts[0], id="twin"))), "one name"),
        (replace(piece, parts=(replace(piece.parts[0], note="chipped"), *piece.parts[1:])), "note"),
    ):
        with pytest.raises(DomainError, match=why):
            told(changed)
    assert differs(piece, replace(piece, closure=Closure())) != ""
