"""What cannot be done is refused in words that name what, where and what to do.

Each case makes one mistake a maker could make; the piece it was made on stays as it was.
"""

import numpy as np
import pytest
from msgspec.structs import replace

from fitting import MORE, demo, row, tiers
from maglia.core.assembly.expand import expand
from maglia.core.checks import all_checks
from maglia.core.edits.edit import add_owner
from maglia.core.edits.rearrange import freed_or_mirrored, moved, replaced_everywhere, reversed_
from maglia.core.edits.spots import WHOLE, Spot, count_at
from maglia.core.fit.look import Trials
from maglia.core.fit.pull import fall_pulled, gap_pulled
from maglia.core.fit.solve import solve
from maglia.core.fit.wishes import read_fit
from maglia.core.hang.bodies import body_from
from maglia.core.hang.calibrate import Measured, calibrated
from maglia.core.parts.units import Tassel
from maglia.core.piece.items import ConnectorItem, PartItem, RepeatItem, StrungItem
from maglia.core.piece.piece import Form, Piece, Place, Run, SwagRow
from maglia.core.piece.wishes import (
    ClearFit,
    FlatFit,
    HemFit,
    LengthFit,
    MatchFit,
    NestedFit,
    PlacesFit,
    Quantity,
    RingsFit,
    SagFit,
    TiersFit,
)
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from workshop import CHAIN, CHARM, LINK, PARTS, RING, chain, drop, piece, rings, strand, unit

ON_OVAL = strand(ConnectorItem(part="oval", hole_in="left", hole_out="right"))
ON_BEADS = strand(StrungItem(thread="wire", pattern=("bead",), times=9))
ON_LINK = strand(unit("link"))
NO_MID = replace(LINK, id="plain", name="Plain link", mid=None)


def hung(name, place, lies="fold", *items):
    return Run(name=name, kind="drop", lies=lies, items=items or (rings(),), start=place)


@pytest.mark.parametrize(
    ("made", "said"),
    [
        (piece(strand(), parts=(*PARTS, RING)), "share the id “ring”: rename one"),
        (piece(strand(), Run(name="Low", centre=chain(9), start=Place(run="Strand", item=0, at=0))),
         "lies across the fold: it has no start"),
        (piece(strand(), Run(name="Low", centre=chain(9), items=())), "where its ends are joined"),
        (piece(strand(), Run(name="D", kind="drop", lies="fold", items=(rings(),))),
         "does not say where it hangs"),
        (piece(strand(), hung("D", Place(run="Gone", item=0, at=0))), "run “Gone”, which does not"),
        (piece(strand(), hung("D", Place(run="closure", item=0)), closure={"kind": "open"}),
         "the piece has none"),
        (piece(ON_OVAL, hung("D", Place(run="Strand", item=0))), "which hole of “Oval”"),
        (piece(ON_OVAL, hung("D", Place(run="Strand", item=0, port="x"))), "no hole “x”"),
        (piece(ON_BEADS, hung("D", Place(run="Strand", item=0, at=99))),
         "which stands left and right"),
        (piece(strand(unit("plain")), hung("D", Place(run="Strand", item=0, port="mid"))),
         "without a mid ring: add one to the unit"),
        (piece(strand(chain(9), rings(2)), hung("D", Place(run="Strand", at=3), "paired")),
         "there are only 2: take 1 to 2"),
        (piece(strand(), Run(name="D", kind="tie", lies="fold", items=(unit("dangle"),),
               start=Place(run="Strand", item=0, at=0), end=Place(run="Strand", item=0, at=0))),
         "hangs free and cannot be joined"),
        (piece(strand(), Run(name="D", lies="paired", centre=rings(), items=(rings(),),
               start=Place(run="Strand", item=0, at=3))), "it has no centre"),
        (piece(strand(RepeatItem(times=2, items=(rings(),)))), "a repeat cannot lie on the fold"),
        (piece(strand(), rows=(replace(row(), item=4),)), "run “Strand” has no item 4"),
    ],
)  # fmt: skip
def test_pieces_that_cannot_be_built(made, said):
    closure = made.closure
    if isinstance(closure, dict):
        made = replace(made, closure=type(piece().closure)(**closure))
    made = replace(made, units=(*made.units, NO_MID))
    with pytest.raises(DomainError) as error:
        expand(made)
    assert said in str(error.value)


