"""Each check finds its fault, says by how much, and is silent without it."""

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import spot_of
from maglia.core.parts.units import Loop
from maglia.core.piece.items import PartItem, StrungItem
from maglia.core.piece.piece import Accepted, Place, Run, TiedRows
from maglia.core.report import evaluate
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from workshop import (
    CATCH,
    CHAIN,
    CLASP,
    DANGLE,
    LINK,
    PARTS,
    RING,
    chain,
    drop,
    piece,
    rings,
    strand,
    unit,
)

TAIL = (rings(part="small"), chain(4), unit("dangle"))


def checks(made):
    return {check.code: check for check in evaluate(made).checks}


def with_thing(new):
    return tuple(new if part.id == new.id else part for part in PARTS)


def good():
    return piece(strand(chain(41), rings()), drop("Middle", 0, *TAIL, lies="fold"))


def test_a_good_piece_has_none():
    assert checks(good()) == {}


def test_no_link_on_the_fold_and_its_repair():
    made = piece(strand(chain(40), rings()), drop("Middle", 0, *TAIL, lies="fold"))
    check = checks(made)["no-link-on-fold"]
    assert check.severity == "stop"
    assert "40 links is even" in check.message
    repair = check.repairs[0]
    mended = set_count(made, spot_of(expand(made), repair.run, repair.item), repair.count).piece
    assert "no-link-on-fold" not in checks(mended)


@pytest.mark.parametrize(("wire", "found"), [(1.95, False), (1.96, True)])
def test_a_ring_must_pass_the_hole(wire, found):
    # Links 2.0 mm wide inside take wire up to 1.95 mm.
    thick, wide = replace(RING, wire_mm=wire), replace(CLASP, eye_mm=3.0)
    parts = tuple({p.id: p for p in (*PARTS, thick, wide)}.values())
    made = piece(strand(chain(41), rings()), parts=parts)
    assert ("ring-too-thick" in checks(made)) is found


def test_many_rings_share_one_link():
    made = piece(strand(chain(41), rings(abreast=3)))
    assert "2.40 mm" in checks(made)["opening-too-full"].message


@pytest.mark.parametrize(
    ("catch", "clasp", "said"),
    [
        (replace(CATCH, inner_mm=2.5), CLASP, "0.5 mm too small"),
        (replace(CATCH, wire_mm=1.7), CLASP, "thicker than the gape"),
        (CATCH, replace(CLASP, sort="toggle", bar_mm=6.0), "slips back"),
    ],
)
def test_the_clasp_must_bite(catch, clasp, said):
    parts = tuple({p.id: p for p in (*PARTS, catch, clasp)}.values())
    made = piece(strand(chain(41), rings()), parts=parts)
    assert said in checks(made)["clasp-cannot-bite"].message


@pytest.mark.parametrize(("links", "found"), [(4, False), (5, True)])
def test_a_drop_must_not_stick_out(links, found):
    row = [drop("Middle", 0, *TAIL, lies="fold"), drop("A", 4, *TAIL), drop("B", 8, *TAIL)]
    long = (rings(part="small"), chain(links), unit("dangle"))
    row[1] = drop("A", 4, *long)
    found_checks = checks(piece(strand(chain(41), rings()), *row))
    assert ("drop-sticks-out" in found_checks) is found
    if found:
        check = found_checks["drop-sticks-out"]
        assert "3.0 mm below" in check.message
        assert check.repair == "take 1 link off its chain"


@pytest.mark.parametrize(("at", "found"), [(3, False), (2, True)])
def test_drops_need_room(at, found):
    # Beads of 8 mm need 9 mm: three links of 3 mm are enough, two are not.
    row = (drop("Middle", 0, *TAIL, lies="fold"), drop("A", at, *TAIL))
    assert ("drops-too-close" in checks(piece(strand(chain(41), rings()), *row))) is found


@pytest.mark.parametrize(("links", "found"), [(5, False), (6, True)])
def test_the_middle_drop_may_keep_the_line_of_the_row(links, found):
    def hung(count):
        return (rings(part="small"), chain(count), unit("dangle"))

    row = (
        drop("Middle", 0, *hung(links), lies="fold"), drop("A", 4, *hung(4)), drop("B", 8, *hung(3))
    )  # fmt: skip
    assert ("drop-sticks-out" in checks(piece(strand(chain(41), rings()), *row))) is found


def test_unknown_sizes_are_named():
    made = piece(strand(chain(41), rings()), parts=with_thing(replace(CHAIN, pitches_mm=None)))
    found = evaluate(made)
    assert found.closed_length_mm is None
    check = next(c for c in found.checks if c.code == "size-unknown")
    assert "pitch of “Chain 3”" in check.message
    light = with_thing(replace(CLASP, mass_g=None))
    assert "mass-unknown" in checks(piece(strand(chain(41), rings()), parts=light))


