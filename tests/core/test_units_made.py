"""Caps that sit over their beads, tassels wound or folded, loops that differ: sums by hand."""

import math

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import CENTRE, Spot
from maglia.core.parts.parts import Bead, Ring, Wire
from maglia.core.parts.units import Dangle, Loop, Tassel, faced, unit_span_mm, wire_needed_mm
from maglia.core.piece.items import StrungItem
from maglia.core.piece.piece import Closure
from maglia.core.report import evaluate
from maglia.core.sheets.count import counts
from maglia.core.sheets.lengths import run_lengths
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from maglia.phrases.part_phrases import read_parts
from saying import said as said_
from saying import unit_said
from workshop import BEAD, DANGLE, LINK, PARTS, WIRE, chain, drop, piece, rings, strand, unit

CAP = Bead(id="cap", name="Cap", role="cap", shape="cap", length_mm=4.0, width_mm=7.0,
           hole_mm=1.0, covers_mm=1.5, mass_g=0.1)  # fmt: skip
SEED = Bead(id="seed", name="Seed", length_mm=2.0, width_mm=2.0, hole_mm=0.8, mass_g=0.02)
FLOSS = Wire(id="floss", name="Floss", sort="thread", wire_mm=0.4, material="thread")
CLOSED = Ring(id="soldered", name="Soldered 5", wire_mm=1.0, inner_mm=5.0, closure="closed")
MORE = (*PARTS, CAP, SEED, FLOSS, CLOSED)
THINGS = {thing.id: thing for thing in (*MORE, LINK, DANGLE)}
OPEN = Closure(kind="open")


def test_a_cap_takes_its_length_less_what_it_covers():
    """4 − 1.5 twice with a bead of 8 between: 13 instead of 16; two wrapped loops of 2, wire 0.6:
    each 2.6 and two wraps, 1.2."""
    link = replace(LINK, stack=("cap", "bead", "cap"))
    assert unit_span_mm(link, THINGS) == pytest.approx(13 + 2 * (2.6 + 1.2))
    bare = replace(LINK, stack=("bead",))
    assert wire_needed_mm(link, THINGS) == pytest.approx(wire_needed_mm(bare, THINGS) + 5.0)


@pytest.mark.parametrize(("refs", "over"), [
    (("cap", "bead", "cap"), (1, None, 1)),
    (("cap", "bead", "cap", "bead", "cap"), (1, None, 1, None, 3)),
    (("bead", "cap"), (None, 0)),
    (("cap", "cap"), (None, None)),
    (("cap", "bead", "cap", "cap", "bead", "cap"), (1, None, 1, 4, None, 4)),
])  # fmt: skip
def test_a_cap_closes_the_bead_that_another_has_opened(refs, over):
    assert faced(refs, THINGS) == over


def test_caps_on_a_thread_shorten_it_and_are_kept_hung_and_drawn():
    """Ten times cap, bead, cap: 13 each, where 16 were."""
    section = StrungItem(thread="floss", pattern=("cap", "bead", "cap"), times=10)
    of = piece(strand(section), closure=OPEN, parts=MORE)
    [run] = run_lengths(expand(of))
    assert run.length_mm == pytest.approx(130.0)
    assert piece_from(piece_text(of)) == of
    found = evaluate(of)
    assert found.hung.state == "converged"
    assert "cap-sits-on-nothing" not in {c.code for c in found.checks}


def test_a_cap_without_a_bead_to_sit_on_is_said():
    small = replace(BEAD, id="tiny", name="Tiny", length_mm=1.0)
    link = Dangle(id="odd", name="Odd", stack=("tiny", "cap"), wire="pin", loop=Loop())
    of = piece(strand(), drop("D", 6, rings(), unit("odd")), closure=OPEN, parts=(*MORE, small))
    hung = replace(of, units=(*of.units, link))
    alone = StrungItem(thread="floss", pattern=("cap",), times=3)
    [check] = [c for c in evaluate(piece(strand(alone), closure=OPEN, parts=MORE)).checks
               if c.code == "cap-sits-on-nothing"]  # fmt: skip
    assert "no bead lies beside it" in check.message
    [check] = [c for c in evaluate(hung).checks if c.code == "cap-sits-on-nothing"]
    assert "“Tiny” is 1.0 mm long" in check.message
    with pytest.raises(DomainError, match="cannot sit 4 mm over a bead"):
        replace(CAP, covers_mm=4.0)


def test_a_cap_is_said_with_its_depth():
    [said] = read_parts("new cap daisy 3 x 8 hole 1 covers 1.2")
    part = said.part
    assert (part.length_mm, part.width_mm, part.covers_mm) == (3.0, 8.0, 1.2)


