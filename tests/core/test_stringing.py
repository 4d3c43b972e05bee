"""Stringing: ends finished each in its own way, beads off both ends, beads and gaps as places, one
thread through several sections; phrases for it. Sums by hand.
"""

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.assembly.kinds import item_words
from maglia.core.edits.spots import Spot
from maglia.core.fit.look import Trials
from maglia.core.fit.solve import solve
from maglia.core.parts.parts import Bead, End, Wire
from maglia.core.piece.items import ConnectorItem, StrungEnd, StrungItem
from maglia.core.piece.piece import Closure, Form, Piece, Place, Run
from maglia.core.piece.wishes import LengthFit
from maglia.core.report import as_json, evaluate
from maglia.core.sheets.count import counts, threads_mm
from maglia.core.sheets.lengths import closed_length_mm, run_lengths
from maglia.core.sheets.mass import balance
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from saying import offers
from saying import said as said_
from workshop import CLOSED, PARTS, UNITS, piece, rings, strand

SILK = Wire(id="silk", name="Silk 0.5", sort="thread", wire_mm=0.5, material="thread")
SEED = Bead(id="seed", name="Seed 2", length_mm=2.0, width_mm=2.0, hole_mm=1.2, on_strand=50)
OPAL = Bead(id="opal", name="Opal 8", length_mm=8.0, width_mm=8.0, hole_mm=1.2, on_strand=40)
CRIMP = End(id="crimp", name="Crimp 2", adds_mm=2.0, width_mm=2.0, mass_g=0.1)
TIP = End(id="tip", name="Tip 5", sort="tip", adds_mm=5.0, width_mm=4.0, mass_g=0.3, loop_mm=1.8)
CLAMP = End(id="clamp", name="Clamp 7", sort="cord end", adds_mm=7.0, mass_g=0.4, loop_mm=2.0)
MORE = (*PARTS, SILK, SEED, OPAL, CRIMP, TIP, CLAMP)
CRIMPED = StrungEnd(end="crimp", finish="crimped")
TIPPED = StrungEnd(end="tip", finish="knotted")


def strung(*pattern, times=1, near=CRIMPED, far=None, **more):
    return StrungItem(thread="silk", pattern=pattern, times=times, end=near.end,
                      finish=near.finish, far=far, **more)  # fmt: skip


def free(*items, closure=CLOSED, **more):
    run = Run(name="Strand", lies="free", items=(rings(), *items, rings()))
    return piece(run, closure=closure, parts=MORE, **more)


def count_of(of):
    return {c.id: c.count for c in counts(expand(of))}


def test_each_end_has_its_own_finding_and_its_own_tail():
    of = free(strung("opal", times=10, near=CRIMPED, far=TIPPED))
    (run,) = run_lengths(expand(of))
    # ring 4, crimp 2, ten of 8, tip 5, ring 4
    assert run.length_mm == pytest.approx(4 + 2 + 80 + 5 + 4)
    # one strand: 80 of beads, 25 for the crimp, 75 for the knot
    assert threads_mm(expand(of)) == {"silk": pytest.approx(80 + 25 + 75)}
    found = count_of(of)
    assert (found["crimp"], found["tip"], found["opal"]) == (1, 1, 10)
    alike = free(strung("opal", times=10, near=TIPPED))
    # the beads and the thread are the same but for a tip in the crimp's place: 0.3 − 0.1 g
    heavier = balance(expand(alike)).total_g - balance(expand(of)).total_g
    assert heavier == pytest.approx(0.3 - 0.1)
    assert threads_mm(expand(alike)) == {"silk": pytest.approx(80 + 2 * 75)}


@pytest.mark.parametrize(
    ("end", "tail"),
    [
        (StrungEnd(end="clamp", finish="glued"), 0.0),
        (StrungEnd(end="clamp", finish="crimped"), 0.0),  # a cord end holds without one
        (StrungEnd(finish="looped"), 75.0),
        (StrungEnd(end="crimp", finish="folded"), 25.0),
    ],
)
def test_the_tail_of_every_finish(end, tail):
    of = free(strung("opal", times=10, near=end, strands=2))
    assert threads_mm(expand(of)) == {"silk": pytest.approx(2 * (80 + 2 * tail))}


def test_one_thread_goes_on_through_a_connector_and_is_finished_at_both_outer_ends():
    goes_on = StrungEnd(finish="goes on")
    first = strung("opal", times=5, near=TIPPED, far=goes_on)
    second = strung("opal", times=3, near=goes_on, far=CRIMPED)
    oval = ConnectorItem(part="oval", hole_in="left", hole_out="right")
    of = free(first, oval, second)
    (run,) = run_lengths(expand(of))
    # tip 5, 40, oval 20 + (2 + 2) / 2, 24, crimp 2, two rings of 4
    assert run.length_mm == pytest.approx(4 + 5 + 40 + 22 + 24 + 2 + 4)
    # through the oval as well; 75 at the knot, 25 at the crimp
    assert threads_mm(expand(of)) == {"silk": pytest.approx(40 + 22 + 24 + 75 + 25)}
    backward = free(replace(second, end="crimp", finish="crimped", far=goes_on), oval,
                    replace(first, end=None, finish="goes on", far=TIPPED))  # fmt: skip
    assert threads_mm(expand(backward)) == threads_mm(expand(of))


