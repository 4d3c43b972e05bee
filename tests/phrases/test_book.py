"""The phrase book is true: every example does what stands beside it, on its own bench."""

from pathlib import Path

import pytest

from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import opening_spot
from maglia.core.fit.wishes import FORMS
from maglia.core.piece.piece import Piece
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from maglia.core.workshop.skeleton_kit import Asked
from maglia.core.workshop.tray import Tray
from maglia.demo import demo_tray
from maglia.files.piece_json import piece_from, piece_text
from maglia.phrases.book import BENCH, BOOK, bench_tray, said_to
from maglia.phrases.here import Here
from maglia.phrases.line import understood
from maglia.phrases.part_phrases import FORMS as PART_FORMS
from maglia.phrases.phrase import VERBS, phrase_offers
from maglia.phrases.script import write
from maglia.phrases.starts import STARTS, begun
from maglia.phrases.wishes import wish_forms

TRAY = bench_tray()
ALL = [form for chapter in BOOK for form in chapter.forms]


@pytest.mark.parametrize("form", ALL, ids=lambda form: form.phrase[:40])
def test_an_example_does_something(form):
    before = write(form.after, TRAY).piece if form.after else None
    after = said_to(form, TRAY)
    gone_to = form.phrase.startswith("at ")
    assert gone_to or after.piece != before or after.keeps
    assert expand(after.piece)
    assert piece_from(piece_text(after.piece)) == after.piece


@pytest.mark.parametrize("form", ALL, ids=lambda form: form.phrase[:40])
def test_while_an_example_is_typed_something_is_said(form):
    piece = write(form.after, TRAY).piece if form.after else Piece()
    for end in range(len(form.phrase)):
        for offer in understood(form.phrase[:end], Here(piece, TRAY, opening_spot(piece))).offers:
            assert offer.words


def test_every_verb_stands_in_the_book():
    words = {word.strip(",:").rstrip("s") for form in ALL for word in form.phrase.lower().split()}
    spoken = {verb.rstrip("s") for verb in VERBS} - {"put", "mirror", "band"}
    assert spoken <= words


def test_the_document_says_every_form():
    text = (Path(__file__).parents[2] / "docs" / "phrases.md").read_text()
    assert [form.phrase for form in ALL if f"| `{form.phrase}` | {form.does} |" not in text] == []


def test_forms_of_parts_and_wishes_are_read():
    for line in PART_FORMS:
        for form in line.split(" · "):
            assert phrase_offers(form, Here(write(f"{BENCH}begin necklace", Tray()).bench, TRAY))[
                0
            ].fault is None, form  # fmt: skip
    assert [offer.fill for offer in wish_forms("hem")] == ["hem of NAME V 12"]
    assert all(wish_forms(form) for form, _ in FORMS)


@pytest.mark.parametrize("start", STARTS, ids=lambda start: start.id)
def test_every_starting_point_that_is_said_hangs(start):
    tray = demo_tray()
    piece = begun(start, tray, Asked(tray.wearers[0]))
    assert (piece.name, piece.wearer) == (start.name.capitalize(), tray.wearers[0])
    found = evaluate(piece)
    assert found.hung.state == "converged"
    assert [check.code for check in found.checks if check.severity == "stop"] == []
    with pytest.raises(DomainError, match="the tray holds no"):
        begun(start, Tray(), Asked(tray.wearers[0]))
    with pytest.raises(DomainError, match="take 1 to 60"):
        begun(start, tray, Asked(tray.wearers[0], count=99))
