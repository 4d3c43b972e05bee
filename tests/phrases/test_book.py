"""The phrase book is true: every example does what stands beside it, on its own bench."""

import pytest

from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import opening_spot
from maglia.core.fit.wishes import FORMS
from maglia.core.piece.piece import Piece
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from maglia.phrases.book import BENCH, BOOK
from maglia.phrases.here import Here
from maglia.phrases.line import understood
from maglia.phrases.part_phrases import FORMS as PART_FORMS
from maglia.phrases.phrase import VERBS, phrase_offers
from maglia.phrases.script import with_kept, write
from maglia.phrases.wishes import wish_forms

TRAY = with_kept(Tray(), write(f"{BENCH}begin necklace", Tray()).keeps)
ALL = [form for chapter in BOOK for form in chapter.forms]


@pytest.mark.parametrize("form", ALL, ids=lambda form: form.phrase[:40])
def test_an_example_does_something(form):
    before = write(form.after, TRAY).piece if form.after else None
    after = write(form.phrase, TRAY, before) if before else write(
        form.phrase if form.phrase.startswith("begin") else f"begin necklace; {form.phrase}", TRAY
    )  # fmt: skip
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


def test_forms_of_parts_and_wishes_are_read():
    for line in PART_FORMS:
        for form in line.split(" · "):
            assert phrase_offers(form, Here(write(f"{BENCH}begin necklace", Tray()).bench, TRAY))[
                0
            ].fault is None, form  # fmt: skip
    assert [offer.fill for offer in wish_forms("hem")] == ["hem of NAME V 12"]
    assert all(wish_forms(form) for form, _ in FORMS)