def test_beads_come_off_both_ends_alike():
    whole = strung("opal", "seed", times=10, lead=("seed",))
    of = piece(strand(whole), parts=MORE)
    # seed, ten times opal and seed: 2 + 10 × 10, and two crimps
    assert run_lengths(expand(of))[0].length_mm == pytest.approx(102 + 4)
    off = piece(strand(replace(whole, off=2)), parts=MORE)
    # two off at each end: a seed and an opal, 10 mm each
    assert run_lengths(expand(off))[0].length_mm == pytest.approx(82 + 4)
    assert count_of(off)["opal"] == 8
    beads = off.runs[0].centre.beads
    assert beads == beads[::-1]
    with pytest.raises(DomainError, match="11 are left off at each end"):
        expand(piece(strand(replace(whole, off=11)), parts=MORE))


def test_a_length_is_met_to_the_single_bead():
    item = strung("opal", "seed", times=10, lead=("seed",))
    fit = LengthFit(name="length", to="given", mm=331.0)
    of = replace(piece(strand(item, rings()), parts=MORE), fits=(fit,))
    solved = solve(of, Trials())
    got = closed_length_mm(expand(solved.piece))
    # closed: two rings of 4, catch 5, clasp 9, two crimps of 2, and the beads: 26 + (2 + 10 n), or
    # two seeds (4) or seeds and opals (20 in all) less
    lengths = [26 + 2 + 10 * n - less for n in range(2, 60) for less in (0, 4)]
    assert abs(got - 331) == pytest.approx(min(abs(length - 331) for length in lengths))
    assert solved.fitted[0].met


def test_what_is_left_over_of_bought_strands_is_said():
    of = piece(strand(strung("opal", times=41)), parts=MORE)
    found = next(c for c in counts(expand(of)) if c.id == "opal")
    assert (found.count, found.left_over) == (41, 39)  # two strands of 40
    told = next(c for c in as_json(evaluate(of))["counts"] if c["name"] == "Opal 8")
    assert told["left_over"] == 39


@pytest.mark.parametrize(
    ("times", "at", "port", "ordinals"),
    [
        # nine beads: the fifth lies on the fold, the third outward of it are the 8th and 2nd
        (9, 0, None, {5}), (9, 3, None, {8, 2}), (9, 1, "gap", {"gap 5", "gap 4"}),
        # ten beads: gap 0 on the fold; bead 1 outward are the 6th and 5th, gap 2 after 7, before 4
        (10, 0, "gap", {"gap 5"}), (10, 1, None, {6, 5}), (10, 2, "gap", {"gap 7", "gap 3"}),
    ],
)  # fmt: skip
def test_a_drop_hangs_from_a_bead_or_between_two(times, at, port, ordinals):
    on_fold = at == 0
    drop = Run(name="Drop", kind="drop", lies="fold" if on_fold else "paired",
               items=(rings(part="small"),),
               start=Place(run="Strand", item=0, at=at, port=port))  # fmt: skip
    of = piece(strand(strung("opal", times=times)), drop, parts=MORE, pins=60.0)
    assembly = expand(of)
    section = next(m for m in assembly.members if m.strung is not None)
    joined = {j.port_a for j in assembly.joints if j.a == section.id and not j.inline}
    assert joined == ordinals
    found = evaluate(of)
    assert found.hung.state == "converged"
    assert piece_from(piece_text(of)) == of


def test_a_drop_between_beads_hangs_where_they_meet():
    # ten opals taut between pins 80 + 2 × 2 apart, on a board: gap 2 right of the fold is 16 mm out
    drop = Run(name="Drop", kind="drop", lies="paired", items=(rings(part="small"),),
               start=Place(run="Strand", item=0, at=2, port="gap"))  # fmt: skip
    of = piece(strand(strung("opal", times=10)), drop, parts=MORE, closure=Closure(kind="open"),
               pins=84.0)  # fmt: skip
    found = evaluate(of)
    rings_hung = [m for m in found.assembly.members if m.run == "Drop"]
    across = sorted(float(found.hung.points_of(m.id)[0][0]) for m in rings_hung)
    assert across == pytest.approx([-16, 16], abs=0.1)