@pytest.mark.parametrize(("way", "legs"), [("wound through", 2), ("folded over", 4)])
def test_a_tassel_by_phrase_takes_the_thread_of_its_way(way, legs):
    """Skirt 25 and 2 cut off, 36 wraps, 7 turns round a neck of 5, 100 of tail."""
    said = f"floss skirt 25 wraps 36 neck 5 x 7, {way} soldered 5, trim 2, halo 11 seed"
    made = unit_said(f"tassel {said}", THINGS)
    assert isinstance(made, Tassel)
    of = piece(strand(), drop("D", 6, rings(), unit(made.id)), closure=OPEN, parts=MORE)
    of = replace(of, units=(*of.units, made))
    found = {c.id: c for c in counts(expand(of))}
    each = legs * 27 * 36 + 7 * math.pi * 5 + 100
    assert found["floss"].length_mm == pytest.approx(2 * each)
    assert (found["seed"].count, found["soldered"].count) == (22, 2)
    assert piece_from(piece_text(of)) == of
    whole = evaluate(of)
    assert whole.hung.state == "converged"
    assert "halo-does-not-close" not in {c.code for c in whole.checks}
    # 5 and 2 across: π × 7 ÷ 2 = 11 seeds go round
    crowded = replace(of, units=(*of.units[:-1], replace(made, halo_count=16)))
    [check] = [c for c in evaluate(crowded).checks if c.code == "halo-does-not-close"]
    assert check.repair == "take 11"


@pytest.mark.parametrize(("said", "why"), [
    ("new tassel floss wraps 36 neck 5, folded over soldered", "says no skirt"),
    ("new tassel floss skirt 25 wraps 36 neck 5", "says no ring that carries it"),
    ("new tassel mohair skirt 25 wraps 36 neck 5, wound through soldered", "“mohair” is not known"),
    ("new tassel floss skirt 25 wraps 36 neck 5, wound through soldered, halo 9 pip",
     "“pip” is not known"),
    ("new dangle bead on head pin, far loop 3", "a dangle has one loop"),
])  # fmt: skip
def test_what_is_missing_of_a_unit_is_named(said, why):
    of = piece(strand())
    with pytest.raises(DomainError, match=why):
        said_(said, of, Tray(parts=MORE, units=of.units), Spot("Strand", (CENTRE,)))


def test_loops_that_differ_are_said_each():
    """Near 2 wrapped twice, 3.8; far 3 simple, 3.6; bead 8."""
    said = "bead 8 on wire 0.6, loops 2 wrapped 2, far loop 3 simple crosswise"
    made = unit_said(f"link {said}", THINGS)
    assert (made.far_loop.style, made.far_loop.inner_mm, made.turned) == (
        "simple",
        3.0,
        "crosswise",
    )
    assert unit_span_mm(made, THINGS) == pytest.approx(8 + 3.8 + 3.6)
    assert WIRE.wire_mm == 0.6
    of = piece(strand(chain(21), rings(), unit(made.id)), closure=OPEN)
    assert evaluate(replace(of, units=(*of.units, made))).hung.state == "converged"


def test_a_spiral_stops_a_dangle_and_takes_the_wire_of_its_disc():
    """6 outside of wire 0.6: π × 36 ÷ 4 ÷ 0.6 = 47.1 of wire; it hangs 6 lower than a bare foot."""
    made = unit_said("dangle bead 8 on wire 0.6, loop 2 spiral foot 6", THINGS)
    plain = replace(made, spiral_mm=None)
    assert unit_span_mm(made, THINGS) == pytest.approx(8 + 2.6 + 6)
    bare = 8 + math.pi * 2.6
    assert wire_needed_mm(made, THINGS, from_spool=True) == pytest.approx(
        bare + math.pi * 9 / 0.6 + (wire_needed_mm(plain, THINGS, from_spool=True) - bare) / 2
    )
    of = piece(strand(), drop("D", 6, rings(), unit(made.id)), closure=OPEN, parts=MORE)
    hung = replace(of, units=(*of.units, made))
    assert evaluate(hung).hung.state == "converged"
    assert piece_from(piece_text(hung)) == hung
    for wrong, why in ((replace(made, wire="pin"), "ends in a head"),
                       (replace(made, spiral_mm=1.0), "too small for 0.6 mm wire")):  # fmt: skip
        said = evaluate(replace(of, units=(*of.units, wrong))).checks
        assert why in next(c.message for c in said if c.code == "no-spiral")
    with pytest.raises(DomainError, match="is said of a dangle"):
        unit_said("link bead 8 on wire 0.6, spiral 6", THINGS)
