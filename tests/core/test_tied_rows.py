"""Rows of tied links: another unit for a row, a carrier that holds them at every joint, another
count at one place, and the slack of the carrier's bays."""

from collections import Counter

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.edit import delete
from maglia.core.edits.rename import run_renamed
from maglia.core.edits.spots import CENTRE, Spot
from maglia.core.piece.piece import OtherCount, Piece, RowHung, TiedRows
from maglia.core.report import as_json, evaluate
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from saying import offers, said
from workshop import LINK, PARTS, UNITS, chain, piece, rings, strand

FOOT = replace(LINK, id="foot", name="Foot link", mid=None)
"""Both are 8 + 2 × 2.6 + 4 × 0.6 = 15.6 mm long."""
HUNG = RowHung(run="Strand", places=(0, 7, 13), ring="small")


def tied_piece(**more):
    row = TiedRows(**{"name": "Bib", "unit": "link", "rows": (4, 3), "ring": "ring",
                      "hang_ring": "small", "carried": HUNG} | more)  # fmt: skip
    made = piece(strand(chain(101), rings()), rows=(row,), pins=150.0)
    return replace(made, units=(*UNITS, FOOT))


def test_a_carrier_holds_the_top_row_at_every_joint_and_its_ends():
    of = tied_piece(rows=(4, 3, 2, 1), units=("link", "link", "link", "foot"), hang=(1, 2))
    found = evaluate(of)
    counts = {c["part"]: c["count"] for c in as_json(found)["counts"]}
    assert (counts["link"], counts["foot"]) == (9, 1)
    # between 3 + 2 + 1; mids 9; at the strand's ends 2
    assert counts["ring"] == 6 + 9 + 2
    # hangers 4, 2 × 3, 2 × 2; at the carrier 5
    assert counts["small"] == 4 + 6 + 4 + 5
    assert found.hung.state == "converged"
    assert found.assembly.main.run == "Strand"
    assert piece_from(piece_text(of)) == of


def test_another_count_at_one_place():
    def hangers(*but):
        found = expand(tied_piece(but=but))
        return Counter(m.run for m in found.members if m.ref == "small")

    assert hangers() == {"Bib 1 hanger 0": 1, "Bib 1 hanger 1": 2, "Bib 1 hanger 2": 2,
                         "Bib 2 hanger 1": 2, "Bib 2 hanger 2": 2}  # fmt: skip
    both = hangers(OtherCount(level=1, number=1, count=3))
    assert both["Bib 2 hanger 1"] == 6
    left = hangers(OtherCount(level=0, number=2, count=2, side="left"))
    assert (left["Bib 1 hanger 2 left"], left["Bib 1 hanger 2 right"]) == (2, 1)
    joined = expand(tied_piece(but=(OtherCount(level=0, number=1, count=3, of="between"),)))
    joints = [m for m in joined.members if m.run == "Bib 1" and m.kind == "ring" and not m.made_in]
    assert len(joints) == 1 + 2 * 3


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"carried": replace(HUNG, places=(0, 7))}, "at 2 places, and its top row of 4"),
        ({"sides": (rings(),)}, "take its sides out"),
        ({"but": (OtherCount(level=0, number=3, count=2),)}, "hang 3 of row 1, which"),
        ({"but": (OtherCount(level=1, number=2, count=2, of="between"),)}, "between 2 of row 2"),
        ({"but": (OtherCount(level=0, number=1, count=2, of="between", side="left"),)}, "mirrored"),
        ({"units": ("foot", "link")}, "made without a mid ring"),
        ({"carried": replace(HUNG, run="Gone")}, "“Gone”, which does not exist"),
    ],
)  # fmt: skip
def test_what_cannot_be_tied_is_named(more, words):
    with pytest.raises(DomainError, match=words):
        expand(tied_piece(**more))


def test_the_slack_of_a_carrier_is_its_bays():
    """15.6 mm of link and a ring of 4 lie between two joints: 19.6, at the end 2 + 15.6 = 17.6.
    Seven links of 3 mm are 21, six 18."""
    found = evaluate(tied_piece())
    said = as_json(found)["hang"]["bays"]
    assert [(b["from"], b["to"]) for b in said] == [
        ("Strand, left, link 13", "Strand, left, link 7"),
        ("Strand, left, link 7", "Strand, link on the fold"),
        ("Strand, link on the fold", "Strand, right, link 7"),
        ("Strand, right, link 7", "Strand, right, link 13"),
    ]
    assert [(b["chain_mm"], b["row_mm"]) for b in said] == [(18, 17.6), (21, 19.6), (21, 19.6),
                                                            (18, 17.6)]  # fmt: skip
    assert all(b["slack_mm"] < 1.5 for b in said)
    assert not [c for c in found.checks if c.code == "carrier-loose"]
    # the rings of 3 mm spread: two of them take up six of what 10 links are longer
    loose = evaluate(tied_piece(carried=replace(HUNG, places=(0, 10, 16))))
    told = [c for c in loose.checks if c.code == "carrier-loose"]
    assert "the chain is 30.0 mm and “Bib 1” below it 19.6 mm" in told[0].message
    most = max(b.slack_mm for b in loose.readings.bays)
    assert 3.0 < most < 10.4


def test_rows_follow_what_carries_them():
    of = run_renamed(tied_piece(), "Strand", "Collar").piece
    assert of.rows[0].carried.run == "Collar"
    assert expand(of).members
    with pytest.raises(DomainError):
        expand(delete(tied_piece(), Spot("Strand", (CENTRE,))).piece)


def test_rows_in_a_phrase():
    tray = Tray(parts=PARTS, units=(*UNITS, FOOT))
    of = piece(strand(chain(101), rings()), pins=150.0)
    text = (
        "rows 3 2 bead link, 1 foot link, joined by ring 4, hung by 2 3 ring 3, at links 5 12 with "
        "2 ring 3"
    )
    made = said(text, of, tray, Spot("Strand", (CENTRE,))).piece.rows[0]
    assert made == TiedRows(
        name="Rows", unit="link", units=("link", "link", "foot"), rows=(3, 2, 1), ring="ring",
        hang_ring="small", hang=(2, 3), carried=RowHung(run="Strand", places=(5, 12),
        ring="small", rings=2),
    )  # fmt: skip
    with pytest.raises(DomainError, match="say at which links"):
        said(text.partition(", at links")[0], of, tray, Spot("Strand", (CENTRE,)))
    assert "“nobody” is not known" in offers("rows 3 2 nobody, joined by ring 4", of, tray)[0].words
    assert said("triangle 3 bead link", Piece(), tray).piece.rows[0].rows == (3, 2, 1)
