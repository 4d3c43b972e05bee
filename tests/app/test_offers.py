"""The insert line without its window: what is found, and what each offer does to the piece."""

import pytest

from maglia.app.start import demo_tray
from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import CENTRE, Spot, first_spot
from maglia.core.piece.piece import Piece
from maglia.core.report import evaluate
from maglia.core.sheets.lengths import closed_length_mm
from maglia.core.values.record import DomainError
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from maglia.phrases.offers import Wish, offers, read_wish

TRAY = demo_tray()


@pytest.mark.parametrize(
    ("text", "wish"),
    [
        ("rolo", Wish(("rolo",))),
        ("12 rolo", Wish(("rolo",), 12)),
        ("12 links of rolo", Wish(("rolo",), 12)),
        ("3 × ring 4", Wish(("ring", "4"), 3)),
        ("ring 4", Wish(("ring", "4"))),
        ("drop teal", Wish(("teal",), None, True)),
        ("drops every 6 amber", Wish(("amber",), None, True, 6)),
        ("5 drops every 6 amber", Wish(("amber",), 5, True, 6)),
        ("  ", Wish(())),
    ],
)
def test_what_was_written(text, wish):
    assert read_wish(text) == wish


def first(text, piece=None, spot=None, mark=0):
    return offers(text, piece or Piece(), TRAY, spot, mark)[0]


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("ring 4", "Jump ring 4 mm"), ("cable fine", "21 × Fine cable"), ("lob", "Close with"),
        ("9 rolo", "9 × Rolo chain 3 mm"), ("oval 20", "Openwork oval 20 mm"),
        ("drop leaf", "Drop here: Leaf charm"), ("drops every 4 rose", "Drops every 4 links: Rose"),
    ],
)  # fmt: skip
def test_a_few_letters_find_it(text, name):
    assert first(text).words.startswith(name)


def test_nothing_fits_nonsense_and_beads_alone_are_not_offered():
    assert offers("zzz", Piece(), TRAY, None, 0) == []
    assert all(o.words != "Smoked glass 8 mm" for o in offers("smoked", Piece(), TRAY, None, 0))


def test_parts_in_the_piece_come_first():
    piece = first("21 rolo").do().piece
    assert offers("chain", piece, TRAY, None, 0)[0].words.endswith("Rolo chain 3 mm")


def build(*texts):
    """A piece from offers taken one after the other, the cursor where each leaves it."""
    piece, spot = Piece(), None
    for text in texts:
        edited = first(text, piece, spot).do()
        piece, spot = edited.piece, edited.spot or spot
    return piece, spot


def test_a_strand_grows_outward_from_the_fold():
    piece, spot = build("31 cable 4", "ring 4", "smoked link", "ring 4", "9 rolo", "ring 4")
    assert spot == Spot("Strand", (4,))
    kinds = [item.kind for item in piece.runs[0].items]
    assert kinds == ["rings", "unit", "rings", "chain", "rings"]
    expand(piece)


def test_what_a_unit_is_made_of_comes_with_it():
    piece, _ = build("smoked glass link")
    ids = {p.id for p in piece.parts} | {u.id for u in piece.units}
    assert {"lantern-link", "glass-8", "spacer-2", "wire-06", "ring-4"} <= ids
    expand(piece)


@pytest.mark.parametrize(
    ("clasp", "span"), [("lobster", 9.0), ("toggle", 3.0), ("hook 16", 13.0), ("magnet", 12.0)]
)
def test_closing_finds_a_catch_that_it_can_bite(clasp, span):
    piece, _ = build("101 rolo", "ring 4", clasp)
    found = evaluate(piece)
    catch = next(p for p in piece.parts if p.id == piece.closure.catch)
    assert closed_length_mm(found.assembly) == pytest.approx(303 + 8 + span + catch.inner_mm)
    assert "clasp-cannot-bite" not in {c.code for c in found.checks}


def test_drops_take_a_ring_that_passes_their_loop():
    piece, _ = build("31 cable 4", "drop leaf")
    drop = piece.runs[-1]
    assert (drop.lies, drop.start.at, drop.start.item) == ("fold", 0, 0)
    assert {c.code for c in evaluate(piece).checks} <= {"hang-too-short"}


def test_drops_at_a_mark_are_paired():
    piece, _ = build("31 cable 4")
    drop = first("drop leaf", piece, Spot("Strand", (CENTRE,)), mark=5).do().piece.runs[-1]
    assert (drop.lies, drop.start.at) == ("paired", 5)


@pytest.mark.parametrize(("links", "every", "drops"), [(31, 5, 7), (31, 6, 5), (9, 9, 1)])
def test_rows_fill_the_chain(links, every, drops):
    piece, _ = build(f"{links} cable 4", f"drops every {every} amber")
    dangles = [m for m in expand(piece).members if m.kind == "dangle"]
    assert len(dangles) == drops


def test_an_earring_begins_at_its_finding():
    piece, spot = build("ear hook", "ring 3", "seven-hole bar")
    assert piece.sort == "earring"
    assert piece.runs[0].lies == "fold"
    assert evaluate(piece).hung.state == "converged"
    assert spot == Spot("Earring", (2,))


@pytest.mark.parametrize(
    ("text", "piece", "said"),
    [
        ("lobster", Piece(), "nothing to close yet"),
        ("drop leaf", Piece(), "nothing to hang from yet"),
    ],
)
def test_what_cannot_be_done_yet_is_said(text, piece, said):
    with pytest.raises(DomainError, match=said):
        first(text, piece).do()


def test_rows_hang_from_chain_only():
    piece, spot = build("31 cable 4", "ring 4")
    with pytest.raises(DomainError, match="put the cursor on a chain"):
        first("drops every 5 amber", piece, spot).do()
    bib = read_piece(demo_path("curtain-bib"))
    with pytest.raises(DomainError, match="made by its rule"):
        first("drop leaf", bib, first_spot(bib.owner("Bib"))).do()