def soft(part, **more):
    return tuple(replace(p, **more) if p.id == part else p for p in PARTS)


LINK2 = replace(LINK, id="link", mid=None)


@pytest.mark.parametrize(
    ("code", "made", "said"),
    [
        # six 0.8 mm rings and the chain's 0.8: 5.6 of π × 2.6 = 8.17 mm, 69 %
        ("ring-too-full", piece(strand(chain(41), rings(), rings(abreast=6), rings()),
                                parts=soft("ring", inner_mm=2.6)), "crowded"),
        ("ring-aspect-ratio", piece(strand(chain(41), rings()), parts=soft("ring", inner_mm=7.0)),
         "8.8 is outside 2.5 to 7"),
        # σ π d³ / 32 R of soft brass: 120 × π × 0.25³ / (32 × 2.125) N = 8.8 g
        ("ring-too-weak", piece(strand(chain(41), rings()),
                                drop("Heavy", 0, rings(part="small"), PartItem(part="charm"),
                                     lies="fold"),
                                parts=soft("small", inner_mm=4.0, wire_mm=0.25, temper="soft")),
         "opens at about 9 g"),
        ("cannot-be-joined", piece(strand(chain(41), rings()),
                                   drop("D", 0, chain(4), unit("dangle"), lies="fold")),
         "Nothing opens between"),
        ("bail-too-narrow", piece(strand(chain(41), rings()),
                                  drop("D", 0, PartItem(part="charm"), lies="fold")),
         "“Chain 3”, 3.6 mm wide, does not pass the 2.0 mm of “Charm”"),
        ("does-not-pass-bead", piece(strand(chain(41), rings(), unit("link"), rings()),
                                     parts=soft("bead", hole_mm=0.6)), "0.60 mm hole"),
        ("slips-off", piece(strand(chain(41), rings()),
                            drop("D", 0, *TAIL, lies="fold"), parts=soft("pin", head_mm=0.9)),
         "slips through the 1.0 mm hole"),
        ("wire-gauge", piece(strand(unit("link"), rings()), parts=soft("wire", wire_mm=0.3),
                             pins=20), "0.5 to 0.64 mm"),
        ("loop-size", replace(piece(strand(unit("link"), rings()), pins=20), units=(
            replace(LINK, loop=Loop(inner_mm=5.0)), DANGLE)), "5.0 mm inside"),
        ("thread-too-weak", piece(strand(StrungItem(thread="wire", pattern=("bead",), times=12),
                                         rings()), parts=soft("wire", breaking_load_g=50.0)),
         "breaks at about 50 g"),
        ("heavy", replace(piece(strand(chain(41), rings())), heaviest_g=1.0), "above 1 g"),
        ("left-right-balance", piece(strand(chain(41), rings()), drop(
            "D", 9, rings(part="small"), PartItem(part="charm"), lies="free", side="left")),
         "left side is"),
        ("tiers-tangle", piece(strand(chain(61), rings()), Run(
            name="Two", centre=chain(63), items=(rings(part="small"),),
            end=Place(run="Strand", item=1)), pins=120), "tiers closer than 12 mm"),
        ("no-mending-ring", piece(strand(StrungItem(thread="wire", pattern=("bead",), times=20))),
         "all is restrung"),
        ("loops-crosswise", replace(
            piece(rows=(TiedRows(name="T", unit="link", rows=(2, 1), ring="ring",
                                 hang_ring="ring", sides=(rings(), chain(20), rings())),)),
            units=(replace(LINK, turned="crosswise"), DANGLE)), "it twists"),
        ("magnet-too-weak", piece(strand(chain(41), rings()), parts=soft(
            "clasp", sort="magnet", holds_g=5.0)), "It holds 5 g"),
        ("toggle-cannot-reach", piece(strand(chain(41), unit("link")), parts=soft(
            "clasp", sort="toggle", bar_mm=20.0)), "does not pass the ring"),
    ],
)  # fmt: skip
def test_each_craft_rule_finds_its_fault_and_is_silent_without_it(code, made, said):
    found = checks(made)
    assert said in found[code].message
    assert code not in checks(good())


def test_a_free_bar_out_of_level_says_which_side_to_lighten():
    found = evaluate(replace(read_piece(demo_path("trapdoor-earrings")), accepted=()))
    check = next(c for c in found.checks if c.code == "bar-tilts")
    assert "right side down" in check.message
    assert check.run == "Bar"


def test_an_accepted_check_is_kept_and_silent():
    made = replace(piece(strand(chain(41), rings())), heaviest_g=1.0)
    check = checks(made)["heavy"]
    kept = Accepted(code=check.code, place=check.place, note="meant")
    assert "heavy" not in checks(replace(made, accepted=(kept,)))