TIED = demo("curtain-bib")
Y = demo("ushers-y")
OUTER = Spot("Strand", (0,))


@pytest.mark.parametrize(
    ("edit", "said"),
    [
        (lambda: count_at(piece(strand()), Spot("Strand", WHOLE)), "name an item"),
        (lambda: reversed_(TIED, Spot("Bib", WHOLE), 1), "no order to reverse"),
        (lambda: moved(piece(strand(chain(9), rings())), OUTER, 1, 1), "cannot go further"),
        (lambda: replaced_everywhere(piece(strand()), "gone", RING), "“gone” is not among"),
        (lambda: freed_or_mirrored(
            piece(strand(), drop("D", 3, rings(), chain(3)),
                  hung("E", Place(run="D", item=2), "paired")), "D"), "hangs from “D”: free it"),
        (lambda: fall_pulled(TIED, evaluate(TIED).readings, "Bib 2", 60.0), "made by its rule"),
        (lambda: gap_pulled(tiers(101, 121), evaluate(tiers(101, 121)).readings, "T1", "T2", -4.0),
         "the gap must stay above zero"),
    ],
)  # fmt: skip
def test_edits_that_cannot_be_made(edit, said):
    with pytest.raises(DomainError) as error:
        edit()
    assert said in str(error.value)


def test_what_was_refused_has_changed_nothing():
    before = piece(strand(), drop("D", 3, rings()))
    with pytest.raises(DomainError):
        expand(add_owner(before, hung("E", Place(run="Gone"))).piece)
    assert expand(before).members == expand(piece(strand(), drop("D", 3, rings()))).members


SHORT = tiers(20, 141)  # the upper one cannot close round the neck, whatever the lower one does
ONE = piece(strand(), drop("D", 3, rings(), chain(9), unit("dangle")))
NO_PITCH = replace(ONE, parts=(replace(CHAIN, pitches_mm=None), *PARTS[1:]))


@pytest.mark.parametrize(
    ("made", "fit", "said"),
    [
        (ONE, LengthFit(name="f", run="Gone", to="given", mm=9), "Gone"),
        (ONE, TiersFit(name="f", strands=("Strand", "D9"), gaps_mm=(9,)), "there is no run “D9”"),
        (ONE, NestedFit(name="f", strands=("Strand", "Gone"), clear_mm=3), "Gone"),
        (ONE, PlacesFit(name="f", row="Row", count=3), "Row"),
        (replace(ONE, rows=(row(),)), PlacesFit(name="f", row="Row", count=99), "do not fit on"),
        (replace(ONE, rows=(row(count=0),)), HemFit(name="f", row="Row"), "has no drops"),
        (ONE, SagFit(name="f", swags=("D",), sag_mm=9), "D"),
        (ONE, ClearFit(name="f", drop="Gone", clear_mm=3), "there is no run “Gone”"),
        (ONE, FlatFit(name="f", row="Gone"), "Gone"),
        (ONE, MatchFit(name="f", run="D", to="Gone"), "no “Gone” that could be compared"),
        (ONE, RingsFit(name="f", stretch=Quantity(run="Strand"), mm=90), "rings alone are asked"),
        (NO_PITCH, LengthFit(name="f", run="D", to="given", mm=40), "measure a swatch first"),
        (ONE, LengthFit(name="f", run="D", to="given", mm=40,
                        changes=(Quantity(run="D", item=3),)), "it has none of chain"),
        (SHORT, LengthFit(name="f", run="T2", to="fall", mm=40), "“T1” is too short"),
    ],
)  # fmt: skip
def test_fits_that_cannot_be_solved_say_why_and_change_nothing(made, fit, said):
    made = replace(made, parts=(*made.parts, *MORE[len(PARTS) :]))
    solved = solve(replace(made, fits=(fit,)))
    assert said in solved.fitted[0].hindrance
    assert not solved.fitted[0].met
    assert replace(solved.piece, fits=()) == made