@pytest.mark.parametrize(
    ("place", "said"),
    [
        (Place(run="Strand", item=0, at=0, port="gap"), "a bead lies on the fold of 9"),
        (Place(run="Strand", item=0, at=5, side="right"), "a half has only 4"),
        (Place(run="Strand", item=0, at=5, port="gap", side="right"), "a half has only 4"),
    ],
)
def test_a_place_that_is_not_there_is_named(place, said):
    drop = Run(name="D", kind="drop", lies="fold", items=(rings(),), start=place)
    with pytest.raises(DomainError, match=said):
        expand(piece(strand(strung("opal", times=9)), drop, parts=MORE))


def test_ends_that_differ_do_not_lie_mirrored_on_the_fold():
    with pytest.raises(DomainError, match="free the run first"):
        expand(piece(strand(strung("opal", times=9, far=TIPPED)), parts=MORE))


# --- phrases --------------------------------------------------------------------------------------

TRAY = Tray(parts=(*PARTS, SILK, SEED, OPAL, CRIMP, TIP, CLAMP), units=UNITS)


def said(text, of=None, spot=None):
    return said_(text, of or Piece(), TRAY, spot).piece


@pytest.mark.parametrize(
    ("text", "beads", "pattern", "ends"),
    [
        ("string 9 opal on silk", ["opal"] * 9, ("opal",), (None, None)),
        ("string 3 x (2 opal, seed) on silk, ends tip knotted",
         ["opal", "opal", "seed"] * 3, ("opal", "opal", "seed"), ("tip", "tip")),
        ("string (opal, seed) x 4, opal on silk doubled, ends crimp",
         [*["opal", "seed"] * 4, "opal"], ("opal", "seed"), ("crimp", "crimp")),
        ("string opal, 2 seeds, opal and back on silk, ends clamp and tip",
         ["opal", "seed", "seed", "opal", "seed", "seed", "opal"], ("opal", "seed", "seed"),
         ("clamp", "tip")),
        ("string seed then opal then seed on silk", ["seed", "opal", "seed"], None, (None, None)),
    ],
)  # fmt: skip
def test_a_string_is_read_as_it_is_said(text, beads, pattern, ends):
    mirrored = beads == beads[::-1] and ends[0] == ends[1]
    if not mirrored:
        with pytest.raises(DomainError, match="reads otherwise from its other end"):
            said(text)
    (run,) = said(text, Piece(mirrored=mirrored)).runs
    item = run.centre or run.items[0]
    assert list(item.beads) == beads
    assert pattern is None or item.pattern == pattern
    assert tuple(end.end for end in item.ends) == ends
    assert item.strands == (2 if "doubled" in text else 1)
    assert run.lies == ("across" if mirrored else "free")


def test_a_string_through_a_connector_is_sections_of_one_thread():
    of = said("string 4 opal, oval, 2 opal on silk, ends tip", Piece(mirrored=False))
    assert [item.kind for item in of.runs[0].items] == ["strung", "connector", "strung"]
    # 32 + 22 + 16 and a knot at each end
    assert threads_mm(expand(replace(of, form=Form()))) == {"silk": pytest.approx(70 + 150)}


def test_a_string_goes_in_at_the_cursor_and_a_drop_at_a_bead_or_gap():
    of = piece(strand(rings()), parts=PARTS)
    of = said("string 5 opal on silk, ends crimp", of, Spot("Strand", (-1,)))
    assert of.runs[0].items[0].beads == ("opal",) * 5
    for text, port in (("drop dangle at bead 2", None), ("drop dangle at gap 3", "gap")):
        hung = said(text, of, Spot("Strand", (0,)))
        assert (hung.runs[-1].start.at, hung.runs[-1].start.port) == (int(text[-1]), port)
        expand(hung)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("string on silk", "say what is strung"), ("string 9 opal", "say on what"),
        ("string 9 opal on gold", "“gold” is not known here"),
        ("string 9 emerald on silk", "“emerald” is not known here"),
        ("string 9 opal on silk, ends nail", "“nail” is not known here"),
        ("string 9 opal on opal", "is a bead, and cannot stand here"),
        ("string (opal, seed on silk", "opens a bracket that is not closed"),
        ("string opal) on silk", "closes a bracket that was not opened"),
        ("string oval, 3 opal on silk", "a connector lies between beads"),
        ("string 9999 opal on silk", "from 1 to 500"),
    ],
)  # fmt: skip
def test_what_is_not_understood_of_a_string_is_named(text, words):
    (offer,) = offers(text, Piece(), TRAY)
    assert words in offer.words
    with pytest.raises(DomainError):
        offer.do()


def test_a_section_without_a_pattern_is_called_by_what_lies_on_it():
    things = {part.id: part for part in PARTS}
    item = StrungItem(thread="wire", lead=("bead", "ring", "bead"), tail=("catch",))
    assert item_words(item, things) == "Bead 8 + Ring 4 + …"
    assert item_words(replace(item, pattern=("ring",), times=3), things) == "3 × Ring 4"