@pytest.mark.parametrize(
    ("name", "text", "said"),
    [
        (
            "gallery-tiers",
            "fall of Tier 2 30 links",
            "“30 links” in “fall of Tier 2 30 links” is no length",
        ),
        (
            "gallery-tiers",
            "every 2.5, 9 of Fringe",
            "“2.5” in “every 2.5, 9 of Fringe” is no whole",
        ),
        ("gallery-tiers", "even 12 mm of Fringe", "“12 mm” in"),
        ("gallery-tiers", "every 0, 9 of Fringe", "“0” in"),
        ("ushers-y", "tiers gaps 30", "tiers need two strands or more"),
        ("gallery-tiers", "hem of Fringe drawn", "draw it as out:below"),
        ("spotlight-swags", "slack of Swag 1", "how much slack: write 10 %"),
        ("curtain-bib", "clear 3", "does not name the drop"),
        ("gallery-tiers", "beads of Pendant 30", "there is no"),
    ],
)
def test_wishes_that_lack_something_say_what(name, text, said):
    with pytest.raises(DomainError) as error:
        read_fit(text, demo(name))
    assert said in str(error.value)


def test_bodies_and_busts_that_cannot_be():
    with pytest.raises(DomainError, match="lacks 'radius'"):
        body_from({"kind": "sphere", "center": (0, 0, 0)})
    with pytest.raises(DomainError, match="known are sphere, disc, cone_capsule"):
        body_from({"kind": "cube"})
    bust = Form(kind="bust")
    with pytest.raises(DomainError, match="measure at least one chain"):
        calibrated(350.0, bust, ())
    with pytest.raises(DomainError, match="does not hang on this form"):
        calibrated(350.0, bust, (Measured(200, 10),))


def test_unknown_sizes_are_named_by_a_check_and_never_guessed():
    bare = tuple(replace(p, mass_g=None, **gone) for p, gone in (
        (CHAIN, {"pitches_mm": None, "wire_mm": None}), (RING, {"inner_mm": None}),
        (CHARM, {"height_mm": None, "loop_mm": None}),
    ))  # fmt: skip
    rest = tuple(p for p in PARTS if p.id not in {b.id for b in bare})
    made = piece(strand(chain(9), rings()), hung("D", Place(run="Strand", item=0, at=0), "fold",
                 rings(), PartItem(part="charm")), parts=(*bare, *rest))  # fmt: skip
    found = evaluate(made)
    assert found.closed_length_mm is None
    assert set(found.balance.unknown) == {"chain", "ring", "charm"}
    said = " ".join(check.message for check in found.checks)
    for part in bare:
        assert part.name in said, part.name


def test_an_empty_piece_and_a_tassel_without_a_ring_are_no_fault():
    empty = evaluate(Piece())
    assert (empty.hung, empty.closed_length_mm) == (None, None)
    assert all_checks(expand(Piece()), None, empty.flat, empty.readings) == empty.checks
    thread = replace(PARTS[5], id="thread", name="Thread", sort="thread")
    tassel = Tassel(id="t", name="Tassel", thread="thread", skirt_mm=40, wraps=60, neck_mm=6,
                    ring="gone")  # fmt: skip
    made = replace(ONE, parts=(*PARTS, thread), units=(*ONE.units, tassel))
    assert expand(made).members  # it is not used, so nothing is missing


def test_trials_know_every_piece_they_have_hung():
    trials = Trials()
    first = trials.hung(ONE)
    assert trials.hung(ONE) is first
    other = trials.hung(replace(ONE, note="the same shape"))
    assert np.allclose(other.hung.solution.positions, first.hung.solution.positions)


def test_swags_between_places_that_do_not_exist():
    swags = SwagRow(name="S", run="Strand", places=(4, 99), items=(chain(20),))
    with pytest.raises(DomainError, match=r"S.*99|half has only 25"):
        expand(piece(strand(), rows=(swags,)))
